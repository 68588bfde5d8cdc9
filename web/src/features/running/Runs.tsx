/** Runs of a period: how long, how often, and the table of them. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { RunsSeen, SystemShown } from "../../api/client";
import { useRuns, type RunsAsked, type Stretch } from "../../api/hooks";
import { type Shade } from "../../app/theme";
import { useShade } from "../../app/settings";
import { axisX, axisY, Chart, chartText } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import {
  clock,
  dayYear,
  duration,
  figureText,
  number,
  percent,
  plusMinus,
  type Shown,
} from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { RunsGrid } from "./RunsGrid";

export interface Seen {
  system: SystemShown;
  stretch: Stretch;
  temp: Shown;
  /** Shows a stretch of time as a day with the stretch selected. */
  show: (start: number, stop: number) => void;
}

export function Runs({ system, stretch, temp, show }: Seen) {
  const shade = useShade();
  const [asked, setAsked] = useState<RunsAsked>({ order: "time", descending: true, first: 0 });
  const runs = useRuns(system.id, stretch, asked);
  if (runs.isError) return <Trouble error={runs.error} again={() => void runs.refetch()} />;
  if (!runs.data) return <Waiting what="the runs" />;
  const found = runs.data;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Head found={found} zone={system.zone} />
      {found.cycling && (
        <Alert
          severity="warning"
          role="note"
        >{`${found.cycling}. The thermostat's cycle rate or a hysteresis is often the remedy.`}</Alert>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)", gap: 20 }}>
        <section>
          <Typography variant="h2">How long runs are</Typography>
          <Chart
            option={lengthsOption(found, shade)}
            height={120}
            words={found.lengths.map((one) => `${lengthName(one)}: ${one.runs} runs`).join("; ")}
          />
        </section>
        <section>
          <Typography variant="h2">When they start</Typography>
          <Chart
            option={hoursOption(found.by_hour, "day-rated", shade)}
            height={120}
            words={`Starts by hour of the day: ${found.by_hour.join(", ")}`}
          />
        </section>
      </Box>
      <Typography variant="caption" component="p" aria-label="How states are known">
        {[
          ...Object.entries(found.basis).map(([what, how]) => `${what}: ${how.words}`),
          ...found.notes.filter((note) => !Object.values(found.basis).some((how) => how.words === note)),
        ].join(" · ")}
        . A stretch is set right with <kbd>c</kbd> on its day.
      </Typography>
      <RunsGrid
        found={found}
        asked={asked}
        ask={setAsked}
        system={system}
        stretch={stretch}
        temp={temp}
        show={show}
      />
    </Box>
  );
}

function Head({ found, zone }: { found: RunsSeen; zone: string }) {
  return (
    <Facts
      facts={[
        {
          name: "starts a day",
          value: found.starts_a_day === null ? "–" : number(found.starts_a_day, 1),
          note: `${number(found.count, 0)} in all`,
        },
        {
          name: "most within an hour",
          value: number(found.most_an_hour, 0),
          note: found.most_at ? `on ${dayYear(found.most_at, zone)}, ${clock(found.most_at, zone)}` : null,
          ember: found.too_many,
        },
        { name: "median run", value: found.minutes === null ? "–" : duration(found.minutes * 60) },
        {
          name: "under 10 min",
          value: percent(found.short_share),
          note: `${number(found.short, 0)} of ${number(found.ended, 0)}`,
          ember: found.mostly_short,
        },
        {
          name: "running",
          value: found.run_fraction === null ? "–" : percent(found.run_fraction),
          note: "of the time",
        },
        {
          name: `standby, at ${found.level ?? "no level"}`,
          value: found.standby ? `${figureText(found.standby)} kWh` : "–",
          note: `${found.standby ? `${plusMinus(found.standby)} ` : ""}in ${number(found.standby_hours, 0)} h`,
        },
        {
          name: "pump with nothing made",
          value: found.pump_only ? `${figureText(found.pump_only)} kWh` : "–",
          note: `${found.pump_only ? `${plusMinus(found.pump_only)} ` : ""}in ${number(found.pump_only_hours, 0)} h`,
        },
      ]}
    />
  );
}

const lengthName = (one: RunsSeen["lengths"][number]) =>
  one.high === null
    ? `${number(one.low, 0)} min and more`
    : `${number(one.low, 0)} to ${number(one.high, 0)} min`;

function lengthsOption(found: RunsSeen, shade: Shade): Option {
  return {
    animation: false,
    grid: { left: 34, right: 6, top: 8, bottom: 20 },
    xAxis: {
      type: "category",
      data: found.lengths.map((one) => (one.high === null ? `> ${one.low}` : `${one.low}–${one.high}`)),
      axisLabel: { ...chartText(shade), interval: 0 },
      axisTick: { show: false },
      axisLine: { lineStyle: { color: shade("line") } },
    },
    yAxis: axisY({ splitNumber: 3 }, shade),
    series: [
      {
        type: "bar",
        data: found.lengths.map((one) => ({
          value: one.runs,
          itemStyle: { color: shade(one.short ? "ember" : "day-rated") },
        })),
        barWidth: "70%",
        silent: true,
      },
    ],
  } as Option;
}

export function hoursOption(counts: (number | null)[], tone: string, shade: Shade, most?: number): Option {
  return {
    animation: false,
    grid: { left: 34, right: 6, top: 8, bottom: 20 },
    xAxis: axisX(
      {
        min: 0,
        max: 24,
        interval: 6,
        axisLabel: { ...chartText(shade), formatter: (value: number) => `${value}:00` },
      },
      shade,
    ),
    yAxis: axisY({ splitNumber: 3, ...(most ? { min: 0, max: most, interval: most / 2 } : {}) }, shade),
    series: [
      {
        type: "bar",
        data: counts.map((value, hour) => [hour + 0.5, value]),
        barWidth: "70%",
        itemStyle: { color: shade(tone) },
        silent: true,
      },
    ],
  } as Option;
}
