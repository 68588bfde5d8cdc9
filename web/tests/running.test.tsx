/** Views of Running, lanes by choice, and what a picture holds. */
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import type { Lane, Window } from "../src/api/window";
import { Facts } from "../src/components/Facts";
import { LanesMenu } from "../src/features/running/Bar";
import { channelWords, layout, optionOf, rowsOf } from "../src/features/running/lanes";
import { hoursOption } from "../src/features/running/Runs";
import { drawing } from "../src/features/running/save";
import { STATES } from "../src/features/running/states";
import { change, viewOf } from "../src/features/running/views";
import { shadeOf } from "../src/app/theme";
import { must } from "../src/components/must";

function lane(channel: string, values: number[]): Lane {
  const low = Float32Array.from(values);
  return { channel, unit: "degC", start: 0, step: 60, count: values.length, low, high: low, mean: null };
}

function windowOf(...lanes: Lane[]): Window {
  return {
    start: 0,
    stop: 600,
    level: "H2",
    lanes,
    stateStarts: [0, 300],
    states: ["heating", "defrost"],
    defrostStarts: [300],
    defrostStops: [600],
    runStarts: [0],
    runStops: [600],
    leftOut: [],
    further: ["room_temp"],
    basis: {},
  };
}

describe("views", () => {
  it("are those of the address, a day where it names none", () => {
    expect(viewOf("starts")).toBe("starts");
    expect(viewOf("nonsense")).toBe("day");
    expect(viewOf(null)).toBe("day");
  });

  it("widen a single day to the latest year and find it again", () => {
    expect(change("day", "runs", "2026-01-14", null)).toEqual({
      view: "runs",
      sel: null,
      win: null,
      from: null,
      to: null,
      day: "2026-01-14",
    });
    expect(change("runs", "day", null, "2026-01-14")).toEqual({
      view: null,
      sel: null,
      day: null,
      from: "2026-01-14",
      to: "2026-01-14",
    });
  });

  it("keep a longer period as it is", () => {
    expect(change("day", "runs", null, null)).toEqual({ view: "runs", sel: null, win: null });
    expect(change("runs", "starts", "2026-01-14", "2026-01-13")).toEqual({ view: "starts" });
  });
});

describe("lanes by choice", () => {
  const shown = windowOf(
    lane("flow_temp", [40]),
    lane("return_temp", [35]),
    lane("room_temp", [20]),
    lane("outdoor_humidity", [90]),
  );

  it("hide what is hidden and show what was asked for", () => {
    expect(rowsOf(shown, [], "SI").map((row) => row.key)).toEqual(["water"]);
    expect(rowsOf(shown, [], "SI", [], ["room_temp", "outdoor_humidity"]).map((row) => row.key)).toEqual([
      "water",
      "humidity",
      "room",
    ]);
    expect(rowsOf(shown, [], "SI", ["water"], ["room_temp"]).map((row) => row.key)).toEqual(["room"]);
  });

  it("name several of a kind by their labels and give each its colour", () => {
    const [air] = rowsOf(
      windowOf(
        ...["a", "b"].flatMap((head) => [
          lane(`supply_air_temp:${head}`, [30]),
          lane(`return_air_temp:${head}`, [20]),
        ]),
      ),
      [],
      "SI",
    );
    expect(must(air).drawn.map((one) => one.name)).toEqual([
      "return, a",
      "return, b",
      "supply, a",
      "supply, b",
    ]);
    expect(new Set(must(air).drawn.map((one) => one.colour)).size).toBe(4);
  });

  it("say channels in words", () => {
    expect(channelWords("flow_temp:secondary")).toBe("flow temp, secondary");
    expect(channelWords("room_temp")).toBe("room temp");
  });

  it("are chosen in a menu", async () => {
    const choose = vi.fn();
    render(
      <LanesMenu
        present={[{ key: "water", title: "Water" }]}
        further={["room_temp"]}
        choice={{ hidden: [], further: [] }}
        choose={choose}
      />,
    );
    await userEvent.click(screen.getByRole("button", { name: /Lanes/ }));
    await userEvent.click(screen.getByLabelText("room temp"));
    expect(choose).toHaveBeenLastCalledWith({ hidden: [], further: ["room_temp"] });
    await userEvent.click(screen.getByLabelText("Water"));
    expect(choose).toHaveBeenLastCalledWith({ hidden: ["water"], further: [] });
  });
});

describe("a drawing", () => {
  it("holds the states, the defrosts, the lanes and the time", () => {
    const shown = windowOf(lane("flow_temp", [40, 41]), lane("return_temp", [35, 36]));
    const rows = rowsOf(shown, [], "SI");
    const svg = drawing(
      {
        title: "House <1>",
        window: shown,
        rows,
        places: layout(rows, 200),
        option: optionOf(shown, rows, 200, shadeOf("light")),
        labels: [{ at: 300, text: "00:05" }],
        width: 400,
        height: 200,
      },
      shadeOf("light"),
    );
    const made = new DOMParser().parseFromString(svg, "image/svg+xml");
    expect(made.querySelector("parsererror")).toBeNull();
    expect(made.documentElement.textContent).toContain("House <1>");
    expect(made.documentElement.textContent).toContain("return, flow");
    expect(made.documentElement.textContent).toContain("00:05");
    expect(made.querySelectorAll(":scope > rect")).toHaveLength(3); // the ground and two states
  });
});

describe("small parts", () => {
  it("every state has a colour, and a letter but for off", () => {
    for (const [name, state] of Object.entries(STATES)) {
      expect(state.tone).not.toBe("");
      if (name !== "off") expect(state.letter).not.toBe("");
    }
  });

  it("facts leave out what is not known at all", () => {
    render(<Facts facts={[{ name: "defrosts", value: "12", note: "expected 11" }, null]} />);
    expect(screen.getByText("defrosts")).toBeTruthy();
    expect(screen.getByText("12")).toBeTruthy();
    expect(document.querySelectorAll("dt")).toHaveLength(1);
  });

  it("hours of the day stand in the middle of their hour", () => {
    const option = hoursOption([1, null, 3], "heating", shadeOf("light"), 1) as {
      series: { data: unknown[] }[];
    };
    expect(must(option.series[0]).data).toEqual([
      [0.5, 1],
      [1.5, null],
      [2.5, 3],
    ]);
  });
});
