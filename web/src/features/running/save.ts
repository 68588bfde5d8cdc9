/** What is seen in the workspace as a picture or a drawing. */
import { init, use as withParts } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";

import type { Window } from "../../api/window";
import { type Shade } from "../../app/theme";
import type { Option } from "../../components/echarts";
import { LEFT, RIGHT, type LaneRow } from "./lanes";
import { STATES } from "./states";
import type { Mark } from "./ticks";
import { must } from "../../components/must";

withParts([SVGRenderer]);

const HEAD = 24;
const RIBBON = 34;
const AXIS = 22;
const MARGIN = 16; // on the right, for the last mark of the axis

export interface Sheet {
  title: string;
  window: Window;
  rows: LaneRow[];
  places: { top: number; height: number }[];
  option: Option;
  labels: Mark[];
  width: number;
  height: number;
}

const escape = (text: string) =>
  text.replace(/[&<>"]/g, (sign) => must({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" }[sign]));

/** The workspace as SVG: heading, states, defrosts, lanes with their titles, time axis. */
export function drawing(
  { title, window, rows, places, option, labels, width, height }: Sheet,
  shade: Shade,
): string {
  const chart = init(null, undefined, { renderer: "svg", ssr: true, width, height });
  chart.setOption(option);
  const lanes = chart.renderToSVGString().replace(/^<svg/, `<svg y="${HEAD + RIBBON}"`);
  chart.dispose();
  const room = width - LEFT - RIGHT;
  const x = (instant: number) => LEFT + ((instant - window.start) / (window.stop - window.start)) * room;
  const text = (at: number, y: number, words: string, more = "") =>
    `<text x="${at.toFixed(1)}" y="${y}" font-size="11" fill="${shade("soft")}" ${more}>${escape(words)}</text>`;
  const states = window.states.map((name, k) => {
    const [from, to] = [x(must(window.stateStarts[k])), x(window.stateStarts[k + 1] ?? window.stop)];
    const state = STATES[name] ?? must(STATES.unknown);
    const letter =
      to - from > 17 && state.letter
        ? text(
            (from + to) / 2,
            HEAD + 12,
            state.letter,
            `text-anchor="middle" font-weight="600" style="fill:${state.ink ?? shade("ink")}"`,
          )
        : "";
    return `<rect x="${from.toFixed(1)}" y="${HEAD}" width="${Math.max(to - from, 0.6).toFixed(1)}" height="16" fill="${shade(state.tone)}"/>${letter}`;
  });
  const ticks = window.defrostStarts.map((start, k) => {
    const middle = x((start + must(window.defrostStops[k])) / 2).toFixed(1);
    return `<path d="M${middle} ${HEAD + 18}l-3.5 7h7z" fill="${shade("defrost")}"/>`;
  });
  const titles = rows.map((row, k) =>
    text(
      LEFT + 4,
      HEAD + RIBBON + must(places[k]).top - 5,
      `${row.title} ${row.symbol}: ${row.drawn.map((one) => one.name).join(", ")}`,
    ),
  );
  const axis = labels.map((mark) =>
    text(x(mark.at), HEAD + RIBBON + height + 14, mark.text, 'text-anchor="middle"'),
  );
  const total = HEAD + RIBBON + height + AXIS;
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width + MARGIN}" height="${total}" viewBox="0 0 ${width + MARGIN} ${total}" font-family="Source Sans 3, sans-serif">`,
    `<rect width="100%" height="100%" fill="${shade("ground")}"/>`,
    text(LEFT, 15, title, 'font-weight="600"'),
    ...states,
    ...ticks,
    lanes,
    ...titles,
    ...axis,
    "</svg>",
  ].join("\n");
}

/** A drawing as a picture at twice its size. */
export async function picture(svg: string, width: number, height: number): Promise<Blob> {
  const image = new Image();
  image.src = URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" }));
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = 2 * width;
  canvas.height = 2 * height;
  must(canvas.getContext("2d")).drawImage(image, 0, 0, canvas.width, canvas.height);
  URL.revokeObjectURL(image.src);
  return await new Promise((done, failed) =>
    canvas.toBlob(
      (blob) => (blob ? done(blob) : failed(new Error("The picture could not be made."))),
      "image/png",
    ),
  );
}

export const sizeOf = (width: number, height: number): [number, number] => [
  width + MARGIN,
  HEAD + RIBBON + height + AXIS,
];

/** The screen on paper, without rail and buttons. */
export function print(): void {
  document.body.dataset.print = "screen";
  window.print();
  delete document.body.dataset.print;
}
