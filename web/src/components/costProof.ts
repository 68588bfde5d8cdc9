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
      ...cost.bands.map(
        (band) =>
          `${figureText(band.electricity, 1)} kWh × ${number(band.price, 4)} (${band.band}${band.since ? `, from ${band.since}` : ""})`,
      ),
      `${number(cost.standing, 2)} standing charge`,
    ].join(" + "),
    notes: [`${percent(cost.covered)} of the time is metered and has a price.`],
  };
}

/** The sum of what was paid at the prices of its moments. */
export const AT_MOMENTS = {
  formula: "Σ kWh × price of its moment",
  notes: ["All metered electricity meanwhile. Standing charges and tiers are of the month, not of one use."],
};
