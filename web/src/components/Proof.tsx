/** The proof sheet: what a figure stands on, down to the meters. */
import { To } from "./To";
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { LineTable } from "./Sheets";
import { FigureButton } from "./FigureButton";
import * as look from "./look";
import Drawer from "@mui/material/Drawer";
import { useQuery } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";

import { api, fetched, got, type Figure, type Reckoning } from "../api/client";
import { useSpan } from "../api/hooks";
import { duration, figureText, localMinute, number, percent, plusMinus } from "./numbers";
import { Readings } from "./Readings";

export interface Proof {
  title: string;
  /** Where and when, in words. */
  about: string;
  figure: Figure | null;
  /** The formula with the numbers put in. */
  formula?: string;
  reckoning?: Reckoning | null;
  notes?: string[];
  /** Where the whole sum stands as plain text. */
  text?: string;
  /** What a link to it is made from, and where its readings are found. */
  from?: Origin;
  why?: string | null;
}

/** The system and the period a figure is of, in its local time; what : the figure among its sum. */
export interface Origin {
  system: number;
  zone: string;
  start: string;
  stop: string;
  level: string;
  what: string;
}

/** Where a figure of a Reckoning comes from. */
export function originOf(system: { id: number; zone: string }, reckoning: Reckoning, what: string): Origin {
  const local = (instant: number) => localMinute(instant, system.zone);
  return {
    system: system.id,
    zone: system.zone,
    start: local(reckoning.start),
    stop: local(reckoning.stop),
    level: reckoning.level,
    what,
  };
}

/** The whole sum of a period as plain text. */
export function textOf({ system, start, stop }: Pick<Origin, "system" | "start" | "stop">): string {
  return `/api/v1/systems/${system}/span.txt?${new URLSearchParams({ start, stop })}`;
}

const Context = createContext<(proof: Proof) => void>(() => undefined);

export const useProof = () => useContext(Context);

export function ProofProvider({ children }: { children: ReactNode }) {
  const [proof, setProof] = useState<Proof | null>(null);
  const open = useCallback((next: Proof) => setProof(next), []);
  return (
    <Context value={open}>
      {children}
      <Drawer
        anchor="right"
        open={proof !== null}
        onClose={() => setProof(null)}
        slotProps={{
          paper: {
            "aria-label": "Proof sheet",
            role: "dialog",
            sx: { width: 520, maxWidth: "92vw", p: "14px 18px" },
          },
        }}
      >
        {proof && <Sheet proof={proof} close={() => setProof(null)} />}
      </Drawer>
    </Context>
  );
}

/** The formula of a COP with its numbers. */
export function copFormula(reckoning: Reckoning): string | undefined {
  const { heat, electricity, cop } = reckoning;
  if (!heat || !cop) return undefined;
  const [what, moved] =
    heat.value < 0 ? ["EER = Σ heat taken out", { ...heat, value: -heat.value }] : ["COP = Σ heat", heat];
  return `${what} ÷ Σ electricity = ${figureText(moved, 2)} kWh ÷ ${figureText(electricity, 2)} kWh = ${figureText(cop)}`;
}

function Sheet({ proof, close }: { proof: Proof; close: () => void }) {
  const { figure, from } = proof;
  // A figure that came without its sum (the fleet's) fetches it.
  const span = useSpan(
    from?.system ?? 0,
    from && !proof.reckoning ? { start: from.start, stop: from.stop } : null,
  );
  const reckoning =
    proof.reckoning ?? span.data?.levels.find((one) => one.level === from?.level)?.reckoning ?? null;
  const text = proof.text ?? (from ? textOf(from) : undefined);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      <Box component="header" sx={{ display: "flex", gap: 10 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">{proof.title}</Typography>
          <Box component="p" sx={look.soft}>
            {proof.about}
          </Box>
        </Box>
        <Box component="span" sx={{ ...look.noprint, alignSelf: "start", display: "flex", gap: 6 }}>
          <Button onClick={() => window.print()}>Print</Button>
          <Button onClick={close} autoFocus>
            Close
          </Button>
        </Box>
      </Box>
      {figure ? (
        <p>
          <Box component="span" sx={look.cop}>
            {figureText(figure)}
          </Box>{" "}
          {plusMinus(figure)} {figure.unit}{" "}
          <Box component="span" sx={look.soft}>
            k = 2
          </Box>
        </p>
      ) : (
        <Box component="p" sx={look.ember}>
          None: {proof.why ?? "it cannot be stated"}.
        </Box>
      )}
      {proof.formula && (
        <section>
          <Typography variant="h3" component="h2">
            Formula
          </Typography>
          <p>{proof.formula}</p>
        </section>
      )}
      {reckoning && <Inputs reckoning={reckoning} from={from} />}
      {figure && figure.budget.length > 0 && <WhereFrom figure={figure} />}
      {proof.notes && proof.notes.length > 0 && (
        <section>
          <Typography variant="h3" component="h2">
            {reckoning ? "Corrected and left out" : "On what it rests"}
          </Typography>
          {proof.notes.map((note) => (
            <p key={note}>{note}</p>
          ))}
        </section>
      )}
      {from && figure && <Pin from={from} />}
      {text && <Copy address={text} />}
    </Box>
  );
}

export function Inputs({ reckoning, from }: { reckoning: Reckoning; from?: Origin }) {
  const lines = [...reckoning.heat_lines, ...reckoning.electricity_lines];
  const meters = [
    ...reckoning.heat_meters,
    ...reckoning.electricity_lines.map((line) => line.name.replace(/^less /, "")),
  ];
  return (
    <section>
      <Typography variant="h3" component="h2">
        What is in it
      </Typography>
      <LineTable dotted>
        <TableBody>
          {lines.map((line) => (
            <TableRow key={line.name}>
              <TableCell>
                {cap(line.name)}{" "}
                {line.loads && (
                  <Box component="span" sx={look.soft}>
                    {line.loads}
                  </Box>
                )}
              </TableCell>
              <TableCell align="right">
                {figureText(line.energy)}{" "}
                <Box component="span" sx={look.soft}>
                  {line.energy.U > 0 && plusMinus(line.energy)} kWh
                </Box>
              </TableCell>
            </TableRow>
          ))}
          <TableRow>
            <TableCell>Heat measured by</TableCell>
            <TableCell align="right">{reckoning.method}</TableCell>
          </TableRow>
          <TableRow>
            <TableCell>Covered</TableCell>
            <TableCell align="right">
              {duration(reckoning.covered)} of {duration(reckoning.seconds)} · {percent(reckoning.coverage)}
            </TableCell>
          </TableRow>
          {reckoning.left_out.map((left) => (
            <TableRow key={left.reason.sentence}>
              <TableCell>Left out: {left.reason.sentence}</TableCell>
              <TableCell align="right">{duration(left.seconds)}</TableCell>
            </TableRow>
          ))}
          {reckoning.standby.value > 0 && (
            <TableRow>
              <TableCell>Electricity while off or on standby, in it</TableCell>
              <TableCell align="right">
                {figureText(reckoning.standby)}{" "}
                <Box component="span" sx={look.soft}>
                  {plusMinus(reckoning.standby)} kWh
                </Box>
              </TableCell>
            </TableRow>
          )}
          {reckoning.gross_cop && (
            <TableRow>
              <TableCell>Gross, defrosts left out on both sides</TableCell>
              <TableCell align="right">
                {figureText(reckoning.gross_cop)}{" "}
                <Box component="span" sx={look.soft}>
                  {plusMinus(reckoning.gross_cop)}
                </Box>
              </TableCell>
            </TableRow>
          )}
        </TableBody>
      </LineTable>
      {from && <Readings from={from} meters={[...new Set(meters)]} />}
    </section>
  );
}

/** Where the uncertainty comes from, as the core reads the budget. */
export function WhereFrom({ figure }: { figure: Figure }) {
  const found = useQuery({
    queryKey: ["budget", figure],
    queryFn: () => got(api.POST("/api/v1/budget", { body: figure })),
    staleTime: Infinity,
  });
  const digits = (figure.decimals ?? 2) + 1;
  const budget = found.data;
  return (
    <section>
      <Typography variant="h3" component="h2">
        Where the ± comes from
      </Typography>
      {found.isError && (
        <Alert severity="warning" role="note">
          {found.error.message}
        </Alert>
      )}
      {budget && (
        <>
          <LineTable sx={{ marginTop: 2 }} aria-label="Uncertainty budget">
            <TableBody>
              {budget.lines.map((line) => (
                <TableRow key={line.source}>
                  <TableCell sx={{ width: "46%" }}>
                    {cap(line.source)}{" "}
                    {line.random && (
                      <Typography variant="caption" component="span">
                        random
                      </Typography>
                    )}
                  </TableCell>
                  <TableCell align="right" sx={{ width: 70 }}>
                    ± {number(line.U, digits)}
                  </TableCell>
                  <TableCell>
                    <Box sx={{ display: "flex", alignItems: "center", gap: 6, paddingLeft: 10 }}>
                      <Box
                        sx={{
                          height: 8,
                          width: `${Math.max(1, line.share * 110)}px`,
                          background: line.random ? "var(--day-rated)" : "var(--soft)",
                        }}
                        aria-hidden
                      />
                      <Typography variant="caption" component="span">
                        {line.share < 0.005 ? "< 1 %" : percent(line.share)}
                      </Typography>
                    </Box>
                  </TableCell>
                </TableRow>
              ))}
            </TableBody>
          </LineTable>
          <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
            U with k = 2; parts add by their squares, the bars show the shares. Systematic ±{" "}
            {number(budget.systematic, digits)}, random ± {number(budget.random, digits)}: only the random
            part shrinks with time, only the systematic one cancels between figures of the same meter.
          </Typography>
          {budget.pays && budget.pays_U !== null && (
            <Box component="p" sx={{ marginTop: 4 }}>
              Pays most: {budget.pays}. Halved, the whole would be ± {number(budget.pays_U, digits)}
              {budget.advice ? `; by ${budget.advice}` : ""}.
            </Box>
          )}
        </>
      )}
    </section>
  );
}

/** A link that gives this figure later too, with whether anything has changed since. */
function Pin({ from }: { from: Origin }) {
  const { system, zone: _zone, ...asked } = from;
  const [address, setAddress] = useState("");
  const [said, setSaid] = useState("");
  async function make() {
    try {
      const { key } = await got(
        api.POST("/api/v1/systems/{pk}/proofs", { params: { path: { pk: system } }, body: asked }),
      );
      setAddress(`${window.location.origin}/proofs/${key}`);
      setSaid("It keeps this figure with its sum, and says so if the data change.");
    } catch (error) {
      setSaid((error as Error).message);
    }
  }
  return (
    <Box component="section" sx={look.noprint}>
      <Button onClick={() => void make()}>Make a permanent link</Button>{" "}
      <Typography variant="caption" component="span" role="status">
        {said}
      </Typography>
      {address && (
        <Box component="p" sx={{ marginTop: 4 }}>
          <To to={new URL(address).pathname} sx={{ overflowWrap: "anywhere" }}>
            {address}
          </To>
        </Box>
      )}
    </Box>
  );
}

export function Copy({ address }: { address: string }) {
  const [said, setSaid] = useState("");
  const found = useQuery({
    queryKey: ["text", address],
    queryFn: async () => (await fetched(address)).text(),
    staleTime: 0,
  });
  const text = found.data ?? found.error?.message ?? "…";
  async function copy() {
    try {
      await navigator.clipboard.writeText(text);
      setSaid("Copied.");
    } catch {
      setSaid("The browser does not allow copying; mark the text by hand.");
    }
  }
  return (
    <Box component="section" sx={look.noprint}>
      <Button onClick={() => void copy()}>Copy sum as text</Button>{" "}
      <Typography variant="caption" component="span" role="status">
        {said}
      </Typography>
      <Box
        component="pre"
        sx={{
          font: "11px/1.35 monospace",
          overflow: "auto",
          border: "1px solid var(--hair)",
          padding: 8,
          marginTop: 8,
        }}
        tabIndex={0}
        aria-label="The sum as text"
      >
        {text}
      </Box>
    </Box>
  );
}

export const cap = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** A result: value, ± U, and a way to what it stands on. The one component for a figure. */
export function HonestFigure({
  proof,
  none = "–",
  unit = true,
  pm = true,
}: {
  proof: Proof;
  none?: string;
  unit?: boolean;
  pm?: boolean;
}) {
  const open = useProof();
  const { figure } = proof;
  return (
    <FigureButton onClick={() => open(proof)}>
      {figure ? (
        <>
          {figureText(figure)}
          {pm && (
            <Box component="span" sx={look.soft}>
              {" "}
              {plusMinus(figure)}
            </Box>
          )}
          {unit && figure.unit && (
            <Box component="span" sx={look.soft}>
              {" "}
              {figure.unit}
            </Box>
          )}
        </>
      ) : (
        none
      )}
      <Box component="span" sx={look.unseen}>
        , {proof.title}: show what it stands on
      </Box>
    </FigureButton>
  );
}
