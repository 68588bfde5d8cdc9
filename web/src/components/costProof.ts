/** The sum of a cost, for its proof. */
import type { components } from "../api/schema";
import type { Proof } from "./Proof";
import { figureText, number, percent } from "./numbers";

export function costProof(cost: components["schemas"]["CostShown"], about: string): Proof {
  return {
    title: "Cost",
    about,
    figure: cost.total,
    formula: [
      ...cost.bands.map((band) => `${figureText(band.electricity, 1)} kWh × ${band.price} (${band.band})`),
      `${number(cost.standing, 2)} standing charge`,
    ].join(" + "),
    notes: [`${percent(cost.covered)} of the time is metered.`],
  };
}
