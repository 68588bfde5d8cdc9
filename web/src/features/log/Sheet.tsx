/** Readings by hand: a sheet that takes a paste, checks each row against the last, and gives the sum between any two. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableFooter from "@mui/material/TableFooter";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, type ClipboardEvent, type KeyboardEvent } from "react";
import { Link } from "react-router";

import { api, got, type Reckoning, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useForget } from "../../api/hooks";
import { Unsaved } from "../../app/Unsaved";
import { copFormula, HonestFigure } from "../../components/Proof";
import { figureText, number, percent, plusMinus } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { blank, cellOf, isBlank, leftOut, pasted, withCell, type Typed } from "./paste";
import { must } from "../../components/must";

type SheetShown = components["schemas"]["SheetShown"];
type Row = components["schemas"]["RowShown"];
type Doubt = components["schemas"]["DoubtShown"];

const typed = (row: Row): Typed => ({
  id: row.id,
  time: row.local,
  cells: { ...row.cells },
  turns: row.turns as Typed["turns"],
  note: row.note,
});

export function Sheet({ system }: { system: SystemShown }) {
  const path = { params: { path: { pk: system.id } } };
  const sheet = useQuery({
    queryKey: ["sheet", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/sheet", path)),
  });
  const queries = useQueryClient();
  const forget = useForget();
  const begin = useMutation({
    mutationFn: () => got(api.POST("/api/v1/systems/{pk}/sheet/begin", path)),
    onSuccess: (next) => {
      queries.setQueryData(["sheet", system.id], next);
      void queries.invalidateQueries({ queryKey: ["setup", system.id] });
      forget(system.id);
    },
  });
  if (sheet.isError) return <Trouble error={sheet.error} again={() => void sheet.refetch()} />;
  if (!sheet.data) return <Waiting what="the sheet" />;
  if (!sheet.data.series.length)
    return (
      <Box component="section" sx={{ display: "grid", gap: 8, maxWidth: 620, padding: "18px 0" }}>
        <Typography variant="h2">No sheet yet</Typography>
        <p>
          Readings that are taken at displays, meters and gauges go here: a register, or a day&rsquo;s,
          month&rsquo;s or year&rsquo;s total; temperatures and pressures. Any two of them give a COP with its
          ±.
        </p>
        <p>
          <Button variant="contained" disabled={begin.isPending} onClick={() => begin.mutate()}>
            Begin with the described meters
          </Button>{" "}
          <Box component="span" sx={look.soft}>
            or say in <Link to={`/systems/${system.id}/setup`}>Set up</Link> what is read.
          </Box>
        </p>
        {begin.isError && (
          <Alert severity="warning" role="alert">
            {begin.error.message}
          </Alert>
        )}
      </Box>
    );
  return <Grid system={system} sheet={sheet.data} />;
}

function Grid({ system, sheet }: { system: SystemShown; sheet: SheetShown }) {
  const stored = useMemo(() => sheet.rows.map(typed), [sheet]);
  const [rows, setRows] = useState<Typed[]>(stored);
  const [gone, setGone] = useState<number[]>([]);
  const [picked, setPicked] = useState<number[]>([]);
  const [before, setBefore] = useState<Typed[][]>([]);
  const [lost, setLost] = useState<string[]>([]);
  const queries = useQueryClient();
  const box = useRef<HTMLTableElement>(null);
  const scroll = useRef<HTMLDivElement>(null);
  useEffect(() => {
    scroll.current?.scrollTo(0, scroll.current.scrollHeight);
  }, [stored]);
  const [last, setLast] = useState(stored);
  if (last !== stored) {
    setLast(stored);
    setRows(stored);
    setGone([]);
    setBefore([]);
    setPicked([]);
    setLost([]);
  }

  const columns = ["time", ...sheet.series.map((one) => one.name), "note"];
  const same = new Map(stored.map((row) => [row.id, JSON.stringify(row)]));
  const changed = rows.filter(
    (row) =>
      !isBlank(row) &&
      (row.id === null || same.get(row.id) !== JSON.stringify(row)) &&
      !(row.id !== null && gone.includes(row.id)),
  );
  const body = { rows: changed, gone };
  const dirty = changed.length > 0 || gone.length > 0;
  const text = useLater(JSON.stringify(body), 250);
  const params = { path: { pk: system.id } };
  const checked = useQuery({
    queryKey: ["sheet", system.id, "check", text],
    queryFn: () =>
      got(api.POST("/api/v1/systems/{pk}/sheet/check", { params, body: JSON.parse(text) as typeof body })),
    enabled: dirty,
    placeholderData: (last) => last,
  });
  const shown = dirty ? (checked.data ?? sheet) : sheet;
  const store = useMutation({
    mutationFn: () => got(api.PUT("/api/v1/systems/{pk}/sheet", { params, body })),
    onSuccess: (next) => {
      queries.setQueryData(["sheet", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
    },
  });

  const edit = (next: Typed[]) => {
    setBefore([...before.slice(-50), rows]);
    setRows(next);
  };
  const undo = () => {
    setRows(must(before.at(-1)));
    setBefore(before.slice(0, -1));
  };
  const put = (at: number, column: string, value: string) => {
    const next = [...rows];
    next[at] = withCell(next[at] ?? blank(), column, value);
    edit(next);
  };
  const paste = (event: ClipboardEvent, row: number, column: string) => {
    const clip = event.clipboardData.getData("text/plain");
    if (!/[\t\n]/.test(clip.trim())) return;
    event.preventDefault();
    edit(pasted(rows, columns, { row, column }, clip));
    setLost(leftOut(columns, clip));
  };
  const move = (event: KeyboardEvent<HTMLInputElement>, row: number, column: string) => {
    const step = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    box.current
      ?.querySelector<HTMLInputElement>(`[data-cell="${row + step}:${columns.indexOf(column)}"]`)
      ?.focus();
  };

  // What the server says of a row: stored rows by their key, new ones in the order in which they were typed.
  const fresh = shown.rows.filter((one) => one.id === null);
  const news = rows.filter((row) => row.id === null && !isBlank(row));
  const said = (row: Typed): Row | undefined =>
    row.id !== null ? shown.rows.find((one) => one.id === row.id) : fresh[news.indexOf(row)];
  const settled =
    !dirty || (text === JSON.stringify(body) && !checked.isFetching && !checked.isPlaceholderData);
  const problems = shown.rows.some((row) => row.problems.length);
  const all = [...rows.filter((row) => row.id !== null || !isBlank(row)), blank()];

  return (
    <Box component="section" sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 10 }}>
      <Box sx={{ display: "flex", gap: 8, alignItems: "baseline" }}>
        <Box component="p" sx={{ ...look.soft, flex: 1 }}>
          Type or paste from a spreadsheet. Time by the clock of the installation, <em>2026-01-22 07:30</em>;
          a whole day&rsquo;s, month&rsquo;s or year&rsquo;s total by <em>2026-01-22</em>, <em>2026-01</em> or{" "}
          <em>2026</em>.
        </Box>
        <Button disabled={!before.length} onClick={undo}>
          Undo
        </Button>
        <Button
          variant="contained"
          disabled={!dirty || problems || !settled || store.isPending}
          onClick={() => store.mutate()}
        >
          {dirty
            ? `Store ${changed.length + gone.length} row${changed.length + gone.length > 1 ? "s" : ""}`
            : "Stored"}
        </Button>
      </Box>
      <Unsaved when={dirty} what="Readings by hand are not stored" />
      {(store.isError || checked.isError) && (
        <Alert severity="warning" role="alert">
          {(store.error ?? checked.error)?.message}
        </Alert>
      )}
      {lost.length > 0 && (
        <Alert severity="info" role="note">
          The sheet has no column {lost.map((one) => `‘${one}’`).join(", ")}; what stood under it was not
          pasted. Columns are described in Set up, under Readings by hand.
        </Alert>
      )}
      {shown.from_yield && (
        <Alert severity="info" role="note">
          Heat is not read, only environmental yield: it is the heat taken from outdoors, and yield ÷
          electricity is COP − 1. Heat is taken as yield + what of the electricity reaches the water; all of
          it would be an upper bound.
        </Alert>
      )}
      {shown.level_reason && shown.rows.length > 1 && (
        <Alert severity="info" role="note">
          No COP: {shown.level_reason}.
        </Alert>
      )}
      <Box sx={{ overflow: "auto", maxHeight: "max(260px, calc(100vh - 430px))" }} ref={scroll}>
        <FigureTable tight ref={box} aria-label="Readings by hand">
          <TableHead sx={{ position: "sticky", top: 0, background: "var(--ground)", zIndex: 2 }}>
            <TableRow>
              <TableCell />
              <TableCell sx={{ minWidth: 132 }}>Time</TableCell>
              {sheet.series.map((one) => (
                <Tooltip key={one.name} title={headTitle(one)}>
                  <TableCell align="right">
                    {one.name}
                    <br />
                    {one.symbol}
                    {one.keeps !== "register" ? ` a ${one.keeps}` : ""}
                    {one.kind === "environmental_yield" ? " · yield" : ""}
                  </TableCell>
                </Tooltip>
              ))}
              <TableCell>Note</TableCell>
              <TableCell align="right">
                Heat
                <br />
                kWh
              </TableCell>
              <TableCell align="right">
                Electricity
                <br />
                kWh
              </TableCell>
              <TableCell align="right" sx={{ minWidth: 100 }}>
                COP since the last
                <br />
                {shown.level ?? ""}
              </TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {all.map((row, at) => (
              <Line
                key={row.id ?? `new-${at}`}
                at={at}
                row={row}
                said={said(row)}
                columns={columns}
                system={system}
                out={row.id !== null && gone.includes(row.id)}
                picked={row.id !== null && picked.includes(row.id)}
                pick={() =>
                  row.id !== null &&
                  setPicked(
                    picked.includes(row.id)
                      ? picked.filter((one) => one !== row.id)
                      : [...picked.slice(-1), row.id],
                  )
                }
                put={(column, value) => put(at, column, value)}
                paste={(event, column) => paste(event, at, column)}
                move={(event, column) => move(event, at, column)}
                take={(doubt) => {
                  const next = [...rows];
                  const now = must(next[at]);
                  next[at] =
                    doubt.likely !== null
                      ? withCell(now, doubt.column, String(doubt.likely))
                      : {
                          ...now,
                          turns: { ...now.turns, [doubt.column]: doubt.turn as "new_meter" | "rollover" },
                        };
                  edit(next);
                }}
                drop={() => {
                  if (row.id === null) edit(rows.filter((one) => one !== row));
                  else
                    setGone(gone.includes(row.id) ? gone.filter((one) => one !== row.id) : [...gone, row.id]);
                }}
              />
            ))}
          </TableBody>
          {shown.whole && (
            <TableFooter>
              <TableRow sx={look.total}>
                <TableCell />
                <TableCell colSpan={sheet.series.length + 2}>First to last</TableCell>
                <Sums reckoning={shown.whole} why={null} system={system} about="first to last row" />
                <TableCell />
              </TableRow>
            </TableFooter>
          )}
        </FigureTable>
      </Box>
      <Between system={system} picked={picked} />
    </Box>
  );
}

function headTitle(one: SheetShown["series"][number]): string {
  if (!one.energy) return one.name;
  const kept =
    one.keeps === "register" ? "register" : `the ${one.keeps}'s total, which falls back to zero by design`;
  return `${one.name}: ${one.kind.replace("_", " ")}, ${kept}${one.meter ? `, of ${one.meter}` : ""}`;
}

interface LineProps {
  at: number;
  row: Typed;
  said: Row | undefined;
  columns: string[];
  system: SystemShown;
  out: boolean;
  picked: boolean;
  pick: () => void;
  put: (column: string, value: string) => void;
  paste: (event: ClipboardEvent, column: string) => void;
  move: (event: KeyboardEvent<HTMLInputElement>, column: string) => void;
  take: (doubt: Doubt) => void;
  drop: () => void;
}

function Line({
  at,
  row,
  said,
  columns,
  system,
  out,
  picked,
  pick,
  put,
  paste,
  move,
  take,
  drop,
}: LineProps) {
  const wrong = (column: string) => said?.problems.find((one) => one.column === column);
  const doubt = (column: string) => said?.doubts.find((one) => one.column === column);
  const empty = row.id === null && isBlank(row);
  const struck = out ? ({ textDecoration: "line-through", opacity: 0.6 } as const) : undefined;
  const field = (column: string, k: number, right: boolean) => (
    <Tooltip title={wrong(column)?.what ?? doubt(column)?.what}>
      <TextInput
        sx={{
          width: "100%",
          minWidth: column === "time" ? 128 : column === "note" ? 90 : 70,
          textAlign: right ? "right" : "left",
          borderColor: wrong(column) || doubt(column) ? "var(--ember)" : "transparent",
          background: row.id === null || empty ? "var(--sheet)" : "none",
          ...struck,
        }}
        data-cell={`${at}:${k}`}
        aria-label={`${column}, row ${at + 1}`}
        aria-invalid={wrong(column) !== undefined}
        value={cellOf(row, column)}
        placeholder={empty && column === "time" ? "new reading" : undefined}
        disabled={out}
        onChange={(event) => put(column, event.target.value)}
        onPaste={(event) => paste(event, column)}
        onKeyDown={(event) => move(event, column)}
      />
    </Tooltip>
  );
  const lines = [
    ...(said?.problems ?? []).map((one) => ({ ...one, doubt: null })),
    ...(said?.doubts ?? []).map((one) => ({ ...one, doubt: one })),
  ];
  return (
    <>
      <TableRow>
        <TableCell>
          {row.id !== null && (
            <Checkbox
              slotProps={{ input: { "aria-label": `Row ${at + 1} as an end of a sum` } }}
              checked={picked}
              onChange={pick}
            />
          )}
        </TableCell>
        {columns.map((column, k) => (
          <TableCell sx={{ padding: "1px 3px 1px 0" }} key={column}>
            {field(column, k, column !== "time" && column !== "note")}
            {row.turns[column] && (
              <Typography variant="caption" component="span">
                {row.turns[column] === "new_meter" ? "new meter" : "rolled over"}
              </Typography>
            )}
          </TableCell>
        ))}
        <Sums
          reckoning={said?.sum ?? null}
          why={empty || out ? null : (said?.reason?.sentence ?? null)}
          system={system}
          about={row.time}
        />
        <TableCell align="right">
          {!empty && (
            <Button
              variant="text"
              aria-label={out ? `Keep row ${at + 1}` : `Take row ${at + 1} out`}
              onClick={drop}
            >
              {out ? "keep" : "×"}
            </Button>
          )}
        </TableCell>
      </TableRow>
      {!out &&
        lines.map((one, k) => (
          <TableRow key={k} data-testid="row-says">
            <TableCell />
            <TableCell sx={{ padding: "0 0 4px 6px" }} colSpan={columns.length + 4}>
              <Box component="span" sx={look.ember}>
                {one.column}: {one.what}
              </Box>{" "}
              {one.doubt && (one.doubt.likely !== null || one.doubt.turn !== null) && (
                <Button onClick={() => take(must(one.doubt))}>
                  {one.doubt.likely !== null
                    ? `Take ${number(one.doubt.likely, decimalsOf(one.doubt.likely))}`
                    : one.doubt.turn === "new_meter"
                      ? "A new meter"
                      : "It rolled over"}
                </Button>
              )}
            </TableCell>
          </TableRow>
        ))}
    </>
  );
}

const decimalsOf = (value: number) =>
  Number.isInteger(value) ? 0 : Math.min(3, String(value).split(".")[1]?.length ?? 0);

function Sums({
  reckoning,
  why,
  system,
  about,
}: {
  reckoning: Reckoning | null;
  why: string | null;
  system: SystemShown;
  about: string;
}) {
  if (!reckoning || !reckoning.cop)
    return (
      <TableCell align="right" sx={{ ...look.cap, whiteSpace: "normal", maxWidth: 240 }} colSpan={3}>
        {why ?? ""}
      </TableCell>
    );
  const base = { about: `${system.name} · by hand · ${about} · ${reckoning.level}`, reckoning };
  return (
    <>
      <TableCell align="right">
        {reckoning.heat ? (
          <HonestFigure unit={false} pm={false} proof={{ ...base, title: "Heat", figure: reckoning.heat }} />
        ) : (
          "–"
        )}
      </TableCell>
      <TableCell align="right">
        <HonestFigure
          unit={false}
          pm={false}
          proof={{ ...base, title: "Electricity", figure: reckoning.electricity }}
        />
      </TableCell>
      <TableCell align="right">
        <strong>
          <HonestFigure
            unit={false}
            pm={false}
            proof={{
              ...base,
              title: `COP at ${reckoning.level}`,
              figure: reckoning.cop,
              formula: copFormula(reckoning),
            }}
          />
        </strong>{" "}
        <Box component="span" sx={look.soft}>
          {plusMinus(reckoning.cop)}
        </Box>
        {reckoning.coverage < 0.995 && (
          <Typography variant="caption" component="div">
            {percent(reckoning.coverage)} known
          </Typography>
        )}
      </TableCell>
    </>
  );
}

/** The sum between the two rows that are ticked, at every level. */
function Between({ system, picked }: { system: SystemShown; picked: number[] }) {
  const [first, last] = picked;
  const found = useQuery({
    queryKey: ["sheet", system.id, "between", first, last],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/sheet/between", {
          params: { path: { pk: system.id }, query: { first: must(first), last: must(last) } },
        }),
      ),
    enabled: first !== undefined && last !== undefined,
  });
  if (last === undefined)
    return (
      <Box component="p" sx={look.soft}>
        Tick two rows for the sum between them, at every boundary level.
      </Box>
    );
  if (found.isError) return <Trouble error={found.error} />;
  if (!found.data) return <Waiting what="the sum" />;
  return (
    <Box component="section" sx={{ maxWidth: 640 }} aria-label="Between the two rows">
      <Typography variant="h2">Between the two rows</Typography>
      <FigureTable aria-label="Sum between two rows">
        <TableHead>
          <TableRow>
            <TableCell>Boundary</TableCell>
            <TableCell align="right">Heat, kWh</TableCell>
            <TableCell align="right">Electricity, kWh</TableCell>
            <TableCell align="right">COP</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.data.levels.map((level) => (
            <TableRow key={level.level}>
              <TableCell>
                {level.level}{" "}
                <Box component="span" sx={look.soft}>
                  {level.words}
                </Box>
              </TableCell>
              {level.reckoning?.cop && level.reckoning.heat ? (
                <>
                  <TableCell align="right">{figureText(level.reckoning.heat)}</TableCell>
                  <TableCell align="right">{figureText(level.reckoning.electricity)}</TableCell>
                  <TableCell align="right">
                    <HonestFigure
                      proof={{
                        title: `COP at ${level.level}`,
                        about: `${system.name} · by hand`,
                        figure: level.reckoning.cop,
                        reckoning: level.reckoning,
                        formula: copFormula(level.reckoning),
                      }}
                    />
                  </TableCell>
                </>
              ) : (
                <TableCell sx={look.soft} colSpan={3}>
                  {level.reason?.sentence}
                </TableCell>
              )}
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </Box>
  );
}

/** A value once it has stayed the same for a while. */
function useLater<T>(value: T, wait: number): T {
  const [later, setLater] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setLater(value), wait);
    return () => clearTimeout(timer);
  }, [value, wait]);
  return later;
}
