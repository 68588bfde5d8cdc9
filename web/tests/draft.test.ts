import { numberOf } from "../src/components/NumberField";
/** A description that is being changed. */
import { describe, expect, it } from "vitest";

import {
  added,
  changed,
  toggleConsumer,
  toggled,
  toggleThere,
  type Draft,
} from "../src/features/setup/draft";
import { must } from "../src/components/must";

const DRAFT: Draft = {
  name: "Nursery",
  zone: "WET",
  electricity: [
    {
      name: "unit meter",
      channel: "power:unit",
      includes: ["compressor", "source"],
      accuracy: "B",
      place: "",
      serves: "all",
      resolution_kwh: null,
    },
    {
      name: "pump meter",
      channel: "power:pump",
      includes: ["distribution_pump"],
      accuracy: "B",
      place: "",
      serves: "all",
      resolution_kwh: null,
    },
  ],
  circuits: [],
  registers: [],
  air: [],
  reported: [],
  yields: [],
  fixed: [],
  refrigerant: null,
  idle: [],
  consumers: ["compressor", "source", "distribution_pump"],
  unit: {
    kind: "air_to_water",
    capacity_kw: 8,
    minimum_output_kw: null,
    low_outdoor_limit: null,
    variable_speed: true,
  },
  fluid: { kind: "water", mass_fraction: 0 },
  property: null,
  location: null,
  house: {
    floor_area_m2: null,
    heat_loss_kw: null,
    design_outdoor: null,
    design_indoor: 20,
    design_flow: null,
    emitters: null,
    built: null,
    airtightness_ach50: null,
    curve: null,
  },
  tank: null,
  replaced: null,
  sensors: [],
  by_hand: [],
  outdoor: { channel: "outdoor_temp", limit_k: 1 },
  tariff: null,
  supply: null,
  carbon: null,
  units: null,
};

describe("a draft", () => {
  it("puts a consumer in and out of a meter, and leaves the first draft alone", () => {
    const put = toggleConsumer(DRAFT, 1, "controls");
    expect(must(put.electricity[1]).includes).toEqual(["distribution_pump", "controls"]);
    expect(put.consumers).toContain("controls");
    expect(must(toggleConsumer(put, 1, "controls").electricity[1]).includes).toEqual(["distribution_pump"]);
    expect(must(DRAFT.electricity[1]).includes).toEqual(["distribution_pump"]);
  });

  it("takes a consumer that is not there out of every meter", () => {
    const gone = toggleThere(DRAFT, "source");
    expect(gone.consumers).not.toContain("source");
    expect(must(gone.electricity[0]).includes).toEqual(["compressor"]);
    expect(must(toggleThere(gone, "source").electricity[0]).includes).toEqual(["compressor"]);
  });

  it("changes one entry of a list", () => {
    const next = changed(DRAFT, "electricity", 0, { accuracy: "C" });
    expect(must(next.electricity[0]).accuracy).toBe("C");
    expect(next.electricity[1]).toBe(DRAFT.electricity[1]);
  });

  it("reads numbers with either decimal sign, and keeps what is none", () => {
    expect(numberOf("0,31")).toBe(0.31);
    expect(numberOf(" 8.5 ")).toBe(8.5);
    expect(numberOf("")).toBeNull();
    expect(numberOf("eight")).toBeUndefined();
    expect(toggled(["a"], "b")).toEqual(["a", "b"]);
  });
});

describe("a new entry", () => {
  it("is the core's, under a name and channels that are not taken", () => {
    const fresh = {
      name: "heat meter",
      flow_rate: "flow_rate",
      flow_temp: "flow_temp",
      return_temp: "return_temp",
    };
    const once = added(DRAFT, "circuits", fresh);
    const twice = added(once, "circuits", fresh);
    expect(must(once.circuits[0])).toMatchObject({ name: "heat meter", flow_rate: "flow_rate" });
    expect(must(twice.circuits[1])).toMatchObject({ name: "heat meter 2", return_temp: "return_temp:2" });
    const meter = added(DRAFT, "electricity", { name: "meter", channel: "power:meter", includes: [] });
    expect(must(meter.electricity[2])).toMatchObject({ name: "meter 3", channel: "power:meter3" });
  });

  it("holds no consumer that the house has not", () => {
    const pump = { name: "pump", includes: ["distribution_pump"], watts: 45 };
    expect(must(added(DRAFT, "fixed", pump).fixed[0]).includes).toEqual(["distribution_pump"]);
    const without = { ...DRAFT, consumers: ["compressor"] };
    expect(must(added(without, "fixed", pump).fixed[0]).includes).toEqual([]);
  });
});
