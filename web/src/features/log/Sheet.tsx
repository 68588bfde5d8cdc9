/** Readings by hand: a sheet that takes a paste, checks each row against the last, and gives the sum between any two. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, got, type Reckoning, type SystemShown } from "../../api/client";
import { useForget } from "../../api/hooks";
import { Unsaved } from "../../app/Unsaved";
import { copFormula, HonestFigure } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import * as look from "../../components/look";
import { number } from "../../components/numbers";
import { Between } from "./Between";
import { HandGrid } from "./HandGrid";
import { useHand, type Doubt, type Hand, type SheetShown } from "./useHand";

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
  return <Typing system={system} sheet={sheet.data} />;
}

function Typing({ system, sheet }: { system: SystemShown; sheet: SheetShown }) {
  const hand = useHand(system.id, sheet);
  const [ticked, setTicked] = useState<number[]>([]);
  const [seen, setSeen] = useState<number | null>(null);
  const { shown, lost } = hand;
  const picked = ticked.filter((id) => sheet.rows.some((row) => row.id === id));
  const pick = (id: number) =>
    setTicked(picked.includes(id) ? picked.filter((one) => one !== id) : [...picked.slice(-1), id]);
  return (
    <Box component="section" sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 10 }}>
      <Box sx={{ display: "flex", gap: 8, alignItems: "baseline" }}>
        <Box component="p" sx={{ ...look.soft, flex: 1 }}>
          Type into a cell, or paste from a spreadsheet. Time by the clock of the installation,{" "}
          <em>2026-01-22 07:30</em>; a whole day&rsquo;s, month&rsquo;s or year&rsquo;s total by{" "}
          <em>2026-01-22</em>, <em>2026-01</em> or <em>2026</em>.
        </Box>
        <Button disabled={!hand.undo} onClick={() => hand.undo?.()}>
          Undo
        </Button>
        <Button variant="contained" disabled={!hand.ready} onClick={hand.store}>
          {hand.dirty ? `Store ${hand.count} row${hand.count > 1 ? "s" : ""}` : "Stored"}
        </Button>
      </Box>
      <Unsaved when={hand.dirty} what="Readings by hand are not stored" />
      {hand.problem && (
        <Alert severity="warning" role="alert">
          {hand.problem.message}
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
      <Odd hand={hand} show={setSeen} />
      <HandGrid system={system} series={sheet.series} hand={hand} picked={picked} pick={pick} seen={seen} />
      {shown.whole?.cop && <Whole system={system} whole={shown.whole} />}
      <Between system={system} picked={picked} />
    </Box>
  );
}

/** What is odd in the rows, with what is likely meant. */
function Odd({ hand, show }: { hand: Hand; show: (row: number) => void }) {
  const lines = hand.rows.flatMap((row, at) => {
    const said = hand.said(row);
    if (!said || (row.id !== null && hand.gone.includes(row.id))) return [];
    return [
      ...said.problems.map((one) => ({ row, at, ...one, doubt: null as Doubt | null })),
      ...said.doubts.map((one) => ({ row, at, ...one, doubt: one as Doubt | null })),
    ];
  });
  if (!lines.length) return null;
  return (
    <Box
      component="section"
      aria-label="What is odd in the rows"
      tabIndex={lines.length > 5 ? 0 : undefined}
      sx={{ maxHeight: 132, overflow: "auto" }}
    >
      {lines.map((one, k) => (
        <Box data-testid="row-says" key={k} sx={{ display: "flex", gap: 8, alignItems: "baseline" }}>
          <Button variant="text" onClick={() => show(one.at)}>
            Row {one.at + 1}
          </Button>
          <Box component="span" sx={look.ember}>
            {one.column}: {one.what}
          </Box>
          {one.doubt && (one.doubt.likely !== null || one.doubt.turn !== null) && (
            <Button onClick={() => one.doubt && hand.take(one.row, one.doubt)}>{remedyOf(one.doubt)}</Button>
          )}
        </Box>
      ))}
    </Box>
  );
}

function remedyOf(doubt: Doubt): string {
  if (doubt.likely !== null) return `Take ${number(doubt.likely, decimalsOf(doubt.likely))}`;
  return doubt.turn === "new_meter" ? "A new meter" : "It rolled over";
}

const decimalsOf = (value: number) =>
  Number.isInteger(value) ? 0 : Math.min(3, String(value).split(".")[1]?.length ?? 0);

/** The sum of the whole sheet. */
function Whole({ system, whole }: { system: SystemShown; whole: Reckoning }) {
  const base = { about: `${system.name} · by hand · first to last row · ${whole.level}`, reckoning: whole };
  return (
    <Typography component="p" aria-label="First to last">
      First to last:{" "}
      {whole.heat && (
        <>
          heat <HonestFigure pm={false} proof={{ ...base, title: "Heat", figure: whole.heat }} /> ÷{" "}
        </>
      )}
      electricity{" "}
      <HonestFigure pm={false} proof={{ ...base, title: "Electricity", figure: whole.electricity }} />
      {whole.cop && (
        <>
          {" "}
          ={" "}
          <strong>
            <HonestFigure
              proof={{
                ...base,
                title: `COP at ${whole.level}`,
                figure: whole.cop,
                formula: copFormula(whole),
              }}
            />
          </strong>
        </>
      )}
    </Typography>
  );
}
