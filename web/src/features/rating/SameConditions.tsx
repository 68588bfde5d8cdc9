/** Expected at the same conditions: the grid of the ratio, its shape, its months and days, capacity. */
import { useMemo, useState } from "react";
import { Link } from "react-router";

import type { GridCell, Same, SystemShown } from "../../api/client";
import { useSame, type Stretch } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, chartText, Key } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import { cap, HonestFigure } from "../../components/Proof";
import {
  dayYear,
  figureText,
  localMinute,
  number,
  percent,
  plusMinus,
  type Shown,
} from "../../components/numbers";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { must } from "../../components/must";

const LOADS = ["all loads", "small load", "middle", "large load"];

export function SameConditions({
  system,
  stretch,
  temp,
  power,
}: {
  system: SystemShown;
  stretch: Stretch;
  temp: Shown;
  power: Shown;
}) {
  const same = useSame(system.id, stretch);
  const [load, setLoad] = useState(0);
  if (same.isError) return <Trouble error={same.error} again={() => void same.refetch()} />;
  if (!same.data) return <Waiting what="the comparison at the same conditions" />;
  const found = same.data;
  const cells = found.cells.filter((cell) => cell.load === load);
  return (
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      {found.reason?.sentence && (
        <Empty title="Nothing can be compared">
          <p>{found.reason?.sentence}</p>
        </Empty>
      )}
      {found.stands_at.map((said) => (
        <p key={said} className="cap">
          {said}
        </p>
      ))}
      {found.cells.length > 0 && (
        <section>
          <div style={{ display: "flex", gap: 12, alignItems: "baseline" }}>
            <h2 style={{ flex: 1 }}>
              Performance ratio over outdoor × flow temperature{" "}
              <span className="cap" style={{ fontWeight: 400 }}>
                {temp.symbol} · size by hours; hatched where U leaves the verdict open
              </span>
            </h2>
            <div className="seg" role="group" aria-label="Load">
              {LOADS.map((name, k) => (
                <button
                  key={name}
                  aria-pressed={load === k}
                  disabled={!found.cells.some((cell) => cell.load === k)}
                  onClick={() => setLoad(k)}
                >
                  {name}
                </button>
              ))}
            </div>
          </div>
          <Grid
            system={system}
            cells={cells}
            below={found.below}
            steps={[found.outdoor_step, found.flow_step]}
            temp={temp}
            local={found.local}
          />
        </section>
      )}
      <div
        style={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)",
          gap: 22,
          alignItems: "start",
        }}
      >
        {found.parts.length > 0 && <Shape system={system} found={found} />}
        <Months system={system} found={found} />
      </div>
      <Days system={system} found={found} />
      <Needs system={system} found={found} temp={temp} power={power} />
    </div>
  );
}

/** From ember over ash to teal: below, as, and above rated. */
function tone(ratio: number, below: number): string {
  if (ratio < below - 0.1) return "var(--day-below)";
  if (ratio < below) return "var(--day-watch)";
  if (ratio < 1.05) return "var(--day-rated)";
  return "var(--day-better)";
}

function Grid({
  system,
  cells,
  below,
  steps,
  temp,
  local,
}: {
  system: SystemShown;
  cells: GridCell[];
  below: number;
  steps: [number, number];
  temp: Shown;
  local: string;
}) {
  const outdoors = [...new Set(cells.map((cell) => cell.outdoor))].sort((a, b) => a - b);
  const flows = [...new Set(cells.map((cell) => cell.flow))].sort((a, b) => b - a);
  const most = Math.max(1, ...cells.map((cell) => cell.hours));
  const at = (outdoor: number, flow: number) =>
    cells.find((cell) => cell.outdoor === outdoor && cell.flow === flow);
  if (!cells.length) return <p className="soft">No compared running at this load.</p>;
  return (
    <table
      aria-label="Performance ratio by outdoor and flow temperature"
      style={{ tableLayout: "fixed", width: "100%" }}
    >
      <tbody>
        {flows.map((flow) => (
          <tr key={flow}>
            <th scope="row" className="cap num" style={{ width: 84, paddingRight: 8, fontWeight: 400 }}>
              {number(temp.of(flow), 0)} to {number(temp.of(flow + steps[1]), 0)}
            </th>
            {outdoors.map((outdoor) => {
              const cell = at(outdoor, flow);
              if (!cell) return <td key={outdoor} style={{ height: 34, border: "1px solid var(--hair)" }} />;
              const open = Math.abs(cell.ratio.value - below) < cell.ratio.U;
              const side = 12 + 20 * Math.sqrt(cell.hours / most);
              return (
                <td
                  key={outdoor}
                  style={{ height: 34, border: "1px solid var(--hair)", textAlign: "center", padding: 0 }}
                  title={`${figureText(cell.ratio)} ${plusMinus(cell.ratio)} · ${number(cell.hours, 0)} h`}
                >
                  <span style={{ display: "inline-flex", alignItems: "center", gap: 4 }}>
                    <i
                      aria-hidden
                      style={{
                        display: "inline-block",
                        width: side * 0.5,
                        height: side,
                        background: tone(cell.ratio.value, below),
                        backgroundImage: open
                          ? "repeating-linear-gradient(45deg, transparent 0 3px, var(--sheet) 3px 4px)"
                          : undefined,
                      }}
                    />
                    <HonestFigure
                      proof={{
                        title: "Performance ratio",
                        about: `${system.name} · ${local} · outdoors ${number(temp.of(outdoor), 0)} to ${number(temp.of(outdoor + steps[0]), 0)}, flow ${number(temp.of(flow), 0)} to ${number(temp.of(flow + steps[1]), 0)} ${temp.symbol}, ${LOADS[cell.load]}`,
                        figure: cell.ratio,
                        formula: `measured ÷ rated at the same conditions = ${figureText(cell.measured)} ÷ ${figureText(cell.rated)}`,
                        notes: [`${number(cell.hours, 1)} hours of compared running.`],
                      }}
                    />
                  </span>
                </td>
              );
            })}
          </tr>
        ))}
        <tr>
          <th className="cap num" style={{ paddingRight: 8, fontWeight: 400, whiteSpace: "nowrap" }}>
            flow \ outdoors
          </th>
          {outdoors.map((outdoor) => (
            <td key={outdoor} className="cap" style={{ textAlign: "center" }}>
              {number(temp.of(outdoor), 0)} to {number(temp.of(outdoor + steps[0]), 0)}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}

function Shape({ system, found }: { system: SystemShown; found: Same }) {
  return (
    <section>
      <h2>
        Where it is weak{" "}
        <span className="cap" style={{ fontWeight: 400 }}>
          the ratio there, over that of the rest
        </span>
      </h2>
      <table className="sheet" aria-label="The shape of the performance ratio">
        <thead>
          <tr>
            <th>Part of the conditions</th>
            <th className="num">There</th>
            <th className="num">Elsewhere</th>
            <th className="num">Ratio ± U</th>
            <th className="num">By itself</th>
          </tr>
        </thead>
        <tbody>
          {found.parts.map((part) => (
            <tr key={part.name}>
              <td>
                {cap(part.name)} <span className="cap">{number(part.hours_inside, 0)} h</span>
              </td>
              <td className="num">{figureText(part.inside)}</td>
              <td className="num">{figureText(part.outside)}</td>
              <td className="num">
                <HonestFigure
                  proof={{
                    title: cap(part.name),
                    about: `${system.name} · ${found.local}`,
                    figure: part.ratio,
                    formula: `${figureText(part.inside)} ÷ ${figureText(part.outside)}; what meters and table share cancels`,
                  }}
                />
              </td>
              <td
                className="num soft"
                title="once load, flow and frost are told apart by least squares; ± twice its standard error"
              >
                {percent(Math.abs(part.alone))} {part.alone < 0 ? "less" : "more"} ±{" "}
                {number(100 * part.alone_U, 1)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Months({ system, found }: { system: SystemShown; found: Same }) {
  return (
    <section>
      <h2>By month</h2>
      <table className="sheet tight" aria-label="Performance ratio by month">
        <tbody>
          {found.months.map((month) => (
            <tr key={month.name}>
              <td>
                <Link
                  to={`/systems/${system.id}/rating?view=weather&from=${month.name}-01&to=${localMinute(month.stop - 1, system.zone).slice(0, 10)}`}
                >
                  {month.name}
                </Link>
              </td>
              <td className="num">{number(month.hours, 0)} h</td>
              <td className="num" style={{ width: 130 }}>
                {month.ratio ? (
                  <>
                    <i
                      aria-hidden
                      style={{
                        display: "inline-block",
                        width: 9,
                        height: 9,
                        background: tone(month.ratio.value, found.below),
                        marginRight: 6,
                      }}
                    />
                    <HonestFigure
                      proof={{
                        title: "Performance ratio",
                        about: `${system.name} · ${month.name}`,
                        figure: month.ratio,
                        formula: "Σ heat ÷ Σ(electricity × rated COP) of the compared running",
                      }}
                    />
                  </>
                ) : (
                  <span className="soft">not compared</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Days({ system, found }: { system: SystemShown; found: Same }) {
  const shade = useShade();
  const { days, change } = found.drift;
  const option = useMemo(
    () => (found.drift.days.length > 3 ? driftOption(found, system.zone, shade) : null),
    [found, system.zone, shade],
  );
  if (!option) return null;
  return (
    <section>
      <h2>
        Day by day{" "}
        <span className="cap" style={{ fontWeight: 400 }}>
          <Key tone="ink">performance ratio of a day, ± U</Key>
          {change?.sure && <Key tone="ember">mean before and after the change</Key>}
        </span>
      </h2>
      <p className={change?.sure ? "" : "soft"}>
        {change === null
          ? "Too few days can be compared to look for a change."
          : change.sure
            ? `A step of ${change.step > 0 ? "+" : "−"}${percent(Math.abs(change.step))} ± ${number(100 * (found.step_U ?? 0), 1)} on ${dayYear(change.at, system.zone)} (between ${dayYear(change.first, system.zone)} and ${dayYear(change.last, system.zone)}, 95 %), weather taken out.`
            : `No date stands out: the greatest step is ${percent(Math.abs(change.step))} ± ${number(100 * (found.step_U ?? 0), 1)}, weather taken out.`}
      </p>
      <Chart option={option} height={150} words={`Performance ratio of ${days.length} days`} />
    </section>
  );
}

function driftOption(found: Same, zone: string, shade: Shade): Option {
  const { days, change } = found.drift;
  const first = must(days[0]).start;
  const last = must(days.at(-1)).start;
  const most = Math.max(1.3, ...days.map((day) => day.ratio));
  const steps = change?.sure
    ? [
        {
          type: "line" as const,
          data: [
            [first, change.before],
            [change.at, change.before],
          ],
          showSymbol: false,
          silent: true,
          lineStyle: { color: shade("ember"), width: 2 },
          z: 4,
        },
        {
          type: "line" as const,
          data: [
            [change.at, change.after],
            [last, change.after],
          ],
          showSymbol: false,
          silent: true,
          lineStyle: { color: shade("ember"), width: 2 },
          z: 4,
        },
      ]
    : [];
  return {
    animation: false,
    grid: { left: 40, right: 10, top: 8, bottom: 22 },
    xAxis: axisX(
      {
        min: first,
        max: last,
        splitNumber: 6,
        axisLabel: {
          color: shade("soft"),
          fontSize: 11,
          formatter: (t: number) => dayYear(t, zone).replace(/ \d{4}$/, ""),
          hideOverlap: true,
        },
      },
      shade,
    ),
    yAxis: axisY(
      {
        min: 0.4,
        max: 0.4 + 0.3 * Math.ceil((most - 0.4) / 0.3),
        interval: 0.3,
        axisLabel: { ...chartText(shade), formatter: (v: number) => number(v, 1) },
      },
      shade,
    ),
    series: [
      {
        type: "line",
        data: [
          [first, found.below],
          [last, found.below],
        ],
        showSymbol: false,
        silent: true,
        lineStyle: { color: shade("line"), width: 1, type: "dashed" },
        z: 1,
      },
      ...days.map((day) => ({
        type: "line" as const,
        data: [
          [day.start, day.ratio - day.U],
          [day.start, day.ratio + day.U],
        ],
        showSymbol: false,
        silent: true,
        lineStyle: { color: shade("band"), width: 1 },
        z: 2,
      })),
      {
        type: "scatter",
        data: days.map((day) => [day.start, day.ratio]),
        symbolSize: 4,
        itemStyle: { color: shade("ink") },
        silent: true,
        z: 3,
      },
      ...steps,
    ],
  } as Option;
}

function Needs({
  system,
  found,
  temp,
  power,
}: {
  system: SystemShown;
  found: Same;
  temp: Shown;
  power: Shown;
}) {
  const shade = useShade();
  const seen = found.capacity;
  const option = useMemo(
    () => (found.capacity.days.length > 5 ? needOption(found, temp, power, shade) : null),
    [found, temp, power, shade],
  );
  const kw = (value: number) => `${number(power.of(value * 1000), 1)} ${power.symbol}`;
  return (
    <section>
      <h2>
        Capacity against need
        {option && (
          <span className="cap" style={{ fontWeight: 400 }}>
            <Key tone="soft">heat of a day</Key>
            <Key tone="ink">the house</Key>
            <Key tone="teal" dashed>
              rated, at the flow temperature in use
            </Key>
          </span>
        )}
      </h2>
      <Facts
        facts={[
          seen.slope !== null && seen.zero !== null
            ? {
                name: "the house, from its days",
                value: `${number(seen.slope, 0)} W/K`,
                note: `nothing needed at ${number(temp.of(seen.zero), 0)} ${temp.symbol}`,
              }
            : { name: "the house, from its days", value: "–", note: "too few cold days for a line" },
          seen.at_design !== null && seen.design !== null
            ? {
                name: `needed at ${number(temp.of(seen.design), 0)} ${temp.symbol}`,
                value: kw(seen.at_design),
                note:
                  seen.rated_design !== null
                    ? `rated there ${kw(seen.rated_design)}`
                    : "the table does not reach it",
              }
            : null,
          {
            name: "balance point",
            value: seen.balance === null ? "–" : `${number(temp.of(seen.balance), 1)} ${temp.symbol}`,
            note:
              seen.balance === null
                ? "capacity and need do not meet within the table"
                : "below it the capacity does not suffice",
          },
          seen.run_fraction_cold !== null
            ? {
                name: "running in the coldest hours",
                value: percent(seen.run_fraction_cold),
                note: "of the time",
              }
            : null,
          seen.over_rated
            ? {
                name: "at its limit, over rated",
                value: `${figureText(seen.over_rated)} ${plusMinus(seen.over_rated)}`,
                note: `${seen.limit_hours} hours`,
                ember: seen.over_rated.value + seen.over_rated.U < found.capacity_below,
              }
            : {
                name: "at its limit, over rated",
                value: "–",
                note: `${seen.limit_hours} hours at the limit; at least ${found.enough_hours} are needed`,
              },
        ]}
      />
      <p className="cap" style={{ margin: "4px 0" }}>
        Expected SPF of heating with this weather, curve and load:{" "}
        {found.site.spf === null ? `none (${found.site.reason?.sentence})` : number(found.site.spf, 2)}
        {found.site.spf_measured !== null && `, measured ${number(found.site.spf_measured, 2)}`}. Its bins are
        under <Link to={`/systems/${system.id}/rating?view=scop`}>SCOP</Link>.
      </p>
      {option && (
        <Chart
          option={option}
          height={170}
          words={`Heat of ${seen.days.length} days over outdoor temperature`}
        />
      )}
    </section>
  );
}

function needOption(found: Same, temp: Shown, power: Shown, shade: Shade): Option {
  const seen = found.capacity;
  const at = (outdoor: number, kw: number) => [temp.of(outdoor), power.of(kw * 1000)];
  const low = Math.min(...seen.days.map((day) => must(day[0])), seen.design ?? 99) - 1;
  const line = seen.need.map(([outdoor, kw]) => at(must(outdoor), must(kw)));
  const rated = found.site.bins.map((bin) => at(bin.outdoor, bin.capacity));
  return {
    animation: false,
    grid: { left: 46, right: 12, top: 24, bottom: 24 },
    xAxis: axisX({ min: Math.floor(temp.of(low)), max: Math.ceil(temp.of(16)) }, shade),
    yAxis: axisY({ min: 0, name: power.symbol }, shade),
    series: [
      {
        type: "scatter",
        data: seen.days.map((day) => at(must(day[0]), must(day[1]))),
        symbolSize: 4,
        itemStyle: { color: shade("soft"), opacity: 0.6 },
        silent: true,
      },
      {
        type: "line",
        data: line,
        showSymbol: false,
        silent: true,
        lineStyle: { color: shade("ink"), width: 1.5 },
      },
      {
        type: "line",
        data: rated,
        showSymbol: false,
        silent: true,
        lineStyle: { color: shade("teal"), width: 1.5, type: "dashed" },
      },
    ],
  } as Option;
}
