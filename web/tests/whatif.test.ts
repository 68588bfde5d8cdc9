/** What goes to the server of a what-if: empty fields ask for nothing, and units are the core's. */
import { describe, expect, it } from "vitest";

import { asTyped, BLANK } from "../src/features/money/WhatIfForm";

const KELVIN = { symbol: "K", of: (value: number) => value };
const FAHRENHEIT = { symbol: "°F", of: (value: number) => value * 1.8 };

describe("what is asked", () => {
  it("is nothing while nothing is typed", () => {
    expect(asTyped(BLANK, KELVIN)).toEqual({
      flow_lower: 0,
      fewer_starts: 0,
      defrosts_as_expected: false,
      hot_water_lower: 0,
      heaters_off: false,
      table: null,
      store: null,
      tariff: null,
    });
  });

  it("is in the core's units: kelvins and shares", () => {
    const typed = { ...BLANK, flow_lower: 9, fewer_starts: 25, hot_water_lower: 3.6 };
    const sent = asTyped(typed, FAHRENHEIT);
    expect(sent.flow_lower).toBeCloseTo(5);
    expect(sent.fewer_starts).toBe(0.25);
    expect(sent.hot_water_lower).toBeCloseTo(2);
  });

  it("has a store only where one is chosen, a tariff only with a price", () => {
    const sent = asTyped({ ...BLANK, store: "tank", swing: 9, cheap: 0.1 }, FAHRENHEIT);
    expect(sent.store).toEqual({ kind: "tank", kwh_k: null, swing_k: 5, kwh: null, efficiency: 0.9 });
    expect(sent.tariff).toBeNull();
    const priced = asTyped({ ...BLANK, price: 0.3, cheap: NaN }, KELVIN);
    expect(priced.tariff).toEqual({
      price: 0.3,
      standing_charge: 0,
      cheap: null,
      cheap_from: "00:30",
      cheap_to: "05:30",
    });
  });
});
