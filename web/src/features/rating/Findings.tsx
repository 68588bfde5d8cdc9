/** Findings: what is wrong, with proof, and what to do; and where each stands. */
import Dialog from "@mui/material/Dialog";
import { useState, type FormEvent } from "react";
import { Link, useSearchParams } from "react-router";

import type { Finding, FindingsShown, FindingStatus, SystemShown } from "../../api/client";
import { useFindings, useFindingStatus, useRenew } from "../../api/hooks";
import { cap, HonestFigure } from "../../components/Proof";
import { dayYear, figureText, localMinute, number, plusMinus } from "../../components/numbers";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { Gauge } from "./Gauge";
import { must } from "../../components/must";

const CLOSED = ["dismissed", "fixed"];

export function Findings({ system, go }: { system: SystemShown; go: () => void }) {
  const findings = useFindings(system.id);
  const renew = useRenew();
  if (findings.isError) return <Trouble error={findings.error} again={() => void findings.refetch()} />;
  if (!findings.data) return <Waiting what="the findings" />;
  const found = findings.data;
  if (!found.made)
    return (
      <Empty title="No findings are worked out yet">
        <p>They come with the figures of the record.</p>
        <p>
          <button className="key main" onClick={() => renew.mutate(system.id)}>
            Work them out
          </button>
        </p>
      </Empty>
    );
  return (
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      {found.stale && (
        <p className="notice mild" role="status">
          These findings are of earlier readings, another description or other thresholds; they are being
          worked out anew.
        </p>
      )}
      <List system={system} found={found} />
      <NotJudged found={found} go={go} />
      <Past system={system} found={found} />
    </div>
  );
}

function statusOf(found: FindingsShown, code: string): FindingStatus | undefined {
  return found.statuses.find((status) => status.code === code);
}

function List({ system, found }: { system: SystemShown; found: FindingsShown }) {
  const [params, setParams] = useSearchParams();
  const closed = (finding: Finding) => CLOSED.includes(statusOf(found, finding.code)?.state ?? "new");
  const rows = [...found.findings.filter((one) => !closed(one)), ...found.findings.filter(closed)];
  const shown = rows.find((one) => one.code === params.get("finding")) ?? rows[0];
  const show = (code: string) =>
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set("finding", code);
        return next;
      },
      { replace: true },
    );
  if (!shown)
    return (
      <Empty title="Nothing found">
        <p>
          Every rule that these readings allow was looked at, and none of them spoke. What could not be judged
          is listed below{found.not_judged.length ? "" : "; today that is nothing"}.
        </p>
      </Empty>
    );
  return (
    <section
      aria-label="Findings"
      style={{
        display: "grid",
        gridTemplateColumns: "minmax(220px, 0.56fr) minmax(0, 1fr)",
        gap: 20,
        alignItems: "start",
      }}
    >
      <div
        role="listbox"
        aria-label="Findings, the first to look at first"
        style={{ borderTop: "1px solid var(--line)" }}
      >
        {rows.map((one) => {
          const status = statusOf(found, one.code);
          const over = closed(one);
          const money = one.money_a_year ?? one.money_lost;
          return (
            <button
              key={one.code}
              role="option"
              aria-selected={one === shown}
              className="check"
              onClick={() => show(one.code)}
            >
              <span className={one.weight === "action" && !over ? "ember" : "soft"} aria-hidden>
                {over ? "○" : one.weight === "action" ? "■" : "◇"}
              </span>
              <span style={{ fontWeight: one === shown ? 650 : 400 }} className={over ? "soft" : undefined}>
                {cap(one.name)}
                <span className="cap" style={{ display: "block", fontWeight: 400 }}>
                  {over ? must(status).state : one.weight}
                  {status?.came_back ? " · came back" : status?.state === "accepted" ? " · accepted" : ""}
                </span>
              </span>
              <span className="num">{money ? `${figureText(money)} ${money.unit}` : ""}</span>
            </button>
          );
        })}
      </div>
      <Sheet
        key={shown.code}
        system={system}
        finding={shown}
        status={statusOf(found, shown.code)}
        keep={() => show(shown.code)}
      />
    </section>
  );
}

/** A span of a day and less is shown whole, a longer one from its beginning. */
function linkTo(system: SystemShown, view: string, start: number, stop: number): string {
  const local = (instant: number) => localMinute(instant, system.zone);
  const [room, table] = view.split("/");
  const query = new URLSearchParams();
  if (room === "running" && table) query.set("view", table);
  if (room === "rating") query.set("view", "weather");
  if (room !== "trust" && room !== "setup") {
    query.set("from", local(start).slice(0, 10));
    query.set("to", local(stop - 1).slice(0, 10));
  }
  if (room === "running" && !table && stop - start < 172_800)
    query.set("sel", `${local(start)}_${local(stop)}`);
  return `/systems/${system.id}/${room}?${query}`;
}

function Sheet({
  system,
  finding,
  status,
  keep,
}: {
  system: SystemShown;
  finding: Finding;
  status: FindingStatus | undefined;
  keep: () => void;
}) {
  return (
    <article aria-label={cap(finding.name)} style={{ display: "grid", gap: 10 }}>
      <header>
        <h1 className={finding.weight === "action" ? "ember" : undefined}>{finding.sentence}</h1>
        <p className="cap">
          {finding.weight === "action" ? "Asks for action" : "Worth a look"} ·{" "}
          {dayYear(finding.period.start, system.zone)} to {dayYear(finding.period.stop - 1, system.zone)}
          {finding.metering && " · a fault of the metering: no other verdict rests on it"}
        </p>
      </header>
      <Cost system={system} finding={finding} />
      <section>
        <h3>Evidence</h3>
        {finding.evidence.map((one) => (
          <div
            key={one.words}
            style={{
              display: "grid",
              gridTemplateColumns: "minmax(0, 1fr) 190px",
              gap: 12,
              alignItems: "center",
              borderBottom: "1px solid var(--hair)",
              padding: "3px 0",
            }}
          >
            <span>
              {cap(one.words)}:{" "}
              <strong>
                <HonestFigure
                  proof={{
                    title: cap(one.words),
                    about: `${system.name} · ${cap(finding.name)}`,
                    figure: one.measured,
                    formula: `against a threshold of ${number(one.threshold, 2)}; the fault lies ${one.above ? "above" : "below"} it`,
                  }}
                />
              </strong>{" "}
              <span className="soft">against {number(one.threshold, decimals(one.threshold))}</span>{" "}
              <Link to={linkTo(system, one.view, one.start, one.stop)} className="cap noprint">
                show
              </Link>
            </span>
            <Gauge
              value={one.measured.value}
              U={one.measured.U}
              threshold={one.threshold}
              above={one.above}
            />
          </div>
        ))}
      </section>
      <section>
        <h3>Likely causes, the likeliest first</h3>
        <ol style={{ margin: 0, paddingLeft: 18 }}>
          {finding.causes.map((cause) => (
            <li key={cause.name}>
              {cause.name}
              {cause.speaks_for.map((words) => (
                <span key={words} className="teal" style={{ display: "block" }}>
                  + {words}
                </span>
              ))}
              {cause.speaks_against.map((words) => (
                <span key={words} className="soft" style={{ display: "block" }}>
                  − {words}
                </span>
              ))}
            </li>
          ))}
        </ol>
      </section>
      <section>
        <h3>Next</h3>
        <p>{finding.next_check}</p>
        <p>
          <strong>Who: </strong>
          {finding.who}
        </p>
        <p className="notice" style={{ marginTop: 4 }}>
          <strong>Caution: </strong>
          {finding.caution}
        </p>
        <p className="soft" style={{ marginTop: 4 }}>
          Clears when: {finding.clears}
        </p>
      </section>
      <Standing system={system} finding={finding} status={status} keep={keep} />
    </article>
  );
}

const decimals = (value: number) => (Math.abs(value) < 10 && !Number.isInteger(value) ? 2 : 0);

function Cost({ system, finding }: { system: SystemShown; finding: Finding }) {
  const money = finding.money_a_year ?? finding.money_lost;
  const energy = finding.kwh_a_year ?? finding.lost;
  const when = finding.kwh_a_year ? "a year" : "in these days";
  if (!energy) return <p className="soft">{cap(finding.cost_basis)}.</p>;
  return (
    <p>
      <strong>
        <HonestFigure
          proof={{
            title: `Lost ${when}`,
            about: `${system.name} · ${cap(finding.name)}`,
            figure: money ?? energy,
            formula: finding.cost_basis,
          }}
        />{" "}
        {when}
      </strong>
      {money && (
        <>
          , {figureText(energy)} {plusMinus(energy)} kWh
        </>
      )}
      . <span className="soft">{finding.cost_basis}.</span>
    </p>
  );
}

/** What is asked before a finding is closed. */
type Asking = "dismissed" | "fixed" | null;

function Standing({
  system,
  finding,
  status,
  keep,
}: {
  system: SystemShown;
  finding: Finding;
  status: FindingStatus | undefined;
  keep: () => void;
}) {
  const put = useFindingStatus(system.id);
  const [asking, setAsking] = useState<Asking>(null);
  const state = status?.state ?? "new";
  const send = (next: string, reason = "", fixed_on: string | null = null) => {
    keep(); // what is closed moves down the list, and stays in sight
    put.mutate({ code: finding.code, state: next, reason, fixed_on }, { onSuccess: () => setAsking(null) });
  };
  return (
    <section aria-label="Where it stands" style={{ borderTop: "1px solid var(--line)", paddingTop: 8 }}>
      <div className="noprint" style={{ display: "flex", gap: 6, alignItems: "center", flexWrap: "wrap" }}>
        <span>
          {cap(state)}
          {status?.fixed_on ? ` on ${status.fixed_on}` : ""}
          {status?.reason ? `: ${status.reason}` : ""}
        </span>
        <span style={{ flex: 1 }} />
        {state === "new" && (
          <button className="key main" disabled={put.isPending} onClick={() => send("accepted")}>
            Accept
          </button>
        )}
        {state !== "new" && (
          <button className="key" disabled={put.isPending} onClick={() => send("new")}>
            Open again
          </button>
        )}
        {!CLOSED.includes(state) && (
          <>
            <button className="key" onClick={() => setAsking("fixed")}>
              Fixed …
            </button>
            <button className="key" onClick={() => setAsking("dismissed")}>
              Dismiss …
            </button>
          </>
        )}
      </div>
      {put.isError && !asking && (
        <p role="alert" className="notice">
          {put.error.message}
        </p>
      )}
      {status && <History status={status} zone={system.zone} />}
      {asking && (
        <Ask
          what={asking}
          send={send}
          close={() => setAsking(null)}
          pending={put.isPending}
          error={put.error}
        />
      )}
    </section>
  );
}

function History({ status, zone }: { status: FindingStatus; zone: string }) {
  return (
    <table className="rows dotted" aria-label={`History of ${status.name}`} style={{ marginTop: 4 }}>
      <tbody>
        {status.events.map((event) => (
          <tr key={event.at}>
            <td className="cap" style={{ width: 120 }}>
              {localMinute(event.at, zone).replace("T", " ")}
            </td>
            <td>{cap(event.words)}</td>
            <td className="cap num">{event.by ?? "by the evidence"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Ask({
  what,
  send,
  close,
  pending,
  error,
}: {
  what: "dismissed" | "fixed";
  send: (state: string, reason: string, day: string | null) => void;
  close: () => void;
  pending: boolean;
  error: Error | null;
}) {
  const [reason, setReason] = useState("");
  const [day, setDay] = useState("");
  const fixed = what === "fixed";
  function submitted(event: FormEvent) {
    event.preventDefault();
    send(what, reason.trim(), fixed ? day : null);
  }
  return (
    <Dialog open onClose={close} aria-labelledby="close-finding">
      <form onSubmit={submitted} style={{ padding: 16, width: 420, display: "grid", gap: 10 }}>
        <h1 id="close-finding">{fixed ? "When was it fixed?" : "Why is it none?"}</h1>
        <p className="soft">
          {fixed
            ? "It leaves the fleet\u2019s list. From two weeks after this day the readings since are looked at alone; if it shows in them, it comes back."
            : "It leaves the fleet\u2019s list. If the evidence grows by more than its uncertainty, it comes back."}
        </p>
        {fixed && (
          <label>
            <span className="cap">on which day</span>
            <br />
            <input
              type="date"
              value={day}
              autoFocus
              required
              onChange={(event) => setDay(event.target.value)}
            />
          </label>
        )}
        <label>
          <span className="cap">{fixed ? "what was done" : "reason"}</span>
          <br />
          <input
            type="text"
            value={reason}
            autoFocus={!fixed}
            maxLength={300}
            style={{ width: "100%" }}
            onChange={(event) => setReason(event.target.value)}
          />
        </label>
        {error && (
          <p role="alert" className="notice">
            {error.message}
          </p>
        )}
        <div style={{ display: "flex", gap: 8 }}>
          <button className="key main" disabled={pending || (fixed ? !day : !reason.trim())}>
            {fixed ? "Mark as fixed" : "Dismiss"}
          </button>
          <button type="button" className="key" onClick={close}>
            Cancel
          </button>
        </div>
      </form>
    </Dialog>
  );
}

/** Verdicts that are not made, by what forbids them. */
function NotJudged({ found, go }: { found: FindingsShown; go: () => void }) {
  const by = new Map<string, string[]>();
  for (const one of found.not_judged)
    by.set(one.reason.sentence, [...(by.get(one.reason.sentence) ?? []), one.name]);
  return (
    <section aria-label="Not judged">
      {[...by].map(([because, names]) => (
        <p key={because} className="soft">
          <strong>Not judged</strong>, {because}: {names.join(", ")}.
        </p>
      ))}
      <p className="cap">
        Every rule has a threshold.{" "}
        <button className="figure" style={{ textDecoration: "underline" }} onClick={go}>
          See and change them
        </button>
        {found.siblings.length > 0 &&
          `. The same rated table: ${found.siblings.map((one) => `${one.name} ${number(one.ratio, 2)} ± ${number(one.U, 2)}`).join(", ")}.`}
      </p>
    </section>
  );
}

/** What was found before and is not any more. */
function Past({ system, found }: { system: SystemShown; found: FindingsShown }) {
  const now = new Set<string>(found.findings.map((one) => one.code));
  const past = found.statuses.filter((status) => !now.has(status.code));
  if (!past.length) return null;
  return (
    <section aria-label="Found before">
      <h2>Found before</h2>
      <table className="sheet">
        <tbody>
          {past.map((status) => (
            <tr key={status.code}>
              <td style={{ width: 170 }}>{cap(status.name)}</td>
              <td style={{ width: 90 }} className="soft">
                {status.state === "gone" ? "no longer found" : status.state}
              </td>
              <td>
                {status.sentence}
                <History status={status} zone={system.zone} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
