/** Numbers and times as people read them: local signs, units by the switch, time of the installation. */
import type { Figure, UnitPair } from "../api/client";
import type { Units } from "../app/settings";

export const MINUS = "\u2212";

/** A number with a given count of decimals, in the reader's own signs. */
export function number(value: number, decimals: number): string {
  const text = new Intl.NumberFormat(undefined, {
    minimumFractionDigits: decimals,
    maximumFractionDigits: decimals,
  }).format(value);
  return text.replace(/^-/, MINUS);
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

/** A figure in the unit in which it is shown: its U and budget with it. */
export function inUnit(figure: Figure | null, shown: Shown): Figure | null {
  if (!figure) return null;
  const factor = shown.of(1) - shown.of(0);
  return {
    ...figure,
    value: shown.of(figure.value),
    unit: shown.symbol,
    U: figure.U * Math.abs(factor),
    decimals: 1,
    budget: figure.budget.map((part) => ({ ...part, u: part.u * factor })),
  };
}

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = zone + JSON.stringify(options);
  let found = formats.get(key);
  if (!found) {
    found = new Intl.DateTimeFormat("en-GB", { timeZone: zone, ...options });
    formats.set(key, found);
  }
  return found;
}

/** 05:10 by the clock of the installation. */
export function clock(instant: number, zone: string): string {
  return format(zone, { hour: "2-digit", minute: "2-digit", hour12: false }).format(instant * 1000);
}

/** Thu 22 January 2026. */
export function longDay(instant: number, zone: string): string {
  return format(zone, { weekday: "short", day: "numeric", month: "long", year: "numeric" })
    .format(instant * 1000)
    .replace(",", "");
}

export function shortDay(instant: number, zone: string): string {
  return format(zone, { day: "numeric", month: "short" }).format(instant * 1000);
}

export function dayYear(instant: number, zone: string): string {
  return format(zone, { day: "numeric", month: "short", year: "numeric" }).format(instant * 1000);
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
