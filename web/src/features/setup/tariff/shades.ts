/** How prices are drawn: the dearer the darker, each with a letter. */
import type { SystemStyleObject } from "@mui/system";

export const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
export const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** The letter of a band, or the figure that it is counted by; of the hours that none names for −1. */
export const letterOf = (k: number, name: string): string =>
  k < 0 ? "·" : (/\d$/.exec(name.trim())?.[0] ?? name.trim()[0] ?? String(k + 1)).toUpperCase();

/** Ground and ink of a price by its rank, 0 the lowest and 1 the highest. */
export function shadeOf(rank: number | undefined): SystemStyleObject {
  const share = rank === undefined ? 0 : Math.round(10 + 80 * rank);
  return {
    background: `color-mix(in srgb, var(--ink) ${share}%, var(--sheet))`,
    color: share > 45 ? "var(--sheet)" : "var(--ink)",
  };
}

/** Months as they are said. */
export function seasonOf(months: number[]): string {
  if (months.length === 12) return "all year";
  return months.map((month) => MONTHS[month - 1]).join(" ");
}
