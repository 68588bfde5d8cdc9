/** Rows of a rated table as they are typed, and the text that is sent to be read. */
import type { RatedTable, SheetShown, TablePoint } from "../../api/client";
import type { Shown } from "../../components/numbers";

/** Cells of a row: outdoor, flow (or indoor), capacity, input, COP, speed, airflow. */
export type Cells = [string, string, string, string, string, string, string];

export const BLANK: Cells = ["", "", "", "", "", "nominal", ""];
export const SPEEDS = ["minimum", "nominal", "maximum"];

export interface InUnits {
  temp: Shown;
  power: Shown;
}

/** As few decimals as say the same. */
function plain(value: number | null | undefined, digits: number): string {
  if (value === null || value === undefined) return "";
  return String(Number(value.toFixed(digits)));
}

const kilo = (symbol: string) => symbol === "W" || symbol === "Btu/h";

/** A power in the thousands of the unit it is shown in: kW or kBtu/h. */
export function thousands(power: Shown): Shown {
  return kilo(power.symbol)
    ? { symbol: `k${power.symbol}`, of: (kw) => power.of(kw * 1000) / 1000 }
    : { symbol: power.symbol, of: (kw) => power.of(kw * 1000) };
}

/** The header that says what the typed cells are in. */
export function header(units: InUnits): string {
  return `outdoor [${units.temp.symbol}]\tflow [${units.temp.symbol}]\tcapacity [${thousands(units.power).symbol}]\tinput [kW]\tcop\tspeed\tairflow [m3/h]`;
}

export function textOf(rows: Cells[], units: InUnits, includes: boolean): string {
  const filled = rows.filter((row) => row.slice(0, 5).some((cell) => cell.trim()));
  // An input beside a COP says the same twice; the COP goes before.
  const lines = filled.map((row) =>
    [row[0], row[1], row[2], row[4].trim() ? "" : row[3], row[4], row[5], row[6]].join("\t"),
  );
  return [`# includes defrost: ${includes ? "yes" : "no"}`, header(units), ...lines].join("\n");
}

type Point = Pick<TablePoint, "outdoor" | "flow" | "speed"> & {
  capacity_kw: number | null;
  cop: number | null;
  input_kw?: number | null;
  airflow_m3h: number | null;
};

export function cellsOf(point: { [K in keyof Point]: Point[K] | null }, units: InUnits): Cells {
  const power = thousands(units.power);
  const temp = (value: number | null) => (value === null ? "" : plain(units.temp.of(value), 1));
  return [
    temp(point.outdoor),
    temp(point.flow),
    point.capacity_kw === null ? "" : plain(power.of(point.capacity_kw), 2),
    "",
    plain(point.cop, 3),
    point.speed ?? "nominal",
    plain(point.airflow_m3h, 0),
  ];
}

export interface Head {
  kind: string;
  name: string;
  outdoor_unit: string;
  indoor_unit: string;
  includes_defrost: boolean;
  tolerance: number;
  /** What the screen does not ask, kept as it was. */
  more: Pick<RatedTable, (typeof MORE)[number]> | null;
}

const MORE = ["low_outdoor_limit", "minimum_hz", "nominal_hz", "maximum_hz"] as const;

/** The head of a saved table; without one, that of an empty sheet. */
export function headOf(kind: string, table: RatedTable | null): Head {
  return {
    kind,
    name: table?.name ?? "",
    outdoor_unit: table?.outdoor_unit ?? "",
    indoor_unit: table?.indoor_unit ?? "",
    includes_defrost: table?.includes_defrost ?? true,
    tolerance: table?.tolerance ?? 0.03,
    more: table,
  };
}

/** What is saved: the rows as the server read them. */
export function tableOf(sheet: SheetShown, head: Head) {
  return {
    kind: head.kind,
    name: head.name.trim() || null,
    outdoor_unit: head.outdoor_unit.trim() || null,
    indoor_unit: head.indoor_unit.trim() || null,
    includes_defrost: head.includes_defrost,
    tolerance: head.tolerance,
    ...Object.fromEntries(MORE.map((name) => [name, head.more?.[name] ?? null])),
    points: sheet.entries
      .filter((entry) => entry.used)
      .map((entry) => ({
        outdoor: entry.outdoor,
        flow: entry.flow,
        capacity_kw: entry.capacity_kw,
        cop: entry.cop,
        speed: entry.speed,
        airflow_m3h: entry.airflow_m3h,
      })),
  };
}
