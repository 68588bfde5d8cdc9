/** A rated table while it is worked on: typed, pasted or opened, read by the server, saved. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import {
  api,
  got,
  sheetOf,
  type RatedShown,
  type ReadingShown,
  type SheetKind,
  type SheetShown,
} from "../../api/client";
import { useForget } from "../../api/hooks";
import { must } from "../../components/must";
import { BLANK, cellsOf, headOf, tableOf, textOf, type Cells, type Head, type InUnits } from "./sheet";

const AS_WRITTEN: ReadingShown = { units: {}, swapped: false, cop_over: 1 };
const INPUT = 3;
const COP = 4;

/** What was pasted, and how it is to be read; null once a cell is edited. */
type Raw = { text: string; reading: ReadingShown } | null;

export function useRatedSheet(pk: number, rated: RatedShown, units: InUnits, onSaved: () => void) {
  const { table } = rated;
  const asStored = (): Cells[] => (table ? table.points.map((point) => cellsOf(point, units)) : [[...BLANK]]);
  const [rows, setRows] = useState<Cells[]>(asStored);
  const [raw, setRaw] = useState<Raw>(null);
  const [touched, setTouched] = useState(false);
  const [head, setHead] = useState<Head>(() => headOf(rated.kind, table));
  const queries = useQueryClient();
  const forget = useForget();
  const asked = {
    text: raw?.text ?? textOf(rows, units, head.includes_defrost),
    kind: head.kind as SheetKind,
    reading: raw?.reading ?? AS_WRITTEN,
    nominal_kw: rated.nominal_kw,
  };
  const read = useQuery({
    queryKey: ["rated", "read", asked],
    queryFn: () => got(api.POST("/api/v1/rated/read", { body: asked })),
    enabled: touched,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const sheet = touched ? read.data : undefined;
  const shown: Cells[] = raw ? (sheet?.entries.map((entry) => cellsOf(entry, units)) ?? []) : rows;
  const set = (next: Cells[]) => {
    setRows(next);
    setRaw(null);
    setTouched(true);
  };
  const take = (text: string) => {
    setRaw({ text, reading: AS_WRITTEN });
    setTouched(true);
    if (/includes defrost:\s*no/i.test(text)) setHead((now) => ({ ...now, includes_defrost: false }));
  };
  const opened = useMutation({
    mutationFn: (one: File) => sheetOf(one, head.kind as SheetKind, rated.nominal_kw),
    onSuccess: (found) => take(found.text),
  });
  const save = useMutation({
    mutationFn: (made: ReturnType<typeof tableOf>) =>
      got(
        api.PUT("/api/v1/systems/{pk}/rated", {
          params: { path: { pk } },
          body: { table: made as Record<string, unknown> },
        }),
      ),
    onSuccess: (found) => {
      onSaved();
      queries.setQueryData(["system", pk, "rated"], found);
      forget(pk);
    },
  });
  const shelve = useMutation({
    mutationFn: (name: string) =>
      got(
        api.POST("/api/v1/library", {
          body: { name, table: tableOf(sheet ?? asIs(rated), { ...head, name }) as Record<string, unknown> },
        }),
      ),
    onSuccess: (library) => queries.setQueryData(["system", pk, "rated"], { ...rated, library }),
  });
  const use = useMutation({
    mutationFn: (id: number) => got(api.GET("/api/v1/library/{pk}", { params: { path: { pk: id } } })),
    onSuccess: (found) => {
      set(found.points.map((point) => cellsOf(point, units)));
      setHead(headOf(found.kind, found));
    },
  });
  const doubted = new Set(sheet?.doubts.flatMap((doubt) => doubt.rows) ?? []);
  return {
    head,
    say: (said: Partial<Head>) => {
      setHead({ ...head, ...said });
      setTouched(true);
    },
    shown,
    sheet,
    touched,
    doubted: (k: number) => doubted.has(sheet?.entries[k]?.row ?? k + 2),
    point: (k: number) => (sheet ? sheet.entries[k]?.standard : table?.points[k]?.standard) ?? "",
    error: save.error ?? opened.error ?? use.error ?? shelve.error ?? read.error,
    saving: save.isPending,
    /** One cell; an input takes the place of a COP, and the other way round. */
    edit: (k: number, column: number, value: string) => {
      const next = shown.map((row) => [...row] as Cells);
      must(next[k])[column] = value;
      if (column === INPUT && value.trim()) must(next[k])[COP] = "";
      if (column === COP && value.trim()) must(next[k])[INPUT] = "";
      set(next);
    },
    add: () => set([...shown, [...BLANK]]),
    remove: (k: number) => set(shown.filter((_, j) => j !== k)),
    take,
    readAs: (reading: ReadingShown) => setRaw({ text: asked.text, reading }),
    open: (file: File) => opened.mutate(file),
    discard: () => {
      setRows(asStored());
      setRaw(null);
      setHead(headOf(rated.kind, table));
      setTouched(false);
    },
    save: touched && sheet?.usable && !save.isPending ? () => save.mutate(tableOf(sheet, head)) : null,
    shelve: (name: string) => shelve.mutate(name),
    use: (id: number) => use.mutate(id),
  };
}

export type RatedWork = ReturnType<typeof useRatedSheet>;

/** The saved table in the form of a read one, for the library. */
function asIs(rated: RatedShown): SheetShown {
  const entries = (rated.table?.points ?? []).map((point, k) => ({
    ...point,
    row: k + 2,
    input_kw: null,
    used: true,
  }));
  return { text: "", entries, units: {}, assumed: [], doubts: [], usable: true, includes_defrost: null };
}
