/** Control: the weather curve really followed, set-back, ΔT, pumps, buffer and rooms. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { useMemo } from "react";

import type { ControlSeen } from "../../api/client";
import { useControl, useMe } from "../../api/hooks";
import { useSettings, useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import { number, percent, shownIn, type Shown } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { hoursOption, type Seen } from "./Runs";

export function Control({ system, stretch, temp }: Seen) {
  const shade = useShade();
  const control = useControl(system.id, stretch);
  const { units } = useSettings();
  const pairs = useMe().data?.units ?? [];
  const water = shownIn(pairs, "m3_per_s", units);
  const power = shownIn(pairs, "watt", units);
  const option = useMemo(
    () => (control.data?.points.length ? curveOption(control.data, temp, shade) : null),
    [control.data, temp, shade],
  );
  if (control.isError) return <Trouble error={control.error} again={() => void control.refetch()} />;
  if (!control.data) return <Waiting what="how it is controlled" />;
  const found = control.data;
  const { curve, room, buffer } = found;
  const kelvin = temp.of(1) - temp.of(0);
  const k = temp.symbol === "°C" ? "K" : temp.symbol;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Facts
        facts={[
          curve && {
            name: "flow at 0 °C outdoors",
            value: `${number(temp.of(curve.at_zero), 1)} ${temp.symbol}`,
            note: `${number(-curve.slope, 2)} more a degree colder`,
          },
          curve && {
            name: "scatter about the line",
            value: `${number(curve.scatter * kelvin, 1)} ${k}`,
            note: `${number(curve.hours, 0)} hours of settled heating`,
          },
          found.above_set && {
            name: "above the set curve",
            value: `${number(found.above_set.value * kelvin, 1)} ± ${number(found.above_set.U * kelvin, 1)} ${k}`,
            note: "median; dashed in the chart",
          },
          found.per_kelvin !== null
            ? { name: "1 K less flow saves", value: percent(found.per_kelvin), note: "by the rated table" }
            : null,
          {
            name: `${system.by_air ? "fans" : "pumps"} with nothing made`,
            value: `${number(found.pump_hours, 0)} h`,
            note: `${found.pump_share === null ? "" : percent(found.pump_share)}${found.pump_energy === null ? "" : ` · ${number(found.pump_energy, 1)} kWh`}`,
            ember: found.pump_needless,
          },
          found.warm_up && {
            name: "warms the room",
            value: `${number(found.warm_up.median / kelvin, 0)} min a ${k}`,
            note: `${number(found.warm_ups, 0)} times; ${number(found.warm_up.low / kelvin, 0)} to ${number(found.warm_up.high / kelvin, 0)} for the middle half`,
          },
          room && {
            name: "room, median",
            value: `${number(temp.of(room.median), 1)} ${temp.symbol}`,
            note: `${number(temp.of(room.low), 1)} to ${number(temp.of(room.high), 1)} nine tenths of the time`,
            ember: !room.held,
          },
        ]}
      />
      {found.reason?.sentence && !room ? (
        <Empty title="Nothing to show of the control">
          <p>{cap(found.reason?.sentence)}.</p>
        </Empty>
      ) : (
        <Box component="ul" sx={{ margin: 0, paddingLeft: 18 }}>
          {found.said.map((one) => (
            <li key={one}>{one}.</li>
          ))}
          {room && <li>The room is {room.words}.</li>}
        </Box>
      )}
      {option && (
        <Box
          sx={{
            display: "grid",
            gridTemplateColumns: "minmax(0, 1.4fr) minmax(0, 1fr)",
            gap: 22,
            alignItems: "start",
          }}
        >
          <section>
            <Typography variant="h2">
              Flow over outdoor temperature{" "}
              <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                {temp.symbol} · an hour of settled heating each; night, {found.night[0]} to {found.night[1]},
                dark
              </Typography>
            </Typography>
            <Chart option={option} height={270} words={found.said.join("; ")} />
          </section>
          <section>
            <Typography variant="h2">
              Running by hour of the day{" "}
              <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                share of the time, hot water apart
              </Typography>
            </Typography>
            <Chart
              option={hoursOption(found.on_by_hour, "heating", shade, 1)}
              height={116}
              words={`Share of time running by hour: ${found.on_by_hour.map((v) => (v === null ? "–" : percent(v))).join(", ")}`}
            />
            <Typography variant="h2" sx={{ marginTop: 8 }}>
              Above or below the curve{" "}
              <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                K, median of each hour
              </Typography>
            </Typography>
            <Chart
              option={hoursOption(found.by_hour, "flow", shade)}
              height={116}
              words={`Distance from the curve by hour: ${found.by_hour.map((v) => (v === null ? "–" : number(v, 1))).join(", ")}`}
            />
          </section>
        </Box>
      )}
      {buffer && <BufferShown buffer={buffer} />}
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)",
          gap: 22,
          alignItems: "start",
        }}
      >
        <Bands
          title={`Outdoors, ${temp.symbol}`}
          rows={found.weather}
          of={(v) => number(temp.of(v), 0)}
          temp={temp}
          water={water}
          power={power}
          k={k}
          kelvin={kelvin}
        />
        <Bands
          title={`Heat while settled, ${power.symbol}`}
          rows={found.load}
          of={(v) => number(power.of(v * 1000), 1)}
          temp={temp}
          water={water}
          power={power}
          k={k}
          kelvin={kelvin}
        />
      </Box>
    </Box>
  );
}

/** Both sides of the question whether the buffer earns its place, from this house's data. */
function BufferShown({ buffer }: { buffer: NonNullable<ControlSeen["buffer"]> }) {
  return (
    <section>
      <Typography variant="h2">The buffer: what it costs and what it may save</Typography>
      <p>
        Against: the unit runs <strong>{number(buffer.blending, 1)} K</strong> hotter than the emitters get
        {buffer.cost === null
          ? "; what that costs needs a rated table"
          : `, which took ${number(buffer.cost, 0)} kWh in this period by the slope of the rated COP`}
        . For: runs last {buffer.minutes === null ? "–" : `${number(buffer.minutes, 0)} min`} at the median
        {buffer.starts === null || buffer.each === null
          ? "; what starts cost is not known"
          : `, and all starts together lost ${number(buffer.starts, 0)} kWh, ${number(buffer.each * 1000, 0)} Wh each`}
        .
        {buffer.worth !== null &&
          ` It earns its cost if it saves ${number(buffer.worth, 0)} starts a day. A trial with the buffer bypassed for alternate weeks settles it.`}
      </p>
    </section>
  );
}

function Bands({
  title,
  rows,
  of,
  temp,
  water,
  power,
  k,
  kelvin,
}: {
  title: string;
  rows: ControlSeen["weather"];
  of: (value: number) => string;
  temp: Shown;
  water: Shown;
  power: Shown;
  k: string;
  kelvin: number;
}) {
  if (!rows.length) return null;
  const value = (one: number | null, show: (value: number) => string) => (one === null ? "–" : show(one));
  return (
    <FigureTable tight aria-label={title}>
      <TableHead>
        <TableRow>
          <TableCell>{title}</TableCell>
          <TableCell align="right">h</TableCell>
          <TableCell align="right">flow, {temp.symbol}</TableCell>
          <TableCell align="right">ΔT, {k}</TableCell>
          <TableCell align="right">flow, {water.symbol}</TableCell>
          <TableCell align="right">heat, {power.symbol}</TableCell>
          <TableCell align="right">COP</TableCell>
          <TableCell align="right">room, {temp.symbol}</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {rows.map((row) => (
          <TableRow key={row.low}>
            <TableCell>
              {of(row.low)} to {of(row.high)}
            </TableCell>
            <TableCell align="right">{number(row.hours, 0)}</TableCell>
            <TableCell align="right">{value(row.flow, (v) => number(temp.of(v), 1))}</TableCell>
            <TableCell align="right">{value(row.delta, (v) => number(v * kelvin, 1))}</TableCell>
            <TableCell align="right">{value(row.water, (v) => number(water.of(v), 1))}</TableCell>
            <TableCell align="right">{value(row.load, (v) => number(power.of(v * 1000), 2))}</TableCell>
            <TableCell align="right">{value(row.cop, (v) => number(v, 2))}</TableCell>
            <TableCell align="right">{value(row.room, (v) => number(temp.of(v), 1))}</TableCell>
          </TableRow>
        ))}
      </TableBody>
    </FigureTable>
  );
}

function curveOption(found: ControlSeen, temp: Shown, shade: Shade): Option {
  const points = found.points.filter((one) => one[0] != null && one[1] != null) as [number, number, number][];
  const [dusk = 0, dawn = 0] = found.night;
  const of = (night: boolean) =>
    points
      .filter((one) => (one[2] >= dusk || one[2] < dawn) === night)
      .map(([outdoor, flow]) => [temp.of(outdoor), temp.of(flow)]);
  const { curve } = found;
  const ends = curve
    ? [curve.low, curve.high].map((outdoor) => [
        temp.of(outdoor),
        temp.of(curve.at_zero + curve.slope * outdoor),
      ])
    : [];
  const x = points.map(([outdoor]) => temp.of(outdoor));
  return {
    animation: false,
    grid: { left: 34, right: 10, top: 8, bottom: 24 },
    xAxis: axisX({ min: Math.floor(Math.min(...x)), max: Math.ceil(Math.max(...x)) }, shade),
    yAxis: axisY({ scale: true }, shade),
    series: [
      {
        type: "scatter",
        data: of(false),
        symbolSize: 4,
        itemStyle: { color: shade("flow"), opacity: 0.35 },
        silent: true,
        z: 2,
      },
      {
        type: "scatter",
        data: of(true),
        symbolSize: 4,
        itemStyle: { color: shade("ink"), opacity: 0.45 },
        silent: true,
        z: 3,
      },
      {
        type: "line",
        data: ends,
        showSymbol: false,
        lineStyle: { color: shade("ink"), width: 1.6 },
        silent: true,
        z: 4,
      },
      {
        type: "line",
        data: found.set_curve.map((one) => one.map((value) => temp.of(value))),
        showSymbol: false,
        lineStyle: { color: shade("teal"), width: 1.6, type: "dashed" },
        silent: true,
        z: 4,
      },
    ],
  } as Option;
}
