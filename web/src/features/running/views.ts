/** The views of Running, in the order of their tabs. */
export const VIEWS = [
  ["day", "Day"],
  ["runs", "Runs"],
  ["starts", "Starts"],
  ["defrosts", "Defrosts"],
  ["hot-water", "Hot water"],
  ["control", "Control"],
  ["inside", "Inside the unit"],
  ["units", "Side by side"],
] as const;

export type View = (typeof VIEWS)[number][0];

export const viewOf = (text: string | null): View => VIEWS.find(([key]) => key === text)?.[0] ?? "day";

/** The change of the address when another view is chosen: a single day widens to the latest year,
 * and is found again on the way back. */
export function change(
  from: View,
  to: View,
  day: string | null,
  left: string | null,
): Record<string, string | null> {
  if (from === "day" && to !== "day")
    return { view: to, sel: null, win: null, ...(day ? { from: null, to: null, day } : {}) };
  if (to === "day")
    return {
      view: null,
      sel: null,
      day: null,
      ...(left ? { from: left, to: left } : { from: null, to: null }),
    };
  return { view: to };
}
