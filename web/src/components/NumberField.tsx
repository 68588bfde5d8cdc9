/** A field for a number: with comma or point, in the reader's units where it has one. */
import { useState, type Ref } from "react";

import { useMe } from "../api/hooks";
import { useSettings } from "../app/settings";
import { inField, numberIn, shownIn } from "./numbers";
import { TextInput } from "./TextInput";

/** A number from a field; an empty one is null, undefined is none. */
export function numberOf(text: string): number | null | undefined {
  return text.trim() ? numberIn(text) : null;
}

/** Whether what is typed is the value, or the value is it rounded for showing. */
function alike(typed: number | null | undefined, value: number | null): boolean {
  if (typed === value) return true;
  return typeof typed === "number" && value !== null && Math.abs(typed - value) <= 5e-4 * Math.abs(value);
}

export function NumberField({
  label,
  value,
  put,
  width = 70,
  wrong: refused = false,
  ref,
  about,
  unclear,
}: {
  label?: string;
  /** NaN: what is typed is no number, and stays as it is typed. */
  value: number | null;
  put: (value: number | null) => void;
  width?: number;
  /** Whether something else is wrong with it. */
  wrong?: boolean;
  ref?: Ref<HTMLInputElement>;
  /** The id of what is said of it. */
  about?: string;
  /** Told when what is typed is no number. */
  unclear?: () => void;
}) {
  const [text, setText] = useState(value === null ? "" : inField(value));
  const [last, setLast] = useState(value);
  if (!Object.is(last, value)) {
    setLast(value);
    if (!Number.isNaN(value) && !alike(numberOf(text), value)) setText(value === null ? "" : inField(value));
  }
  const wrong = refused || numberOf(text) === undefined;
  return (
    <TextInput
      sx={{ width, borderColor: wrong ? "var(--ember)" : undefined }}
      inputMode="decimal"
      ref={ref}
      aria-label={label}
      aria-invalid={wrong}
      aria-describedby={about}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        const found = numberOf(event.target.value);
        if (found !== undefined) put(found);
        else unclear?.();
      }}
    />
  );
}

/** A number of the core's unit, shown and typed in the reader's: °F, kBtu/h, ft², gal where she has chosen US. */
export function UnitField({
  label,
  unit,
  per = 1,
  value,
  put,
  width = 64,
}: {
  label: string;
  unit: string;
  per?: number;
  value: number | null;
  put: (value: number | null) => void;
  width?: number;
}) {
  const { units } = useSettings();
  const me = useMe();
  const shown = shownIn(me.data?.units ?? [], unit, units);
  const offset = shown.of(0);
  const factor = (shown.of(1) - offset) * per;
  const now =
    value === null
      ? null
      : Number((value * factor + offset).toPrecision(factor === 1 && offset === 0 ? 6 : 4));
  return (
    <>
      <NumberField
        label={`${label}, ${shown.symbol}`}
        value={now}
        put={(typed) => put(typed === null ? null : Number(((typed - offset) / factor).toPrecision(8)))}
        width={width}
      />{" "}
      {shown.symbol}
    </>
  );
}
