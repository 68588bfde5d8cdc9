/** What a picture draws, as a table. */
import type { Option } from "./echarts";

export interface Table {
  title: string;
  columns: string[];
  rows: (string | number | null)[][];
  /** Decimals of each column. */
  decimals: number[];
}

type Point = number | null | string | { value?: unknown; name?: string } | unknown[];

interface Series {
  type?: string;
  name?: string;
  data?: Point[];
}

interface Axis {
  type?: string;
  name?: string;
  data?: (string | number)[];
}

const first = <T>(one: T | T[] | undefined): T | undefined => (Array.isArray(one) ? one[0] : one);

const figure = (value: unknown): number | null =>
  typeof value === "number" && Number.isFinite(value) ? value : null;

/** As many decimals as tell the values of a column apart. */
function decimalsOf(values: (string | number | null)[]): number {
  const known = values.filter((value): value is number => typeof value === "number");
  const most = Math.max(0, ...known.map(Math.abs));
  if (known.every(Number.isInteger)) return 0;
  return most >= 100 ? 1 : most >= 1 ? 2 : 3;
}

/** The table of columns, with its decimals. */
export function tabled(title: string, columns: string[], rows: Table["rows"]): Table {
  return {
    title,
    columns,
    rows,
    decimals: columns.map((_, k) => decimalsOf(rows.map((row) => row[k] ?? null))),
  };
}

/** What a chart draws: its horizontal axis and a column a series. */
export function behindOf(option: Option, title: string): Table {
  const { xAxis, yAxis, series } = option as {
    xAxis?: Axis | Axis[];
    yAxis?: Axis | Axis[];
    series?: Series | Series[];
  };
  const across = first(xAxis);
  const drawn = (Array.isArray(series) ? series : series ? [series] : []).filter(
    (one) => one.data?.length && one.type !== "custom",
  );
  const places: (string | number)[] = [];
  const cells = new Map<string | number, (number | null)[]>();
  const put = (place: string | number, column: number, value: unknown) => {
    let row = cells.get(place);
    if (!row) {
      row = Array<number | null>(drawn.length).fill(null);
      cells.set(place, row);
      places.push(place);
    }
    row[column] = figure(value);
  };
  drawn.forEach((one, column) =>
    one.data?.forEach((point, k) => {
      const value =
        typeof point === "object" && point !== null && !Array.isArray(point) ? point.value : point;
      if (Array.isArray(value)) put(value[0] as number, column, value[1]);
      else put(across?.data?.[k] ?? k + 1, column, value);
    }),
  );
  if (places.every((place) => typeof place === "number")) places.sort((a, b) => Number(a) - Number(b));
  const up = first(yAxis)?.name;
  const named = drawn.map((one, k) => one.name ?? (drawn.length > 1 ? `line ${k + 1}` : (up ?? "value")));
  return tabled(
    title,
    [across?.name ?? "at", ...named],
    places.map((place) => [place, ...(cells.get(place) ?? [])]),
  );
}
