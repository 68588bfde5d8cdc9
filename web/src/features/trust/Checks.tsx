/** Every check: its verdict, the picture that shows it, its effect, and the remedy. */
import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import type { Check, Effect, Figure, SystemShown, TrustShown } from "../../api/client";
import { useAccept } from "../../api/hooks";
import { cap } from "../../components/Proof";
import { figureText, localMinute, MINUS, plusMinus } from "../../components/numbers";
import { Picture } from "./Picture";

const ORDER = ["broken", "doubtful", "sound", "not checkable"];
const MARK: Record<string, string> = { broken: "■", doubtful: "◐", sound: "●", "not checkable": "○" };
const TONE: Record<string, string> = {
  broken: "ember",
  doubtful: "ember",
  sound: "teal",
  "not checkable": "soft",
};

export function Checks({ system, found }: { system: SystemShown; found: TrustShown }) {
  const [params, setParams] = useSearchParams();
  const worst = [...found.checks].sort((a, b) => ORDER.indexOf(a.soundness) - ORDER.indexOf(b.soundness));
  const shown = worst.find((check) => check.code === params.get("check")) ?? worst[0];
  const show = (name: string) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set("check", name);
        return next;
      },
      { replace: true },
    );
  return (
    <section
      aria-label="Checks"
      style={{
        display: "grid",
        gridTemplateColumns: "minmax(250px, 0.72fr) minmax(0, 1fr)",
        gap: 18,
        alignItems: "start",
      }}
    >
      <div role="listbox" aria-label="Checks of the metering" style={{ borderTop: "1px solid var(--line)" }}>
        {worst.map((check) => (
          <button
            key={check.code}
            role="option"
            aria-selected={check === shown}
            className="check"
            onClick={() => show(check.code)}
          >
            <span className={TONE[check.soundness]} aria-hidden>
              {MARK[check.soundness]}
            </span>
            <span style={{ fontWeight: check === shown ? 650 : 400 }}>{cap(check.name)}</span>
            <span className={`num ${TONE[check.soundness]}`}>
              {check.effect ? <Change effect={check.effect} /> : ""} {check.soundness}
            </span>
          </button>
        ))}
      </div>
      {shown && <Shown key={shown.name} system={system} check={shown} />}
    </section>
  );
}

/** "3.12 → 2.81". */
function Change({ effect }: { effect: Effect }) {
  const [now, then] = [effect.cop_now, effect.cop_then];
  if (now && then && figureText(now) === figureText(then)) return null;
  if (!now && !then) return null;
  return (
    <span className="soft" style={{ marginRight: 8 }}>
      {now ? figureText(now) : "none"} → {then ? figureText(then) : "none"}
    </span>
  );
}

function Shown({ system, check }: { system: SystemShown; check: Check }) {
  return (
    <div aria-label={cap(check.name)} role="region" style={{ display: "grid", gap: 8 }}>
      <h2>
        {cap(check.name)} <span className={TONE[check.soundness]}>{check.soundness}</span>
      </h2>
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
        <p className="cap">Puts in doubt: {check.affects.join(", ")}.</p>
      )}
    </div>
  );
}

/** Where it shows; a link opens the readings. */
function Spans({ system, check }: { system: SystemShown; check: Check }) {
  const local = (instant: number) => localMinute(instant, system.zone);
  return (
    <p className="cap">
      Evidence:{" "}
      {check.spans.slice(0, 6).map((span) => {
        const [from, to] = [local(span.start - 3600), local(span.stop + 3600)];
        const query = new URLSearchParams({
          from: from.slice(0, 10),
          to: to.slice(0, 10),
          win: `${from}_${to}`,
        });
        return (
          <Link
            key={span.start}
            to={`/systems/${system.id}/running?${query}`}
            style={{ marginRight: 10 }}
            title={span.name}
          >
            {local(span.start).replace("T", " ")}
          </Link>
        );
      })}
      {check.spans.length > 6 && `and ${check.spans.length - 6} more`}
    </p>
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
        {figureText(figure)} <span className="soft">{plusMinus(figure)}</span>
      </>
    ) : (
      <span className="soft">none</span>
    );
  return (
    <table className="sheet" aria-label="Effect on the record">
      <thead>
        <tr>
          <th>Whole record, widest level</th>
          <th className="num">as it stands</th>
          <th className="num">if accepted</th>
        </tr>
      </thead>
      <tbody>
        {rows
          .filter(([, now, then]) => now || then)
          .map(([name, now, then]) => (
            <tr key={name}>
              <td>{name}</td>
              <td className="num">{cell(now)}</td>
              <td className="num">
                <strong>{cell(then)}</strong>
              </td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}

function Proposals({ system, check }: { system: SystemShown; check: Check }) {
  const accept = useAccept(system.id);
  const [open, setOpen] = useState(false);
  const many = check.proposals.length > 4;
  const listed = many && !open ? check.proposals.slice(0, 3) : check.proposals;
  return (
    <div style={{ display: "grid", gap: 5 }}>
      <ul style={{ margin: 0, paddingLeft: 16 }}>
        {listed.map((one) => (
          <li key={one.words}>{one.words.replace(/(^|\s)-(?=\d)/g, `$1${MINUS}`)}</li>
        ))}
      </ul>
      {many && (
        <button
          className="key quiet soft"
          style={{ justifySelf: "start", padding: 0 }}
          onClick={() => setOpen(!open)}
        >
          {open ? "▾ fewer" : `▸ ${check.proposals.length - 3} more`}
        </button>
      )}
      {accept.isError && (
        <p role="alert" className="notice">
          {accept.error.message}
        </p>
      )}
      <div>
        <button
          className="key main"
          disabled={accept.isPending}
          onClick={() => accept.mutate(check.proposals.map((one) => one.correction))}
        >
          {check.proposals.length > 1 ? `Apply all ${check.proposals.length}` : "Apply"}
        </button>{" "}
        <span className="cap">It is listed below, stands in every proof, and can be undone.</span>
      </div>
    </div>
  );
}
