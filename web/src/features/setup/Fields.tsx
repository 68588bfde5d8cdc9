/** Fields of a form: each with what is wrong with it beside. */
import Box from "@mui/material/Box";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import { TextInput } from "../../components/TextInput";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { useState, type ReactNode } from "react";

import { useMe } from "../../api/hooks";
import type { components } from "../../api/schema";
import { useSettings } from "../../app/settings";
import { shownIn } from "../../components/numbers";
import { numberOf, type Draft } from "./draft";

export type Problem = components["schemas"]["ProblemShown"];
export type Named = components["schemas"]["Named"];
export type SetUp = components["schemas"]["SetUp"];

/** What every part of the form is given. */
export interface Part {
  setup: SetUp;
  draft: Draft;
  edit: (next: Draft) => void;
  problems: Problem[];
}

/** A field with what is wrong with it beside. */
export function Field({
  label,
  where,
  problems,
  children,
}: {
  label: string;
  where?: string;
  problems?: Problem[];
  children: ReactNode;
}) {
  const wrong = problems?.find((one) => one.where === where);
  return (
    <TableRow>
      <TableCell sx={{ ...look.soft, width: 150 }}>{label}</TableCell>
      <TableCell>
        {children}
        {wrong && <Box sx={look.ember}>{wrong.what}</Box>}
      </TableCell>
    </TableRow>
  );
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
}: {
  label: string;
  value: number | null;
  put: (value: number | null) => void;
  width?: number;
}) {
  const [text, setText] = useState(value === null ? "" : String(value));
  const [last, setLast] = useState(value);
  if (last !== value) {
    setLast(value);
    if (!alike(numberOf(text), value)) setText(value === null ? "" : String(value));
  }
  const wrong = numberOf(text) === undefined;
  return (
    <TextInput
      sx={{ width, borderColor: wrong ? "var(--ember)" : undefined }}
      inputMode="decimal"
      aria-label={label}
      aria-invalid={wrong}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        const found = numberOf(event.target.value);
        if (found !== undefined) put(found);
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

/** One of some choices; `none` offers not knowing. */
export function ChoiceOf({
  label,
  value,
  choices,
  put,
  none,
}: {
  label: string;
  value: string | null;
  choices: Named[];
  put: (value: string | null) => void;
  none?: string;
}) {
  return (
    <Choice aria-label={label} value={value ?? ""} onChange={(event) => put(event.target.value || null)}>
      {none !== undefined && <option value="">{none}</option>}
      {choices.map((one) => (
        <option key={one.value} value={one.value}>
          {one.words}
        </option>
      ))}
    </Choice>
  );
}

/** What is wrong with an entry of a list, line by line. where : its path, like electricity.0. */
export function Wrongs({ problems, where }: { problems: Problem[]; where: string }) {
  return problems
    .filter((one) => one.where === where || one.where.startsWith(`${where}.`))
    .map((one) => (
      <Box sx={look.ember} key={one.where + one.what}>
        {one.what}
      </Box>
    ));
}
