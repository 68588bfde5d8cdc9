/** The proof sheet: what a figure stands on, down to the meters. */
import Drawer from "@mui/material/Drawer";
import { useQuery } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";

import { fetched, type Figure, type Reckoning } from "../api/client";
import { duration, figureText, number, percent, plusMinus } from "./numbers";

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
  why?: string | null;
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
        slotProps={{ paper: { "aria-label": "Proof sheet", role: "dialog", sx: { width: 460, maxWidth: "92vw", p: "14px 18px" } } }}
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
  return `COP = Σ heat ÷ Σ electricity = ${figureText(heat, 2)} kWh ÷ ${figureText(electricity, 2)} kWh = ${figureText(cop)}`;
}

function Sheet({ proof, close }: { proof: Proof; close: () => void }) {
  const { figure, reckoning } = proof;
  return (
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      <header style={{ display: "flex", gap: 10 }}>
        <div style={{ flex: 1 }}>
          <h1>{proof.title}</h1>
          <p className="soft">{proof.about}</p>
        </div>
        <button className="key" onClick={close} autoFocus style={{ alignSelf: "start" }}>
          Close
        </button>
      </header>
      {figure ? (
        <p>
          <span className="cop">{figureText(figure)}</span> {plusMinus(figure)} {figure.unit} <span className="soft">k = 2</span>
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
      {reckoning && <Inputs reckoning={reckoning} />}
      {figure && figure.budget.length > 0 && <Budget figure={figure} />}
      {proof.notes && proof.notes.length > 0 && (
        <section>
          <h3>Corrected and left out</h3>
          {proof.notes.map((note) => (
            <p key={note}>{note}</p>
          ))}
        </section>
      )}
      {proof.text && <Copy address={proof.text} />}
    </div>
  );
}

function Inputs({ reckoning }: { reckoning: Reckoning }) {
  const lines = [...reckoning.heat_lines, ...reckoning.electricity_lines];
  return (
    <section>
      <h3>What is in it</h3>
      <table className="rows dotted">
        <tbody>
          {lines.map((line) => (
            <tr key={line.name}>
              <td>
                {cap(line.name)} {line.holds && <span className="soft">{line.holds}</span>}
              </td>
              <td className="num">
                {figureText(line.energy)} <span className="soft">{line.energy.U > 0 && plusMinus(line.energy)} kWh</span>
              </td>
            </tr>
          ))}
          <tr>
            <td>Heat measured by</td>
            <td className="num">{reckoning.way}</td>
          </tr>
          <tr>
            <td>Covered</td>
            <td className="num">
              {duration(reckoning.covered)} of {duration(reckoning.seconds)} · {percent(reckoning.coverage)}
            </td>
          </tr>
          {reckoning.left_out.map((left) => (
            <tr key={left.reason}>
              <td>Left out: {left.reason}</td>
              <td className="num">{duration(left.seconds)}</td>
            </tr>
          ))}
          {reckoning.gross_cop && (
            <tr>
              <td>Gross, defrosts left out on both sides</td>
              <td className="num">
                {figureText(reckoning.gross_cop)} <span className="soft">{plusMinus(reckoning.gross_cop)}</span>
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}

function Budget({ figure }: { figure: Figure }) {
  const variance = figure.budget.reduce((sum, part) => sum + part.u ** 2, 0);
  const parts = [...figure.budget].sort((a, b) => Math.abs(b.u) - Math.abs(a.u));
  const digits = (figure.decimals ?? 2) + 1;
  return (
    <section>
      <h3>Where the ± comes from</h3>
      <table className="rows" style={{ marginTop: 2 }}>
        <tbody>
          {parts.map((part) => {
            const share = part.u ** 2 / variance;
            return (
              <tr key={part.source}>
                <td style={{ width: "46%" }}>{cap(part.source)}</td>
                <td className="num" style={{ width: 70 }}>
                  ± {number(2 * Math.abs(part.u), digits)}
                </td>
                <td>
                  <div style={{ display: "flex", alignItems: "center", gap: 6, paddingLeft: 10 }}>
                    <div aria-hidden style={{ height: 8, width: `${Math.max(1, share * 110)}px`, background: "var(--soft)" }} />
                    <span className="cap">{share < 0.005 ? "< 1 %" : percent(share)}</span>
                  </div>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="cap" style={{ marginTop: 4 }}>
        ± is U with k = 2. The parts add by their squares; the bars show each part's share.
      </p>
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
    <section>
      <button className="key" onClick={() => void copy()}>
        Copy sum as text
      </button>{" "}
      <span role="status" className="cap">
        {said}
      </span>
      <pre style={{ font: "11px/1.35 monospace", overflow: "auto", border: "1px solid var(--hair)", padding: 8, marginTop: 8 }} tabIndex={0} aria-label="The sum as text">
        {text}
      </pre>
    </section>
  );
}

export const cap = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** A result: value, ± U, and a way to what it stands on. The one component for a figure. */
export function HonestFigure({ proof, none = "–", unit = true, pm = true }: { proof: Proof; none?: string; unit?: boolean; pm?: boolean }) {
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
