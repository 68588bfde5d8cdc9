/** The period: local days in the URL, `from` and `to` included; `sel` is a stretch within it. */
import { useQueryString } from "./query";
import { useMemo } from "react";

import type { SystemShown } from "../api/client";
import type { Stretch } from "../api/hooks";

export const KINDS = ["day", "week", "month", "season", "year"] as const;
export type Kind = (typeof KINDS)[number];

const DAY = 86_400_000;

const asDate = (day: string) => new Date(`${day}T00:00:00Z`);
const asDay = (date: Date) => date.toISOString().slice(0, 10);
export const addDays = (day: string, count: number) => asDay(new Date(asDate(day).getTime() + count * DAY));
export const daysBetween = (first: string, last: string) =>
  Math.round((asDate(last).getTime() - asDate(first).getTime()) / DAY);

function monthEnd(year: number, month: number): string {
  return asDay(new Date(Date.UTC(year, month + 1, 0)));
}

/** The calendar stretch of a kind that holds a day. A season is October to April. */
export function around(kind: Kind, day: string): { from: string; to: string } {
  const date = asDate(day);
  const [year, month] = [date.getUTCFullYear(), date.getUTCMonth()];
  switch (kind) {
    case "day":
      return { from: day, to: day };
    case "week": {
      const monday = addDays(day, -((date.getUTCDay() + 6) % 7));
      return { from: monday, to: addDays(monday, 6) };
    }
    case "month":
      return { from: `${day.slice(0, 7)}-01`, to: monthEnd(year, month) };
    case "season": {
      const autumn = month >= 6 ? year : year - 1;
      return { from: `${autumn}-10-01`, to: `${autumn + 1}-04-30` };
    }
    case "year": {
      const from = asDate(day);
      from.setUTCFullYear(year - 1);
      return { from: addDays(asDay(from), 1), to: day };
    }
  }
}

export interface Period {
  from: string;
  to: string;
  kind: Kind | null;
  stretch: Stretch;
  sel: Stretch | null;
  first: string;
  last: string;
  set: (from: string, to: string) => void;
  setKind: (kind: Kind) => void;
  shift: (by: number) => void;
  select: (sel: Stretch | null) => void;
}

/** What kind of stretch two days span, if one. */
function kindOf(from: string, to: string, last: string): Kind | null {
  if (from === to) return "day";
  for (const kind of KINDS) {
    const found = around(kind, kind === "year" ? to : from);
    if (found.from === from && (found.to === to || (found.to > last && to === last))) return kind;
  }
  return null;
}

/** The period of the URL for a system; without one, the latest year or the latest whole day. */
export function usePeriod(system: SystemShown | undefined, byDay: boolean): Period | null {
  const [params, put] = useQueryString();
  const days = system?.days?.day;
  const first = days?.[0];
  const last = days?.[days.length - 1];
  const wholeDay =
    days && days.length > 1 && (system?.days?.coverage.at(-1) ?? 0) < 0.9 ? days[days.length - 2] : last;

  return useMemo(() => {
    if (!first || !last || !wholeDay) return null;
    const ok = (text: string | null): text is string => text !== null && /^\d{4}-\d\d-\d\d$/.test(text);
    const asked = { from: params.get("from"), to: params.get("to") };
    let { from, to } = byDay ? { from: wholeDay, to: wholeDay } : clip(around("year", last), first, last);
    if (ok(asked.from) && ok(asked.to) && asked.from <= asked.to)
      ({ from, to } = { from: asked.from, to: asked.to });
    const [begin, end] = (params.get("sel") ?? "").split("_");
    const sel = begin && end ? { start: begin, stop: end } : null;
    const set = (a: string, b: string) => put({ from: a, to: b, sel: null });
    const kind = kindOf(from, to, last);
    const shift = (by: number) => {
      const length = daysBetween(from, to) + 1;
      let next = { from: addDays(from, by * length), to: addDays(to, by * length) };
      if (kind === "month" || kind === "season" || kind === "year") {
        const step = kind === "month" ? 1 : 12;
        const moved = asDate(kind === "year" ? to : from);
        moved.setUTCDate(kind === "year" ? moved.getUTCDate() : 15);
        moved.setUTCMonth(moved.getUTCMonth() + by * step);
        next = around(kind, asDay(moved));
      }
      if (next.to < first || next.from > last) return;
      const kept = clip(next, first, last);
      set(kept.from, kept.to);
    };
    return {
      from,
      to,
      kind,
      stretch: { start: from, stop: to },
      sel,
      first,
      last,
      set,
      setKind: (wanted: Kind) => {
        const anchor = to > last ? last : wanted === "day" && from !== to ? to : to;
        const kept = clip(around(wanted, anchor), first, last);
        set(kept.from, kept.to);
      },
      shift,
      select: (stretch: Stretch | null) => put({ sel: stretch ? `${stretch.start}_${stretch.stop}` : null }),
    };
  }, [first, last, wholeDay, byDay, params, put]);
}

function clip(stretch: { from: string; to: string }, first: string, last: string) {
  return { from: stretch.from < first ? first : stretch.from, to: stretch.to > last ? last : stretch.to };
}
