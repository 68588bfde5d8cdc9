/** Fields of a form: each with what is wrong with it beside. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { UnitField } from "../../components/NumberField";
import type { ComponentProps, ReactNode } from "react";

import type { components } from "../../api/schema";
import type { Draft } from "./draft";

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
    <TableRow data-where={where}>
      <TableCell sx={{ ...look.soft, width: 150 }}>{label}</TableCell>
      <TableCell>
        {children}
        {wrong && <Box sx={look.ember}>{wrong.what}</Box>}
      </TableCell>
    </TableRow>
  );
}

interface Row {
  label: string;
  where: string;
  problems: Problem[];
  named?: string;
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

/** A number with its unit, a row of a form. named : for those who hear it, where the label alone says too
 * little. */
export function UnitRow({
  label,
  where,
  problems,
  named = label,
  ...field
}: Row & Omit<ComponentProps<typeof UnitField>, "label">) {
  return (
    <Field label={label} where={where} problems={problems}>
      <UnitField label={named} {...field} />
    </Field>
  );
}

/** One of some choices, a row of a form. */
export function ChoiceRow({
  label,
  where,
  problems,
  named = label,
  ...field
}: Row & Omit<ComponentProps<typeof ChoiceOf>, "label">) {
  return (
    <Field label={label} where={where} problems={problems}>
      <ChoiceOf label={named} {...field} />
    </Field>
  );
}

/** The last cell of an entry of a list. */
export function RemoveCell({ remove }: { remove: () => void }) {
  return (
    <TableCell align="right">
      <Button variant="text" onClick={remove}>
        Remove
      </Button>
    </TableCell>
  );
}

/** Puts the focus where something is wrong; the nearest part of the description that has a field. where : its
 * path, like electricity.0.includes.1. */
export function toField(where: string): void {
  for (let path = where; path; path = path.slice(0, Math.max(0, path.lastIndexOf(".")))) {
    const field = document.querySelector(`[data-where="${CSS.escape(path)}"]`);
    const box = field?.querySelector<HTMLElement>("input, select, textarea, button");
    if (box) {
      box.focus();
      return;
    }
  }
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
