/** What each house bought in the days in common, whatever the fuel. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";

import type { Figure } from "../../api/client";
import type { components } from "../../api/schema";
import * as look from "../../components/look";
import { percent } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import { To } from "../../components/To";
import { Cell, useByFloor } from "./byFloor";

type Row = components["schemas"]["InCommonShown"];

export function Bought({ rows, local }: { rows: Row[]; local: string }) {
  const { area, weather } = useByFloor();
  const bought = rows.flatMap((row) => row.bought.map((one) => ({ ...one, row })));
  return (
    <>
      <Typography variant="h2" sx={{ marginTop: 22 }}>
        All fuels, by the bills of each house
      </Typography>
      {bought.length === 0 ? (
        <Box component="p" sx={look.soft}>
          None of these houses has bills of those days. Type gas, oil, wood or the electricity of the whole
          house in{" "}
          {rows.map((row, k) => (
            <span key={row.id}>
              {k > 0 && ", "}
              <To to={`/systems/${row.id}/log?part=bills`}>{row.name}: Log, Bills</To>
            </span>
          ))}
          .
        </Box>
      ) : (
        <>
          <FigureTable aria-label="All fuels, by the bills of each house">
            <TableHead>
              <TableRow>
                <TableCell>System</TableCell>
                <TableCell>Of</TableCell>
                <TableCell align="right">Known of the days</TableCell>
                <TableCell align="right">Energy kWh, ± U</TableCell>
                <TableCell align="right">Cost, ± U</TableCell>
                <TableCell align="right">Energy {area.symbol}</TableCell>
                <TableCell align="right">Energy {weather.symbol}</TableCell>
              </TableRow>
            </TableHead>
            <TableBody>
              {bought.map(({ row, ...one }) => {
                const cell = (title: string, figure: Figure | null, formula: string, unit = false) => (
                  <Cell
                    {...{ figure, formula, unit }}
                    title={`${title}: ${one.carrier}`}
                    about={`${row.name} · ${local}`}
                  />
                );
                return (
                  <TableRow key={`${row.id} ${one.carrier}`}>
                    <TableCell sx={{ whiteSpace: "nowrap" }}>{row.name}</TableCell>
                    <TableCell>
                      {cap(one.carrier)}
                      {one.reason && <Box sx={look.ember}>{one.reason.sentence}</Box>}
                    </TableCell>
                    <TableCell align="right">{percent(one.covered)}</TableCell>
                    {cell("Energy", one.energy, "Σ amount × kWh in one, of the days on bills")}
                    {cell("Cost", one.cost, "Σ bills, by their days", true)}
                    {cell("Energy by the floor", area.figure(one.energy_per_area), "energy ÷ floor area")}
                    {cell(
                      "Energy by floor and weather",
                      weather.figure(one.energy_by_weather),
                      "energy ÷ floor area ÷ degree-days of the days that are known",
                    )}
                  </TableRow>
                );
              })}
            </TableBody>
          </FigureTable>
          <Box component="p" sx={look.soft}>
            Of a bill that holds other days too, these have their share by days. The heating before and bills
            of the unit’s own meter are left out; a bill of electricity holds the whole house’s.
          </Box>
        </>
      )}
    </>
  );
}
