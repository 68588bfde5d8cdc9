/** The meters: what each is called, logs, includes, and how good it is. */
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";

import { FigureTable } from "../../components/Sheets";
import { must } from "../../components/must";
import { added, changed } from "./draft";
import type { Part } from "./Fields";
import { CircuitRow, ElectricityRow, RegisterRow, type RowProps } from "./MeterRows";

export function Meters({ setup, draft, edit, problems, parts }: Part & { parts: Record<string, string[]> }) {
  const about = <List extends "electricity" | "circuits" | "registers">(
    list: List,
    k: number,
    removable = true,
  ): Omit<RowProps<List>, "one"> => ({
    k,
    setup,
    problems,
    part: parts[must(draft[list][k]).name],
    put: (change) => edit(changed(draft, list, k, change)),
    remove: removable ? () => edit({ ...draft, [list]: draft[list].filter((_, j) => j !== k) }) : null,
  });
  return (
    <section>
      <Typography variant="h2">Meters</Typography>
      <FigureTable tight aria-label="Meters">
        <TableHead>
          <TableRow>
            <TableCell>Meter</TableCell>
            <TableCell>Channel</TableCell>
            <TableCell>Includes</TableCell>
            <TableCell>Serves</TableCell>
            <TableCell>Class</TableCell>
            <TableCell>Place</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {draft.electricity.map((one, k) => (
            <ElectricityRow key={k} one={one} {...about("electricity", k, draft.electricity.length > 1)} />
          ))}
          {draft.circuits.map((one, k) => (
            <CircuitRow key={k} one={one} {...about("circuits", k)} />
          ))}
          {draft.registers.map((one, k) => (
            <RegisterRow key={k} one={one} {...about("registers", k)} glycol={draft.fluid.kind !== "water"} />
          ))}
        </TableBody>
      </FigureTable>
      <datalist id="channels">
        {["power:unit", "power:pump", "power:backup", "energy:unit", "energy:pump", ...setup.logged].map(
          (one) => (
            <option key={one} value={one} />
          ),
        )}
      </datalist>
      <Button
        sx={{ marginTop: 6 }}
        onClick={() => edit(added(draft, "electricity", must(setup.fresh.electricity)))}
      >
        Add an electricity meter
      </Button>{" "}
      <Button onClick={() => edit(added(draft, "circuits", must(setup.fresh.circuits)))}>
        Add heat by flow × ΔT
      </Button>{" "}
      <Button onClick={() => edit(added(draft, "registers", must(setup.fresh.registers)))}>
        Add a heat register
      </Button>
      <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
        This describes meters that are there. Fitting one is work on the mains: for qualified electricians, by
        local codes.
      </Typography>
    </section>
  );
}
