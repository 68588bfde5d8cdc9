/** The period: calendar stretches of local days. */
import { describe, expect, it } from "vitest";

import { addDays, around, daysBetween } from "../src/app/period";

describe("days", () => {
  it("goes over the ends of months and years", () => {
    expect(addDays("2025-12-31", 1)).toBe("2026-01-01");
    expect(addDays("2024-02-28", 1)).toBe("2024-02-29");
    expect(addDays("2026-03-01", -1)).toBe("2026-02-28");
  });

  it("counts days, not hours, where clocks are moved", () => {
    // Central European clocks were moved on 29 March and 25 October 2026.
    expect(daysBetween("2026-03-28", "2026-03-30")).toBe(2);
    expect(daysBetween("2026-10-24", "2026-10-26")).toBe(2);
  });
});

describe("the stretch around a day", () => {
  it("is a week from Monday (ISO 8601)", () => {
    expect(around("week", "2026-01-22")).toEqual({ from: "2026-01-19", to: "2026-01-25" });
    expect(around("week", "2026-01-19")).toEqual({ from: "2026-01-19", to: "2026-01-25" });
    expect(around("week", "2026-01-25")).toEqual({ from: "2026-01-19", to: "2026-01-25" });
  });

  it("is a calendar month", () => {
    expect(around("month", "2024-02-10")).toEqual({ from: "2024-02-01", to: "2024-02-29" });
    expect(around("month", "2026-12-31")).toEqual({ from: "2026-12-01", to: "2026-12-31" });
  });

  it("is the heating season that a day belongs to", () => {
    expect(around("season", "2026-01-22")).toEqual({ from: "2025-10-01", to: "2026-04-30" });
    expect(around("season", "2025-10-01")).toEqual({ from: "2025-10-01", to: "2026-04-30" });
    expect(around("season", "2026-06-30")).toEqual({ from: "2025-10-01", to: "2026-04-30" });
    expect(around("season", "2026-07-01")).toEqual({ from: "2026-10-01", to: "2027-04-30" });
  });

  it("is the year up to a day", () => {
    const year = around("year", "2026-10-31");
    expect(year).toEqual({ from: "2025-11-01", to: "2026-10-31" });
    expect(daysBetween(year.from, year.to) + 1).toBe(365);
    expect(daysBetween(around("year", "2024-10-31").from, "2024-10-31") + 1).toBe(366);
  });
});
