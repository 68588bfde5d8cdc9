/** A value that is there by what was said before it; its absence is a fault of ours and is said as one. */
export function must<T>(value: T | null | undefined): T {
  if (value === null || value === undefined) throw new Error("a value is missing that must be there");
  return value;
}
