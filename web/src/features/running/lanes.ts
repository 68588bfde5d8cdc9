/** Which lanes there are and how each is drawn. Layout only. */
import type { Lane, Window } from "../../api/window";
import type { UnitPair } from "../../api/client";
import type { Units } from "../../app/settings";
import { type Shade } from "../../app/theme";
import type { Option } from "../../components/echarts";
import { number, shownIn, type Shown } from "../../components/numbers";
import { must } from "../../components/must";

export const LEFT = 46;
export const RIGHT = 10;

interface Drawn {
  lane: Lane;
  name: string;
  colour: string;
  style: "line" | "area" | "band";
}

export interface LaneRow {
  key: string;
  title: string;
  symbol: string;
  shown: Shown;
  decimals: number;
  weight: number;
  drawn: Drawn[];
  fromZero: boolean;
}

interface Kind {
  key: string;
  title: string;
  unit: string;
  weight: number;
  decimals: number;
  fromZero: boolean;
  of: [test: (channel: string) => boolean, name: string, colour: string, style: Drawn["style"]][];
}

const starts = (prefix: string) => (channel: string) =>
  channel === prefix || channel.startsWith(`${prefix}:`);

/** A lane that is drawn only when its channel is chosen. */
const further = (
  key: string,
  title: string,
  unit: string,
  decimals: number,
  names: [string, string, string][],
): Kind => ({
  key,
  title,
  unit,
  weight: 13,
  decimals,
  fromZero: false,
  of: names.map(([prefix, name, tone]) => [starts(prefix), name, tone, "line"]),
});

export const KINDS: Kind[] = [
  {
    key: "water",
    title: "Water",
    unit: "degC",
    weight: 30,
    decimals: 1,
    fromZero: false,
    of: [
      [starts("tank_temp"), "tank", "tank", "line"],
      [starts("return_temp"), "return", "return", "line"],
      [starts("flow_temp"), "flow", "flow", "line"],
    ],
  },
  {
    key: "flow",
    title: "Flow",
    unit: "m3_per_s",
    weight: 12,
    decimals: 1,
    fromZero: true,
    of: [[starts("flow_rate"), "flow", "water-flow", "line"]],
  },
  {
    key: "heat",
    title: "Heat, power",
    unit: "watt",
    weight: 25,
    decimals: 2,
    fromZero: true,
    of: [
      [starts("heat"), "heat", "heat", "area"],
      [starts("power"), "power", "power", "line"],
    ],
  },
  {
    key: "cop",
    title: "COP",
    unit: "",
    weight: 18,
    decimals: 2,
    fromZero: true,
    of: [
      [starts("rated"), "rated", "band", "band"],
      [starts("cop"), "measured", "power", "line"],
    ],
  },
  {
    key: "air",
    title: "Air of the indoor unit",
    unit: "degC",
    weight: 24,
    decimals: 1,
    fromZero: false,
    of: [
      [starts("return_air_temp"), "return", "return", "line"],
      [starts("supply_air_temp"), "supply", "flow", "line"],
    ],
  },
  {
    key: "airflow",
    title: "Airflow",
    unit: "airflow",
    weight: 12,
    decimals: 0,
    fromZero: true,
    of: [[starts("airflow"), "airflow", "water-flow", "line"]],
  },
  {
    key: "outdoor",
    title: "Outdoors",
    unit: "degC",
    weight: 15,
    decimals: 1,
    fromZero: false,
    of: [[starts("outdoor_temp"), "outdoor", "outdoor", "line"]],
  },
  further("humidity", "Humidity outdoors", "percent", 0, [["outdoor_humidity", "humidity", "return"]]),
  further("room", "Room", "degC", 1, [["room_temp", "room", "tank"]]),
  further("refrigerant", "Refrigerant", "degC", 1, [
    ["saturation:evaporating", "evaporating", "defrost"],
    ["saturation:condensing", "condensing", "flow"],
    ["discharge_temp", "discharge", "start-up"],
    ["suction_temp", "suction", "return"],
  ]),
  further("superheat", "Superheat", "kelvin", 1, [
    ["superheat", "superheat", "ink"],
    ["subcooling", "subcooling", "return"],
  ]),
  further("pressure", "Pressures", "pascal", 0, [
    ["evaporating_pressure", "evaporating", "defrost"],
    ["condensing_pressure", "condensing", "flow"],
  ]),
  further("speed", "Speeds", "hertz", 0, [
    ["compressor_speed", "compressor", "ink"],
    ["fan_speed", "fan", "return"],
  ]),
  further("valve", "Expansion valve", "percent", 0, [["valve_position", "opening", "ink"]]),
  further("sun", "Sun", "watt_per_m2", 0, [["solar_radiation", "sun", "start-up"]]),
  further("reported", "Reported heat, meters", "watt", 2, [
    ["heat_power", "reported", "tank"],
    ["power", "meter", "return"],
  ]),
];

/** A channel in words: "flow temp, secondary". */
export function channelWords(channel: string): string {
  const [quantity, label] = channel.split(":");
  return `${must(quantity).replaceAll("_", " ")}${label ? `, ${label}` : ""}`;
}

// Several of one kind are told apart by their label, and by colour.
const OTHERS = ["outdoor", "tank", "water-flow", "soft"];

/** The lanes of a window: those that have readings and are not hidden. Humidity and what else was
 * asked for comes only when chosen. */
export function rowsOf(
  window: Window,
  pairs: UnitPair[],
  units: Units,
  hidden: string[] = [],
  chosen: string[] = [],
): LaneRow[] {
  const taken = new Set<string>();
  return KINDS.flatMap((kind) => {
    const drawn = kind.of.flatMap(([test, name, tone, style], at) =>
      window.lanes
        .filter(
          (lane) =>
            test(lane.channel) &&
            !taken.has(lane.channel) &&
            (isUsual(kind) || chosen.includes(lane.channel)),
        )
        .map((lane, k, all) => {
          taken.add(lane.channel);
          const label = lane.channel.split(":")[1];
          const named = all.length > 1 && label ? `${name}, ${label}` : name;
          return {
            lane,
            name: named,
            colour: k > 0 ? must(OTHERS[((k - 1) * kind.of.length + at) % OTHERS.length]) : tone,
            style,
          };
        }),
    );
    if (!drawn.length || hidden.includes(kind.key)) return [];
    const shown = kind.unit ? shownIn(pairs, kind.unit, units) : { symbol: "", of: (value: number) => value };
    const title = kind.key === "cop" ? `COP${window.level ? ` at ${window.level}` : ""}` : kind.title;
    const rated = drawn.some((one) => one.lane.channel === "rated");
    return [
      {
        ...kind,
        title,
        symbol: kind.key === "cop" ? (rated ? "measured over rated" : "measured") : shown.symbol,
        shown,
        drawn,
      },
    ];
  });
}

const USUAL = ["water", "flow", "heat", "cop", "air", "airflow", "outdoor"];
const isUsual = (kind: Kind) => USUAL.includes(kind.key);

/** Tops and heights of the lanes in a box [px]. */
export function layout(rows: LaneRow[], height: number): { top: number; height: number }[] {
  const title = 17;
  const room = height - rows.length * title - 6;
  const total = rows.reduce((sum, row) => sum + row.weight, 0);
  let top = 0;
  return rows.map((row) => {
    const tall = (room * row.weight) / total;
    const place = { top: top + title, height: tall };
    top += title + tall;
    return place;
  });
}

/** Times and values in turn, flat: what ECharts takes without copying point by point. */
function points(lane: Lane, shown: Shown): Float64Array {
  const same = lane.low === lane.high;
  const found = new Float64Array(lane.count * (same ? 2 : 4));
  const quarter = lane.step / 4;
  for (let k = 0; k < lane.count; k += 1) {
    const at = lane.start + (k + 0.5) * lane.step;
    const [low, high] = [shown.of(must(lane.low[k])), shown.of(must(lane.high[k]))];
    if (same) found.set([at, high], 2 * k);
    else
      found.set(
        k % 2 ? [at - quarter, high, at + quarter, low] : [at - quarter, low, at + quarter, high],
        4 * k,
      );
  }
  return found;
}

function extent(row: LaneRow, tall: number): { min: number; max: number; step: number } {
  let [min, max] = [Infinity, -Infinity];
  for (const { lane } of row.drawn) {
    for (let k = 0; k < lane.count; k += 1) {
      if (must(lane.low[k]) < min) min = must(lane.low[k]);
      if (must(lane.high[k]) > max) max = must(lane.high[k]);
    }
  }
  if (row.key === "cop") [min, max] = [0, Math.min(max, 8)];
  if (!Number.isFinite(min)) return { min: 0, max: 1, step: 1 };
  [min, max] = [row.shown.of(min), row.shown.of(max)];
  if (row.fromZero) [min, max] = [min > -0.05 * max ? 0 : min, Math.max(0, max)];
  const room = Math.max((max - min) * 0.06, 0.5);
  max += room;
  if (!row.fromZero || min < 0) min -= room / 3;
  const step = steps(max - min, Math.max(2, tall / 34));
  return { min: Math.floor(min / step + 1e-9) * step, max, step };
}

function steps(range: number, count: number): number {
  const rough = range / count;
  const power = 10 ** Math.floor(Math.log10(rough));
  return must([1, 2, 5, 10].map((k) => k * power).find((step) => step >= rough));
}

export function optionOf(window: Window, rows: LaneRow[], height: number, shade: Shade): Option {
  const places = layout(rows, height);
  const hair = shade("hair");
  return {
    animation: false,
    grid: places.map((place) => ({
      left: LEFT,
      right: RIGHT,
      top: place.top,
      height: place.height,
      containLabel: false,
    })),
    xAxis: rows.map((_, k) => ({
      type: "value",
      gridIndex: k,
      min: window.start,
      max: window.stop,
      show: false,
    })),
    yAxis: rows.map((row, k) => {
      const { min, max, step } = extent(row, must(places[k]).height);
      return {
        type: "value",
        gridIndex: k,
        min,
        max,
        interval: step,
        axisLabel: {
          color: shade("soft"),
          fontSize: 11,
          fontFamily: "Source Sans 3 Variable",
          showMinLabel: true,
          showMaxLabel: true,
          formatter: (value: number) =>
            Math.abs(value / step - Math.round(value / step)) < 1e-6 ? number(value, step < 1 ? 1 : 0) : "",
        },
        axisLine: { show: false },
        axisTick: { show: false },
        splitLine: { lineStyle: { color: hair } },
      };
    }),
    series: rows.flatMap((row, k) => row.drawn.flatMap((drawn) => seriesOf(row, k, drawn, shade))),
  } as Option;
}

/** A lane's line; over long windows its mean, with all that lies between least and greatest behind. */
function seriesOf(row: LaneRow, k: number, drawn: Drawn, shade: Shade): object[] {
  const { lane } = drawn;
  const tone = shade(drawn.colour);
  const area = drawn.style === "area";
  const base = {
    type: "line",
    dimensions: ["time", "value"],
    xAxisIndex: k,
    yAxisIndex: k,
    showSymbol: false,
    silent: true,
    connectNulls: false,
    clip: true,
  };
  const line = {
    ...base,
    data: lane.mean ? means(lane, row.shown) : points(lane, row.shown),
    step: drawn.style === "band" || (row.key === "cop" && lane.step > 1800) ? "middle" : false,
    lineStyle: { color: tone, width: area ? 0 : drawn.style === "band" ? 7 : 1.2, cap: "butt" },
    areaStyle: area ? { color: tone, opacity: 0.9, origin: 0 } : undefined,
    z: drawn.style === "line" ? 4 : 2,
  };
  if (!lane.mean) return [line];
  return [
    { ...base, data: points(lane, row.shown), lineStyle: { color: tone, width: 1, opacity: 0.22 }, z: 3 },
    line,
  ];
}

function means(lane: Lane, shown: Shown): Float64Array {
  const found = new Float64Array(lane.count * 2);
  must(lane.mean).forEach((value, k) =>
    found.set([lane.start + (k + 0.5) * lane.step, shown.of(value)], 2 * k),
  );
  return found;
}

/** What the lanes read at an instant; where a point holds several cells, least and greatest. */
export function readAt(row: LaneRow, instant: number): { name: string; colour: string; text: string }[] {
  return row.drawn.map(({ lane, name, colour: tone }) => {
    const k = Math.floor((instant - lane.start) / lane.step);
    const [low, high] = [lane.low[k], lane.high[k]];
    let text = "–";
    if (low !== undefined && high !== undefined && Number.isFinite(low)) {
      const one = number(row.shown.of(low), row.decimals);
      const other = number(row.shown.of(high), row.decimals);
      text = one === other ? one : `${one} … ${other}`;
    }
    return { name, colour: tone, text };
  });
}
