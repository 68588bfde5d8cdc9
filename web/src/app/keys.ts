/** Keys of the whole application. A key typed into a field is the field's. */
import { useEffect, useRef } from "react";

export type KeyMap = Record<string, () => void>;

const FIELDS = ["INPUT", "TEXTAREA", "SELECT"];

/** Listens while mounted; a two-letter name such as "g f" is a sequence. */
export function useKeys(map: KeyMap): void {
  const current = useRef(map);
  useEffect(() => {
    current.current = map;
  });
  const before = useRef<{ key: string; at: number }>({ key: "", at: 0 });
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (FIELDS.includes(target.tagName) || target.isContentEditable) return;
      if (target.closest(".typed")) return; // a letter on a cell of a sheet begins to write into it
      if (document.querySelector('[role="dialog"]')) return;
      const sequence = event.timeStamp - before.current.at < 2000 ? `${before.current.key} ${event.key}` : "";
      const found = current.current[sequence] ?? current.current[event.key];
      before.current = { key: event.key, at: event.timeStamp };
      if (found) {
        event.preventDefault();
        found();
      }
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
}

/** What the help lists. */
export const KEYS: [string, string][] = [
  ["t", "on the chart or the season ribbon: the table behind it"],
  ["[  ]", "previous, next day or period"],
  ["d  D", "next, previous defrost"],
  ["s  S", "next, previous start"],
  ["e", "leave the selection out of every sum"],
  ["c", "say what the unit did in the selection"],
  ["n", "in Running: a note at the cursor; in the Log under Noted: write a note"],
  ["⏎", "on the chart: select the run at the cursor"],
  ["v  V", "in Running: next, previous view"],
  ["z  Z", "zoom to the selection, back to the day"],
  ["← →", "on the chart: move the cursor; with Shift: select; Esc: select nothing"],
  ["⏎  F2", "on a cell of a sheet: go into it; a letter writes over it, Esc leaves it as it was"],
  ["1 – 4", "boundary level H1 – H4"],
  ["g f", "go to Fleet"],
  ["g u", "go to Set up"],
  ["g l", "go to Log"],
  ["g h", "go to Trust"],
  ["g r", "go to Running"],
  ["g t", "go to Rating"],
  ["g s", "go to Season"],
  ["g m", "go to Money"],
  ["g c", "go to Changes"],
  ["↑ ↓ ⏎", "in the sheet of readings by hand: the row above, below"],
  ["/", "find an installation"],
  ["u", "SI or US units"],
  ["?", "these keys"],
];
