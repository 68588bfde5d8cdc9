/** What screens share: the figure, the proof sheet, the notes, keys. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { describe, expect, it, vi } from "vitest";

import type { Figure, Reckoning, Report } from "../src/api/client";
import { useKeys } from "../src/app/keys";
import { SettingsProvider, useSettings } from "../src/app/settings";
import { Notes } from "../src/features/log/Notes";
import { Broken } from "../src/components/Broken";
import { copFormula, HonestFigure, ProofProvider } from "../src/components/Proof";
import { must } from "../src/components/must";

const figure = (value: number, U: number, decimals: number, unit = "kWh"): Figure => ({
  value,
  U,
  decimals,
  unit,
  budget: [
    { code: "method", of: "", detail: "", source: "heat meter: flow sensor", u: 0.4 * U, random: false },
    { code: "method", of: "", detail: "", source: "unit meter: MID class B", u: -0.3 * U, random: false },
  ],
});

const RECKONING: Reckoning = {
  level: "H4",
  start: 0,
  stop: 3600,
  seconds: 3600,
  covered: 3000,
  coverage: 3000 / 3600,
  method: "flow × ΔT, heat meter",
  heat_meters: ["heat meter"],
  heat_lines: [{ name: "heating", loads: "", energy: figure(6, 0.3, 2) }],
  heat: figure(6, 0.3, 2),
  electricity_lines: [
    { name: "unit meter", loads: "compressor, source, controls", energy: figure(2, 0.04, 2) },
  ],
  electricity: figure(2, 0.04, 2),
  cop: figure(3, 0.17, 2, ""),
  gross_cop: null,
  standby: figure(0.02, 0.001, 3),
  left_out: [{ reason: { code: "no_reading_of", sentence: "no reading of unit meter" }, seconds: 600 }],
  reason: null,
};

function Around({ children }: { children: ReactNode }) {
  return (
    <QueryClientProvider client={new QueryClient()}>
      <SettingsProvider>
        <ProofProvider>{children}</ProofProvider>
      </SettingsProvider>
    </QueryClientProvider>
  );
}

describe("a figure", () => {
  it("shows value and U and opens to what it stands on", async () => {
    const proof = {
      title: "COP at H4",
      about: "Nursery",
      figure: RECKONING.cop,
      formula: copFormula(RECKONING),
      reckoning: RECKONING,
    };
    render(<HonestFigure proof={proof} />, { wrapper: Around });
    const button = screen.getByRole("button");
    expect(button.textContent).toContain("3.00");
    expect(button.textContent).toContain("± 0.17");
    await userEvent.click(button);
    const sheet = screen.getByRole("dialog", { name: "Proof sheet" });
    expect(sheet.textContent).toContain("6.00 kWh ÷ 2.00 kWh = 3.00");
    expect(sheet.textContent).toContain("compressor, source, controls");
    expect(sheet.textContent).toContain("Left out: no reading of unit meter");
    expect(sheet.textContent).toContain("50 min of 60 min".replace("60 min", "1 h"));
  });

  it("that cannot be stated says why", async () => {
    render(
      <HonestFigure
        none="none"
        proof={{ title: "COP", about: "Workshop", figure: null, why: "the metering is broken" }}
      />,
      { wrapper: Around },
    );
    await userEvent.click(screen.getByRole("button"));
    expect(screen.getByRole("dialog").textContent).toContain("None: the metering is broken.");
  });

  it("has no formula without heat", () => {
    expect(copFormula({ ...RECKONING, heat: null, cop: null })).toBeUndefined();
  });
});

describe("what reading a file did", () => {
  const report = (notes: Report["notes"]): Report => ({
    file: "log.csv",
    dialect: "",
    clock: "",
    rows: 1,
    start: 0,
    stop: 60,
    step: 60,
    cells: 1,
    columns: [],
    ignored: ["note"],
    notes,
    questions: [],
  });

  it("says what was lost first", () => {
    render(
      <Notes
        report={report([
          { treatment: "converted", text: "kW to W.", count: 1 },
          { treatment: "left out", text: "Row 7: 'return_temp' is 241 °C.", count: 1 },
        ])}
      />,
    );
    const text = must(screen.getByTestId("notes").textContent);
    expect(text.indexOf("Left out")).toBeLessThan(text.indexOf("Converted"));
    expect(text).toContain("Row 7");
    expect(text).toContain("Not used: note.");
  });

  it("says so where nothing was done", () => {
    render(<Notes report={report([])} />);
    expect(screen.getByText(/Read as it is/)).toBeTruthy();
  });
});

describe("keys", () => {
  function Listener({ map }: { map: Record<string, () => void> }) {
    useKeys(map);
    return <input aria-label="field" />;
  }

  it("are heard, in sequence too", () => {
    const [next, fleet] = [vi.fn(), vi.fn()];
    render(<Listener map={{ "]": next, "g f": fleet }} />);
    fireEvent.keyDown(document.body, { key: "]" });
    fireEvent.keyDown(document.body, { key: "g" });
    fireEvent.keyDown(document.body, { key: "f" });
    expect(next).toHaveBeenCalledTimes(1);
    expect(fleet).toHaveBeenCalledTimes(1);
  });

  it("typed into a field are the field's", () => {
    const next = vi.fn();
    render(<Listener map={{ "]": next }} />);
    fireEvent.keyDown(screen.getByLabelText("field"), { key: "]" });
    fireEvent.keyDown(document.body, { key: "]", ctrlKey: true });
    expect(next).not.toHaveBeenCalled();
  });
});

describe("settings", () => {
  function Switch() {
    const { units, setUnits } = useSettings();
    return <button onClick={() => setUnits("US")}>{units}</button>;
  }

  it("are kept in this browser", async () => {
    const first = render(<Switch />, { wrapper: Around });
    await userEvent.click(screen.getByRole("button"));
    expect(screen.getByRole("button").textContent).toBe("US");
    first.unmount();
    render(<Switch />, { wrapper: Around });
    expect(screen.getByRole("button").textContent).toBe("US");
  });

  it("that are not known are not believed", () => {
    localStorage.setItem("units", "furlongs");
    render(<Switch />, { wrapper: Around });
    expect(screen.getByRole("button").textContent).toBe("SI");
  });
});

describe("a screen that fails", () => {
  it("says so, and is tried again elsewhere or when asked", () => {
    let fails = true;
    const Odd = () => {
      if (fails) throw new Error("no such figure");
      return <p>the figures</p>;
    };
    const quiet = vi.spyOn(console, "error").mockImplementation(() => undefined);
    const { rerender } = render(
      <Broken place="/a">
        <Odd />
      </Broken>,
    );
    expect(screen.getByRole("alert").textContent).toContain("nothing that was stored is lost");
    fails = false;
    rerender(
      <Broken place="/b">
        <Odd />
      </Broken>,
    );
    expect(screen.getByText("the figures")).toBeTruthy();
    quiet.mockRestore();
  });
});
