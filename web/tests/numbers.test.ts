/** Numbers and times as people read them. */
import { afterEach, describe, expect, it } from "vitest";

import type { Figure, UnitPair } from "../src/api/client";
import {
  clock,
  dayYear,
  duration,
  figureText,
  inField,
  inUnit,
  localMinute,
  longDay,
  monthYear,
  number,
  numberIn,
  percent,
  plusMinus,
  shownIn,
  writeSo,
} from "../src/components/numbers";
import { must } from "../src/components/must";

const figure = (value: number, U: number, decimals: number | null): Figure => ({
  value,
  U,
  decimals,
  unit: "kWh",
  budget: [{ code: "method", of: "", detail: "", source: "meter", u: U / 2, random: false }],
});

const PAIRS: UnitPair[] = [
  { unit: "degC", si: { symbol: "°C", factor: 1, offset: 0 }, us: { symbol: "°F", factor: 1.8, offset: 32 } },
  {
    unit: "kWh",
    si: { symbol: "kWh", factor: 1, offset: 0 },
    us: { symbol: "kBtu", factor: 3.412142, offset: 0 },
  },
];

describe("figures", () => {
  it("have only the digits that U allows", () => {
    expect(figureText(figure(3.41234, 0.17, 2))).toBe("3.41");
    expect(plusMinus(figure(3.41234, 0.17, 2))).toBe("± 0.17");
    expect(figureText(figure(27126.3, 1613, 0))).toBe("27,126");
  });

  it("have a real minus", () => {
    expect(number(-1.35, 2)).toBe("−1.35");
  });

  it("are nothing where nothing was used", () => {
    expect(figureText(figure(0, 0, null))).toBe("0");
  });

  it("take their U along into another unit, without the offset", () => {
    const found = must(inUnit({ ...figure(2, 1.2, 1), unit: "degC" }, shownIn(PAIRS, "degC", "US")));
    expect(found.value).toBeCloseTo(35.6, 9);
    expect(found.U).toBeCloseTo(2.16, 9);
    expect(must(found.budget[0]).u).toBeCloseTo(1.08, 9);
    expect(found.unit).toBe("°F");
  });

  it("stay as they are in a unit that is not switched", () => {
    const shown = shownIn(PAIRS, "hour", "US");
    expect(shown.of(7)).toBe(7);
    expect(inUnit(null, shown)).toBeNull();
  });
});

describe("times", () => {
  // 2026-10-25T00:30Z and 01:30Z are both 02:30 in central Europe: summer time ends at 01:00Z.
  const before = Date.parse("2026-10-25T00:30:00Z") / 1000;
  const after = Date.parse("2026-10-25T01:30:00Z") / 1000;

  it("are those of the installation", () => {
    expect(clock(before, "CET")).toBe("02:30");
    expect(clock(after, "CET")).toBe("02:30");
    expect(clock(before, "UTC")).toBe("00:30");
    expect(localMinute(before, "CET")).toBe("2026-10-25T02:30");
  });

  it("write midnight as 00:00", () => {
    const midnight = Date.parse("2026-01-22T00:00:00Z") / 1000;
    expect(localMinute(midnight, "UTC")).toBe("2026-01-22T00:00");
    expect(longDay(midnight, "UTC")).toBe("Thu 22 January 2026");
  });

  it("have a length in words", () => {
    expect(duration(60 * 7)).toBe("7 min");
    expect(duration(3600 * 4.5)).toBe("4 h 30 min");
    expect(duration(3600 * 24)).toBe("24 h");
    expect(duration(86_400 * 365)).toBe("365 days");
    expect(duration(86_400 * 2.5)).toBe("2.5 days");
  });

  it("shares are not rounded up to all", () => {
    expect(percent(1)).toBe("100 %");
    expect(percent(0.998)).toBe("99.8 %");
    expect(percent(0.031)).toBe("3.1 %");
    expect(percent(0)).toBe("0 %");
  });
});

describe("as a person writes them", () => {
  afterEach(() => writeSo({ numbers: "", dates: "" }));
  const noon = Date.UTC(2026, 0, 22, 12) / 1000;

  it("are numbers in her own signs", () => {
    const shown = (["1,234.5", "1.234,5", "1 234,5", "1’234.5"] as const).map((numbers) => {
      writeSo({ numbers, dates: "" });
      return number(-12345.6, 1).replaceAll("\u202f", " ").replace("'", "’");
    });
    expect(shown).toEqual(["−12,345.6", "−12.345,6", "−12 345,6", "−12’345.6"]);
    writeSo({ numbers: "1 234,5", dates: "" });
    expect(inField(2.5)).toBe("2,5");
  });

  it("are read back, with comma or point", () => {
    for (const [text, value] of [
      ["2,5", 2.5],
      ["2.5", 2.5],
      ["0,125", 0.125],
      ["1 234,5", 1234.5],
      ["1.234,5", 1234.5],
      ["1,234.5", 1234.5],
      ["1’234.5", 1234.5],
      ["−3", -3],
      ["1,234", 1234],
      ["12a", undefined],
      ["", undefined],
    ] as const)
      expect(numberIn(text), text).toBe(value);
    writeSo({ numbers: "1.234,5", dates: "" });
    expect(numberIn("1.234")).toBe(1234);
    expect(numberIn("1,234")).toBe(1.234);
  });

  it("are dates in her own order, with English words", () => {
    const shown = (["", "Jan 22, 2026", "2026-01-22"] as const).map((dates) => {
      writeSo({ numbers: "", dates });
      return [dayYear(noon, "UTC"), longDay(noon, "UTC"), monthYear("2026-01"), clock(noon, "UTC")];
    });
    expect(shown).toEqual([
      ["22 Jan 2026", "Thu 22 January 2026", "Jan 2026", "12:00"],
      ["Jan 22, 2026", "Thu January 22, 2026", "Jan 2026", "12:00"],
      ["2026-01-22", "Thu 2026-01-22", "2026-01", "12:00"],
    ]);
  });
});
