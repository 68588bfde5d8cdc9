/** Lanes on one time axis under the states; drag to select, arrows do the same. */
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from "react";

import { useMe, type Stretch } from "../api/hooks";
import type { Window } from "../api/window";
import { useSettings } from "../app/settings";
import { useChart } from "../parts/echarts";
import { clock, localMinute, shortDay } from "../parts/numbers";
import { useWidth } from "../parts/useWidth";
import { layout, LEFT, optionOf, readAt, RIGHT, rowsOf } from "./lanes";
import { StateRibbon } from "./StateRibbon";
import { marks } from "./ticks";

const AXIS = 20;

interface Props {
  window: Window;
  zone: string;
  step: number;
  zoomed: boolean;
  unzoom: () => void;
  cursor: number | null;
  setCursor: (at: number | null) => void;
  sel: Stretch | null;
  select: (sel: Stretch | null) => void;
  /** Asks why the selection is to be left out of every sum. */
  leaveOut: () => void;
  /** What was noted in this stretch; stands where else the hint does. */
  noted: ReactNode;
}

export function Workspace({ window: shown, zone, step, zoomed, unzoom, cursor, setCursor, sel, select, leaveOut, noted }: Props) {
  const outer = useRef<HTMLDivElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(outer);
  const height = useHeight();
  const { units, mode } = useSettings();
  const me = useMe();
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const [hover, setHover] = useState<number | null>(null);

  const rows = useMemo(() => rowsOf(shown, me.data?.units ?? [], units), [shown, me.data, units]);
  const option = useMemo(() => optionOf(shown, rows, height), [shown, rows, height, mode]);
  const painted = useCallback(() => {
    performance.mark("ember-painted", { detail: { start: shown.start } });
  }, [shown.start]);
  useChart(box, option, painted);

  const room = Math.max(1, width - LEFT - RIGHT);
  const long = shown.stop - shown.start;
  const x = (instant: number) => LEFT + ((instant - shown.start) / long) * room;
  const grain = Math.max(60, step);
  const snap = (instant: number) => Math.min(shown.stop, Math.max(shown.start, Math.round(instant / grain) * grain));
  const instantOf = (event: PointerEvent) =>
    snap(shown.start + ((event.clientX - outer.current!.getBoundingClientRect().left - LEFT) / room) * long);

  const chosen = drag ?? (sel ? { from: parse(sel.start, shown, zone), to: parse(sel.stop, shown, zone) } : null);
  const put = (from: number, to: number) => {
    const [a, b] = [Math.min(from, to), Math.max(from, to)];
    if (b - a < grain) select(null);
    else select({ start: localMinute(a, zone), stop: localMinute(b, zone) });
  };

  const [anchor, setAnchor] = useState<number | null>(null);
  function pressed(event: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -12, PageDown: 12 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    const stride = long <= 2 * 86_400 ? 600 : Math.max(3600, Math.round(long / 150 / 3600) * 3600);
    const now = cursor ?? snap(shown.start + long / 2);
    const next = snap(now + by * stride);
    setCursor(next);
    if (event.shiftKey) {
      const from = anchor ?? now;
      setAnchor(from);
      put(from, next);
    } else setAnchor(null);
  }

  const read = hover ?? cursor;
  const seen = read !== null && read >= shown.start && read <= shown.stop ? read : null;
  const places = layout(rows, height);
  const labels = useMemo(() => marks(shown.start, shown.stop, zone, room), [shown.start, shown.stop, zone, room]);

  return (
    <div ref={outer} style={{ position: "relative", margin: "-4px -6px 0" }}>
      <StateRibbon window={shown} width={width} />
      <div
        tabIndex={0}
        role="application"
        aria-label="Chart of the readings. Arrow keys move the cursor, with Shift they select; Escape selects nothing."
        data-testid="workspace"
        style={{ position: "relative", height: height + AXIS, cursor: "crosshair", touchAction: "none", outlineOffset: -2 }}
        onKeyDown={pressed}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          const at = instantOf(event);
          setDrag({ from: at, to: at });
        }}
        onPointerMove={(event) => {
          const at = instantOf(event);
          setHover(at);
          if (drag) setDrag({ ...drag, to: at });
        }}
        onPointerUp={() => {
          if (drag) put(drag.from, drag.to);
          setDrag(null);
        }}
        onPointerLeave={() => setHover(null)}
      >
        {labels.map((mark) => (
          <i key={mark.at} aria-hidden style={{ position: "absolute", left: x(mark.at), top: 0, height, borderLeft: "1px solid var(--hair)" }} />
        ))}
        {chosen && (
          <i
            aria-hidden
            data-testid="selection"
            style={{
              position: "absolute", top: -28, height: height + 28, background: "var(--chosen)", pointerEvents: "none",
              left: x(Math.max(shown.start, Math.min(chosen.from, chosen.to))),
              width: Math.max(0, x(Math.min(shown.stop, Math.max(chosen.from, chosen.to))) - x(Math.max(shown.start, Math.min(chosen.from, chosen.to)))),
              borderLeft: "1px dashed var(--ink)", borderRight: "1px dashed var(--ink)",
            }}
          />
        )}
        <div ref={box} style={{ position: "absolute", inset: 0, bottom: AXIS, pointerEvents: "none" }} aria-hidden />
        {seen !== null && <i aria-hidden style={{ position: "absolute", left: x(seen), top: -28, height: height + 28, borderLeft: "1px solid var(--ember)", pointerEvents: "none" }} />}
        {rows.map((row, k) => (
          <div key={row.key} style={{ position: "absolute", left: LEFT + 4, right: RIGHT + 4, top: places[k]!.top - 17, display: "flex", gap: 10, pointerEvents: "none", lineHeight: "17px" }}>
            <span>
              <strong>{row.title}</strong> <span className="soft">{row.symbol}</span>
            </span>
            <span style={{ marginLeft: "auto", display: "flex", gap: 12 }} className="cap">
              {(seen === null ? row.drawn.map((d) => ({ name: d.name, colour: d.colour, text: "" })) : readAt(row, seen)).map((value) => (
                <span key={value.name}>
                  <i aria-hidden style={{ display: "inline-block", width: 9, height: 3, background: `var(--${value.colour})`, marginRight: 4, verticalAlign: "middle" }} />
                  {value.name} <strong style={{ color: "var(--ink)" }}>{value.text}</strong>
                </span>
              ))}
            </span>
          </div>
        ))}
        {labels.map((mark) => (
          <span key={mark.at} aria-hidden className="cap" style={{ position: "absolute", left: x(mark.at), top: height + 2, transform: "translateX(-50%)", whiteSpace: "nowrap" }}>
            {mark.text}
          </span>
        ))}
      </div>
      <p className="cap" aria-live="polite" style={{ paddingLeft: LEFT, minHeight: 18, display: "flex", gap: 10, alignItems: "center" }}>
        {seen !== null && `${shortDay(seen, zone)} ${clock(seen, zone)}`}
        {seen === null && !chosen && (noted ?? "Drag to select a stretch; its sum stands beside. d, s: next defrost, start.")}
        {chosen && !drag && (
          <button className="key quiet" style={{ padding: 0, minHeight: 0 }} onClick={() => select(null)}>
            Select nothing (Esc)
          </button>
        )}
        {chosen && !drag && (
          <button className="key quiet" style={{ padding: 0, minHeight: 0 }} onClick={leaveOut}>
            Leave it out (e) …
          </button>
        )}
        {zoomed && (
          <button className="key quiet" style={{ padding: 0, minHeight: 0 }} onClick={unzoom}>
            Zoom back (Z)
          </button>
        )}
      </p>
    </div>
  );
}

/** The instant of a local time within a window; by its clock, so found by trying. */
function parse(local: string, shown: Window, zone: string): number {
  const guess = Date.parse(`${local.length === 10 ? `${local}T00:00` : local}Z`) / 1000;
  const offset = Date.parse(`${localMinute(guess, zone)}Z`) / 1000 - guess;
  const first = guess - offset;
  return localMinute(first, zone) === local ? first : guess - (Date.parse(`${localMinute(shown.start, zone)}Z`) / 1000 - shown.start);
}

/** Room for the lanes below the head, so that all are seen at once. */
function useHeight(): number {
  const [height, setHeight] = useState(() => window.innerHeight);
  useEffect(() => {
    const changed = () => setHeight(window.innerHeight);
    window.addEventListener("resize", changed);
    return () => window.removeEventListener("resize", changed);
  }, []);
  return Math.max(420, height - 186);
}
