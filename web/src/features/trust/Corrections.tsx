/** What was corrected and left out, each with its undo; and one's own. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { Choice } from "../../components/Choice";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { useState, type FormEvent } from "react";

import type { SystemShown, TrustShown } from "../../api/client";
import { useAccept, useWithdraw } from "../../api/hooks";
import { clock, dayYear, MINUS, numberIn } from "../../components/numbers";
import { must } from "../../components/must";

export function Corrections({ system, found }: { system: SystemShown; found: TrustShown }) {
  const withdraw = useWithdraw(system.id);
  const [own, setOwn] = useState(false);
  return (
    <section aria-label="Corrections">
      <Typography variant="h2" sx={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        Corrected and left out
        <Button aria-expanded={own} onClick={() => setOwn(!own)}>
          {own ? "Close" : "Correct or leave out by hand …"}
        </Button>
      </Typography>
      {withdraw.isError && (
        <Alert severity="warning" role="alert">
          {withdraw.error.message}
        </Alert>
      )}
      {own && <Own system={system} found={found} done={() => setOwn(false)} />}
      {found.corrections.length === 0 ? (
        <Box component="p" sx={look.soft}>
          Nothing: every figure is made of the readings as they were logged.
        </Box>
      ) : (
        <FigureTable aria-label="Corrections in force">
          <TableHead>
            <TableRow>
              <TableCell>What, and why</TableCell>
              <TableCell>Since</TableCell>
              <TableCell>By</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {found.corrections.map((one) => (
              <TableRow key={one.index}>
                <TableCell>{one.words.replace(/(^|\s)-(?=\d)/g, `$1${MINUS}`)}</TableCell>
                <TableCell sx={{ whiteSpace: "nowrap" }}>
                  {one.since ? `${dayYear(one.since, system.zone)} ${clock(one.since, system.zone)}` : ""}
                </TableCell>
                <TableCell sx={look.soft}>{one.user ?? ""}</TableCell>
                <TableCell align="right">
                  <Button
                    disabled={withdraw.isPending}
                    aria-label={`Undo: ${one.words}`}
                    onClick={() => withdraw.mutate([one.correction])}
                  >
                    Undo
                  </Button>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
      )}
    </section>
  );
}

type Values = Record<string, string>;
interface Field {
  name: string;
  label: string;
  kind: "time" | "clock" | "number" | "channel" | "text";
  must?: boolean;
}

const SPAN: Field[] = [
  { name: "start", label: "from, local time", kind: "time" },
  { name: "end", label: "to", kind: "time" },
];

/** What each kind of correction asks for. */
const KINDS: Record<string, { title: string; fields: Field[] }> = {
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

function Own({ system, found, done }: { system: SystemShown; found: TrustShown; done: () => void }) {
  const accept = useAccept(system.id);
  const [kind, setKind] = useState("exclude");
  const [values, setValues] = useState<Values>({});
  const put = (name: string, value: string) => setValues((now) => ({ ...now, [name]: value }));
  const fields = must(KINDS[kind]).fields;
  const ready = values.reason?.trim() && fields.every((field) => !field.must || values[field.name]);
  function send(event: FormEvent) {
    event.preventDefault();
    accept.mutate([correctionOf(kind, values)], { onSuccess: done });
  }
  return (
    <Box
      component="form"
      sx={{ display: "flex", flexWrap: "wrap", gap: "6px 10px", alignItems: "end", margin: "6px 0 10px" }}
      onSubmit={send}
      aria-label="Own correction"
    >
      <label>
        <Typography variant="caption" component="span">
          what
        </Typography>
        <br />
        <Choice value={kind} onChange={(event) => setKind(event.target.value)}>
          {Object.entries(KINDS).map(([name, one]) => (
            <option key={name} value={name}>
              {one.title}
            </option>
          ))}
        </Choice>
      </label>
      {fields.map((field) => (
        <label key={field.name}>
          <Typography variant="caption" component="span">
            {field.label}
          </Typography>
          <br />
          {field.kind === "channel" ? (
            <Choice
              value={values[field.name] ?? ""}
              onChange={(event) => put(field.name, event.target.value)}
            >
              <option value="">{field.must ? "choose …" : "any reading"}</option>
              {found.channels.map((channel) => (
                <option key={channel}>{channel}</option>
              ))}
            </Choice>
          ) : (
            <TextInput
              sx={{ width: field.kind === "number" ? 74 : undefined }}
              type={field.kind === "clock" ? "time" : field.kind === "time" ? "datetime-local" : "text"}
              inputMode={field.kind === "number" ? "decimal" : undefined}
              value={values[field.name] ?? ""}
              onChange={(event) => put(field.name, event.target.value)}
            />
          )}
        </label>
      ))}
      <Box component="label" sx={{ flex: "1 1 180px" }}>
        <Typography variant="caption" component="span">
          why
        </Typography>
        <br />
        <TextInput
          sx={{ width: "100%" }}
          value={values.reason ?? ""}
          maxLength={200}
          placeholder="pump mode test"
          onChange={(event) => put("reason", event.target.value)}
        />
      </Box>
      <Button variant="contained" type="submit" disabled={!ready || accept.isPending}>
        Apply
      </Button>
      {accept.isError && (
        <Alert severity="warning" sx={{ width: "100%" }} role="alert">
          {accept.error.message}
        </Alert>
      )}
    </Box>
  );
}
