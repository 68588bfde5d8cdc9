/** Lanes, marks of the time axis, and the packed window. */
import { afterEach, describe, expect, it, vi } from "vitest";

import type { UnitPair } from "../src/api/client";
import { fetchWindow, type Lane, type Window } from "../src/api/window";
import { layout, optionOf, readAt, rowsOf } from "../src/features/running/lanes";
import { marks } from "../src/features/running/ticks";
import { shadeOf } from "../src/app/theme";
import { must } from "../src/components/must";

const PAIRS: UnitPair[] = [
  { unit: "degC", si: { symbol: "°C", factor: 1, offset: 0 }, us: { symbol: "°F", factor: 1.8, offset: 32 } },
];

function lane(channel: string, values: number[], high?: number[]): Lane {
  const low = Float32Array.from(values);
  return {
    channel,
    unit: "degC",
    start: 0,
    step: 60,
    count: values.length,
    low,
    high: high ? Float32Array.from(high) : low,
    mean: null,
  };
}

function window(...lanes: Lane[]): Window {
  return {
    start: 0,
    stop: 600,
    level: "H2",
    lanes,
    stateStarts: [0],
    states: ["heating"],
    defrostStarts: [],
    defrostStops: [],
    runStarts: [],
    runStops: [],
    leftOut: [],
    further: [],
    basis: {},
  };
}

describe("lanes", () => {
  it("show what is logged and leave out what is not", () => {
    const rows = rowsOf(
      window(lane("flow_temp", [40]), lane("return_temp", [35]), lane("outdoor_temp", [2])),
      PAIRS,
      "SI",
    );
    expect(rows.map((row) => row.key)).toEqual(["water", "outdoor"]);
    expect(must(rows[0]).drawn.map((drawn) => drawn.name)).toEqual(["return", "flow"]);
  });

  it("read what stands under the cursor, in the unit that is shown", () => {
    const [row] = rowsOf(window(lane("flow_temp", [40, 41, 42])), PAIRS, "US");
    expect(must(readAt(must(row), 61)[0]).text).toBe("105.8");
    expect(must(readAt(must(row), 6000)[0]).text).toBe("–");
  });

  it("read least and greatest where a point holds several readings", () => {
    const [row] = rowsOf(window(lane("flow_temp", [12], [40])), PAIRS, "SI");
    expect(must(readAt(must(row), 10)[0]).text).toBe("12.0 … 40.0");
  });

  it("read nothing where nothing is known", () => {
    const [row] = rowsOf(window(lane("flow_temp", [NaN, 40])), PAIRS, "SI");
    expect(must(readAt(must(row), 10)[0]).text).toBe("–");
  });

  it("call a COP rated only where there is a table", () => {
    const [alone] = rowsOf(window(lane("cop", [3])), PAIRS, "SI");
    expect(must(alone).symbol).toBe("measured");
    const [both] = rowsOf(window(lane("cop", [3]), lane("rated", [3.2])), PAIRS, "SI");
    expect(must(both).symbol).toBe("measured over rated");
  });

  it("fill the height without overlapping", () => {
    const rows = rowsOf(
      window(
        lane("flow_temp", [40]),
        lane("flow_rate", [1]),
        lane("power", [900]),
        lane("outdoor_temp", [2]),
      ),
      PAIRS,
      "SI",
    );
    const places = layout(rows, 600);
    places.forEach((place, k) => {
      const next = places[k + 1];
      expect(place.top + place.height).toBeLessThanOrEqual(next ? next.top : 600);
      expect(place.height).toBeGreaterThan(20);
    });
  });

  it("draw least and greatest of every point, so that a short dip is seen", () => {
    const rows = rowsOf(window(lane("flow_temp", [40, 12, 40], [41, 40, 41])), PAIRS, "SI");
    const option = optionOf(window(), rows, 600, shadeOf("light")) as { series: { data: Float64Array }[] };
    const drawn = [...must(option.series[0]).data].filter((_, k) => k % 2 === 1);
    expect(Math.min(...drawn)).toBe(12);
    expect(drawn).toHaveLength(6);
  });
});

describe("marks", () => {
  const at = (text: string) => Date.parse(text) / 1000;

  it("stand on whole hours of the installation's clock", () => {
    const found = marks(at("2026-01-22T00:00Z"), at("2026-01-23T00:00Z"), "UTC", 820);
    expect(found.map((mark) => mark.text)).toContain("06:00");
    expect(must(found[0]).text).toBe("00:00");
  });

  it("stand on even hours of the clock on the day of 25 hours too", () => {
    const found = marks(at("2026-10-24T22:00Z"), at("2026-10-25T23:00Z"), "CET", 820);
    expect(found.map((mark) => mark.text).slice(0, 4)).toEqual(["00:00", "02:00", "02:00", "04:00"]);
    expect(must(found.at(-1)).text).toBe("00:00");
  });

  it("stand on midnights, also over the change of the clocks", () => {
    const found = marks(at("2026-10-18T22:00Z"), at("2026-10-31T23:00Z"), "CET", 820);
    for (const mark of found) expect((mark.at - at("2026-10-18T22:00Z")) % 3600).toBe(0);
    const last = must(found.find((mark) => mark.text === "27 Oct"));
    expect(new Date(last.at * 1000).toISOString()).toBe("2026-10-26T23:00:00.000Z");
  });

  it("leave room for their words", () => {
    expect(marks(0, 365 * 86_400, "UTC", 820).length).toBeLessThanOrEqual(14);
    expect(marks(0, 3600, "UTC", 820).length).toBeLessThanOrEqual(14);
  });
});

describe("the packed window", () => {
  afterEach(() => vi.unstubAllGlobals());

  function packed(head: object, floats: number[]): ArrayBuffer {
    let text = JSON.stringify(head);
    text += " ".repeat((4 - (text.length % 4)) % 4);
    const bytes = new Uint8Array(4 + text.length + 4 * floats.length);
    new DataView(bytes.buffer).setUint32(0, text.length, true);
    bytes.set(new TextEncoder().encode(text), 4);
    bytes.set(new Uint8Array(Float32Array.from(floats).buffer), 4 + text.length);
    return bytes.buffer;
  }

  it("is unpacked lane by lane", async () => {
    const lanes = [
      { channel: "flow_temp", unit: "degC", start: 0, step: 60, count: 2, at: 0, arrays: 1 },
      { channel: "heat", unit: "watt", start: 0, step: 60, count: 2, at: 2, arrays: 3 },
    ];
    const head = {
      start: 0,
      stop: 120,
      level: "H2",
      lanes,
      state_starts: [0],
      states: ["off"],
      defrost_starts: [],
      defrost_stops: [],
    };
    const answer = new Response(packed(head, [40, 41, -3, 0, 7, 8, 2, 4]));
    vi.stubGlobal("fetch", () => Promise.resolve(answer));
    const found = await fetchWindow(1, "a", "b", 100);
    expect([...must(found.lanes[0]).low]).toEqual([40, 41]);
    expect(must(found.lanes[0]).high).toBe(must(found.lanes[0]).low);
    expect([...must(found.lanes[1]).high]).toEqual([7, 8]);
    expect([...must(must(found.lanes[1]).mean)]).toEqual([2, 4]);
  });

  it("says the server's sentence where there is none", async () => {
    const refusal = new Response(JSON.stringify({ detail: "No readings lie between these times." }), {
      status: 422,
    });
    vi.stubGlobal("fetch", () => Promise.resolve(refusal));
    await expect(fetchWindow(1, "a", "b", 100)).rejects.toThrow("No readings lie between");
  });
});
