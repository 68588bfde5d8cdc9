/** Units of one property, and the heads and circuits of each, side by side on one axis. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useMemo } from "react";
import { Link } from "react-router";

import type { PropertyShown } from "../../api/client";
import { useUnits } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, chartText } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { clock, figureText, percent, plusMinus, shortDay } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import type { Seen } from "./Runs";
import { must } from "../../components/must";

type Meter = PropertyShown["units"][number]["meters"][number];

export function Units({ system, stretch }: Seen) {
  const units = useUnits(system.id, stretch);
  if (units.isError) return <Trouble error={units.error} again={() => void units.refetch()} />;
  if (!units.data) return <Waiting what="the units" />;
  const found = units.data;
  const most = nice(
    Math.max(
      0.1,
      ...found.units.flatMap((unit) => unit.meters.flatMap((meter) => meter.bars.map((bar) => bar ?? 0))),
    ),
  );
  const several = found.units.length > 1;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      <Box component="p" sx={look.soft}>
        {several ? `${found.units.length} units of ${found.property}` : "One unit"}, every meter on the same
        axis: kWh{" "}
        {found.edges.length > 1 && must(found.edges[1]) - must(found.edges[0]) < 80_000
          ? "an hour"
          : "a day or more"}
        . Ways of measuring one heat stand side by side; they are not added.
        {!several && " Units whose descriptions name the same property in Set up appear here together."}
      </Box>
      {found.units.map((unit) => (
        <section key={unit.id}>
          <Typography variant="h2">
            {unit.here ? unit.name : <Link to={`/systems/${unit.id}/running`}>{unit.name}</Link>}
            {unit.reason?.sentence && (
              <Box component="span" sx={{ ...look.ember, fontWeight: 400 }}>
                {" "}
                {unit.reason?.sentence}
              </Box>
            )}
          </Typography>
          <FigureTable tight aria-label={`Meters of ${unit.name}`}>
            <TableBody>
              {unit.meters
                .filter((meter) => meter.energy)
                .map((meter) => (
                  <TableRow key={meter.name}>
                    <TableCell sx={{ width: 190 }}>
                      {meter.name}
                      <br />
                      <Typography variant="caption" component="span">
                        {meter.loads.replaceAll("_", " ")}
                      </Typography>
                    </TableCell>
                    <TableCell align="right" sx={{ width: 130 }}>
                      <strong>{figureText(must(meter.energy))}</strong>{" "}
                      <Box component="span" sx={look.soft}>
                        {plusMinus(must(meter.energy))} kWh
                      </Box>
                      <br />
                      <Typography variant="caption" component="span">
                        {meter.kind}, {percent(meter.covered)} covered
                      </Typography>
                    </TableCell>
                    <TableCell>
                      <Bars meter={meter} edges={found.edges} most={most} zone={system.zone} />
                    </TableCell>
                  </TableRow>
                ))}
            </TableBody>
          </FigureTable>
        </section>
      ))}
    </Box>
  );
}

/** The next round number: 1, 2 or 5 times a power of ten. */
function nice(value: number): number {
  const power = 10 ** Math.floor(Math.log10(value));
  return must([1, 2, 5, 10].map((k) => k * power).find((one) => one >= value));
}

function Bars({ meter, edges, most, zone }: { meter: Meter; edges: number[]; most: number; zone: string }) {
  const shade = useShade();
  const option = useMemo(
    () => barsOption(meter, edges, most, zone, shade),
    [meter, edges, most, zone, shade],
  );
  return (
    <Chart
      option={option}
      height={58}
      words={`${meter.name}: ${meter.energy ? figureText(meter.energy) : "none"} kWh`}
    />
  );
}

function barsOption(meter: Meter, edges: number[], most: number, zone: string, shade: Shade): Option {
  const short = must(edges.at(-1)) - must(edges[0]) < 6 * 86_400;
  const mark = (at: number) => (short && clock(at, zone) !== "00:00" ? clock(at, zone) : shortDay(at, zone));
  return {
    animation: false,
    grid: { left: 30, right: 16, top: 8, bottom: 16 },
    xAxis: axisX(
      {
        min: edges[0],
        max: edges.at(-1),
        ...(short
          ? { interval: 6 * 3600 * Math.ceil((must(edges.at(-1)) - must(edges[0])) / 172_800) }
          : { splitNumber: 8 }),
        axisLabel: { ...chartText(shade), hideOverlap: true, formatter: mark },
      },
      shade,
    ),
    yAxis: axisY(
      { min: 0, max: most, interval: most, axisLabel: { ...chartText(shade), showMinLabel: false } },
      shade,
    ),
    series: [
      {
        type: "bar",
        data: meter.bars.map((bar, k) => [(must(edges[k]) + must(edges[k + 1])) / 2, bar]),
        barMaxWidth: 12,
        itemStyle: { color: shade(meter.kind === "heat" ? "heating" : "power") },
        silent: true,
      },
    ],
  } as Option;
}
