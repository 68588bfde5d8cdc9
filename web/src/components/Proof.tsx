/** The proof sheet: what a figure stands on, down to the meters. */
import Drawer from "@mui/material/Drawer";
import { useQuery } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";
import { Link } from "react-router";

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
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      <header style={{ display: "flex", gap: 10 }}>
        <div style={{ flex: 1 }}>
          <h1>{proof.title}</h1>
          <p className="soft">{proof.about}</p>
        </div>
        <span className="noprint" style={{ alignSelf: "start", display: "flex", gap: 6 }}>
          <button className="key" onClick={() => window.print()}>
            Print
          </button>
          <button className="key" onClick={close} autoFocus>
            Close
          </button>
        </span>
      </header>
      {figure ? (
        <p>
          <span className="cop">{figureText(figure)}</span> {plusMinus(figure)} {figure.unit}{" "}
          <span className="soft">k = 2</span>
        </p>
      ) : (
        <p className="ember">None: {proof.why ?? "it cannot be stated"}.</p>
      )}
      {proof.formula && (
        <section>
          <h3>Formula</h3>
          <p>{proof.formula}</p>
        </section>
      )}
      {reckoning && <Inputs reckoning={reckoning} from={from} />}
      {figure && figure.budget.length > 0 && <WhereFrom figure={figure} />}
      {proof.notes && proof.notes.length > 0 && (
        <section>
          <h3>Corrected and left out</h3>
          {proof.notes.map((note) => (
            <p key={note}>{note}</p>
          ))}
        </section>
      )}
      {from && figure && <Pin from={from} />}
      {text && <Copy address={text} />}
    </div>
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
      <h3>What is in it</h3>
      <table className="rows dotted">
        <tbody>
          {lines.map((line) => (
            <tr key={line.name}>
              <td>
                {cap(line.name)} {line.loads && <span className="soft">{line.loads}</span>}
              </td>
              <td className="num">
                {figureText(line.energy)}{" "}
                <span className="soft">{line.energy.U > 0 && plusMinus(line.energy)} kWh</span>
              </td>
            </tr>
          ))}
          <tr>
            <td>Heat measured by</td>
            <td className="num">{reckoning.method}</td>
          </tr>
          <tr>
            <td>Covered</td>
            <td className="num">
              {duration(reckoning.covered)} of {duration(reckoning.seconds)} · {percent(reckoning.coverage)}
            </td>
          </tr>
          {reckoning.left_out.map((left) => (
            <tr key={left.reason.sentence}>
              <td>Left out: {left.reason.sentence}</td>
              <td className="num">{duration(left.seconds)}</td>
            </tr>
          ))}
          {reckoning.standby.value > 0 && (
            <tr>
              <td>Electricity while off or on standby, in it</td>
              <td className="num">
                {figureText(reckoning.standby)}{" "}
                <span className="soft">{plusMinus(reckoning.standby)} kWh</span>
              </td>
            </tr>
          )}
          {reckoning.gross_cop && (
            <tr>
              <td>Gross, defrosts left out on both sides</td>
              <td className="num">
                {figureText(reckoning.gross_cop)}{" "}
                <span className="soft">{plusMinus(reckoning.gross_cop)}</span>
              </td>
            </tr>
          )}
        </tbody>
      </table>
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
      <h3>Where the ± comes from</h3>
      {found.isError && <p className="notice">{found.error.message}</p>}
      {budget && (
        <>
          <table className="rows" style={{ marginTop: 2 }} aria-label="Uncertainty budget">
            <tbody>
              {budget.lines.map((line) => (
                <tr key={line.source}>
                  <td style={{ width: "46%" }}>
                    {cap(line.source)} {line.random && <span className="cap">random</span>}
                  </td>
                  <td className="num" style={{ width: 70 }}>
                    ± {number(line.U, digits)}
                  </td>
                  <td>
                    <div style={{ display: "flex", alignItems: "center", gap: 6, paddingLeft: 10 }}>
                      <div
                        aria-hidden
                        style={{
                          height: 8,
                          width: `${Math.max(1, line.share * 110)}px`,
                          background: line.random ? "var(--day-rated)" : "var(--soft)",
                        }}
                      />
                      <span className="cap">{line.share < 0.005 ? "< 1 %" : percent(line.share)}</span>
                    </div>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="cap" style={{ marginTop: 4 }}>
            U with k = 2; parts add by their squares, the bars show the shares. Systematic ±{" "}
            {number(budget.systematic, digits)}, random ± {number(budget.random, digits)}: only the random
            part shrinks with time, only the systematic one cancels between figures of the same meter.
          </p>
          {budget.pays && budget.pays_U !== null && (
            <p style={{ marginTop: 4 }}>
              Pays most: {budget.pays}. Halved, the whole would be ± {number(budget.pays_U, digits)}
              {budget.advice ? `; by ${budget.advice}` : ""}.
            </p>
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
    <section className="noprint">
      <button className="key" onClick={() => void make()}>
        Make a permanent link
      </button>{" "}
      <span role="status" className="cap">
        {said}
      </span>
      {address && (
        <p style={{ marginTop: 4 }}>
          <Link to={new URL(address).pathname} style={{ overflowWrap: "anywhere" }}>
            {address}
          </Link>
        </p>
      )}
    </section>
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
    <section className="noprint">
      <button className="key" onClick={() => void copy()}>
        Copy sum as text
      </button>{" "}
      <span role="status" className="cap">
        {said}
      </span>
      <pre
        style={{
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
      </pre>
    </section>
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
    <button className="figure" onClick={() => open(proof)}>
      {figure ? (
        <>
          {figureText(figure)}
          {pm && <span className="soft"> {plusMinus(figure)}</span>}
          {unit && figure.unit && <span className="soft"> {figure.unit}</span>}
        </>
      ) : (
        none
      )}
      <span className="unseen">, {proof.title}: show what it stands on</span>
    </button>
  );
}
