/** Systems in the days that all of them have: by the floor, and by the weather of each. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { api, got, type Figure } from "../../api/client";
import * as look from "../../components/look";
import { number, percent } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { FigureTable } from "../../components/Sheets";
import { Bought } from "./Bought";
import { Cell, useByFloor } from "./byFloor";

export function InCommon({ ids }: { ids: number[] }) {
  const { temp, area, weather, money } = useByFloor();
  const found = useQuery({
    queryKey: ["compared", ids],
    queryFn: () => got(api.GET("/api/v1/compared", { params: { query: { systems: ids } } })),
  });
  if (found.isError) return <Trouble error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Waiting what="the days in common" />;
  const { local, reason, rows } = found.data;
  if (reason)
    return (
      <Alert severity="info" role="note">
        {reason}
      </Alert>
    );
  const base = rows.find((row) => row.degree_days)?.degree_days?.base;
  const below = base === undefined ? "" : ` below ${number(temp.of(base), 0)} ${temp.symbol}`;
  return (
    <section>
      <Typography variant="h2">
        In the days in common{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          {local}; hot water included
        </Typography>
      </Typography>
      <FigureTable aria-label="In the days in common">
        <TableHead>
          <TableRow>
            <TableCell>System</TableCell>
            <TableCell align="right">Covered</TableCell>
            <TableCell align="right">Outdoors {temp.symbol}</TableCell>
            <TableCell align="right">Heat kWh, ± U</TableCell>
            <TableCell align="right">Electricity kWh, ± U</TableCell>
            <TableCell align="right">COP, ± U</TableCell>
            <TableCell align="right">Cost, ± U</TableCell>
            <TableCell align="right">Cost by floor</TableCell>
            <TableCell align="right">Heat {area.symbol}</TableCell>
            <TableCell align="right">Electricity {area.symbol}</TableCell>
            <TableCell align="right">Heat {weather.symbol}</TableCell>
            <TableCell align="right">Electricity {weather.symbol}</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {rows.map((row) => {
            const cell = (title: string, figure: Figure | null, formula: string, unit = false) => (
              <Cell {...{ title, figure, formula, unit }} about={`${row.name} · ${local ?? ""}`} />
            );
            const days = row.degree_days
              ? ` ÷ ${number(row.degree_days.heating, 0)} K·d${below}, of the time that is measured`
              : "";
            return (
              <TableRow key={row.id}>
                <TableCell sx={{ whiteSpace: "nowrap" }}>{row.name}</TableCell>
                <TableCell align="right">{percent(row.covered)}</TableCell>
                <TableCell align="right">
                  {row.outdoor === null ? "–" : number(temp.of(row.outdoor), 1)}
                </TableCell>
                {cell("Heat", row.heat, `measured at ${row.level ?? ""}`)}
                {cell("Electricity", row.electricity, `measured at ${row.level ?? "its meters"}`)}
                {cell(`COP ${row.level ?? ""}`, row.cop, "heat ÷ electricity")}
                {cell("Cost", row.cost, "Σ kWh × price of its moment + standing charges", true)}
                {cell("Cost by the floor", money(row.cost_per_area), "cost ÷ floor area", true)}
                {cell("Heat by the floor", area.figure(row.heat_per_area), "heat ÷ floor area")}
                {cell(
                  "Electricity by the floor",
                  area.figure(row.electricity_per_area),
                  "electricity ÷ floor area",
                )}
                {cell(
                  "Heat by floor and weather",
                  weather.figure(row.heat_by_weather),
                  `heat ÷ floor area${days}`,
                )}
                {cell(
                  "Electricity by floor and weather",
                  weather.figure(row.electricity_by_weather),
                  `electricity ÷ floor area${days}`,
                )}
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
      <Box component="p" sx={look.soft}>
        Each by its own weather, degree-days{below}. Where no floor area is described, a system stands without
        it (Set up). Two houses that use alike by floor and weather may still be kept at other temperatures.
      </Box>
      <Bought rows={rows} local={local ?? ""} />
    </section>
  );
}
