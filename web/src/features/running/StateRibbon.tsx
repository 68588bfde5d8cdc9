/** The states over the window: colour and letter; defrosts ticked, or as a density where they crowd. */
import { useEffect, useRef } from "react";

import type { Window } from "../../api/window";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { prepare } from "../../components/SeasonRibbon";
import { LEFT, RIGHT } from "./lanes";
import { STATES } from "./states";
import { must } from "../../components/must";

const BAR = 16;
const TICKS = 12;

export function StateRibbon({ window, width }: { window: Window; width: number }) {
  const shade = useShade();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current && width > 0 ? prepare(canvas.current, width, BAR + TICKS) : null;
    if (context) draw(context, window, width, shade);
  }, [window, width, shade]);
  const kinds = [...new Set(window.states)];
  return (
    <canvas
      ref={canvas}
      role="img"
      data-testid="state-ribbon"
      title={Object.entries(window.basis)
        .map(([what, how]) => `${what}: ${how}`)
        .join("\n")}
      aria-label={`States: ${kinds.join(", ")}; ${window.defrostStarts.length} defrosts`}
      style={{ width: "100%", height: BAR + TICKS, display: "block" }}
    />
  );
}

function draw(context: CanvasRenderingContext2D, window: Window, width: number, shade: Shade): void {
  const room = width - LEFT - RIGHT;
  const x = (instant: number) => LEFT + ((instant - window.start) / (window.stop - window.start)) * room;
  context.clearRect(0, 0, width, BAR + TICKS);
  context.font = '600 11px "Source Sans 3 Variable"';
  context.textBaseline = "middle";
  context.fillStyle = shade("soft");
  context.textAlign = "right";
  context.font = '400 11px "Source Sans 3 Variable"';
  context.fillText("state", LEFT - 6, BAR / 2 + 1);
  context.textAlign = "center";
  window.states.forEach((name, k) => {
    const state = STATES[name] ?? must(STATES.unknown);
    const [from, to] = [x(must(window.stateStarts[k])), x(window.stateStarts[k + 1] ?? window.stop)];
    context.fillStyle = shade(state.tone);
    context.fillRect(from, 0, Math.max(to - from, 0.6), BAR);
    if (name === "backup only") stripes(context, from, to, shade);
    if (to - from > 17 && state.letter) {
      context.fillStyle = state.ink ?? shade("ink");
      context.font = '600 11px "Source Sans 3 Variable"';
      context.fillText(state.letter, (from + to) / 2, BAR / 2 + 1);
    }
  });
  defrosts(context, window, x, room, shade);
}

function stripes(context: CanvasRenderingContext2D, from: number, to: number, shade: Shade): void {
  context.save();
  context.beginPath();
  context.rect(from, 0, to - from, BAR);
  context.clip();
  context.strokeStyle = shade("sheet");
  for (let left = from - BAR; left < to; left += 5) {
    context.beginPath();
    context.moveTo(left, BAR);
    context.lineTo(left + BAR, 0);
    context.stroke();
  }
  context.restore();
}

function defrosts(
  context: CanvasRenderingContext2D,
  window: Window,
  x: (instant: number) => number,
  room: number,
  shade: Shade,
): void {
  const count = window.defrostStarts.length;
  context.fillStyle = shade("defrost");
  if (count <= room / 7) {
    for (const [k, start] of window.defrostStarts.entries()) {
      const middle = x((start + must(window.defrostStops[k])) / 2);
      context.beginPath();
      context.moveTo(middle, BAR + 2);
      context.lineTo(middle - 3.5, BAR + 9);
      context.lineTo(middle + 3.5, BAR + 9);
      context.fill();
    }
    return;
  }
  // Density: how many begin in each two pixels; the fullest is opaque.
  const bins = new Float64Array(Math.ceil(room / 2));
  for (const start of window.defrostStarts) {
    const at = Math.floor((x(start) - LEFT) / 2);
    if (at >= 0 && at < bins.length) bins[at] = must(bins[at]) + 1;
  }
  const most = Math.max(...bins);
  bins.forEach((found, k) => {
    if (!found) return;
    context.globalAlpha = 0.25 + 0.75 * (found / most);
    context.fillRect(LEFT + 2 * k, BAR + 2, 2, 8);
  });
  context.globalAlpha = 1;
}
