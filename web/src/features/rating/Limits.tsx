/** The thresholds of the rules: what is in force, the default, and where it comes from. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type LimitShown, type SystemShown } from "../../api/client";
import { useForget, useLimits } from "../../api/hooks";
import { number, numberIn } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";

/** A share is typed in percent. */
const factor = (limit: LimitShown) => (limit.unit === "%" ? 100 : 1);
const text = (limit: LimitShown, value: number) =>
  number(value * factor(limit), Number.isInteger(value * factor(limit)) ? 0 : 2);

export function Limits({ system }: { system: SystemShown }) {
  const limits = useLimits(system.id);
  const queries = useQueryClient();
  const forget = useForget();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const save = useMutation({
    mutationFn: (values: Record<string, number>) =>
      got(
        api.PATCH("/api/v1/systems/{pk}/thresholds", {
          params: { path: { pk: system.id } },
          body: { values },
        }),
      ),
    onSuccess: (found) => {
      queries.setQueryData(["system", system.id, "limits"], found);
      setTyped({});
      forget(system.id);
    },
  });
  if (limits.isError) return <Trouble error={limits.error} again={() => void limits.refetch()} />;
  if (!limits.data) return <Waiting what="the thresholds" />;
  const rows = limits.data.limits;
  const values: Record<string, number> = {};
  const wrong: string[] = [];
  for (const limit of rows) {
    const cell = typed[limit.name];
    if (cell === undefined) continue;
    const value = numberIn(cell);
    if (value === undefined) wrong.push(limit.name);
    else if (value / factor(limit) !== limit.value) values[limit.name] = value / factor(limit);
  }
  const changed = Object.keys(values).length;
  return (
    <section>
      <Box sx={{ display: "flex", gap: 10, alignItems: "center", marginBottom: 6 }}>
        <Box component="p" sx={{ ...look.soft, flex: 1 }}>
          In force for {system.name} alone. A change works the findings out anew; the description before stays
          in Set up’s history.
        </Box>
        <Button
          variant="contained"
          disabled={!changed || wrong.length > 0 || save.isPending}
          onClick={() => save.mutate(values)}
        >
          Save {changed || ""}
        </Button>
        <Button disabled={!Object.keys(typed).length} onClick={() => setTyped({})}>
          Undo
        </Button>
        <Button
          onClick={() =>
            setTyped(Object.fromEntries(rows.map((limit) => [limit.name, text(limit, limit.default)])))
          }
        >
          All defaults
        </Button>
      </Box>
      {save.isError && (
        <Alert severity="warning" role="alert">
          {save.error.message}
        </Alert>
      )}
      <FigureTable tight aria-label="Thresholds">
        <TableHead>
          <TableRow>
            <TableCell>Threshold</TableCell>
            <TableCell align="right">In force</TableCell>
            <TableCell sx={{ paddingLeft: 6 }}>Unit</TableCell>
            <TableCell align="right">Default</TableCell>
            <TableCell sx={{ paddingLeft: 12 }}>Source</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {rows.map((limit) => (
            <TableRow key={limit.name}>
              <TableCell>{limit.words}</TableCell>
              <TableCell align="right">
                <TextInput
                  sx={{
                    width: 64,
                    textAlign: "right",
                    borderColor: wrong.includes(limit.name) ? "var(--ember)" : undefined,
                  }}
                  inputMode="decimal"
                  aria-label={limit.words}
                  aria-invalid={wrong.includes(limit.name)}
                  value={typed[limit.name] ?? text(limit, limit.value)}
                  onChange={(event) => setTyped((now) => ({ ...now, [limit.name]: event.target.value }))}
                />
              </TableCell>
              <TableCell sx={{ ...look.soft, paddingLeft: 6 }}>{limit.unit}</TableCell>
              <TableCell
                sx={
                  limit.value === limit.default
                    ? { ...look.num, ...look.soft }
                    : { ...look.num, ...look.ember }
                }
              >
                {text(limit, limit.default)}
              </TableCell>
              <TableCell sx={{ ...look.soft, paddingLeft: 12 }}>{limit.source}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}
