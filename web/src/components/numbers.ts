/** Numbers and times as people read them: local signs, units by the switch, time of the installation. */
import type { Figure, Me, UnitPair } from "../api/client";
import type { Units } from "../app/settings";

export const MINUS = "\u2212";

export type Written = Me["written"];

// What each way of writing is called by the browser; empty: as the browser does.
const NUMBERS: Record<Written["numbers"], string | undefined> = {
  "": undefined,
  "1,234.5": "en-GB",
  "1.234,5": "de-DE",
  "1 234,5": "fr-FR",
  "1’234.5": "de-CH",
};

let written: Written = { numbers: "", dates: "" };
const counted = new Map<number, Intl.NumberFormat>();
let signs = signsOf();

function signsOf(): { group: string; decimal: string } {
  const parts = new Intl.NumberFormat(NUMBERS[written.numbers]).formatToParts(12345.6);
  const of = (type: string) => parts.find((part) => part.type === type)?.value ?? "";
  return { group: of("group"), decimal: of("decimal") || "." };
}

/** Says how numbers and dates are written from now on. */
export function writeSo(next: Written): void {
  if (next.numbers === written.numbers && next.dates === written.dates) return;
  written = next;
  counted.clear();
  formats.clear();
  signs = signsOf();
}

/** A number with a given count of decimals, in the reader's own signs. */
export function number(value: number, decimals: number): string {
  let format = counted.get(decimals);
  if (!format) {
    format = new Intl.NumberFormat(NUMBERS[written.numbers], {
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
    });
    counted.set(decimals, format);
  }
  return format.format(value).replace(/^-/, MINUS);
}

/** A number as it stands in a field to be changed: all its digits, the reader's decimal sign. */
export function inField(value: number): string {
  return String(value).replace(".", signs.decimal);
}

/** A typed number; undefined for what is none. Comma and point are both taken as decimal signs, but where one
 * stands as the reader parts thousands: 1,234 is a thousand for who writes 1,234.5. */
export function numberIn(text: string): number | undefined {
  const bare = text.replace(/[\s\u00a0\u202f’']/g, "").replace(MINUS, "-");
  if (!bare) return undefined;
  const last = Math.max(bare.lastIndexOf(","), bare.lastIndexOf("."));
  const both = bare.includes(",") && bare.includes(".");
  const parted =
    signs.group === ","
      ? /^-?[1-9]\d{0,2}(,\d{3})+$/
      : signs.group === "."
        ? /^-?[1-9]\d{0,2}(\.\d{3})+$/
        : null;
  const plain = parted?.test(bare)
    ? bare.replace(/[.,]/g, "")
    : both
      ? `${bare.slice(0, last).replace(/[.,]/g, "")}.${bare.slice(last + 1)}`
      : bare.replace(",", ".");
  const value = Number(plain);
  return Number.isFinite(value) ? value : undefined;
}

/** A figure with the decimals that its U allows. */
export function figureText(figure: Figure, least = 0): string {
  if (figure.value === 0 && figure.U === 0) return "0";
  return number(figure.value, Math.max(figure.decimals ?? 2, least));
}

export function plusMinus(figure: Figure): string {
  return `± ${number(figure.U, figure.decimals ?? 2)}`;
}

export interface Shown {
  symbol: string;
  of: (value: number) => number;
}

const asItIs = new Map<string, Shown>();
const asShown = new WeakMap<UnitPair, Partial<Record<Units, Shown>>>();

/** How a unit of the core is shown; the factors come from the API. The same again for the same. */
export function shownIn(pairs: UnitPair[], unit: string, units: Units): Shown {
  const pair = pairs.find((one) => one.unit === unit);
  if (!pair) {
    const shown = asItIs.get(unit) ?? { symbol: unit, of: (value) => value };
    asItIs.set(unit, shown);
    return shown;
  }
  const of = asShown.get(pair) ?? {};
  asShown.set(pair, of);
  const { symbol, factor, offset } = units === "SI" ? pair.si : pair.us;
  return (of[units] ??= { symbol, of: (value) => factor * value + offset });
}

/** What was typed in the unit in which it is shown, in the core's. */
export const backFrom = (shown: Shown, typed: number): number =>
  (typed - shown.of(0)) / (shown.of(1) - shown.of(0));

/** A figure in the unit in which it is shown: its U and budget with it. */
export function inUnit(figure: Figure | null, shown: Shown, decimals = 1): Figure | null {
  if (!figure) return null;
  const factor = shown.of(1) - shown.of(0);
  return {
    ...figure,
    value: shown.of(figure.value),
    unit: shown.symbol,
    U: figure.U * Math.abs(factor),
    decimals,
    budget: figure.budget.map((part) => ({ ...part, u: part.u * factor })),
  };
}

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, options: Intl.DateTimeFormatOptions, order = "en-GB"): Intl.DateTimeFormat {
  const key = order + zone + JSON.stringify(options);
  let found = formats.get(key);
  if (!found) {
    found = new Intl.DateTimeFormat(order, { timeZone: zone, ...options });
    formats.set(key, found);
  }
  return found;
}

/** 05:10 by the clock of the installation. */
export function clock(instant: number, zone: string): string {
  return format(zone, { hour: "2-digit", minute: "2-digit", hour12: false }).format(instant * 1000);
}

const DAY = { day: "numeric", month: "short", year: "numeric" } as const;

/** A date by the reader's choice: day first, month first, or the parts from large to small. */
function dated(instant: number, zone: string, options: Intl.DateTimeFormatOptions): string {
  const { weekday, year } = options;
  if (written.dates === "2026-01-22") {
    const day = localMinute(instant, zone).slice(year ? 0 : 5, 10);
    return weekday ? `${format(zone, { weekday }).format(instant * 1000)} ${day}` : day;
  }
  return format(zone, options, written.dates === "Jan 22, 2026" ? "en-US" : "en-GB").format(instant * 1000);
}

/** Thu 22 January 2026. */
export function longDay(instant: number, zone: string): string {
  return dated(instant, zone, { weekday: "short", day: "numeric", month: "long", year: "numeric" }).replace(
    ",",
    "",
  );
}

export function shortDay(instant: number, zone: string): string {
  return dated(instant, zone, { day: "numeric", month: "short" });
}

export function dayYear(instant: number, zone: string): string {
  return dated(instant, zone, DAY);
}

/** Jan 2026, or 2026-01: a month as the API names it. */
export function monthYear(month: string): string {
  if (written.dates === "2026-01-22") return month;
  return format("UTC", { month: "short", year: "numeric" }).format(new Date(`${month}-15T12:00:00Z`));
}

/** 2026-01-22T05:10 by the clock of the installation, as the API reads it. */
export function localMinute(instant: number, zone: string): string {
  const parts = Object.fromEntries(
    format(zone, {
      year: "numeric",
      month: "2-digit",
      day: "2-digit",
      hour: "2-digit",
      minute: "2-digit",
      hour12: false,
    })
      .formatToParts(instant * 1000)
      .map((part) => [part.type, part.value]),
  );
  const hour = parts.hour === "24" ? "00" : parts.hour;
  return `${parts.year}-${parts.month}-${parts.day}T${hour}:${parts.minute}`;
}

/** 4 h 30 min; 3 days. */
export function duration(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  if (minutes < 60) return `${minutes} min`;
  if (minutes < 48 * 60) {
    const rest = minutes % 60;
    return rest ? `${Math.floor(minutes / 60)} h ${rest} min` : `${minutes / 60} h`;
  }
  const days = minutes / 1440;
  return `${number(days, Math.abs(days - Math.round(days)) < 0.02 ? 0 : 1)} days`;
}

export function percent(share: number): string {
  const value = share * 100;
  return `${number(value, value > 99 && value < 100 ? 1 : value < 10 && value > 0 ? 1 : 0)} %`;
}
