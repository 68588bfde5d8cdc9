/** Every day of the record as a bar; drag to set the period. The time control of everything. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import {
  lazy,
  Suspense,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
} from "react";

import type { DaysShown } from "../api/client";
import { addDays, daysBetween, type Period } from "../app/period";
import { useShade } from "../app/settings";
import { type Shade } from "../app/theme";
import { tabled, type Table } from "./behindOf";
import { number } from "./numbers";
import { useWidth } from "./useWidth";
import { must } from "./must";

const Behind = lazy(() => import("./Behind"));

export const KIND_WORDS: Record<string, string> = {
  b: "below rated",
  w: "below rated, but within U",
  r: "as rated",
  t: "better than rated",
  n: "too little running to compare",
  d: "metering doubtful",
  x: "left out",
  o: "no data",
};

const KIND_COLOUR: Record<string, string> = {
  b: "day-below",
  w: "day-watch",
  r: "day-rated",
  t: "day-better",
  n: "day-plain",
  d: "day-plain",
  x: "day-plain",
  o: "day-plain",
};

/** Draws days as bars on a canvas: height is electricity, colour the comparison, hatching no valid data. */
export function drawDays(
  context: CanvasRenderingContext2D,
  kwh: (number | null)[],
  kinds: string,
  width: number,
  height: number,
  gap: number,
  shade: Shade,
): void {
  const most = Math.max(1, ...kwh.map((value) => value ?? 0));
  const each = width / kwh.length;
  kwh.forEach((value, k) => {
    const kind = kinds[k] ?? "o";
    const left = k * each;
    const wide = Math.max(1, each - gap);
    if ("dxo".includes(kind)) hatch(context, left, 2, each, height - 2, shade);
    if (value === null || kind === "o") return;
    const tall = Math.max(1, (value / most) * (height - 3));
    context.globalAlpha = "dx".includes(kind) ? 0.45 : 1;
    context.fillStyle = shade(KIND_COLOUR[kind] ?? "day-plain");
    context.fillRect(left, height - tall, wide, tall);
    context.globalAlpha = 1;
  });
}

function hatch(
  context: CanvasRenderingContext2D,
  left: number,
  top: number,
  width: number,
  height: number,
  shade: Shade,
): void {
  context.save();
  context.beginPath();
  context.rect(left, top, width, height);
  context.clip();
  context.strokeStyle = shade("faint");
  context.lineWidth = 0.7;
  for (let x = Math.floor((left - height) / 6) * 6; x < left + width; x += 6) {
    context.beginPath();
    context.moveTo(x, top + height);
    context.lineTo(x + height, top);
    context.stroke();
  }
  context.restore();
}

/** A canvas as sharp as the screen. */
export function prepare(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D | null {
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const context = canvas.getContext("2d");
  context?.setTransform(ratio, 0, 0, ratio, 0, 0);
  return context;
}

const HEIGHT = 46;

export function SeasonRibbon({ days, zone, period }: { days: DaysShown; zone: string; period: Period }) {
  const shade = useShade();
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = useWidth(box);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const [table, setTable] = useState(false);
  const count = days.day.length;

  useEffect(() => {
    const context = canvas.current && prepare(canvas.current, width, HEIGHT);
    if (!context || !width) return;
    drawDays(context, days.kwh, days.kinds, width, HEIGHT, width / count > 2.4 ? 1 : 0.4, shade);
  }, [days, width, count, shade]);

  const months = useMemo(() => {
    const marks: { at: number; name: string }[] = [];
    days.day.forEach((day, k) => {
      if (day.endsWith("-01") || k === 0) {
        const date = new Date(`${day}T12:00:00Z`);
        const name = date.toLocaleDateString("en-GB", { month: "short", timeZone: "UTC" });
        marks.push({
          at: k,
          name: day.slice(5, 7) === "01" || k === 0 ? `${name} ${day.slice(2, 4)}` : name,
        });
      }
    });
    return marks.filter((mark, k) => k === 0 || (mark.at - must(marks[0]).at) * (width / count) > 44);
  }, [days, width, count]);

  const dayAt = (event: PointerEvent) => {
    const left = must(box.current).getBoundingClientRect().left;
    return Math.min(count - 1, Math.max(0, Math.floor(((event.clientX - left) / width) * count)));
  };
  const shown = drag
    ? { first: Math.min(drag.from, drag.to), last: Math.max(drag.from, drag.to) }
    : { first: daysBetween(must(days.day[0]), period.from), last: daysBetween(must(days.day[0]), period.to) };

  function finish() {
    if (!drag) return;
    period.set(must(days.day[Math.min(drag.from, drag.to)]), must(days.day[Math.max(drag.from, drag.to)]));
    setDrag(null);
  }

  function pressed(event: KeyboardEvent) {
    if (event.key === "t") setTable(true);
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -30, PageDown: 30 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    if (event.shiftKey) {
      const to = addDays(period.to, by);
      if (to >= period.from && to <= period.last) period.set(period.from, to);
      return;
    }
    const [from, to] = [addDays(period.from, by), addDays(period.to, by)];
    if (from >= period.first && to <= period.last) period.set(from, to);
  }

  const said = over === null ? "" : dayWords(days, over, zone);
  return (
    <Box sx={{ position: "relative", marginTop: 4 }}>
      <Box
        sx={{
          height: HEIGHT,
          position: "relative",
          cursor: "ew-resize",
          touchAction: "none",
          borderBottom: "1px solid var(--line)",
        }}
        ref={box}
        role="slider"
        tabIndex={0}
        aria-label="Season ribbon: the period. Arrow keys move it, with Shift its end; t shows it as a table."
        aria-valuemin={0}
        aria-valuemax={count - 1}
        aria-valuenow={Math.max(0, shown.first)}
        aria-valuetext={`${period.from} to ${period.to}`}
        onKeyDown={pressed}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          const at = dayAt(event);
          setDrag({ from: at, to: at });
        }}
        onPointerMove={(event) => {
          const at = dayAt(event);
          setOver(at);
          if (drag) setDrag({ ...drag, to: at });
        }}
        onPointerUp={finish}
        onPointerLeave={() => setOver(null)}
      >
        <canvas ref={canvas} aria-hidden style={{ width: "100%", height: HEIGHT, display: "block" }} />
        <Box
          sx={{
            position: "absolute",
            top: -1,
            bottom: 0,
            left: `${(shown.first / count) * 100}%`,
            width: `max(5px, ${((shown.last - shown.first + 1) / count) * 100}%)`,
            border: "2px solid var(--ink)",
            background: shown.last - shown.first < count * 0.9 ? "var(--chosen)" : "none",
            pointerEvents: "none",
          }}
          aria-hidden
        />
      </Box>
      <Typography variant="caption" component="div" sx={{ position: "relative", height: 18 }} aria-hidden>
        {over === null
          ? months.map((mark) => (
              <Box
                component="span"
                sx={{ position: "absolute", left: `${(mark.at / count) * 100}%` }}
                key={mark.at}
              >
                {mark.name}
              </Box>
            ))
          : said}
      </Typography>
      {table && (
        <Suspense>
          <Behind table={behindDays(days)} close={() => setTable(false)} />
        </Suspense>
      )}
    </Box>
  );
}

function behindDays(days: DaysShown): Table {
  return tabled(
    "Day by day",
    ["day", "electricity, kWh", "± kWh", "COP", "± COP", "performance ratio", "±", "how", "covered, %"],
    days.day.map((day, k) => [
      day,
      days.kwh[k] ?? null,
      days.kwh_U[k] ?? null,
      days.cop[k] ?? null,
      days.cop_U[k] ?? null,
      days.ratio[k] ?? null,
      days.ratio_U[k] ?? null,
      must(KIND_WORDS[days.kinds[k] ?? "o"]),
      100 * (days.coverage[k] ?? 0),
    ]),
  );
}

function dayWords(days: DaysShown, k: number, zone: string): string {
  const kwh = days.kwh[k];
  const parts = [
    must(days.day[k]),
    kwh == null ? "no electricity known" : `${number(kwh, 1)} ± ${number(days.kwh_U[k] ?? 0, 1)} kWh`,
  ];
  const cop = days.cop[k];
  if (cop != null) parts.push(`COP ${number(cop, 2)} ± ${number(days.cop_U[k] ?? 0, 2)}`);
  const ratio = days.ratio[k];
  if (ratio != null) parts.push(`performance ratio ${number(ratio, 2)} ± ${number(days.ratio_U[k] ?? 0, 2)}`);
  parts.push(must(KIND_WORDS[days.kinds[k] ?? "o"]));
  if ((days.coverage[k] ?? 0) < 0.995) parts.push(`${number((days.coverage[k] ?? 0) * 100, 0)} % covered`);
  return `${parts.join(" · ")} (${zone})`;
}
