/** Heat over electricity, written out. */
import { type ReactNode } from "react";
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { LineTable } from "../Sheets";
import { FigureButton } from "../FigureButton";
import { useSettings } from "../../app/settings";
import type { Figure, Reckoning, SpanFigures, SystemShown } from "../../api/client";
import { useMe } from "../../api/hooks";
import { cap, copFormula, originOf, useProof, type Proof } from "../Proof";
import { duration, figureText, number, plusMinus, shownIn } from "../numbers";
import * as look from "../look";

export function Fraction({
  system,
  span,
  reckoning,
  words,
  whole,
}: {
  system: SystemShown;
  span: SpanFigures;
  reckoning: Reckoning;
  words: string;
  whole: Figure | null;
}) {
  const { units } = useSettings();
  const me = useMe();
  const heatIn = shownIn(me.data?.units ?? [], "kWh", units);
  const about = `${system.name} · ${span.local} · ${reckoning.level}, ${words}`;
  const notes = [
    ...span.corrections.map((said) => `Corrected: ${said}`),
    ...reckoning.left_out.map((l) => `Left out: ${l.reason}, ${duration(l.seconds)}`),
  ];
  const from = (what: string) => originOf(system, reckoning, what);
  const base = { about, reckoning, notes: [...notes, `Metering: ${span.trust.words}.`], from: from("sum") };
  const both = [...reckoning.heat_lines, ...reckoning.electricity_lines].map((line) => line.energy);
  const decimals = Math.max(
    0,
    ...[reckoning.heat, reckoning.electricity].flatMap((figure) => (figure ? [figure.decimals ?? 2] : [])),
  );
  const value = (amount: number) => number(amount, both.length ? decimals : 2);
  const line = (title: string, proof: Proof, amount: number, sum = false) => (
    <TableRow sx={sum ? look.sum : {}} key={title}>
      <TableCell>{cap(title)}</TableCell>
      <TableCell align="right">
        <Amount proof={proof}>{value(amount)}</Amount>
      </TableCell>
      <TableCell sx={look.unit}>{sum ? "kWh" : ""}</TableCell>
    </TableRow>
  );
  return (
    <Box component="section" sx={{ marginTop: 6 }}>
      <LineTable aria-label="The sum">
        <TableBody>
          {reckoning.heat_lines.map((item) =>
            line(
              item.name,
              {
                ...base,
                title: cap(item.name),
                figure: item.energy,
                formula: `Σ ${reckoning.method} while ${item.name}`,
              },
              item.energy.value,
            ),
          )}
          {reckoning.heat &&
            line("Heat", { ...base, title: "Heat", figure: reckoning.heat }, reckoning.heat.value, true)}
          {!reckoning.heat && (
            <TableRow sx={look.sum}>
              <TableCell>Heat</TableCell>
              <TableCell align="right" sx={look.ember}>
                none
              </TableCell>
              <TableCell sx={look.unit} />
            </TableRow>
          )}
        </TableBody>
      </LineTable>
      <LineTable sx={{ borderTop: "2px solid var(--ink)", marginTop: 3 }} aria-label="Electricity">
        <TableBody>
          {reckoning.electricity_lines.map((item) =>
            line(
              item.name,
              {
                ...base,
                title: cap(item.name),
                figure: item.energy,
                formula: `Σ of the meter, which holds ${item.loads}`,
              },
              item.energy.value,
            ),
          )}
          {line(
            "Electricity",
            { ...base, title: "Electricity", figure: reckoning.electricity },
            reckoning.electricity.value,
            true,
          )}
        </TableBody>
      </LineTable>
      <Box sx={look.copline}>
        {reckoning.cop ? (
          <>
            <Amount
              proof={{
                ...base,
                notes: whole
                  ? [
                      ...base.notes,
                      `Taken for the whole period, with what the gaps may hide: ${figureText(whole)} ${plusMinus(whole)}.`,
                    ]
                  : base.notes,
                title: `COP at ${reckoning.level}`,
                figure: reckoning.cop,
                formula: copFormula(reckoning),
                from: from("COP"),
              }}
            >
              <Box
                component="span"
                sx={span.trust.kind === "doubtful" ? { ...look.cop, ...look.soft } : look.cop}
                data-testid="cop"
              >
                {figureText(reckoning.cop)}
              </Box>
            </Amount>
            <Box component="span" sx={look.soft} data-testid="cop-u">
              {plusMinus(reckoning.cop)} COP · k = 2
            </Box>
          </>
        ) : (
          <Box component="span" sx={look.ember} data-testid="cop">
            No COP: {reckoning.reason?.sentence}.
          </Box>
        )}
      </Box>
      {units === "US" && reckoning.heat && (
        <Typography variant="caption" component="p" sx={{ marginTop: 2 }}>
          Heat is {number(heatIn.of(reckoning.heat.value), reckoning.heat.value < 30 ? 1 : 0)} {heatIn.symbol}
          ; the sum stays in kWh on both sides.
        </Typography>
      )}
    </Box>
  );
}

function Amount({ proof, children }: { proof: Proof; children: ReactNode }) {
  const open = useProof();
  return (
    <FigureButton onClick={() => open(proof)}>
      {children}
      <Box component="span" sx={look.unseen}>
        , {proof.title}: show what it stands on
      </Box>
    </FigureButton>
  );
}
