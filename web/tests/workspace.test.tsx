/** The chart of readings by pointer and keys: cursor, brush, runs, selection, the table behind. */
import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterAll, beforeEach, describe, expect, it, vi } from "vitest";

import type { Stretch } from "../src/api/hooks";
import type { Window } from "../src/api/window";
import { LEFT, RIGHT } from "../src/features/running/lanes";
import { Workspace } from "../src/features/running/Workspace";
import { answers, fineForAll, showAt } from "./around";

vi.mock("../src/components/echarts", () => ({ useChart: () => undefined }));

const HOUR = 3600;
const low = Float32Array.from({ length: 1440 }, (_, k) => 30 + (k % 10));
const WINDOW: Window = {
  start: 0,
  stop: 24 * HOUR,
  level: "H2",
  lanes: [
    { channel: "flow_temp", unit: "degC", start: 0, step: 60, count: 1440, low, high: low, mean: null },
  ],
  stateStarts: [0],
  states: ["heating"],
  defrostStarts: [],
  defrostStops: [],
  runStarts: [2 * HOUR, 10 * HOUR],
  runStops: [4 * HOUR, 11 * HOUR],
  leftOut: [{ start: 5 * HOUR, stop: 6 * HOUR, reason: "pump mode test" }],
  further: [],
  basis: {},
};

const acts = { leaveOut: vi.fn(), setState: vi.fn(), note: vi.fn(), unzoom: vi.fn() };
const selected = vi.fn();

function Shown() {
  const [cursor, setCursor] = useState<number | null>(null);
  const [sel, setSel] = useState<Stretch | null>(null);
  return (
    <Workspace
      window={WINDOW}
      zone="UTC"
      step={60}
      zoomed={false}
      cursor={cursor}
      setCursor={setCursor}
      sel={sel}
      select={(next) => {
        selected(next);
        setSel(next);
      }}
      choice={{ hidden: [], further: [] }}
      choose={() => undefined}
      title="Nursery"
      csv="/csv"
      marked={[{ at: HOUR, words: "hum in the bedroom" }]}
      noted={null}
      {...acts}
    />
  );
}

function show() {
  Object.defineProperty(HTMLElement.prototype, "clientWidth", { configurable: true, value: 1000 });
  answers({ "/me": { units: [] } });
  const shown = showAt(<Shown />);
  const chart = screen.getByTestId("workspace");
  chart.setPointerCapture = () => undefined;
  return { ...shown, chart };
}

describe("the chart of readings", () => {
  beforeEach(() => vi.clearAllMocks());
  afterAll(() => Reflect.deleteProperty(HTMLElement.prototype, "clientWidth"));

  it("moves its cursor by the arrows and selects with Shift", async () => {
    const { chart, container } = show();
    chart.focus();
    await userEvent.keyboard("{ArrowRight}{ArrowRight}");
    expect(container.textContent).toContain("1 Jan 12:20");
    await userEvent.keyboard("{Shift>}{ArrowRight}{ArrowRight}{/Shift}");
    expect(selected).toHaveBeenLastCalledWith({ start: "1970-01-01T12:20", stop: "1970-01-01T12:40" });
    expect(screen.getByTestId("selection")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Leave out (e)" }));
    expect(acts.leaveOut).toHaveBeenCalledOnce();
    await userEvent.click(screen.getByRole("button", { name: /Select nothing/ }));
    expect(selected).toHaveBeenLastCalledWith(null);
  });

  it("selects the run at the cursor, and says which it is", async () => {
    const { chart, container } = show();
    chart.focus();
    await userEvent.keyboard("{PageDown>1}{/PageDown}{PageUp}{PageUp}"); // 12:00 + 2 h − 4 h
    expect(container.textContent).toContain("run of 10:00 to 11:00");
    await userEvent.keyboard("{Enter}");
    expect(selected).toHaveBeenLastCalledWith({ start: "1970-01-01T10:00", stop: "1970-01-01T11:00" });
  });

  it("takes the ends of runs that a brush comes near", () => {
    const { chart } = show();
    const px = (hours: number) => LEFT + (hours / 24) * (1000 - LEFT - RIGHT);
    const at = (what: string, hours: number) =>
      fireEvent(chart, new MouseEvent(what, { bubbles: true, clientX: px(hours) }));
    at("pointerdown", 2.1); // some 4 px from where the run begins
    at("pointermove", 3.9);
    at("pointerup", 3.9);
    expect(selected).toHaveBeenLastCalledWith({ start: "1970-01-01T02:00", stop: "1970-01-01T04:00" });
    at("pointerdown", 6.5); // near none
    at("pointermove", 8);
    at("pointerup", 8);
    expect(selected).toHaveBeenLastCalledWith({ start: "1970-01-01T06:30", stop: "1970-01-01T08:00" });
  });

  it("shows the readings as a table, and is fine for all", async () => {
    const { chart, container } = show();
    chart.focus();
    await userEvent.keyboard("t");
    const table = await screen.findByRole("dialog");
    expect(table.textContent).toContain("flow temp");
    await userEvent.keyboard("{Escape}");
    await fineForAll(container);
  });
});
