/** Runs of a period: how long, how often, and the table of them. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { FigureButton } from "../../components/FigureButton";
import * as look from "../../components/look";
import { useState } from "react";

import type { RunRow, RunsSeen, SystemShown } from "../../api/client";
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
  localMinute,
  number,
  percent,
  plusMinus,
  type Shown,
} from "../../components/numbers";
import { HonestFigure, type Proof } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import { OnItsDay } from "./Latest";
import { must } from "../../components/must";

const COLUMNS: [RunsAsked["order"] | null, string, boolean][] = [
  ["time", "Start", false],
  ["length", "Length", true],
  [null, "Mode", false],
  ["electricity", "Electricity, kWh", true],
  ["heat", "Heat, kWh", true],
  ["cop", "COP", true],
  [null, "PR", true],
  [null, "since start", true],
  ["outdoor", "Outdoors", true],
  [null, "Flow", true],
  ["pause", "Pause before", true],
  [null, "Ended by", false],
];

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
  const sort = (order: RunsAsked["order"]) =>
    setAsked({ order, descending: asked.order === order ? !asked.descending : true, first: 0 });
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
      <section>
        <Box sx={{ display: "flex", alignItems: "baseline", gap: 12 }}>
          <Typography variant="h2">{`${number(found.count, 0)} runs`}</Typography>
          <Typography variant="caption" component="span">
            Energies and COP at {found.level ?? "no level"}, U at k = 2. A row shows the run on its day.
          </Typography>
          <Typography
            variant="caption"
            component="a"
            sx={{ marginLeft: "auto" }}
            href={`/api/v1/systems/${system.id}/events.csv?${new URLSearchParams({ ...stretch, what: "runs" })}`}
          >
            CSV
          </Typography>
        </Box>
        <FigureTable tight aria-label="Runs" sx={{ "& .MuiTableCell-root": { paddingRight: "7px" } }}>
          <TableHead>
            <TableRow>
              {COLUMNS.map(([order, name, right]) => (
                <TableCell
                  sx={right ? look.num : {}}
                  key={name}
                  aria-sort={
                    order === asked.order ? (asked.descending ? "descending" : "ascending") : undefined
                  }
                >
                  {order ? (
                    <FigureButton onClick={() => sort(order)}>
                      {name}
                      {order === asked.order ? (asked.descending ? " ↓" : " ↑") : ""}
                    </FigureButton>
                  ) : (
                    name
                  )}
                  {name === "Outdoors" || name === "Flow" ? `, ${temp.symbol}` : ""}
                </TableCell>
              ))}
            </TableRow>
          </TableHead>
          <TableBody>
            {found.rows.map((row) => (
              <Row key={row.start} row={row} system={system} temp={temp} level={found.level} show={show} />
            ))}
          </TableBody>
        </FigureTable>
        <Pages first={asked.first} count={found.count} turn={(first) => setAsked({ ...asked, first })} />
      </section>
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
          note: found.most_at ? `${dayYear(found.most_at, zone)} ${clock(found.most_at, zone)}` : null,
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

function Row({
  row,
  system,
  temp,
  level,
  show,
}: {
  row: RunRow;
  system: SystemShown;
  temp: Shown;
  level: string | null;
  show: Seen["show"];
}) {
  const about = `${system.name} · run of ${dayYear(row.start, system.zone)} ${clock(row.start, system.zone)}`;
  const from = (what: string): Proof["from"] =>
    level
      ? {
          system: system.id,
          zone: system.zone,
          start: localMinute(row.start, system.zone),
          stop: localMinute(row.stop, system.zone),
          level,
          what,
        }
      : undefined;
  const cell = (title: string, figure: RunRow["cop"]) =>
    figure ? <HonestFigure unit={false} proof={{ title, about, figure, from: from(title) }} /> : "–";
  return (
    <TableRow>
      <TableCell sx={{ whiteSpace: "nowrap" }}>
        <OnItsDay start={row.start} stop={row.stop} zone={system.zone} show={show} />
      </TableCell>
      <TableCell align="right">{duration(row.stop - row.start)}</TableCell>
      <TableCell sx={{ whiteSpace: "nowrap" }}>
        {row.mode}
        {row.defrosts > 0 && (
          <Tooltip title={defrostWords(row.defrosts)}>
            <Box component="span" role="img" aria-label={defrostWords(row.defrosts)} sx={look.soft}>
              {" "}
              ▾{row.defrosts}
            </Box>
          </Tooltip>
        )}
      </TableCell>
      <TableCell align="right">{cell("Electricity", row.electricity)}</TableCell>
      <TableCell align="right">{cell("Heat", row.heat)}</TableCell>
      <TableCell align="right">{cell(row.mode === "cooling" ? "EER" : "COP", row.cop)}</TableCell>
      <TableCell align="right">{cell("Performance ratio", row.ratio)}</TableCell>
      <TableCell align="right">
        <Spark values={row.since_start} />
      </TableCell>
      <TableCell align="right">{row.outdoor === null ? "–" : number(temp.of(row.outdoor), 1)}</TableCell>
      <TableCell align="right">{row.flow === null ? "–" : number(temp.of(row.flow), 1)}</TableCell>
      <TableCell align="right">{row.pause === null ? "–" : duration(row.pause)}</TableCell>
      <TableCell sx={{ ...look.cap, whiteSpace: "nowrap", verticalAlign: "middle" }}>{row.ended}</TableCell>
    </TableRow>
  );
}

const defrostWords = (count: number) => (count === 1 ? "1 defrost" : `${count} defrosts`);

/** COP since the start over half an hour, small. */
function Spark({ values }: { values: (number | null)[] }) {
  const known = values
    .map((value, k): [number, number] | null => (value === null ? null : [k, value]))
    .filter((one): one is [number, number] => one !== null);
  if (known.length < 2) return null;
  const most = Math.max(5, ...known.map(([, value]) => value));
  const path = known
    .map(
      ([k, value], n) =>
        `${n ? "L" : "M"}${(k / Math.max(1, values.length - 1)) * 44 + 1} ${15 - (Math.max(0, value) / most) * 14}`,
    )
    .join("");
  const last = must(known.at(-1))[1];
  return (
    <svg
      width="46"
      height="16"
      role="img"
      aria-label={`COP since the start: ${number(last, 2)} at the end`}
      style={{ verticalAlign: "middle" }}
    >
      <path d={path} fill="none" stroke="var(--ink)" strokeWidth="1.2" />
    </svg>
  );
}

export function Pages({
  first,
  count,
  turn,
  size = 100,
}: {
  first: number;
  count: number;
  turn: (first: number) => void;
  size?: number;
}) {
  if (count <= size) return null;
  return (
    <Box component="p" sx={{ display: "flex", gap: 8, alignItems: "center", marginTop: 6 }}>
      <Button disabled={first === 0} onClick={() => turn(Math.max(0, first - size))}>
        ‹ {size} before
      </Button>
      <Box component="span" sx={look.soft}>
        {number(first + 1, 0)} to {number(Math.min(count, first + size), 0)} of {number(count, 0)}
      </Box>
      <Button disabled={first + size >= count} onClick={() => turn(first + size)}>
        {size} more ›
      </Button>
    </Box>
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
          itemStyle: { color: shade(one.high !== null && one.high <= 10 ? "ember" : "day-rated") },
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
