/** The Log: readings typed by hand, what is said of them, and files with their reports. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";

import type { Import, SystemShown } from "../src/api/client";
import { must } from "../src/components/must";
import { Imports } from "../src/features/log/Imports";
import { Sheet } from "../src/features/log/Sheet";
import type { RowSaid, SheetShown } from "../src/features/log/useHand";
import { answers, fineForAll, sent, showAt } from "./around";

const SYSTEM = { id: 3, name: "Nursery", zone: "UTC" } as SystemShown;
const series = (name: string, symbol: string) => ({
  name,
  symbol,
  unit: symbol,
  kind: "heat",
  keeps: "register",
  meter: name,
  energy: true,
});
const row = (id: number | null, local: string, heat: string, more: Partial<RowSaid> = {}): RowSaid =>
  ({
    id,
    local,
    time: 0,
    cells: { heat, unit: "100" },
    turns: {},
    note: "",
    problems: [],
    doubts: [],
    sum: null,
    reason: null,
    user: null,
    ...more,
  }) as RowSaid;

const SHEET: SheetShown = {
  series: [series("heat", "kWh"), series("unit", "kWh")],
  rows: [row(1, "2026-01-01 08:00", "12000"), row(2, "2026-01-08 08:00", "12350")],
  level: "H4",
  level_words: "with pumps",
  level_reason: null,
  whole: null,
  from_yield: false,
};

const cell = (at: number, name: string) => {
  const grid = screen.getByRole("grid", { name: "Readings by hand" });
  const head = within(grid).getByRole("columnheader", { name: new RegExp(`^${name}`) });
  return must(
    grid.querySelector<HTMLElement>(
      `[data-rowindex="${at - 1}"] [data-field="${head.getAttribute("data-field")}"]`,
    ),
  );
};
const paste = (at: HTMLElement, text: string) =>
  fireEvent.paste(at, { clipboardData: { getData: () => text } });

async function show(checked: SheetShown = SHEET) {
  answers({ "/sheet/check": checked, "/sheet": SHEET });
  const shown = showAt(<Sheet system={SYSTEM} />);
  await screen.findByRole("grid", { name: "Readings by hand" });
  return shown;
}

describe("readings by hand", () => {
  it("are checked as they are pasted, and stored only where nothing is wrong", async () => {
    const what = "1340 kWh is less than 12350 before";
    const doubtful = row(null, "2026-01-15 08:00", "1340", {
      doubts: [{ column: "heat", what, likely: 13400, turn: null }],
    });
    const { container } = await show({ ...SHEET, rows: [...SHEET.rows, doubtful] });
    expect(cell(3, "Time").textContent).toBe("new reading");
    paste(cell(3, "Time"), "time\theat\tcolour\n2026-01-15 08:00\t1340\tred");
    expect((await screen.findByText(/has no column/)).textContent).toContain("‘colour’");
    const said = await screen.findByTestId("row-says");
    expect(said.textContent).toContain(what);
    await waitFor(() => expect([...cell(3, "heat").classList]).toContain("wrong"));
    const store = screen.getByRole("button", { name: "Store 1 row" });
    await waitFor(() => expect((store as HTMLButtonElement).disabled).toBe(false));
    await fineForAll(container);
    await userEvent.click(within(said).getByRole("button", { name: "Take 13,400" }));
    expect(cell(3, "heat").textContent).toBe("13400");
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    expect(cell(3, "heat").textContent).toBe("1340");
  });

  it("keep what cannot be from being stored", async () => {
    await show({
      ...SHEET,
      rows: [row(1, "soon", "12000", { problems: [{ column: "time", what: "no time" }] } as never)],
    });
    paste(cell(1, "Time"), "soon");
    expect((await screen.findByTestId("row-says")).textContent).toContain("no time");
    const store = screen.getByRole("button", { name: "Store 1 row" }) as HTMLButtonElement;
    expect(store.disabled).toBe(true);
    expect(sent.filter((one) => one.what.startsWith("PUT"))).toEqual([]);
  });

  it("are taken out by rows, and kept again", async () => {
    await show();
    await userEvent.click(screen.getByRole("button", { name: "Take row 2 out" }));
    const store = screen.getByRole("button", { name: "Store 1 row" }) as HTMLButtonElement;
    await waitFor(() => expect(store.disabled).toBe(false));
    await userEvent.click(store);
    await waitFor(() =>
      expect(sent.find((one) => one.what.startsWith("PUT"))?.body).toEqual({ rows: [], gone: [2] }),
    );
  });
});

describe("files that were imported", () => {
  const batch = (id: number, state: string): Import =>
    ({
      id,
      state,
      file: `part-${id}.csv`,
      rule: "fill",
      rows: 1000 * id,
      start: 0,
      stop: 86_400,
      step: 60,
      created: 0,
      report: { notes: [], log: null },
    }) as unknown as Import;

  it("are taken out and put back, each once", async () => {
    answers({
      "/imports": [batch(2, "stored"), batch(1, "undone")],
      "/2/undo": { id: 9, state: "waiting" },
    });
    showAt(<Imports system={SYSTEM} />);
    const grid = await screen.findByRole("grid", { name: "Imports" });
    const [, first, second] = within(grid).getAllByRole("row");
    expect(must(second).className).toContain("undone");
    expect(within(must(second)).getByRole("button", { name: "Put back" })).toBeTruthy();
    await userEvent.click(within(must(first)).getByRole("button", { name: "Undo" }));
    await waitFor(() => expect(sent.map((one) => one.what)).toEqual(["POST /api/v1/imports/2/undo"]));
  });
});
