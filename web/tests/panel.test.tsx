/** The Reckoning panel: the sum, its level, what undermines it, and its text. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";

import type { Figure, Reckoning, SpanFigures, SystemShown } from "../src/api/client";
import { ReckoningPanel } from "../src/components/ReckoningPanel";
import { ProofProvider } from "../src/components/Proof";
import { must } from "../src/components/must";
import { answers, fineForAll, sent, showAt } from "./around";

const figure = (value: number, U: number, unit: string, decimals: number): Figure => ({
  value,
  U,
  unit,
  decimals,
  budget: [],
});

const SYSTEM = { id: 3, name: "Nursery", zone: "UTC", stop: 1e9, by_air: false } as SystemShown;

function reckoning(level: string, cop: number): Reckoning {
  return {
    level,
    start: 0,
    stop: 86_400,
    seconds: 86_400,
    covered: 80_000,
    coverage: 0.926,
    heat: figure(40, 2, "kWh", 0),
    electricity: figure(40 / cop, 0.2, "kWh", 1),
    cop: figure(cop, 0.2, "", 2),
    gross_cop: null,
    heat_lines: [{ name: "heating", loads: "", energy: figure(40, 2, "kWh", 0) }],
    electricity_lines: [{ name: "unit meter", loads: "", energy: figure(40 / cop, 0.2, "kWh", 1) }],
    heat_meters: ["register"],
    left_out: [{ seconds: 6400, reason: { code: "no_reading", sentence: "no readings" } }],
    method: "heat meter",
    reason: null,
    standby: figure(0, 0, "kWh", 1),
  } as unknown as Reckoning;
}

const SPAN = {
  start: 0,
  stop: 86_400,
  local: "1 Jan 1970",
  stale: false,
  corrections: [],
  levels: [
    {
      level: "H1",
      words: "unit alone",
      reckoning: null,
      reason: { sentence: "no meter of it" },
      whole: null,
    },
    { level: "H2", words: "unit", reckoning: reckoning("H2", 4), reason: null, whole: null },
    { level: "H4", words: "with pumps", reckoning: reckoning("H4", 3.5), reason: null, whole: null },
  ],
  no_sum: null,
  doubts: [],
  trust: { kind: "sound", brief: "sound", words: "COP at H4: ± 6 %" },
  verdict: { kind: "as rated", sentence: "As rated.", doubted: false },
  comparison: null,
  comparison_reason: { code: "no_table", sentence: "No rated table is given." },
  cost: null,
  power: null,
  reported: null,
  services: [],
  cooling: null,
  eer_name: "EER",
  outdoor: figure(5, 0.5, "degC", 1),
  flow: null,
  supply: null,
  heads: [],
  runs: 12,
  defrosts: null,
  hours: {},
} as unknown as SpanFigures;

function show(span: SpanFigures, at = "/") {
  answers({ "/span": span, "/v1/systems": { rows: [] }, "/me": { units: [] }, "/figures": {} });
  return showAt(
    <ProofProvider>
      <ReckoningPanel
        system={SYSTEM}
        stretch={{ start: "1970-01-01T00:00", stop: "1970-01-02T00:00" }}
        selected={false}
      />
    </ProofProvider>,
    at,
  );
}

describe("the reckoning", () => {
  it("writes heat over electricity at the widest level, with what is left out", async () => {
    const { container } = show(SPAN);
    expect((await screen.findByTestId("cop")).textContent).toBe("3.50");
    const panel = screen.getByRole("complementary", { name: "Reckoning" });
    expect(panel.textContent).toContain("Metering sound: COP at H4: ± 6 %.");
    expect(panel.textContent).toContain("no readings");
    expect(panel.textContent).toContain("12 · not known");
    expect(panel.textContent).toContain("No rated table is given.");
    await fineForAll(container);
  });

  it("takes another level by its button or its key, and says why one cannot be had", async () => {
    const { router } = show(SPAN);
    await screen.findByTestId("cop");
    await userEvent.click(screen.getByRole("button", { name: /^H2/ }));
    await waitFor(() => expect(screen.getByTestId("cop").textContent).toBe("4.00"));
    expect(router.state.location.search).toBe("?level=H2");
    await userEvent.keyboard("4");
    await waitFor(() => expect(screen.getByTestId("cop").textContent).toBe("3.50"));
    expect(screen.getByText(/no meter of it/)).toBeTruthy();
  });

  it("opens a figure to what it stands on", async () => {
    show(SPAN);
    await userEvent.click(await screen.findByRole("button", { name: /COP at H4/ }));
    const sheet = await screen.findByRole("dialog", { name: "Proof sheet" });
    expect(sheet.textContent).toContain("40");
    await fineForAll(sheet);
  });

  it("puts what undermines the sum right below it", async () => {
    const doubt = {
      code: "pair_offset",
      name: "sensor pair",
      soundness: "doubtful",
      sentence: "At rest the pair differs by 0.6 K.",
      effect: { cop_then: figure(3.1, 0.2, "", 2) },
    };
    show({ ...SPAN, doubts: [doubt] } as unknown as SpanFigures);
    const note = await screen.findByRole("note");
    expect(note.textContent).toContain("Metering doubtful: sensor pair");
    expect(note.textContent).toContain("3.1");
    expect(
      within(note)
        .getByText(/Evidence and remedy/)
        .getAttribute("href"),
    ).toContain("check=pair_offset");
  });

  it("says that there is no sum, and why", async () => {
    show({
      ...SPAN,
      levels: [must(SPAN.levels[0])],
      no_sum: { code: "no_heat", sentence: "no heat is measured" },
    } as SpanFigures);
    expect((await screen.findByRole("note")).textContent).toContain("no heat is measured");
    expect(screen.queryByTestId("cop")).toBeNull();
  });

  it("never shows stale figures without saying so, and has them worked out", async () => {
    show({ ...SPAN, stale: true });
    await userEvent.click(await screen.findByRole("button", { name: "Work them out anew" }));
    await waitFor(() => expect(sent.map((one) => one.what)).toEqual(["PUT /api/v1/systems/3/figures"]));
  });
});
