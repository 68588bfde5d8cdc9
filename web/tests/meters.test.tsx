/** The meters of Set up: what each serves, and in which figures it takes part. */
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";

import { Meters } from "../src/features/setup/Meters";
import type { Draft } from "../src/features/setup/draft";
import type { SetUp } from "../src/features/setup/Fields";
import { must } from "../src/components/must";

const DRAFT = {
  electricity: [
    {
      name: "house meter",
      channel: "energy",
      includes: ["compressor"],
      accuracy: "B",
      place: "",
      serves: "all",
      resolution_kwh: null,
    },
  ],
  circuits: [],
  registers: [
    {
      name: "heat",
      channel: "heat_energy",
      includes: ["heat_pump"],
      accuracy_class: 3,
      nominal_flow_m3h: 2.5,
      resolution_kwh: 1,
      circuit: null,
      set_for_water: true,
      in_service: true,
      place: "",
      serves: "all",
    },
  ],
  fluid: { kind: "water", mass_fraction: 0 },
} as unknown as Draft;
const SETUP = {
  accuracies: [{ value: "B", words: "MID class B" }],
  heat_sources: [{ value: "heat_pump", words: "heat pump" }],
  probes: [],
  logged: [],
  choices: {
    serves: ["all", "heating", "hot_water", "cooling"].map((value) => ({
      value,
      words: value.replace("_", " "),
    })),
  },
} as unknown as SetUp;

describe("the meters", () => {
  it("say in which figures they take part, and in none", () => {
    render(
      <Meters
        setup={SETUP}
        draft={DRAFT}
        edit={vi.fn()}
        problems={[]}
        parts={{ "house meter": ["the whole: H4", "heating: H2"], heat: [] }}
      />,
    );
    expect(screen.getByText("the whole: H4; heating: H2")).toBeTruthy();
    expect(screen.getByText("in no figure")).toBeTruthy();
  });

  it("change what a meter serves, and nothing else", async () => {
    const edit = vi.fn<(draft: Draft) => void>();
    render(<Meters setup={SETUP} draft={DRAFT} edit={edit} problems={[]} parts={{}} />);
    await userEvent.selectOptions(screen.getByLabelText("heat serves"), "hot_water");
    const next = must(edit.mock.calls[0])[0];
    expect(must(next.registers[0]).serves).toBe("hot_water");
    expect(next.electricity).toEqual(DRAFT.electricity);
  });
});
