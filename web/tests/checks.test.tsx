/** The Trust screen's parts: the list of checks, what one shows, and the ways of measuring heat. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { describe, expect, it, vi } from "vitest";

import type { Check, Figure, SystemShown, TrustShown } from "../src/api/client";
import { SettingsProvider } from "../src/app/settings";
import { Checks } from "../src/features/trust/Checks";
import { Corrections } from "../src/features/trust/Corrections";
import { Missing, Methods } from "../src/features/trust/Methods";
import { answers, sent } from "./around";

vi.mock("../src/components/echarts", () => ({ useChart: () => undefined }));

const figure = (value: number, U: number, decimals: number, unit = ""): Figure => ({
  value,
  U,
  decimals,
  unit,
  budget: [],
});

const SYSTEM = { id: 3, name: "Nursery", zone: "UTC" } as SystemShown;

const check = (name: string, soundness: string, more: Partial<Check> = {}): Check => ({
  code: name.replaceAll(" ", "_") as Check["code"],
  name,
  soundness,
  sentence: `${name} says so.`,
  whole: false,
  spans: [],
  remedy: "",
  affects: [],
  proposals: [],
  effect: null,
  picture: null,
  ...more,
});

const OFFSET = check("pair offset", "doubtful", {
  remedy: "Correct the offset.",
  affects: ["heat"],
  proposals: [{ words: "-0.605 ± 0.065 K on flow_temp: at rest", correction: { kind: "offset" } }],
  effect: {
    cop_now: figure(4.3, 0.26, 2),
    cop_then: figure(3.23, 0.16, 2),
    heat_now: figure(16835, 967, 0, "kWh"),
    heat_then: figure(12662, 550, 0, "kWh"),
    electricity_now: null,
    electricity_then: null,
    ratio_now: null,
    ratio_then: null,
  },
  picture: {
    x_label: "water above the room [K]",
    y_label: "flow minus return at rest [K]",
    time: false,
    series: [{ name: "10 min", x: [2, 4, 8], y: [0.6, null, 0.5], style: "dots" }],
    limits: [{ name: "none", value: 0 }],
  },
});

const FOUND: TrustShown = {
  local: "",
  stale: false,
  level: "H4",
  cop: figure(4.3, 0.26, 2),
  coverage: 1,
  kind: "doubtful",
  brief: "doubtful",
  claims: [],
  addition: null,
  checks: [
    check("gaps", "sound"),
    check("glycol", "not checkable"),
    OFFSET,
    check("physical bound", "broken"),
  ],
  corrections: [],
  methods: [],
  reported: [],
  missing: [],
  silent: {},
  channels: ["flow_temp", "outdoor_temp"],
};

function Around({ children }: { children: ReactNode }) {
  return (
    <QueryClientProvider client={new QueryClient()}>
      <SettingsProvider>
        <MemoryRouter>{children}</MemoryRouter>
      </SettingsProvider>
    </QueryClientProvider>
  );
}

describe("the checks", () => {
  it("stand in the order of what is worst, and the first is shown", () => {
    render(<Checks system={SYSTEM} found={FOUND} />, { wrapper: Around });
    const names = screen.getAllByRole("option").map((one) => one.textContent);
    expect(names[0]).toContain("Physical bound");
    expect(names[1]).toContain("Pair offset");
    expect(names[2]).toContain("Gaps");
    expect(names[3]).toContain("not checkable");
    expect(screen.getByRole("region", { name: "Physical bound" })).toBeTruthy();
  });

  it("show the effect, the picture in words, and what to apply", async () => {
    render(<Checks system={SYSTEM} found={FOUND} />, { wrapper: Around });
    const option = screen.getByRole("option", { name: /Pair offset/ });
    expect(option.textContent).toContain("4.30 → 3.23");
    await userEvent.click(option);
    const shown = screen.getByRole("region", { name: "Pair offset" });
    const cells = within(within(shown).getByRole("table"))
      .getAllByRole("cell")
      .map((one) => one.textContent);
    expect(cells).toEqual(["COP", "4.30 ± 0.26", "3.23 ± 0.16", "Heat, kWh", "16,835 ± 967", "12,662 ± 550"]);
    expect(within(shown).getByRole("img").getAttribute("aria-label")).toContain("from 0.50 to 0.60");
    expect(shown.textContent).toContain("\u22120.605 ± 0.065 K");
    expect(within(shown).getByRole("button", { name: "Apply" })).toBeTruthy();
    expect(shown.textContent).toContain("Puts in doubt: heat");
  });
});

describe("the corrections", () => {
  it("say that there are none", () => {
    render(<Corrections system={SYSTEM} found={FOUND} />, { wrapper: Around });
    expect(screen.getByText(/every figure is made of the readings as they were logged/)).toBeTruthy();
  });

  it("each have an undo that names them", () => {
    const one = {
      index: 0,
      words: "left out: pump mode test",
      correction: {},
      since: 1_767_225_600,
      user: "analyst",
    };
    render(<Corrections system={SYSTEM} found={{ ...FOUND, corrections: [one] }} />, { wrapper: Around });
    expect(screen.getByRole("button", { name: "Undo: left out: pump mode test" })).toBeTruthy();
    expect(screen.getByRole("table").textContent).toContain("1 Jan 2026 00:00");
  });

  it("ask for what is missing before anything is sent", async () => {
    answers({ "/corrections": {} });
    render(<Corrections system={SYSTEM} found={FOUND} />, { wrapper: Around });
    await userEvent.click(screen.getByRole("button", { name: /by hand/ }));
    const form = screen.getByRole("form", { name: "Own correction" });
    await userEvent.selectOptions(within(form).getByLabelText("what"), "Add an offset");
    const apply = within(form).getByRole("button", { name: "Apply" });
    await userEvent.selectOptions(within(form).getByLabelText("to", { selector: "select" }), "flow_temp");
    await userEvent.type(within(form).getByLabelText("add"), "-0.4 K");
    await userEvent.type(within(form).getByLabelText(/U \(k = 2\)/), "0.1");
    await userEvent.click(apply);
    const said = await within(form).findAllByRole("alert");
    expect(said.map((one) => one.textContent)).toEqual(["This is no number.", "This is needed."]);
    expect(document.activeElement).toBe(within(form).getByLabelText("add"));
    expect(sent).toEqual([]);
    await userEvent.type(within(form).getByLabelText("add"), "{Backspace}{Backspace}");
    await userEvent.type(within(form).getByLabelText("why"), "found at rest");
    await userEvent.click(apply);
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toMatchObject({
      corrections: [{ kind: "offset", channel: "flow_temp", add: -0.4, U: 0.1, reason: "found at rest" }],
    });
  });
});

describe("the ways of measuring heat", () => {
  const way = (name: string, more: object) => ({
    name,
    method: "flow × ΔT",
    loads: "heat pump",
    heat: figure(1000, 60, 0, "kWh"),
    other: figure(900, 50, 0, "kWh"),
    ratio: null,
    agrees: null,
    used: false,
    hours: 24,
    one_sided: false,
    ...more,
  });

  it("are reconciled with the one in use", () => {
    const methods = [
      way("heat meter", { used: true }),
      way("register", { ratio: figure(1.11, 0.02, 2), agrees: false }),
      way("tank charge", { one_sided: true, ratio: figure(0.5, 0.1, 2), agrees: true }),
      way("display", {}),
    ];
    render(<Methods found={{ ...FOUND, methods }} />, { wrapper: Around });
    const rows = screen.getAllByRole("row").map((one) => one.textContent ?? "");
    expect(rows[1]).toContain("used");
    expect(rows[2]).toContain("they disagree");
    expect(rows[3]).toContain("not above it");
    expect(rows[4]).toContain("sensors before correction");
  });

  it("a level that lacks a meter has a range", () => {
    const between = {
      low: figure(2.9, 0.2, 1),
      high: figure(3.1, 0.2, 1),
      words: "if the pump takes 20–120 W",
    };
    render(
      <Missing
        found={{
          ...FOUND,
          missing: [
            {
              level: "H4",
              reason: { code: "not_metered", sentence: "distribution pump not metered" },
              between,
            },
          ],
        }}
      />,
      { wrapper: Around },
    );
    expect(screen.getByRole("row").textContent).toContain("COP 2.9 to 3.1 if the pump takes");
  });
});
