/** The grid that is typed into: a letter writes over, a block is pasted, what is wrong is marked. */
import { fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { useKeys } from "../src/app/keys";
import { must } from "../src/components/must";
import { TypedGrid, typedColumn, type TypedRow } from "../src/components/TypedGrid";
import { fineForAll } from "./around";

const put = vi.fn();
const paste = vi.fn();
const level = vi.fn();
const ROWS: TypedRow[] = [
  { id: "a", cells: ["7", "3.1"] },
  { id: "b", cells: ["2", ""] },
];
const COLUMNS = [
  typedColumn<TypedRow>(0, "Outdoors", { unit: "°C", right: true }),
  typedColumn<TypedRow>(1, "COP", { wrong: ({ cells }) => (cells[1] ? undefined : "is missing") }),
];

function Shown() {
  useKeys({ "3": level });
  return (
    <TypedGrid label="Points" rows={ROWS} columns={COLUMNS} put={put} paste={paste} disableVirtualization />
  );
}

const cell = (row: number, column: number) =>
  must(within(must(screen.getAllByRole("row")[row])).getAllByRole("gridcell")[column]);
const clip = (text: string) => ({ clipboardData: { getData: () => text } });

describe("a grid that is typed into", () => {
  beforeEach(() => vi.clearAllMocks());

  it("writes over a cell with the first letter, and keeps it from the keys of the screen", async () => {
    render(<Shown />);
    const user = userEvent.setup();
    await user.click(cell(1, 1));
    await user.keyboard("3");
    expect(level).not.toHaveBeenCalled();
    await user.keyboard("9{Enter}");
    expect(put).toHaveBeenCalledExactlyOnceWith(0, 1, expect.stringContaining("9"));
    expect(document.activeElement).toBe(cell(2, 1));
  });

  it("leaves a cell as it was with Escape", async () => {
    render(<Shown />);
    const user = userEvent.setup();
    await user.click(cell(1, 0));
    await user.keyboard("5{Escape}");
    expect(put).not.toHaveBeenCalled();
    expect(cell(1, 0).textContent).toBe("7");
  });

  it("takes one cell where it is pasted, and a block from there on", () => {
    render(<Shown />);
    fireEvent.paste(cell(2, 1), clip(" 2.9 "));
    expect(put).toHaveBeenCalledExactlyOnceWith(1, 1, "2.9");
    fireEvent.paste(cell(2, 0), clip("1\t2\n3\t4"));
    expect(paste).toHaveBeenCalledExactlyOnceWith(1, 0, "1\t2\n3\t4");
  });

  it("marks what is wrong, and is fine for all", async () => {
    const { container } = render(<Shown />);
    expect([...cell(2, 1).classList]).toContain("wrong");
    expect([...cell(1, 1).classList]).not.toContain("wrong");
    await fineForAll(container);
  });
});
