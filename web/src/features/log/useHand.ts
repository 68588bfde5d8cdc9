/** The sheet of readings by hand while it is worked on: what is typed, undone, taken out, and said of it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import { api, got } from "../../api/client";
import type { components } from "../../api/schema";
import { must } from "../../components/must";
import { blank, isBlank, leftOut, pasted, withCell, type Typed } from "./paste";

export type SheetShown = components["schemas"]["SheetShown"];
export type RowSaid = components["schemas"]["RowShown"];
export type Doubt = components["schemas"]["DoubtShown"];

const STEPS = 50; // that can be undone

const typed = (row: RowSaid): Typed => ({
  id: row.id,
  time: row.local,
  cells: { ...row.cells },
  turns: row.turns as Typed["turns"],
  note: row.note,
});

export function useHand(pk: number, sheet: SheetShown) {
  const stored = useMemo(() => sheet.rows.map(typed), [sheet]);
  const [rows, setRows] = useState<Typed[]>(stored);
  const [gone, setGone] = useState<number[]>([]);
  const [before, setBefore] = useState<Typed[][]>([]);
  const [lost, setLost] = useState<string[]>([]);
  const [last, setLast] = useState(stored);
  const queries = useQueryClient();
  if (last !== stored) {
    setLast(stored);
    setRows(stored);
    setGone([]);
    setBefore([]);
    setLost([]);
  }

  const columns = useMemo(() => ["time", ...sheet.series.map((one) => one.name), "note"], [sheet]);
  const same = useMemo(() => new Map(stored.map((row) => [row.id, JSON.stringify(row)])), [stored]);
  const changed = rows.filter(
    (row) =>
      !isBlank(row) &&
      (row.id === null || same.get(row.id) !== JSON.stringify(row)) &&
      !(row.id !== null && gone.includes(row.id)),
  );
  const body = { rows: changed, gone };
  const dirty = changed.length > 0 || gone.length > 0;
  const text = useLater(JSON.stringify(body), 250);
  const params = { path: { pk } };
  const checked = useQuery({
    queryKey: ["sheet", pk, "check", text],
    queryFn: () =>
      got(api.POST("/api/v1/systems/{pk}/sheet/check", { params, body: JSON.parse(text) as typeof body })),
    enabled: dirty,
    placeholderData: (last) => last,
  });
  const shown = dirty ? (checked.data ?? sheet) : sheet;
  const store = useMutation({
    mutationFn: () => got(api.PUT("/api/v1/systems/{pk}/sheet", { params, body })),
    onSuccess: (next) => {
      queries.setQueryData(["sheet", pk], next);
      void queries.invalidateQueries({ queryKey: ["history", pk] });
    },
  });

  // What the server says of a row: stored rows by their key, new ones in the order in which they were typed.
  const byKey = useMemo(() => new Map(shown.rows.map((one) => [one.id, one])), [shown]);
  const fresh = shown.rows.filter((one) => one.id === null);
  const news = new Map(rows.filter((row) => row.id === null && !isBlank(row)).map((row, k) => [row, k]));
  const said = (row: Typed): RowSaid | undefined => {
    if (row.id !== null) return byKey.get(row.id);
    const at = news.get(row);
    return at === undefined ? undefined : fresh[at];
  };

  const edit = (next: Typed[]) => {
    setBefore([...before.slice(-STEPS), rows]);
    setRows(next);
  };
  const at = (row: Typed) => rows.indexOf(row);
  return {
    columns,
    /** Every row, with a blank one to type into at the end. */
    rows: [...rows.filter((row) => row.id !== null || !isBlank(row)), blank()],
    shown,
    said,
    gone,
    lost,
    dirty,
    count: changed.length + gone.length,
    problem: store.error ?? checked.error,
    /** Whether it can be stored: checked as it stands, and nothing wrong. */
    ready:
      dirty &&
      !store.isPending &&
      text === JSON.stringify(body) &&
      !checked.isFetching &&
      !checked.isPlaceholderData &&
      !shown.rows.some((row) => row.problems.length),
    store: () => store.mutate(),
    undo: before.length
      ? () => {
          setRows(must(before.at(-1)));
          setBefore(before.slice(0, -1));
        }
      : null,
    put: (row: Typed, column: string, value: string) => {
      const next = withCell(row, column, value);
      edit(at(row) < 0 ? [...rows, next] : rows.with(at(row), next));
    },
    paste: (row: Typed, column: string, clip: string) => {
      edit(pasted(rows, columns, { row: at(row) < 0 ? rows.length : at(row), column }, clip));
      setLost(leftOut(columns, clip));
    },
    /** Takes what the server holds likely. */
    take: (row: Typed, doubt: Doubt) =>
      edit(
        rows.with(
          at(row),
          doubt.likely !== null
            ? withCell(row, doubt.column, String(doubt.likely))
            : { ...row, turns: { ...row.turns, [doubt.column]: doubt.turn as "new_meter" | "rollover" } },
        ),
      ),
    drop: (row: Typed) => {
      if (row.id === null) edit(rows.filter((one) => one !== row));
      else setGone(gone.includes(row.id) ? gone.filter((one) => one !== row.id) : [...gone, row.id]);
    },
  };
}

export type Hand = ReturnType<typeof useHand>;

/** A value once it has stayed the same for a while. */
function useLater<T>(value: T, wait: number): T {
  const [later, setLater] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setLater(value), wait);
    return () => clearTimeout(timer);
  }, [value, wait]);
  return later;
}
