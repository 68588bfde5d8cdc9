/** What a screen keeps in its address, so that it can be sent to somebody and found again. */
import { useCallback, useEffect } from "react";
import { useSearchParams } from "react-router";

export type Put = (next: Record<string, string | null>, push?: boolean) => void;

// A second put before the next render adds to the first, wherever it was made. Once the address has followed,
// or another screen is there, nothing is ahead of it.
let ahead: { of: string; made: URLSearchParams } | null = null;

/** The query of the address, and a way to change parts of it; what is empty goes. push : as a step that the
 * browser's Back undoes. */
export function useQueryString(): [URLSearchParams, Put] {
  const [params, setParams] = useSearchParams();
  useEffect(() => {
    ahead = null;
  }, [params]);
  const put: Put = useCallback(
    (next, push = false) => {
      const of = params.toString();
      const made = new URLSearchParams(ahead?.of === of ? ahead.made : params);
      for (const [key, value] of Object.entries(next)) {
        if (value === null || value === "") made.delete(key);
        else made.set(key, value);
      }
      ahead = { of, made };
      setParams(made, { replace: !push });
    },
    [params, setParams],
  );
  return [params, put];
}
