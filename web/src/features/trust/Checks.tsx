/** Every check: its verdict, the picture that shows it, its effect, and the remedy. */
import { useQueryString } from "../../app/query";
import { To } from "../../components/To";
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import type { CSSObject } from "@mui/material/styles";
import Button from "@mui/material/Button";
import { Entry } from "../../components/Entry";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useState } from "react";

import type { Check, Effect, Figure, SystemShown, TrustShown } from "../../api/client";
import { useAccept } from "../../api/hooks";
import { cap } from "../../components/Proof";
import { figureText, localMinute, MINUS, plusMinus } from "../../components/numbers";
import { Picture } from "./Picture";

const ORDER = ["broken", "doubtful", "sound", "not checkable"];
const MARK: Record<string, string> = { broken: "■", doubtful: "◐", sound: "●", "not checkable": "○" };
const TONE: Record<string, CSSObject> = {
  broken: look.ember,
  doubtful: look.ember,
  sound: look.teal,
  "not checkable": look.soft,
};

export function Checks({ system, found }: { system: SystemShown; found: TrustShown }) {
  const [params, put] = useQueryString();
  const worst = [...found.checks].sort((a, b) => ORDER.indexOf(a.soundness) - ORDER.indexOf(b.soundness));
  const shown = worst.find((check) => check.code === params.get("check")) ?? worst[0];
  const show = (name: string) => put({ check: name });
  return (
    <Box
      component="section"
      sx={{
        display: "grid",
        gridTemplateColumns: "minmax(250px, 0.72fr) minmax(0, 1fr)",
        gap: 18,
        alignItems: "start",
      }}
      aria-label="Checks"
    >
      <Box sx={{ borderTop: "1px solid var(--line)" }} role="listbox" aria-label="Checks of the metering">
        {worst.map((check) => (
          <Entry
            key={check.code}
            role="option"
            aria-selected={check === shown}
            onClick={() => show(check.code)}
          >
            <Box component="span" sx={TONE[check.soundness] ?? {}} aria-hidden>
              {MARK[check.soundness]}
            </Box>
            <Box component="span" sx={{ fontWeight: check === shown ? 650 : 400 }}>
              {cap(check.name)}
            </Box>
            <Box component="span" sx={{ ...look.num, ...TONE[check.soundness] }}>
              {check.effect ? <Change effect={check.effect} /> : ""} {check.soundness}
            </Box>
          </Entry>
        ))}
      </Box>
      {shown && <Shown key={shown.name} system={system} check={shown} />}
    </Box>
  );
}

/** "3.12 → 2.81". */
function Change({ effect }: { effect: Effect }) {
  const [now, then] = [effect.cop_now, effect.cop_then];
  if (now && then && figureText(now) === figureText(then)) return null;
  if (!now && !then) return null;
  return (
    <Box component="span" sx={{ ...look.soft, marginRight: 8 }}>
      {now ? figureText(now) : "none"} → {then ? figureText(then) : "none"}
    </Box>
  );
}

function Shown({ system, check }: { system: SystemShown; check: Check }) {
  return (
    <Box sx={{ display: "grid", gap: 8 }} aria-label={cap(check.name)} role="region">
      <Typography variant="h2">
        {cap(check.name)}{" "}
        <Box component="span" sx={TONE[check.soundness] ?? {}}>
          {check.soundness}
        </Box>
      </Typography>
      <p>{check.sentence}</p>
      {check.picture && <Picture picture={check.picture} zone={system.zone} />}
      {check.spans.length > 0 && !check.whole && <Spans system={system} check={check} />}
      {check.effect && <Before effect={check.effect} />}
      {check.remedy && (
        <p>
          <strong>Remedy.</strong> {check.remedy}
        </p>
      )}
      {check.proposals.length > 0 && <Proposals system={system} check={check} />}
      {check.affects.length > 0 && check.soundness !== "sound" && (
        <Typography variant="caption" component="p">
          Puts in doubt: {check.affects.join(", ")}.
        </Typography>
      )}
    </Box>
  );
}

/** Where it shows; a link opens the readings. */
function Spans({ system, check }: { system: SystemShown; check: Check }) {
  const local = (instant: number) => localMinute(instant, system.zone);
  return (
    <Typography variant="caption" component="p">
      Evidence:{" "}
      {check.spans.slice(0, 6).map((span) => {
        const [from, to] = [local(span.start - 3600), local(span.stop + 3600)];
        const query = new URLSearchParams({
          from: from.slice(0, 10),
          to: to.slice(0, 10),
          win: `${from}_${to}`,
        });
        return (
          <To
            key={span.start}
            to={`/systems/${system.id}/running?${query}`}
            sx={{ marginRight: 10 }}
            title={span.name}
          >
            {local(span.start).replace("T", " ")}
          </To>
        );
      })}
      {check.spans.length > 6 && `and ${check.spans.length - 6} more`}
    </Typography>
  );
}

function Before({ effect }: { effect: Effect }) {
  const rows: [string, Figure | null, Figure | null][] = [
    ["COP", effect.cop_now, effect.cop_then],
    ["Heat, kWh", effect.heat_now, effect.heat_then],
    ["Electricity, kWh", effect.electricity_now, effect.electricity_then],
    ["Performance ratio", effect.ratio_now, effect.ratio_then],
  ];
  const cell = (figure: Figure | null) =>
    figure ? (
      <>
        {figureText(figure)}{" "}
        <Box component="span" sx={look.soft}>
          {plusMinus(figure)}
        </Box>
      </>
    ) : (
      <Box component="span" sx={look.soft}>
        none
      </Box>
    );
  return (
    <FigureTable aria-label="Effect on the record">
      <TableHead>
        <TableRow>
          <TableCell>Whole record, widest level</TableCell>
          <TableCell align="right">as it stands</TableCell>
          <TableCell align="right">if accepted</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {rows
          .filter(([, now, then]) => now || then)
          .map(([name, now, then]) => (
            <TableRow key={name}>
              <TableCell>{name}</TableCell>
              <TableCell align="right">{cell(now)}</TableCell>
              <TableCell align="right">
                <strong>{cell(then)}</strong>
              </TableCell>
            </TableRow>
          ))}
      </TableBody>
    </FigureTable>
  );
}

function Proposals({ system, check }: { system: SystemShown; check: Check }) {
  const accept = useAccept(system.id);
  const [open, setOpen] = useState(false);
  const many = check.proposals.length > 4;
  const listed = many && !open ? check.proposals.slice(0, 3) : check.proposals;
  return (
    <Box sx={{ display: "grid", gap: 5 }}>
      <Box component="ul" sx={{ margin: 0, paddingLeft: 16 }}>
        {listed.map((one) => (
          <li key={one.words}>{one.words.replace(/(^|\s)-(?=\d)/g, `$1${MINUS}`)}</li>
        ))}
      </Box>
      {many && (
        <Button
          variant="text"
          sx={{ ...look.soft, justifySelf: "start", padding: 0 }}
          onClick={() => setOpen(!open)}
        >
          {open ? "▾ fewer" : `▸ ${check.proposals.length - 3} more`}
        </Button>
      )}
      {accept.isError && (
        <Alert severity="warning" role="alert">
          {accept.error.message}
        </Alert>
      )}
      <div>
        <Button
          variant="contained"
          disabled={accept.isPending}
          onClick={() => accept.mutate(check.proposals.map((one) => one.correction))}
        >
          {check.proposals.length > 1 ? `Apply all ${check.proposals.length}` : "Apply"}
        </Button>{" "}
        <Typography variant="caption" component="span">
          It is listed below, stands in every proof, and can be undone.
        </Typography>
      </div>
    </Box>
  );
}
