/** The sheet of readings by hand: what a paste from a spreadsheet makes of it. */
import { describe, expect, it } from "vitest";

import {
  blank,
  cellOf,
  isBlank,
  leftOut,
  matrix,
  pasted,
  withCell,
  type Typed,
} from "../src/features/log/paste";
import { must } from "../src/components/must";

const COLUMNS = ["time", "heat", "unit meter", "note"];
const row = (time: string, heat = ""): Typed => ({ ...blank(), time, cells: heat ? { heat } : {} });

describe("cells of a spreadsheet", () => {
  it("are divided by tabs and lines, quoted where they hold either", () => {
    expect(matrix('a\tb\r\nc\t"d\te"\n"say ""so""\nand on"\tf\n\n')).toEqual([
      ["a", "b"],
      ["c", "d\te"],
      ['say "so"\nand on', "f"],
    ]);
    expect(matrix("")).toEqual([]);
    expect(matrix(" 12 ")).toEqual([["12"]]);
  });
});

describe("a paste", () => {
  it("fills from the cell on, to the right and down, and adds rows", () => {
    const next = pasted(
      [row("2026-01-01", "1"), row("2026-01-02", "2")],
      COLUMNS,
      { row: 1, column: "heat" },
      "10\t20\n11\t21",
    );
    expect(next.map((one) => [one.time, one.cells.heat, one.cells["unit meter"]])).toEqual([
      ["2026-01-01", "1", undefined],
      ["2026-01-02", "10", "20"],
      ["", "11", "21"],
    ]);
  });

  it("goes by its header where it has one, in any order", () => {
    const text = "Note\tUnit meter [kWh]\tDate\tcolour\nfirst\t20,5\t22.01.2026 07:30\tred";
    const next = pasted([], COLUMNS, { row: 0, column: "heat" }, text);
    expect(next).toEqual([
      { id: null, time: "22.01.2026 07:30", cells: { "unit meter": "20,5" }, turns: {}, note: "first" },
    ]);
    expect(leftOut(COLUMNS, text)).toEqual(["colour"]);
    expect(leftOut(COLUMNS, "10\t20")).toEqual([]);
  });

  it("drops what lies beyond the last column, and leaves the rows it was given alone", () => {
    const rows = [row("2026-01-01", "1")];
    const next = pasted(rows, COLUMNS, { row: 0, column: "note" }, "seen\tlost");
    expect(cellOf(must(next[0]), "note")).toBe("seen");
    expect(must(rows[0]).note).toBe("");
  });

  it("of nothing changes nothing", () => {
    const rows = [row("2026-01-01", "1")];
    expect(pasted(rows, COLUMNS, { row: 0, column: "time" }, "\n\n")).toBe(rows);
  });
});

describe("a row", () => {
  it("is blank until something stands in it", () => {
    expect(isBlank(blank())).toBe(true);
    expect(isBlank(withCell(blank(), "heat", "  "))).toBe(true);
    for (const column of COLUMNS) {
      const filled = withCell(blank(), column, "1");
      expect(isBlank(filled)).toBe(false);
      expect(cellOf(filled, column)).toBe("1");
    }
  });
});
