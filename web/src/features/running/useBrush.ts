/** What the pointer and the keys do on the chart: a cursor, a brush that takes runs, a selection. */
import { useState, type KeyboardEvent, type MouseEvent, type PointerEvent, type RefObject } from "react";

import type { Stretch } from "../../api/hooks";
import type { Window } from "../../api/window";
import { must } from "../../components/must";
import { localMinute } from "../../components/numbers";
import { LEFT, RIGHT } from "./lanes";

const NEAR = 6; // of a run's end to which a brush snaps [px]
const DAY = 86_400;

export interface Span {
  from: number;
  to: number;
}

interface Brushed {
  window: Window;
  zone: string;
  step: number;
  width: number;
  outer: RefObject<HTMLDivElement | null>;
  cursor: number | null;
  setCursor: (at: number | null) => void;
  sel: Stretch | null;
  select: (sel: Stretch | null) => void;
  /** Asks for the table behind the chart. */
  table: () => void;
}

export function useBrush({
  window: shown,
  zone,
  step,
  width,
  outer,
  cursor,
  setCursor,
  sel,
  select,
  table,
}: Brushed) {
  const [drag, setDrag] = useState<Span | null>(null);
  const [hover, setHover] = useState<number | null>(null);
  const [anchor, setAnchor] = useState<number | null>(null);
  const room = Math.max(1, width - LEFT - RIGHT);
  const long = shown.stop - shown.start;
  const grain = Math.max(60, step);
  const bounded = (instant: number) => Math.min(shown.stop, Math.max(shown.start, instant));
  const snap = (instant: number) => bounded(Math.round(instant / grain) * grain);
  // A brush that comes near the begin or end of a run takes it.
  const snapToRun = (instant: number) => {
    const near = (NEAR / room) * long;
    const edge = nearest(shown.runStarts, instant, nearest(shown.runStops, instant, null));
    return edge !== null && Math.abs(edge - instant) <= near ? bounded(edge) : snap(instant);
  };
  const put = (from: number, to: number) => {
    const [a, b] = [Math.min(from, to), Math.max(from, to)];
    if (b - a < grain) select(null);
    else select({ start: localMinute(a, zone), stop: localMinute(b, zone) });
  };
  const runAt = (instant: number): Span | null => {
    const k = shown.runStarts.findLastIndex((start) => start <= instant);
    const run = k >= 0 ? { from: must(shown.runStarts[k]), to: must(shown.runStops[k]) } : null;
    return run && instant < run.to ? run : null;
  };
  const selectRun = (instant: number) => {
    const run = runAt(instant);
    if (run) put(run.from, run.to);
  };
  const instantOf = (event: PointerEvent | MouseEvent) =>
    snapToRun(
      shown.start + ((event.clientX - must(outer.current).getBoundingClientRect().left - LEFT) / room) * long,
    );
  const read = hover ?? cursor;
  return {
    room,
    /** Where an instant lies [px]. */
    x: (instant: number) => LEFT + ((instant - shown.start) / long) * room,
    dragging: drag !== null,
    chosen: drag ?? (sel ? { from: parse(sel.start, shown, zone), to: parse(sel.stop, shown, zone) } : null),
    /** The instant that is read. */
    seen: read !== null && read >= shown.start && read <= shown.stop ? read : null,
    runAt,
    on: {
      onKeyDown: (event: KeyboardEvent) => {
        if (event.key === "Enter" && cursor !== null) {
          event.preventDefault();
          selectRun(cursor);
          return;
        }
        if (event.key === "t") table();
        const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -12, PageDown: 12 }[event.key];
        if (by === undefined) return;
        event.preventDefault();
        const stride = long <= 2 * DAY ? 600 : Math.max(3600, Math.round(long / 150 / 3600) * 3600);
        const now = cursor ?? snap(shown.start + long / 2);
        const next = snap(now + by * stride);
        setCursor(next);
        if (event.shiftKey) {
          const from = anchor ?? now;
          setAnchor(from);
          put(from, next);
        } else setAnchor(null);
      },
      onPointerDown: (event: PointerEvent<HTMLElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        const at = instantOf(event);
        setDrag({ from: at, to: at });
      },
      onPointerMove: (event: PointerEvent) => {
        const at = instantOf(event);
        setHover(at);
        if (drag) setDrag({ ...drag, to: at });
      },
      onPointerUp: () => {
        if (drag) put(drag.from, drag.to);
        setDrag(null);
      },
      onPointerLeave: () => setHover(null),
      onDoubleClick: (event: MouseEvent) => selectRun(instantOf(event)),
    },
  };
}

/** The instant of a list, in order, that lies nearest; or the one it is compared with. */
function nearest(instants: number[], to: number, other: number | null): number | null {
  let best = other;
  for (const one of instants) if (best === null || Math.abs(one - to) < Math.abs(best - to)) best = one;
  return best;
}

/** The instant of a local time within a window; by its clock, so found by trying. */
function parse(local: string, shown: Window, zone: string): number {
  const guess = Date.parse(`${local.length === 10 ? `${local}T00:00` : local}Z`) / 1000;
  const offset = Date.parse(`${localMinute(guess, zone)}Z`) / 1000 - guess;
  const first = guess - offset;
  return localMinute(first, zone) === local
    ? first
    : guess - (Date.parse(`${localMinute(shown.start, zone)}Z`) / 1000 - shown.start);
}
