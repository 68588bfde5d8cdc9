/** A correction of one's own: what it is asked for, by its kind. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useForm, useWatch } from "react-hook-form";

import type { SystemShown, TrustShown } from "../../api/client";
import { useAccept } from "../../api/hooks";
import { NEEDED, OneOf, refusedAt, Words } from "../../components/Form";
import { must } from "../../components/must";
import { numberIn } from "../../components/numbers";

type Values = Record<string, string | undefined>;

interface Asked {
  name: string;
  label: string;
  kind: "time" | "clock" | "number" | "channel" | "text";
  must?: boolean;
}

const SPAN: Asked[] = [
  { name: "start", label: "from, local time", kind: "time" },
  { name: "end", label: "to", kind: "time" },
];

/** What each kind of correction asks for. */
const KINDS: Record<string, { title: string; fields: Asked[] }> = {
  exclude: { title: "Leave out a stretch", fields: SPAN.map((field) => ({ ...field, must: true })) },
  rule: {
    title: "Leave out by rule",
    fields: [
      { name: "channel", label: "where", kind: "channel" },
      { name: "below", label: "is below", kind: "number" },
      { name: "above", label: "or above", kind: "number" },
      { name: "from_time", label: "each day from", kind: "clock" },
      { name: "to_time", label: "to", kind: "clock" },
      ...SPAN,
    ],
  },
  offset: {
    title: "Add an offset",
    fields: [
      { name: "channel", label: "to", kind: "channel", must: true },
      { name: "add", label: "add", kind: "number", must: true },
      { name: "U", label: "± U (k = 2)", kind: "number", must: true },
      ...SPAN,
    ],
  },
  factor: {
    title: "Apply a factor",
    fields: [
      { name: "channel", label: "to", kind: "channel", must: true },
      { name: "factor", label: "times", kind: "number", must: true },
      { name: "U", label: "± U as a share", kind: "number" },
      ...SPAN,
    ],
  },
  swap: {
    title: "Swap two channels",
    fields: [
      { name: "one", label: "swap", kind: "channel", must: true },
      { name: "other", label: "with", kind: "channel", must: true },
      ...SPAN,
    ],
  },
  clock_shift: {
    title: "Move a clock",
    fields: [
      { name: "one", label: "move", kind: "channel", must: true },
      { name: "seconds", label: "later by, s", kind: "number", must: true },
    ],
  },
  prefer: {
    title: "Prefer another channel",
    fields: [
      { name: "use", label: "use", kind: "channel", must: true },
      { name: "instead_of", label: "instead of", kind: "channel", must: true },
    ],
  },
};

const CHOICES = Object.entries(KINDS).map(([name, one]) => [name, one.title] as const);

/** The correction that a form describes, as the API takes it. */
export function correctionOf(kind: string, values: Values): Record<string, unknown> {
  const made: Record<string, unknown> = { kind, reason: values.reason?.trim() ?? "" };
  for (const field of must(KINDS[kind]).fields) {
    const value = values[field.name]?.trim();
    if (!value) continue;
    if (field.name === "one" || field.name === "other") continue;
    made[field.name] = field.kind === "number" ? numberIn(value) : value;
  }
  if (kind === "swap") made.channels = [values.one ?? "", values.other ?? ""];
  if (kind === "clock_shift") made.channels = [values.one ?? ""];
  return made;
}

const NUMBER = (text: unknown) => {
  const typed = String(text ?? "").trim();
  return !typed || numberIn(typed) !== undefined ? true : "This is no number.";
};

const TYPES = { clock: "time", time: "datetime-local", number: undefined, text: undefined } as const;

interface OwnCorrectionProps {
  system: SystemShown;
  found: TrustShown;
  done: () => void;
}

export function OwnCorrection({ system, found, done }: OwnCorrectionProps) {
  const accept = useAccept(system.id);
  const form = useForm<Values>({
    defaultValues: { kind: "exclude" },
    shouldUnregister: true,
    shouldFocusError: false, // by the order of the fields, not that in which they came
  });
  const { control } = form;
  const kind = useWatch({ control, name: "kind" }) ?? "exclude";
  const fields = must(KINDS[kind]).fields;
  const submit = form.handleSubmit(
    (typed) =>
      accept.mutate([correctionOf(kind, typed)], {
        onSuccess: done,
        onError: (error) => refusedAt(form, error),
      }),
    (wrong) => {
      const first = [...fields.map((field) => field.name), "reason"].find((name) => wrong[name]);
      if (first) form.setFocus(first);
    },
  );
  const rules = (field: Asked) => ({
    validate: {
      number: field.kind === "number" ? NUMBER : () => true,
      needed: field.must ? NEEDED.validate : () => true,
    },
  });
  return (
    <Box
      component="form"
      noValidate
      sx={{ display: "flex", flexWrap: "wrap", gap: "6px 10px", margin: "6px 0 10px" }}
      onSubmit={(event) => void submit(event)}
      aria-label="Own correction"
    >
      <OneOf control={control} name="kind" label="what" of={CHOICES} />
      {fields.map((field) =>
        field.kind === "channel" ? (
          <OneOf
            key={field.name}
            control={control}
            name={field.name}
            label={field.label}
            of={found.channels.map((channel) => [channel, channel])}
            none={field.must ? "choose …" : "any reading"}
            rules={rules(field)}
          />
        ) : (
          <Words
            key={field.name}
            control={control}
            name={field.name}
            label={field.label}
            type={TYPES[field.kind]}
            {...(field.kind === "number" ? { width: 74 } : {})}
            rules={rules(field)}
          />
        ),
      )}
      <Words
        control={control}
        name="reason"
        label="why"
        hint="pump mode test"
        width={180}
        grows
        rules={NEEDED}
      />
      <Button variant="contained" type="submit" sx={{ marginTop: 16 }} disabled={accept.isPending}>
        Apply
      </Button>
      {form.formState.errors.root && (
        <Alert severity="warning" sx={{ width: "100%" }} role="alert">
          {form.formState.errors.root.message}
        </Alert>
      )}
    </Box>
  );
}
