/** The surface through the table, along its flow temperatures, with the points. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useMemo, useState } from "react";

import type { RatedTable } from "../../api/client";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, chartText } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { number, type Shown } from "../../components/numbers";
import { must } from "../../components/must";

/** Levels of speed or load come slowest first: dotted below the main one, dashed above it. */
function dash(table: RatedTable, speed: string): "solid" | "dashed" | "dotted" {
  const levels = [...new Set(table.lines.map((line) => line.speed))];
  const main = levels.indexOf(table.main);
  const here = levels.indexOf(speed);
  return here === main ? "solid" : here < main ? "dotted" : "dashed";
}

export function Surface({
  table,
  temp,
  power,
  stale,
}: {
  table: RatedTable;
  temp: Shown;
  power: Shown;
  stale: boolean;
}) {
  const shade = useShade();
  const [what, setWhat] = useState<"cop" | "capacity">("cop");
  const option = useMemo(
    () => surfaceOption(table, temp, power, what, shade),
    [table, temp, power, what, shade],
  );
  const named = table.points.filter((point) => point.standard);
  return (
    <section>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 10 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          {what === "cop" ? "COP" : `Capacity, ${power.symbol}`} over{" "}
          {table.kind === "ground" ? "source" : "outdoor"} temperature{" "}
          <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
            {temp.symbol}
            {stale ? " · as saved" : ""}
          </Typography>
        </Typography>
        <ToggleButtonGroup aria-label="What is drawn">
          <ToggleButton value="on" selected={what === "cop"} onClick={() => setWhat("cop")}>
            COP
          </ToggleButton>
          <ToggleButton value="on" selected={what === "capacity"} onClick={() => setWhat("capacity")}>
            capacity
          </ToggleButton>
        </ToggleButtonGroup>
      </Box>
      <Chart
        option={option}
        height={230}
        words={table.points
          .map(
            (point) =>
              `${number(temp.of(point.outdoor), 0)}, ${number(temp.of(point.flow), 0)}: COP ${point.cop === null ? "not given" : number(point.cop, 2)}`,
          )
          .join("; ")}
      />
      <Typography variant="caption" component="p">
        {table.kind === "air"
          ? "Between the points capacity and input run in lines."
          : "Between the points the share of Carnot is interpolated, capacity in lines."}{" "}
        {table.hull.length} cells are bounded by their four points; outside them nothing is compared.
        {named.length > 0 && " Ringed: the standard points."}
        {table.lines.some((line) => line.speed !== table.main) &&
          " Solid: the main level of speed or load; dotted below it, dashed above."}
      </Typography>
    </section>
  );
}

function surfaceOption(
  table: RatedTable,
  temp: Shown,
  power: Shown,
  what: "cop" | "capacity",
  shade: Shade,
): Option {
  const of = (cop: number | null, kw: number | null) =>
    what === "cop" ? cop : kw === null ? null : power.of(kw * 1000);
  const flows = [...new Set(table.lines.map((line) => line.flow))].sort((a, b) => a - b);
  const ofFlow = (flow: number) =>
    shade(
      must(
        ["day-better", "return", "outdoor", "heating", "ember"][
          Math.min(4, Math.floor((flows.indexOf(flow) / Math.max(1, flows.length - 1)) * 4.99))
        ],
      ),
    );
  const points = (standard: boolean) =>
    table.points
      .filter((point) => (point.standard !== null) === standard)
      .map((point) => [temp.of(point.outdoor), of(point.cop, point.capacity_kw)]);
  const outdoors = table.points.map((point) => temp.of(point.outdoor));
  return {
    animation: false,
    grid: { left: 42, right: 44, top: 10, bottom: 24 },
    xAxis: axisX({ min: Math.min(...outdoors), max: Math.max(...outdoors) }, shade),
    yAxis: axisY({ min: 0 }, shade),
    series: [
      ...table.lines.map((line) => ({
        type: "line" as const,
        data: line.outdoor.map((t, k) => [temp.of(t), of(line.cop[k] ?? null, line.capacity_kw[k] ?? null)]),
        showSymbol: false,
        silent: true,
        connectNulls: false,
        lineStyle: { color: ofFlow(line.flow), width: 1.5, type: dash(table, line.speed) },
        endLabel: { show: true, formatter: `${number(temp.of(line.flow), 0)}`, ...chartText(shade) },
      })),
      {
        type: "scatter",
        data: points(false),
        symbolSize: 5,
        itemStyle: { color: shade("ink") },
        silent: true,
      },
      {
        type: "scatter",
        data: points(true),
        symbolSize: 8,
        itemStyle: { color: shade("sheet"), borderColor: shade("ink"), borderWidth: 1.5 },
        silent: true,
      },
    ],
  } as Option;
}
