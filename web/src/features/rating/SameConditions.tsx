/** Expected at the same conditions: the grid of the ratio, its shape, its months and days, capacity. */
import Box from "@mui/material/Box";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
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
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      {found.reason?.sentence && (
        <Empty title="Nothing can be compared">
          <p>{found.reason?.sentence}</p>
        </Empty>
      )}
      {found.stands_at.map((said) => (
        <Typography variant="caption" component="p" key={said}>
          {said}
        </Typography>
      ))}
      {found.cells.length > 0 && (
        <section>
          <Box sx={{ display: "flex", gap: 12, alignItems: "baseline" }}>
            <Typography variant="h2" sx={{ flex: 1 }}>
              Performance ratio over outdoor × flow temperature{" "}
              <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                {temp.symbol} · size by hours; hatched where U leaves the verdict open
              </Typography>
            </Typography>
            <ToggleButtonGroup aria-label="Load">
              {LOADS.map((name, k) => (
                <ToggleButton
                  value={name}
                  key={name}
                  selected={load === k}
                  disabled={!found.cells.some((cell) => cell.load === k)}
                  onClick={() => setLoad(k)}
                >
                  {name}
                </ToggleButton>
              ))}
            </ToggleButtonGroup>
          </Box>
          <Grid
            system={system}
            cells={cells}
            steps={[found.outdoor_step, found.flow_step]}
            temp={temp}
            local={found.local}
          />
        </section>
      )}
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)",
          gap: 22,
          alignItems: "start",
        }}
      >
        {found.parts.length > 0 && <Shape system={system} found={found} />}
        <Months system={system} found={found} />
      </Box>
      <Days system={system} found={found} />
      <Needs system={system} found={found} temp={temp} power={power} />
    </Box>
  );
}

/** From ember over ash to teal, by what the core says of a ratio with all of its U. */
const TONES: Record<GridCell["kind"], string> = {
  "below rated": "var(--day-below)",
  watch: "var(--day-watch)",
  "as rated": "var(--day-rated)",
  better: "var(--day-better)",
  "not compared": "var(--day-plain)",
  doubtful: "var(--day-plain)",
  "left out": "var(--day-plain)",
  "no data": "var(--day-plain)",
};

function Grid({
  system,
  cells,
  steps,
  temp,
  local,
}: {
  system: SystemShown;
  cells: GridCell[];
  steps: [number, number];
  temp: Shown;
  local: string;
}) {
  const outdoors = [...new Set(cells.map((cell) => cell.outdoor))].sort((a, b) => a - b);
  const flows = [...new Set(cells.map((cell) => cell.flow))].sort((a, b) => b - a);
  const most = Math.max(1, ...cells.map((cell) => cell.hours));
  const at = (outdoor: number, flow: number) =>
    cells.find((cell) => cell.outdoor === outdoor && cell.flow === flow);
  if (!cells.length)
    return (
      <Box component="p" sx={look.soft}>
        No compared running at this load.
      </Box>
    );
  return (
    <Table
      sx={{ tableLayout: "fixed", width: "100%" }}
      aria-label="Performance ratio by outdoor and flow temperature"
    >
      <TableBody>
        {flows.map((flow) => (
          <TableRow key={flow}>
            <TableCell
              align="right"
              component="th"
              sx={{ ...look.cap, width: 84, paddingRight: 8, fontWeight: 400 }}
              scope="row"
            >
              {number(temp.of(flow), 0)} to {number(temp.of(flow + steps[1]), 0)}
            </TableCell>
            {outdoors.map((outdoor) => {
              const cell = at(outdoor, flow);
              if (!cell)
                return <TableCell sx={{ height: 34, border: "1px solid var(--hair)" }} key={outdoor} />;
              const side = 12 + 20 * Math.sqrt(cell.hours / most);
              return (
                <Tooltip
                  key={outdoor}
                  title={`${figureText(cell.ratio)} ${plusMinus(cell.ratio)} · ${number(cell.hours, 0)} h`}
                >
                  <TableCell
                    sx={{ height: 34, border: "1px solid var(--hair)", textAlign: "center", padding: 0 }}
                  >
                    <Box component="span" sx={{ display: "inline-flex", alignItems: "center", gap: 4 }}>
                      <Box
                        component="i"
                        sx={{
                          display: "inline-block",
                          width: side * 0.5,
                          height: side,
                          background: TONES[cell.kind],
                          backgroundImage: cell.open
                            ? "repeating-linear-gradient(45deg, transparent 0 3px, var(--sheet) 3px 4px)"
                            : undefined,
                        }}
                        aria-hidden
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
                    </Box>
                  </TableCell>
                </Tooltip>
              );
            })}
          </TableRow>
        ))}
        <TableRow>
          <TableCell
            align="right"
            component="th"
            sx={{ ...look.cap, paddingRight: 8, fontWeight: 400, whiteSpace: "nowrap" }}
          >
            flow \ outdoors
          </TableCell>
          {outdoors.map((outdoor) => (
            <TableCell sx={{ ...look.cap, textAlign: "center" }} key={outdoor}>
              {number(temp.of(outdoor), 0)} to {number(temp.of(outdoor + steps[0]), 0)}
            </TableCell>
          ))}
        </TableRow>
      </TableBody>
    </Table>
  );
}

function Shape({ system, found }: { system: SystemShown; found: Same }) {
  return (
    <section>
      <Typography variant="h2">
        Where it is weak{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          the ratio there, over that of the rest
        </Typography>
      </Typography>
      <FigureTable aria-label="The shape of the performance ratio">
        <TableHead>
          <TableRow>
            <TableCell>Part of the conditions</TableCell>
            <TableCell align="right">There</TableCell>
            <TableCell align="right">Elsewhere</TableCell>
            <TableCell align="right">Ratio ± U</TableCell>
            <TableCell align="right">By itself</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.parts.map((part) => (
            <TableRow key={part.name}>
              <TableCell>
                {cap(part.name)}{" "}
                <Typography variant="caption" component="span">
                  {number(part.hours_inside, 0)} h
                </Typography>
              </TableCell>
              <TableCell align="right">{figureText(part.inside)}</TableCell>
              <TableCell align="right">{figureText(part.outside)}</TableCell>
              <TableCell align="right">
                <HonestFigure
                  proof={{
                    title: cap(part.name),
                    about: `${system.name} · ${found.local}`,
                    figure: part.ratio,
                    formula: `${figureText(part.inside)} ÷ ${figureText(part.outside)}; what meters and table share cancels`,
                  }}
                />
              </TableCell>
              <Tooltip title="once load, flow and frost are told apart by least squares; ± twice its standard error">
                <TableCell align="right" sx={look.soft}>
                  {percent(Math.abs(part.alone))} {part.alone < 0 ? "less" : "more"} ±{" "}
                  {number(100 * part.alone_U, 1)}
                </TableCell>
              </Tooltip>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}

function Months({ system, found }: { system: SystemShown; found: Same }) {
  return (
    <section>
      <Typography variant="h2">By month</Typography>
      <FigureTable tight aria-label="Performance ratio by month">
        <TableBody>
          {found.months.map((month) => (
            <TableRow key={month.name}>
              <TableCell>
                <Link
                  to={`/systems/${system.id}/rating?view=weather&from=${month.name}-01&to=${localMinute(month.stop - 1, system.zone).slice(0, 10)}`}
                >
                  {month.name}
                </Link>
              </TableCell>
              <TableCell align="right">{number(month.hours, 0)} h</TableCell>
              <TableCell align="right" sx={{ width: 130 }}>
                {month.ratio ? (
                  <>
                    <Box
                      component="i"
                      sx={{
                        display: "inline-block",
                        width: 9,
                        height: 9,
                        background: TONES[month.kind],
                        marginRight: 6,
                      }}
                      aria-hidden
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
                  <Box component="span" sx={look.soft}>
                    not compared
                  </Box>
                )}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
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
      <Typography variant="h2">
        Day by day{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          <Key tone="ink">performance ratio of a day, ± U</Key>
          {change?.sure && <Key tone="ember">mean before and after the change</Key>}
        </Typography>
      </Typography>
      <Box component="p" sx={change?.sure ? {} : look.soft}>
        {change === null
          ? "Too few days can be compared to look for a change."
          : change.sure
            ? `A step of ${change.step > 0 ? "+" : "−"}${percent(Math.abs(change.step))} ± ${number(100 * (found.step_U ?? 0), 1)} on ${dayYear(change.at, system.zone)} (between ${dayYear(change.first, system.zone)} and ${dayYear(change.last, system.zone)}, 95 %), weather taken out.`
            : `No date stands out: the greatest step is ${percent(Math.abs(change.step))} ± ${number(100 * (found.step_U ?? 0), 1)}, weather taken out.`}
      </Box>
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
      <Typography variant="h2">
        Capacity against need
        {option && (
          <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
            <Key tone="soft">heat of a day</Key>
            <Key tone="ink">the house</Key>
            <Key tone="teal" dashed>
              rated, at the flow temperature in use
            </Key>
          </Typography>
        )}
      </Typography>
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
      <Typography variant="caption" component="p" sx={{ margin: "4px 0" }}>
        Expected SPF of heating with this weather, curve and load:{" "}
        {found.site.spf === null ? `none (${found.site.reason?.sentence})` : number(found.site.spf, 2)}
        {found.site.spf_measured !== null && `, measured ${number(found.site.spf_measured, 2)}`}. Its bins are
        under <Link to={`/systems/${system.id}/rating?view=scop`}>SCOP</Link>.
      </Typography>
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
