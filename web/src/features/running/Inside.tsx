/** Inside the unit: what the refrigerant's pressures and temperatures say. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import { useMemo } from "react";

import type { InsideSeen } from "../../api/client";
import { useInside } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, chartText, Key } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import { number, percent, shortDay, type Shown } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import type { Seen } from "./Runs";
import { must } from "../../components/must";

const SEASON: [keyof InsideSeen["days"][number], string, string][] = [
  ["approach_air", "outdoors less evaporating", "defrost"],
  ["approach_water", "condensing less flow", "flow"],
  ["superheat", "superheat", "ink"],
];
const TONES: Record<string, string> = {
  evaporating: "defrost",
  condensing: "flow",
  discharge: "start-up",
  superheat: "ink",
  subcooling: "return",
};

export function Inside({ system, stretch, temp }: Seen) {
  const shade = useShade();
  const inside = useInside(system.id, stretch);
  const season = useMemo(
    () => (inside.data?.days.length ? seasonOption(inside.data, temp, system.zone, shade) : null),
    [inside.data, temp, shade, system.zone],
  );
  if (inside.isError) return <Trouble error={inside.error} again={() => void inside.refetch()} />;
  if (!inside.data) return <Waiting what="the refrigerant" />;
  const found = inside.data;
  if (found.reason?.sentence)
    return (
      <Empty title="What happens inside the unit is not logged">
        <p>{cap(found.reason?.sentence)}.</p>
        <Box component="p" sx={look.soft}>
          Without it, a lack of refrigerant is only a suspicion. Gauges are connected by certified technicians
          only.
        </Box>
      </Empty>
    );
  const { whole } = found;
  const kelvin = temp.of(1) - temp.of(0);
  const k = temp.symbol === "°C" ? "K" : temp.symbol;
  const degrees = (value: number | null | undefined) =>
    value == null ? "–" : `${number(temp.of(value), 1)} ${temp.symbol}`;
  const apart = (value: number | null | undefined) =>
    value == null ? "–" : `${number(value * kelvin, 1)} ${k}`;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Typography variant="caption" component="p">
        {found.refrigerant}, medians of settled heating; saturation temperatures and enthalpies from CoolProp.
        The refrigerant-side heat stands beside the other ways in Trust.
      </Typography>
      <Facts
        facts={[
          { name: "evaporating", value: degrees(whole?.evaporating) },
          { name: "below the outdoor air", value: apart(whole?.approach_air), note: "coil approach" },
          { name: "condensing", value: degrees(whole?.condensing) },
          { name: "above the flow", value: apart(whole?.approach_water) },
          { name: "superheat", value: apart(whole?.superheat) },
          {
            name: "subcooling",
            value: apart(whole?.subcooling),
            note: whole?.subcooling == null ? "not logged" : null,
          },
          { name: "discharge", value: degrees(whole?.discharge) },
          {
            name: "compressor efficiency",
            value: whole?.efficiency == null ? "–" : percent(whole.efficiency),
            note: "isentropic",
          },
        ]}
      />
      {season && (
        <section>
          <Typography variant="h2">
            Over the period, {k}
            <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
              {SEASON.map(([, name, tone]) => (
                <Key key={name} tone={tone}>
                  {name}
                </Key>
              ))}
            </Typography>
          </Typography>
          <Chart option={season} height={190} words={`Medians of ${found.days.length} days`} />
        </section>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)", gap: 22 }}>
        <Profiles title="After a start" rows={found.starts} temp={temp} />
        <Profiles title="Around a defrost" rows={found.defrosts} temp={temp} />
      </Box>
      <Typography variant="caption" component="p">
        Means over every start and every defrost of the whole record; superheat and subcooling as temperatures
        apart.
      </Typography>
    </Box>
  );
}

function Profiles({ title, rows, temp }: { title: string; rows: InsideSeen["starts"]; temp: Shown }) {
  const shade = useShade();
  const shown = useMemo(
    () => rows.filter((one) => one.values.some((value) => value !== null) && one.name in TONES),
    [rows],
  );
  const option = useMemo(() => profileOption(shown, temp, shade), [shown, temp, shade]);
  if (!shown.length) return <div />;
  return (
    <section>
      <Typography variant="h2">
        {title}, {temp.symbol}
      </Typography>
      <Typography variant="caption" component="p">
        {shown.map((one) => (
          <Key key={one.name} tone={must(TONES[one.name])}>
            {one.name}
          </Key>
        ))}
      </Typography>
      <Chart
        option={option}
        height={200}
        words={shown
          .map(
            (one) =>
              `${one.name}: ${one.values.at(-1) == null ? "–" : number(must(one.values.at(-1)), 1)} at the end`,
          )
          .join("; ")}
      />
    </section>
  );
}

const APART = ["superheat", "subcooling"];

function profileOption(rows: InsideSeen["starts"], temp: Shown, shade: Shade): Option {
  const kelvin = temp.of(1) - temp.of(0);
  const first = rows[0]?.minutes ?? [0, 1];
  return {
    animation: false,
    grid: { left: 34, right: 10, top: 8, bottom: 34 },
    xAxis: axisX(
      {
        min: Math.floor(must(first[0]) / 5) * 5,
        max: Math.ceil(must(first.at(-1)) / 5) * 5,
        interval: 10,
        name: "minutes",
        nameLocation: "middle",
        nameGap: 20,
      },
      shade,
    ),
    yAxis: axisY({}, shade),
    series: rows.map((one) => ({
      type: "line",
      showSymbol: false,
      silent: true,
      lineStyle: {
        color: shade(must(TONES[one.name])),
        width: 1.6,
        type: APART.includes(one.name) ? "dashed" : "solid",
      },
      data: one.minutes.map((minute, k) => [
        minute,
        one.values[k] == null
          ? null
          : APART.includes(one.name)
            ? must(one.values[k]) * kelvin
            : temp.of(must(one.values[k])),
      ]),
    })),
  } as Option;
}

function seasonOption(found: InsideSeen, temp: Shown, zone: string, shade: Shade): Option {
  const kelvin = temp.of(1) - temp.of(0);
  return {
    animation: false,
    grid: { left: 34, right: 10, top: 8, bottom: 22 },
    xAxis: axisX(
      {
        min: must(found.days[0]).start,
        max: must(found.days.at(-1)).start + 86_400,
        axisLabel: {
          ...chartText(shade),
          hideOverlap: true,
          formatter: (value: number) => shortDay(value, zone),
        },
      },
      shade,
    ),
    yAxis: axisY({}, shade),
    series: SEASON.map(([key, , tone]) => ({
      type: "line",
      showSymbol: found.days.length < 4,
      silent: true,
      lineStyle: { color: shade(tone), width: 1.3 },
      itemStyle: { color: shade(tone) },
      data: found.days.map((day) => [
        day.start + 43_200,
        day[key] === null ? null : (day[key] as number) * kelvin,
      ]),
    })),
  } as Option;
}
