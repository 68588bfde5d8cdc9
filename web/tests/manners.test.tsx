/** Forms, grids and what is said in passing: as a person meets them. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Channel, SystemShown } from "../src/api/client";
import { Choices } from "../src/app/Choices";
import { Unsaved } from "../src/app/Unsaved";
import { CellButton } from "../src/components/CellButton";
import { Grid } from "../src/components/Grid";
import { numbers, words } from "../src/components/gridLook";
import { must } from "../src/components/must";
import { number, writeSo } from "../src/components/numbers";
import { useTell } from "../src/components/Told";
import { Bills } from "../src/features/log/Bills";
import { NewMeter } from "../src/features/log/NewMeter";
import { asked } from "../src/features/running/RunsGrid";
import { answers, fineForAll, sent, showAt } from "./around";

const SYSTEM = { id: 3, name: "Nursery", zone: "UTC" } as SystemShown;
const BILLS = { rows: [], stretches: [], currency: "EUR", meters: ["unit meter"] };

afterEach(() => writeSo({ numbers: "", dates: "" }));

describe("a form", () => {
  it("says what is wrong before it sends, at the field, which gets the focus", async () => {
    answers({ "/bills": BILLS });
    const { container } = showAt(<Bills system={SYSTEM} />);
    const amount = await screen.findByLabelText("Amount");
    await userEvent.type(amount, "12a");
    await userEvent.click(screen.getByRole("button", { name: "Add" }));
    const said = await screen.findByRole("alert");
    expect(said.textContent).toBe("This is no number.");
    expect(amount.getAttribute("aria-describedby")).toBe(said.id);
    expect(document.activeElement).toBe(amount);
    expect(sent).toEqual([]);
    await fineForAll(container);
    await userEvent.clear(amount);
    await userEvent.type(amount, "300,5");
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });

  it("puts what the server refuses to its field, and loses nothing", async () => {
    answers({
      "GET /api/v1/systems/3/bills": BILLS,
      "POST /api/v1/systems/3/bills": {
        refused: { detail: "first day: '30.2.' is no day; write 2026-01-22.", where: "first" },
      },
    });
    showAt(<Bills system={SYSTEM} />);
    const first = await screen.findByLabelText("First day");
    await userEvent.type(first, "30.2.");
    await userEvent.type(screen.getByLabelText("Amount"), "7");
    await userEvent.click(screen.getByRole("button", { name: "Add" }));
    expect((await screen.findByRole("alert")).textContent).toBe("'30.2.' is no day; write 2026-01-22.");
    expect(document.activeElement).toBe(first);
    expect((first as HTMLInputElement).value).toBe("30.2.");
    expect(sent.at(-1)?.body).toMatchObject({ first: "30.2.", amount: 7, kwh_per_unit: 1, cost: null });
  });

  it("asks before what was typed is left behind", async () => {
    answers({ "/bills": BILLS });
    showAt(<Bills system={SYSTEM} />);
    await userEvent.type(await screen.findByLabelText("Note"), "read by the owner");
    await userEvent.click(screen.getByText("elsewhere"));
    const dialog = await screen.findByRole("dialog", { name: "Leave without storing?" });
    await fineForAll(dialog);
    await userEvent.click(within(dialog).getByRole("button", { name: "Stay" }));
    expect(screen.getByLabelText<HTMLInputElement>("Note").value).toBe("read by the owner");
    await userEvent.click(screen.getByText("elsewhere"));
    await userEvent.click(await screen.findByRole("button", { name: "Leave" }));
    expect(await screen.findByText("another screen")).toBeTruthy();
  });

  it("lets go where nothing is at stake", async () => {
    showAt(<Unsaved when={false} what="Nothing" />);
    await userEvent.click(screen.getByText("elsewhere"));
    expect(await screen.findByText("another screen")).toBeTruthy();
  });
});

describe("a meter that only the file knows", () => {
  const channel = {
    channel: "energy",
    meaning: "electricity register",
    needed: false,
    counter: true,
    units: [],
    meter: { words: "an electricity meter", holds: ["compressor", "distribution_pump"], usual: [] },
  } satisfies Channel;

  it("is described with what it holds, and the column follows", async () => {
    answers({ "POST /api/v1/systems/3/meters": { channel: "energy:attic" } });
    const added = vi.fn();
    const close = vi.fn();
    showAt(<NewMeter system={SYSTEM} header="attic [kWh]" channel={channel} added={added} close={close} />);
    const dialog = screen.getByRole("dialog", { name: "Describe an electricity meter" });
    await fineForAll(dialog);
    expect(within(dialog).getByLabelText<HTMLInputElement>("Name").value).toBe("attic");
    await userEvent.click(within(dialog).getByLabelText("distribution pump"));
    await userEvent.click(within(dialog).getByRole("button", { name: "Add the meter" }));
    await waitFor(() => expect(added).toHaveBeenCalledWith("energy:attic"));
    expect(close).toHaveBeenCalled();
    expect(sent.at(0)?.body).toEqual({
      channel: "energy",
      name: "attic",
      includes: ["distribution_pump"],
    });
  });

  it("says at its fields what cannot be", async () => {
    answers({
      "POST /api/v1/systems/3/meters": {
        refused: { detail: "includes: say what the meter holds.", where: "includes" },
      },
    });
    const added = vi.fn();
    showAt(
      <NewMeter system={SYSTEM} header="attic" channel={channel} added={added} close={() => undefined} />,
    );
    await userEvent.click(screen.getByRole("button", { name: "Add the meter" }));
    expect((await screen.findByRole("alert")).textContent).toBe("say what the meter holds.");
    expect(added).not.toHaveBeenCalled();
  });
});

describe("what was done", () => {
  it("is said in passing, and can be taken back", async () => {
    const undo = vi.fn(() => Promise.resolve());
    function Doing() {
      const tell = useTell();
      return <button onClick={() => tell("The note is taken out.", undo)}>do</button>;
    }
    showAt(<Doing />);
    await userEvent.click(screen.getByText("do"));
    expect(await screen.findByText("The note is taken out.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    expect(undo).toHaveBeenCalledOnce();
    expect(screen.queryByText("The note is taken out.")).toBeNull();
  });

  it("says where the way back is closed", async () => {
    function Doing() {
      const tell = useTell();
      return (
        <button onClick={() => tell("Done.", () => Promise.reject(new Error("somebody was first")))}>
          do
        </button>
      );
    }
    showAt(<Doing />);
    await userEvent.click(screen.getByText("do"));
    await userEvent.click(await screen.findByRole("button", { name: "Undo" }));
    expect(await screen.findByText("Not taken back: somebody was first")).toBeTruthy();
  });
});

describe("numbers and dates", () => {
  it("are kept with the person", async () => {
    const me = { written: { numbers: "", dates: "" }, units: [], user: "ada" };
    answers({
      "GET /api/v1/me": me,
      "PUT /api/v1/me/written": { ...me, written: { numbers: "1.234,5", dates: "" } },
    });
    showAt(<Choices close={() => undefined} />);
    const dialog = screen.getByRole("dialog", { name: "Settings" });
    await fineForAll(dialog);
    const chosen = within(dialog).getByLabelText<HTMLSelectElement>("Numbers");
    await userEvent.selectOptions(chosen, "1.234,5");
    await waitFor(() => expect(chosen.value).toBe("1.234,5"));
    expect(sent.at(-1)).toEqual({
      what: "PUT /api/v1/me/written",
      body: { numbers: "1.234,5", dates: "" },
    });
  });
});

describe("a grid", () => {
  interface Row {
    id: number;
    name: string;
    kwh: number | null;
  }
  const rows: Row[] = [
    { id: 1, name: "first", kwh: 12.345 },
    { id: 2, name: "second", kwh: null },
    { id: 3, name: "third", kwh: 1200.5 },
  ];
  const shown = (pressed: (row: Row) => void) => (
    <Grid<Row>
      label="Meters"
      title="3 meters"
      disableVirtualization
      columns={[
        words("name", "Name", (row) => row.name),
        numbers("kwh", "Heat, kWh", (row) => row.kwh, 1),
        words("act", "Out", () => "", {
          sortable: false,
          shown: (row) => <CellButton onClick={() => pressed(row)}>Take out</CellButton>,
        }),
      ]}
      rows={rows}
    />
  );
  const column = (field: string) =>
    [...document.querySelectorAll(`[role=gridcell][data-field=${field}]`)].map((cell) => cell.textContent);

  it("writes numbers as people do, sorts by them, and knows what is unknown", async () => {
    const { container } = showAt(shown(() => undefined));
    expect(column("kwh")).toEqual(["12.3", "–", "1,200.5"]);
    await userEvent.click(screen.getByRole("columnheader", { name: /^Heat, kWh/ }));
    expect(column("name")).toEqual(["first", "third", "second"]);
    await userEvent.click(screen.getByRole("columnheader", { name: /^Heat, kWh/ }));
    expect(column("name")).toEqual(["third", "first", "second"]);
    await fineForAll(must(container.querySelector("[role=grid]")));
  });

  it("is walked cell by cell, and Enter presses what a cell holds", () => {
    const pressed = vi.fn();
    showAt(shown(pressed));
    const cell = must(document.querySelectorAll<HTMLElement>("[role=gridcell][data-field=act]")[2]);
    expect(cell.querySelector("button")?.tabIndex).toBe(-1);
    fireEvent.mouseUp(cell);
    fireEvent.click(cell);
    fireEvent.keyDown(cell, { key: "Enter" });
    expect(pressed).toHaveBeenCalledWith(rows[2]);
  });
});

describe("a filter of the runs", () => {
  const temp = { symbol: "°F", of: (value: number) => value * 1.8 + 32 };
  const filter = (field: string, operator: string, value: unknown) =>
    asked({ items: [{ field, operator, value }] }, temp);

  it("is asked of the server in the units of the core", () => {
    expect(filter("length", ">=", "20")).toEqual({ by: "length", least: 1200 });
    expect(filter("cop", "<=", 2.5)).toEqual({ by: "cop", most: 2.5 });
    expect(filter("outdoor", "<=", "32")).toEqual({ by: "outdoor", most: 0 });
    expect(filter("mode", "is", "hot water")).toEqual({ mode: "hot water" });
  });

  it("is none while nothing is typed", () => {
    expect(filter("cop", "<=", "")).toEqual({});
    expect(filter("cop", "<=", "x")).toEqual({});
    expect(asked({ items: [] }, temp)).toEqual({});
    expect(number(1234.5, 1)).toBe("1,234.5");
  });
});
