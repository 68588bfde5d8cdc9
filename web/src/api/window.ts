/** The chart of a window: a JSON head and 32-bit floats, as the server packs them. */
import { fetched } from "./client";

export interface Lane {
  channel: string;
  unit: string;
  start: number;
  step: number;
  count: number;
  low: Float32Array;
  high: Float32Array;
  /** The mean of each point; null where low and high are the readings themselves. */
  mean: Float32Array | null;
}

export interface Window {
  start: number;
  stop: number;
  level: string | null;
  lanes: Lane[];
  stateStarts: number[];
  states: string[];
  defrostStarts: number[];
  defrostStops: number[];
  /** Runs in the window, for the brush to snap to; empty where they are too many. */
  runStarts: number[];
  runStops: number[];
  /** What the analyst has left out. */
  leftOut: { start: number; stop: number; reason: string }[];
  /** Channels that can be drawn besides. */
  further: string[];
  /** How each state is known: by a flag, or inferred. */
  basis: Record<string, string>;
}

interface Head {
  start: number;
  stop: number;
  level: string | null;
  lanes: {
    channel: string;
    unit: string;
    start: number;
    step: number;
    count: number;
    at: number;
    arrays: number;
  }[];
  state_starts: number[];
  states: string[];
  defrost_starts: number[];
  defrost_stops: number[];
  run_starts: number[];
  run_stops: number[];
  left_out: { start: number; stop: number; reason: string }[];
  further: string[];
  basis: Record<string, string>;
}

export async function fetchWindow(
  system: number,
  start: string,
  stop: string,
  points: number,
  further = "",
): Promise<Window> {
  const query = new URLSearchParams({ start, stop, points: String(points), ...(further ? { further } : {}) });
  const response = await fetched(`/api/v1/systems/${system}/window?${query}`);
  return unpack(await response.arrayBuffer());
}

function unpack(buffer: ArrayBuffer): Window {
  const length = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as Head;
  const values = new Float32Array(buffer, 4 + length);
  return {
    start: head.start,
    stop: head.stop,
    level: head.level,
    stateStarts: head.state_starts,
    states: head.states,
    defrostStarts: head.defrost_starts,
    defrostStops: head.defrost_stops,
    runStarts: head.run_starts,
    runStops: head.run_stops,
    leftOut: head.left_out,
    further: head.further,
    basis: head.basis,
    lanes: head.lanes.map((lane) => {
      const part = (k: number) => values.subarray(lane.at + k * lane.count, lane.at + (k + 1) * lane.count);
      const low = part(0);
      const high = lane.arrays > 1 ? part(1) : low;
      const mean = lane.arrays > 2 ? part(2) : null;
      return {
        channel: lane.channel,
        unit: lane.unit,
        start: lane.start,
        step: lane.step,
        count: lane.count,
        low,
        high,
        mean,
      };
    }),
  };
}
