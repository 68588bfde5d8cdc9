/** The rated table: an editable sheet that takes a paste, its misreadings, its surface, the library. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Choice } from "../../components/Choice";
import { TextInput } from "../../components/TextInput";
import { FileInput } from "../../components/FileInput";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState, type ClipboardEvent, type KeyboardEvent } from "react";
import { Link } from "react-router";

import {
  api,
  got,
  sheetOf,
  type SheetKind,
  type RatedShown,
  type ReadingShown,
  type SheetShown,
  type SystemShown,
} from "../../api/client";
import { useForget, useRated } from "../../api/hooks";
import { Unsaved } from "../../app/Unsaved";
import { number, type Shown } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import { BLANK, cellsOf, headOf, SPEEDS, tableOf, textOf, thousands, type Cells, type Head } from "./sheet";
import { Surface } from "./Surface";
import { must } from "../../components/must";

const AS_WRITTEN: ReadingShown = { units: {}, swapped: false, cop_over: 1 };
const KINDS = [
  ["water", "outdoor × flow (air-to-water)"],
  ["ground", "source × flow (ground source)"],
  ["air", "outdoor × indoor (air-to-air)"],
] as const;

export function RatedSheet({ system, temp, power }: { system: SystemShown; temp: Shown; power: Shown }) {
  const rated = useRated(system.id);
  const [saved, setSaved] = useState(false); // outlives the editor, which begins anew with what was saved
  if (rated.isError) return <Trouble error={rated.error} again={() => void rated.refetch()} />;
  if (!rated.data) return <Waiting what="the rated table" />;
  return (
    <Editor
      key={`${temp.symbol}${rated.dataUpdatedAt}`}
      system={system}
      rated={rated.data}
      temp={temp}
      power={power}
      saved={saved}
      onSaved={() => setSaved(true)}
    />
  );
}

/** What was pasted, and how it is to be read; null once a cell is edited. */
type Raw = { text: string; reading: ReadingShown } | null;

function Editor({
  system,
  rated,
  temp,
  power,
  saved,
  onSaved,
}: {
  system: SystemShown;
  rated: RatedShown;
  temp: Shown;
  power: Shown;
  saved: boolean;
  onSaved: () => void;
}) {
  const units = { temp, power };
  const kw = thousands(power);
  const { table } = rated;
  const [rows, setRows] = useState<Cells[]>(() =>
    table ? table.points.map((point) => cellsOf(point, units)) : [[...BLANK]],
  );
  const [raw, setRaw] = useState<Raw>(null);
  const [touched, setTouched] = useState(false);
  const [head, setHead] = useState<Head>(() => headOf(rated.kind, table));
  const file = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const forget = useForget();
  const asked = {
    text: raw?.text ?? textOf(rows, units, head.includes_defrost),
    kind: head.kind as "water" | "ground" | "air",
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
  const doubted = new Set(sheet?.doubts.flatMap((doubt) => doubt.rows) ?? []);
  const rowOf = (k: number) => sheet?.entries[k]?.row ?? k + 2;

  const edit = (k: number, column: number, value: string) => {
    const next = shown.map((row) => [...row] as Cells);
    must(next[k])[column] = value;
    if (column === 3 && value.trim()) must(next[k])[4] = "";
    if (column === 4 && value.trim()) must(next[k])[3] = "";
    setRows(next);
    setRaw(null);
    setTouched(true);
  };
  const take = (text: string) => {
    setRaw({ text, reading: AS_WRITTEN });
    setTouched(true);
    if (/includes defrost:\s*no/i.test(text)) setHead((now) => ({ ...now, includes_defrost: false }));
  };
  const pasted = (event: ClipboardEvent) => {
    const text = event.clipboardData.getData("text");
    if (!/[\n\t]/.test(text)) return; // a single cell goes where it is pasted
    event.preventDefault();
    take(text);
  };
  const opened = useMutation({
    mutationFn: (one: File) => sheetOf(one, head.kind as SheetKind, rated.nominal_kw),
    onSuccess: (found) => take(found.text),
  });
  const save = useMutation({
    mutationFn: (made: ReturnType<typeof tableOf> | null) =>
      got(
        api.PUT("/api/v1/systems/{pk}/rated", {
          params: { path: { pk: system.id } },
          body: { table: made as Record<string, unknown> | null },
        }),
      ),
    onSuccess: (found) => {
      onSaved();
      queries.setQueryData(["system", system.id, "rated"], found);
      forget(system.id);
    },
  });
  const shelve = useMutation({
    mutationFn: (name: string) =>
      got(
        api.POST("/api/v1/library", {
          body: { name, table: tableOf(sheet ?? asIs(rated), { ...head, name }) as Record<string, unknown> },
        }),
      ),
    onSuccess: (library) => queries.setQueryData(["system", system.id, "rated"], { ...rated, library }),
  });
  const use = useMutation({
    mutationFn: (id: number) => got(api.GET("/api/v1/library/{pk}", { params: { path: { pk: id } } })),
    onSuccess: (found) => {
      setRows(found.points.map((point) => cellsOf(point, units)));
      setHead(headOf(found.kind, found));
      setRaw(null);
      setTouched(true);
    },
  });
  const error = save.error ?? opened.error ?? use.error ?? shelve.error ?? read.error;
  const flow = head.kind === "air" ? "Indoor" : "Flow";
  const source = head.kind === "ground" ? "Source" : "Outdoors";
  const usable = sheet?.usable ?? false;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Box sx={{ display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" }}>
        <Choice
          aria-label="Kind of table"
          value={head.kind}
          onChange={(event) => (setHead({ ...head, kind: event.target.value }), setTouched(true))}
        >
          {KINDS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Choice>
        <Typography variant="caption" component="label">
          type{" "}
          <TextInput
            sx={{ width: 150 }}
            aria-label="Type of unit"
            value={head.name}
            placeholder="by type and size"
            maxLength={80}
            onChange={(event) => (setHead({ ...head, name: event.target.value }), setTouched(true))}
          />
        </Typography>
        {(["outdoor_unit", "indoor_unit"] as const).map((which) => (
          <Tooltip
            key={which}
            title="The pair that the table is of: another coil indoors gives another table"
          >
            <Typography variant="caption" component="label">
              {which === "outdoor_unit"
                ? "outdoor unit"
                : head.kind === "air"
                  ? "indoor coil"
                  : "indoor unit"}{" "}
              <TextInput
                sx={{ width: 100 }}
                aria-label={which === "outdoor_unit" ? "Outdoor unit" : "Indoor unit"}
                value={head[which]}
                maxLength={80}
                onChange={(event) => (setHead({ ...head, [which]: event.target.value }), setTouched(true))}
              />
            </Typography>
          </Tooltip>
        ))}
        <label>
          <Checkbox
            checked={head.includes_defrost}
            onChange={(event) => (
              setHead({ ...head, includes_defrost: event.target.checked }),
              setTouched(true)
            )}
          />{" "}
          includes defrosts
        </label>
        <Box component="span" sx={{ flex: 1 }} />
        <FileInput
          ref={file}
          accept=".csv,.txt,.xlsx,.ods"
          aria-label="File of a rated table"
          onChange={(event) => event.target.files?.[0] && opened.mutate(event.target.files[0])}
        />
        <Button onClick={() => file.current?.click()}>Open a file …</Button>
        <Button
          disabled={!touched}
          onClick={() => (
            setRows(table ? table.points.map((point) => cellsOf(point, units)) : [[...BLANK]]),
            setRaw(null),
            setTouched(false)
          )}
        >
          Discard
        </Button>
        <Button
          variant="contained"
          disabled={!touched || !usable || save.isPending}
          onClick={() => sheet && save.mutate(tableOf(sheet, head))}
        >
          Save
        </Button>
      </Box>
      <Unsaved when={touched && !save.isPending} what="The rated table was changed and is not saved" />
      {error && (
        <Alert severity="warning" role="alert">
          {error.message}
        </Alert>
      )}
      {sheet && <Doubts sheet={sheet} take={(reading) => setRaw({ text: asked.text, reading })} />}
      {saved && !touched && (
        <p role="status">
          Saved. The figures are being worked out anew; the table before is in Set up’s history.
        </p>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 20, alignItems: "start" }}>
        <Box component="section" sx={{ flex: "1 1 470px", minWidth: 0 }} onPaste={pasted}>
          <Typography variant="caption" component="p">
            Paste a table from a spreadsheet into any cell: one row a point, or flow temperatures across. Give
            capacity with either input or COP (one alone is kept for what it allows); levels of speed or load
            by name, %, Hz or kW, as many as the maker gives.
          </Typography>
          <datalist id="levels">
            {SPEEDS.map((speed) => (
              <option key={speed} value={speed} />
            ))}
          </datalist>
          <Box sx={{ maxHeight: 420, overflow: "auto" }}>
            <FigureTable tight aria-label="Rated table">
              <TableHead>
                <TableRow>
                  <TableCell align="right">
                    {source} {temp.symbol}
                  </TableCell>
                  <TableCell align="right">
                    {flow} {temp.symbol}
                  </TableCell>
                  <TableCell align="right">Capacity {kw.symbol}</TableCell>
                  <TableCell align="right">Input kW</TableCell>
                  <TableCell align="right">COP</TableCell>
                  <TableCell>Speed or load</TableCell>
                  {head.kind === "air" && <TableCell align="right">Airflow m³/h</TableCell>}
                  <TableCell>Point</TableCell>
                  <TableCell />
                </TableRow>
              </TableHead>
              <TableBody>
                {shown.map((row, k) => (
                  <TableRow
                    sx={doubted.has(rowOf(k)) ? { background: "var(--ember-wash)" } : undefined}
                    key={k}
                  >
                    {[0, 1, 2, 3, 4].map((column) => (
                      <TableCell align="right" sx={{ paddingRight: 5 }} key={column}>
                        <Cell
                          label={`${[source, flow, "capacity", "input", "COP"][column]}, row ${k + 1}`}
                          row={k}
                          column={column}
                          value={must(row[column])}
                          put={(value) => edit(k, column, value)}
                        />
                      </TableCell>
                    ))}
                    <TableCell>
                      <TextInput
                        sx={{ width: 78, minHeight: 20 }}
                        list="levels"
                        aria-label={`speed or load, row ${k + 1}`}
                        value={row[5]}
                        onChange={(event) => edit(k, 5, event.target.value)}
                      />
                    </TableCell>
                    {head.kind === "air" && (
                      <TableCell align="right">
                        <Cell
                          label={`airflow, row ${k + 1}`}
                          row={k}
                          column={6}
                          value={row[6]}
                          put={(value) => edit(k, 6, value)}
                        />
                      </TableCell>
                    )}
                    <TableCell sx={{ ...look.cap, whiteSpace: "nowrap" }}>
                      {(sheet ? sheet.entries[k]?.standard : table?.points[k]?.standard) ?? ""}
                    </TableCell>
                    <TableCell sx={{ padding: 0 }}>
                      <Button
                        variant="text"
                        aria-label={`Remove row ${k + 1}`}
                        onClick={() => (
                          setRows(shown.filter((_, j) => j !== k)),
                          setRaw(null),
                          setTouched(true)
                        )}
                      >
                        ×
                      </Button>
                    </TableCell>
                  </TableRow>
                ))}
              </TableBody>
            </FigureTable>
          </Box>
          <Button
            sx={{ marginTop: 6 }}
            onClick={() => (setRows([...shown, [...BLANK]]), setRaw(null), setTouched(true))}
          >
            Add a row
          </Button>
        </Box>
        <Box sx={{ flex: "1 1 360px", minWidth: 0, display: "grid", gap: 14 }}>
          {table ? (
            <Surface table={table} temp={temp} power={power} stale={touched} />
          ) : (
            <Box component="p" sx={look.soft}>
              No rated table is given yet. Paste one, open a file, or take one from the library: the running
              is then compared with it at the same conditions.
            </Box>
          )}
          <Typography variant="caption" component="p">
            Low outdoor limit of the unit:{" "}
            {rated.low_outdoor_limit === null
              ? "not described"
              : `${number(temp.of(rated.low_outdoor_limit), 0)} ${temp.symbol}`}
            , in <Link to={`/systems/${system.id}/setup`}>Set up</Link>. Tolerance of the table ±{" "}
            {number(head.tolerance * 100, 0)} %.
          </Typography>
          <Library
            rated={rated}
            take={(id) => use.mutate(id)}
            put={(name) => shelve.mutate(name)}
            name={head.name}
          />
        </Box>
      </Box>
    </Box>
  );
}

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

function Cell({
  label,
  row,
  column,
  value,
  put,
}: {
  label: string;
  row: number;
  column: number;
  value: string;
  put: (value: string) => void;
}) {
  const move = (event: KeyboardEvent<HTMLInputElement>) => {
    const by = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!by) return;
    const next = event.currentTarget
      .closest("tbody")
      ?.querySelector<HTMLInputElement>(`[data-cell="${row + by}.${column}"]`);
    if (!next) return;
    event.preventDefault();
    next.focus();
    next.select();
  };
  return (
    <TextInput
      sx={{ width: 50, textAlign: "right", "& .MuiInputBase-input": { padding: "0 4px" } }}
      inputMode="decimal"
      data-cell={`${row}.${column}`}
      aria-label={label}
      value={value}
      onChange={(event) => put(event.target.value)}
      onKeyDown={move}
    />
  );
}

function Doubts({ sheet, take }: { sheet: SheetShown; take: (reading: ReadingShown) => void }) {
  return (
    <Box component="section" sx={{ display: "grid", gap: 4 }} aria-label="What is odd">
      {sheet.doubts.map((doubt) => (
        <Box component="p" sx={doubt.grave ? {} : {}} key={doubt.kind + doubt.sentence}>
          <strong>{cap(doubt.kind)}.</strong> {cap(doubt.sentence)}{" "}
          {doubt.reading ? (
            <Button onClick={() => take(must(doubt.reading))}>{doubt.remedy}</Button>
          ) : (
            <Box component="span" sx={look.soft}>
              {doubt.remedy}
            </Box>
          )}
        </Box>
      ))}
      {sheet.assumed.length > 0 && (
        <Typography variant="caption" component="p">
          Assumed, since the header says no unit:{" "}
          {sheet.assumed
            .map(
              (column) =>
                `${column} in ${{ degC: "°C", kW: "kW" }[sheet.units[column] ?? ""] ?? sheet.units[column]}`,
            )
            .join(", ")}
          .
        </Typography>
      )}
    </Box>
  );
}

function Library({
  rated,
  take,
  put,
  name,
}: {
  rated: RatedShown;
  take: (id: number) => void;
  put: (name: string) => void;
  name: string;
}) {
  return (
    <section aria-label="Library">
      <Typography variant="h2">Library</Typography>
      {rated.library.length === 0 && (
        <Box component="p" sx={look.soft}>
          Empty. A table that several units share is kept here once; systems with the same table are each
          other’s reference.
        </Box>
      )}
      {rated.library.map((one) => (
        <Box component="p" sx={{ display: "flex", gap: 8, alignItems: "baseline" }} key={one.id}>
          <Box component="span" sx={{ flex: 1 }}>
            {one.name}{" "}
            <Typography variant="caption" component="span">
              {one.points} points
            </Typography>
          </Box>
          <Button onClick={() => take(one.id)}>Use</Button>
        </Box>
      ))}
      <Tooltip title={name.trim() ? "" : "Give the type of unit a name first"}>
        <span>
          <Button sx={{ marginTop: 4 }} disabled={!name.trim() || !rated.table} onClick={() => put(name)}>
            Put this table into the library
          </Button>
        </span>
      </Tooltip>
    </section>
  );
}
