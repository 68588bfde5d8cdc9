import { render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";

import type { RatedShown, SheetShown, SystemShown } from "../src/api/client";
import type { Shown } from "../src/components/numbers";
import { DeclaredForm } from "../src/features/rating/DeclaredForm";
import { Gauge } from "../src/features/rating/Gauge";
import {
  headOf,
  BLANK,
  cellsOf,
  header,
  tableOf,
  textOf,
  thousands,
  type Cells,
} from "../src/features/rating/sheet";
import { must } from "../src/components/must";
import { answers, fineForAll, sent, showAt } from "./around";

const celsius: Shown = { symbol: "°C", of: (t) => t };
const fahrenheit: Shown = { symbol: "°F", of: (t) => t * 1.8 + 32 };
const watts: Shown = { symbol: "W", of: (w) => w };
const btu: Shown = { symbol: "Btu/h", of: (w) => w * 3.412142 };
const SI = { temp: celsius, power: watts };
const US = { temp: fahrenheit, power: btu };
const point = { outdoor: 7, flow: 35, capacity_kw: 8, cop: 4.4, speed: "nominal", airflow_m3h: null };

describe("the rated sheet", () => {
  it("shows a point in either system", () => {
    expect(cellsOf(point, SI)).toEqual(["7", "35", "8", "", "4.4", "nominal", ""]);
    expect(cellsOf(point, US).slice(0, 3)).toEqual(["44.6", "95", "27.3"]);
  });

  it("says in the header what the cells are in", () => {
    expect(header(SI)).toContain("outdoor [°C]\tflow [°C]\tcapacity [kW]");
    expect(header(US)).toContain("capacity [kBtu/h]");
  });

  it("counts power in thousands", () => {
    expect(thousands(watts).of(8)).toBe(8);
    expect(thousands(btu).of(8)).toBeCloseTo(27.297, 3);
    expect(thousands({ symbol: "kW", of: (w) => w / 1000 })).toMatchObject({ symbol: "kW" });
  });

  it("sends what is typed, without empty rows, and the COP before an input beside it", () => {
    const rows: Cells[] = [["7", "35", "8", "1.8", "4.4", "nominal", ""], [...BLANK]];
    const lines = textOf(rows, SI, false).split("\n");
    expect(lines[0]).toBe("# includes defrost: no");
    expect(lines).toHaveLength(3);
    expect(lines[2]).toBe("7\t35\t8\t\t4.4\tnominal\t");
  });

  it("leaves a missing value empty", () => {
    expect(cellsOf({ ...point, flow: null, cop: null, speed: null }, SI)).toEqual([
      "7",
      "",
      "8",
      "",
      "",
      "nominal",
      "",
    ]);
  });

  it("saves the rows as the server read them", () => {
    const entry = { ...point, row: 2, input_kw: null, standard: "A7/W35", used: true };
    const sheet: SheetShown = {
      text: "",
      entries: [entry, { ...entry, row: 3, cop: 40, used: false }],
      units: {},
      assumed: [],
      doubts: [],
      usable: true,
      includes_defrost: null,
    };
    const made = tableOf(sheet, { ...headOf("water", null), name: " " });
    expect(made.name).toBeNull();
    expect(made.points).toEqual([point]);
  });
});

describe("the gauge", () => {
  const left = (box: HTMLElement) =>
    [...box.querySelectorAll("i")].map((one) => parseFloat(getComputedStyle(one).left));
  it("puts the threshold between the value and the fault's side", () => {
    const { container } = render(<Gauge value={0.8} U={0.06} threshold={0.9} above={false} />);
    const [, , threshold, low] = left(container);
    expect(low).toBeLessThan(must(threshold));
    const wash = must(container.querySelector("i"));
    expect(parseFloat(getComputedStyle(wash).left)).toBe(0);
  });
  it("washes the other side where the fault lies above", () => {
    const { container } = render(<Gauge value={60} U={1} threshold={55} above />);
    expect(parseFloat(getComputedStyle(must(container.querySelector("i"))).left)).toBeGreaterThan(0);
  });
});

describe("the declared points", () => {
  const declared = (climate: string, flow: number) => ({
    climate,
    level: 35,
    variable: true,
    design_load_kw: null,
    bivalent: null,
    low_limit: null,
    thermostat_off: null,
    standby: null,
    crankcase: null,
    off: null,
    points: [{ name: "A", outdoor: -7, flow, capacity_kw: null, cop: null, cc: null }],
  });
  const rated = {
    declared: null,
    declared_scop: null,
    blanks: [declared("average", 34), declared("colder", 30)],
  } as unknown as RatedShown;

  it("go as they are typed, and say which is no number", async () => {
    answers({ "/declared": rated, "/me": { units: [] } });
    const { container } = showAt(
      <DeclaredForm system={{ id: 3 } as SystemShown} rated={rated} temp={celsius} />,
    );
    await userEvent.click(screen.getByRole("button", { name: "Type the declared points" }));
    await userEvent.type(screen.getByLabelText("A COP"), "2,75x");
    await userEvent.type(screen.getByLabelText("Design load kW"), "7");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toBe("A COP: This is no number.");
    expect(document.activeElement).toBe(screen.getByLabelText("A COP"));
    await fineForAll(container);
    await userEvent.type(screen.getByLabelText("A COP"), "{Backspace}");
    await userEvent.selectOptions(screen.getByLabelText("Climate"), "colder");
    await userEvent.selectOptions(screen.getByLabelText("Outlet"), "fixed");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toMatchObject({
      climate: "colder",
      variable: false,
      design_load_kw: 7,
      points: [{ name: "A", flow: 35, cop: 2.75, capacity_kw: null }],
    });
  });
});
