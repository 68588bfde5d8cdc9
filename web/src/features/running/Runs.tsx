/** Runs of a period: how long, how often, and the table of them. */
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
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Head found={found} zone={system.zone} />
      {found.cycling && (
        <p className="notice">{`${found.cycling}. The thermostat's cycle rate or a hysteresis is often the remedy.`}</p>
      )}
      <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)", gap: 20 }}>
        <section>
          <h2>How long runs are</h2>
          <Chart
            option={lengthsOption(found, shade)}
            height={120}
            words={found.lengths.map((one) => `${lengthName(one)}: ${one.runs} runs`).join("; ")}
          />
        </section>
        <section>
          <h2>When they start</h2>
          <Chart
            option={hoursOption(found.by_hour, "day-rated", shade)}
            height={120}
            words={`Starts by hour of the day: ${found.by_hour.join(", ")}`}
          />
        </section>
      </div>
      <p className="cap" aria-label="How states are known">
        {[
          ...Object.entries(found.basis).map(([what, how]) => `${what}: ${how.words}`),
          ...found.notes.filter((note) => !Object.values(found.basis).some((how) => how.words === note)),
        ].join(" · ")}
        . A stretch is set right with <kbd>c</kbd> on its day.
      </p>
      <section>
        <div style={{ display: "flex", alignItems: "baseline", gap: 12 }}>
          <h2>{`${number(found.count, 0)} runs`}</h2>
          <span className="cap">
            Energies and COP at {found.level ?? "no level"}, U at k = 2. A row shows the run on its day.
          </span>
          <a
            className="cap"
            style={{ marginLeft: "auto" }}
            href={`/api/v1/systems/${system.id}/events.csv?${new URLSearchParams({ ...stretch, what: "runs" })}`}
          >
            CSV
          </a>
        </div>
        <table className="sheet tight" aria-label="Runs">
          <thead>
            <tr>
              {COLUMNS.map(([order, name, right]) => (
                <th
                  key={name}
                  className={right ? "num" : undefined}
                  aria-sort={
                    order === asked.order ? (asked.descending ? "descending" : "ascending") : undefined
                  }
                >
                  {order ? (
                    <button className="figure" onClick={() => sort(order)}>
                      {name}
                      {order === asked.order ? (asked.descending ? " ↓" : " ↑") : ""}
                    </button>
                  ) : (
                    name
                  )}
                  {name === "Outdoors" || name === "Flow" ? `, ${temp.symbol}` : ""}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.rows.map((row) => (
              <Row key={row.start} row={row} system={system} temp={temp} level={found.level} show={show} />
            ))}
          </tbody>
        </table>
        <Pages first={asked.first} count={found.count} turn={(first) => setAsked({ ...asked, first })} />
      </section>
    </div>
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
    <tr>
      <td style={{ whiteSpace: "nowrap" }}>
        <OnItsDay start={row.start} stop={row.stop} zone={system.zone} show={show} />
      </td>
      <td className="num">{duration(row.stop - row.start)}</td>
      <td>
        {row.mode}
        {row.defrosts > 0 && (
          <span className="soft">
            {" "}
            · {row.defrosts} defrost{row.defrosts > 1 ? "s" : ""}
          </span>
        )}
      </td>
      <td className="num">{cell("Electricity", row.electricity)}</td>
      <td className="num">{cell("Heat", row.heat)}</td>
      <td className="num">{cell(row.mode === "cooling" ? "EER" : "COP", row.cop)}</td>
      <td className="num">{cell("Performance ratio", row.ratio)}</td>
      <td className="num">
        <Spark values={row.since_start} />
      </td>
      <td className="num">{row.outdoor === null ? "–" : number(temp.of(row.outdoor), 1)}</td>
      <td className="num">{row.flow === null ? "–" : number(temp.of(row.flow), 1)}</td>
      <td className="num">{row.pause === null ? "–" : duration(row.pause)}</td>
      <td className="soft">{row.ended}</td>
    </tr>
  );
}

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
    <p style={{ display: "flex", gap: 8, alignItems: "center", marginTop: 6 }}>
      <button className="key" disabled={first === 0} onClick={() => turn(Math.max(0, first - size))}>
        ‹ {size} before
      </button>
      <span className="soft">
        {number(first + 1, 0)} to {number(Math.min(count, first + size), 0)} of {number(count, 0)}
      </span>
      <button className="key" disabled={first + size >= count} onClick={() => turn(first + size)}>
        {size} more ›
      </button>
    </p>
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
