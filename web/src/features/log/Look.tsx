/** A file before it is stored: what it is, what each column becomes, what would be lost. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Radio from "@mui/material/Radio";
import Typography from "@mui/material/Typography";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type ColumnChoice, type Preview, type SystemShown } from "../../api/client";
import { clock, dayYear, duration, number } from "../../components/numbers";
import { Mapping } from "./Mapping";
import { Notes } from "./Notes";

export type Rule = "fill" | "replace" | "keep";

const RULES: [Rule, string][] = [
  ["fill", "what is stored stays; the file fills what is unknown"],
  ["replace", "the file's readings take the place of stored ones"],
  ["keep", "times that hold any stored reading stay as they are"],
];

/** How a file is to be stored. columns : set by hand; null for a recipe's, or, with guess, guessed. */
export interface Storing {
  columns: ColumnChoice[] | null;
  guess: boolean;
  rule: Rule;
  remember: string | null;
}

interface Props {
  system: SystemShown;
  preview: Preview;
  changed: (preview: Preview) => void;
  store: (how: Storing) => void;
  forget: () => void;
  busy: boolean;
}

export function Look({ system, preview, changed, store, forget, busy }: Props) {
  const { report, problem } = preview;
  const [columns, setColumns] = useState<ColumnChoice[] | null>(null);
  const [guess, setGuess] = useState(false);
  const [rule, setRule] = useState<Rule>("fill");
  const [remembered, setRemembered] = useState(true);
  const [name, setName] = useState(preview.name.replace(/\.\w+(\.gz)?$/, ""));
  const again = useMutation({
    mutationFn: (chosen: ColumnChoice[] | null) =>
      got(
        api.POST("/api/v1/uploads/{pk}/preview", {
          params: { path: { pk: preview.upload } },
          body: { columns: chosen, guess: chosen === null },
        }),
      ),
    onSuccess: changed,
  });

  function choose(next: ColumnChoice[] | null) {
    setColumns(next);
    setGuess(next === null);
    again.mutate(next);
  }

  const remember = columns !== null && remembered && name.trim() ? name.trim() : null;

  const said = problem ?? again.error?.message ?? null;
  return (
    <Box
      component="section"
      sx={{
        display: "grid",
        gap: 10,
        border: "1px solid var(--line)",
        background: "var(--sheet)",
        padding: "12px 14px",
        borderRadius: 3,
      }}
      aria-label="Preview"
      data-testid="preview"
    >
      <Box component="header" sx={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          {preview.name}{" "}
          <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
            {number(preview.size / 1e6, 1)} MB{report && ` · ${report.dialect} · clock: ${report.clock}`}
          </Box>
        </Typography>
        <Button
          variant="contained"
          disabled={!report || busy || again.isPending || preview.already !== null}
          onClick={() => store({ columns, guess, rule, remember })}
        >
          Store {report ? `${number(report.rows, 0)} rows` : ""}
        </Button>
        <Button onClick={forget}>Forget it</Button>
      </Box>
      {said && (
        <Alert severity="warning" role="alert">
          {said}
        </Alert>
      )}
      {preview.already !== null && (
        <Alert severity="info" role="note">
          The same file is stored already (import {preview.already}); storing it again would add nothing.
        </Alert>
      )}
      {report && (
        <p>
          {dayYear(report.start, system.zone)} {clock(report.start, system.zone)} to{" "}
          {dayYear(report.stop, system.zone)} {clock(report.stop, system.zone)}, every {duration(report.step)}
        </p>
      )}
      {report && preview.overlap_days > 0 && preview.already === null && (
        <Box
          component="fieldset"
          sx={{ border: "1px solid var(--line)", borderRadius: 3, padding: "4px 10px 6px", margin: 0 }}
        >
          <legend>Overlaps {preview.overlap_days} stored days. There:</legend>
          {RULES.map(([name, what]) => (
            <Box component="label" sx={{ display: "block" }} key={name}>
              <Radio name="rule" value={name} checked={rule === name} onChange={() => setRule(name)} />{" "}
              <strong>{name}</strong>: {what}
            </Box>
          ))}
        </Box>
      )}
      {report && (
        <div>
          <Typography variant="h3">What reading it does</Typography>
          <Notes report={report} />
        </div>
      )}
      {columns !== null && (
        <p>
          <label>
            <Checkbox checked={remembered} onChange={(event) => setRemembered(event.target.checked)} />{" "}
            Remember these columns for the next file of this kind, as
          </label>{" "}
          <TextInput
            aria-label="Name of the recipe"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </p>
      )}
      {preview.headers.length > 0 && (
        <Mapping
          system={system}
          preview={preview}
          columns={columns}
          choose={choose}
          waiting={again.isPending}
        />
      )}
    </Box>
  );
}
