/** A file before it is stored: what it is, what each column becomes, what would be lost. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import {
  api,
  got,
  type ColumnChoice,
  type Mode,
  type Preview,
  type Question,
  type SystemShown,
} from "../../api/client";
import { useChannels } from "../../api/hooks";
import { clock, dayYear, duration, number, percent } from "../../components/numbers";
import { Notes } from "./Notes";

export type Rule = "fill" | "replace" | "keep";

const RULES: [Rule, string][] = [
  ["fill", "what is stored stays; the file fills what is unknown"],
  ["replace", "the file's readings take the place of stored ones"],
  ["keep", "times that hold any stored reading stay as they are"],
];

/** How a file is to be stored. columns : set by hand; null for a recipe's, or, with guess, guessed. */
export interface Storing {
  columns: ColumnChoice[] | null;
  guess: boolean;
  rule: Rule;
  remember: string | null;
}

interface Props {
  system: SystemShown;
  preview: Preview;
  changed: (preview: Preview) => void;
  store: (how: Storing) => void;
  forget: () => void;
  busy: boolean;
}

export function Look({ system, preview, changed, store, forget, busy }: Props) {
  const { report, problem } = preview;
  const [columns, setColumns] = useState<ColumnChoice[] | null>(null);
  const [guess, setGuess] = useState(false);
  const [rule, setRule] = useState<Rule>("fill");
  const [remembered, setRemembered] = useState(true);
  const [name, setName] = useState(preview.name.replace(/\.\w+(\.gz)?$/, ""));
  const again = useMutation({
    mutationFn: (chosen: ColumnChoice[] | null) =>
      got(
        api.POST("/api/v1/uploads/{pk}/preview", {
          params: { path: { pk: preview.upload } },
          body: { columns: chosen, guess: chosen === null },
        }),
      ),
    onSuccess: changed,
  });

  function choose(next: ColumnChoice[] | null) {
    setColumns(next);
    setGuess(next === null);
    again.mutate(next);
  }

  const remember = columns !== null && remembered && name.trim() ? name.trim() : null;

  const said = problem ?? again.error?.message ?? null;
  return (
    <section
      aria-label="Preview"
      data-testid="preview"
      style={{
        display: "grid",
        gap: 10,
        border: "1px solid var(--line)",
        background: "var(--sheet)",
        padding: "12px 14px",
        borderRadius: 3,
      }}
    >
      <header style={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        <h2 style={{ flex: 1 }}>
          {preview.name}{" "}
          <span className="soft" style={{ fontWeight: 400 }}>
            {number(preview.size / 1e6, 1)} MB{report && ` · ${report.dialect} · clock: ${report.clock}`}
          </span>
        </h2>
        <button
          className="key main"
          disabled={!report || busy || again.isPending || preview.already !== null}
          onClick={() => store({ columns, guess, rule, remember })}
        >
          Store {report ? `${number(report.rows, 0)} rows` : ""}
        </button>
        <button className="key" onClick={forget}>
          Forget it
        </button>
      </header>
      {said && (
        <p role="alert" className="notice">
          {said}
        </p>
      )}
      {preview.already !== null && (
        <p className="notice mild">
          The same file is stored already (import {preview.already}); storing it again would add nothing.
        </p>
      )}
      {report && (
        <p>
          {dayYear(report.start, system.zone)} {clock(report.start, system.zone)} to{" "}
          {dayYear(report.stop, system.zone)} {clock(report.stop, system.zone)}, every {duration(report.step)}
        </p>
      )}
      {report && preview.overlap_days > 0 && preview.already === null && (
        <fieldset
          style={{ border: "1px solid var(--line)", borderRadius: 3, padding: "4px 10px 6px", margin: 0 }}
        >
          <legend>Overlaps {preview.overlap_days} stored days. There:</legend>
          {RULES.map(([name, what]) => (
            <label key={name} style={{ display: "block" }}>
              <input
                type="radio"
                name="rule"
                value={name}
                checked={rule === name}
                onChange={() => setRule(name)}
              />{" "}
              <strong>{name}</strong>: {what}
            </label>
          ))}
        </fieldset>
      )}
      {report && (
        <div>
          <h3>What reading it does</h3>
          <Notes report={report} />
        </div>
      )}
      {columns !== null && (
        <p>
          <label>
            <input
              type="checkbox"
              checked={remembered}
              onChange={(event) => setRemembered(event.target.checked)}
            />{" "}
            Remember these columns for the next file of this kind, as
          </label>{" "}
          <input
            type="text"
            aria-label="Name of the recipe"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </p>
      )}
      {preview.headers.length > 0 && (
        <Mapping
          system={system}
          preview={preview}
          columns={columns}
          choose={choose}
          waiting={again.isPending}
        />
      )}
    </section>
  );
}

function Mapping({
  system,
  preview,
  columns,
  choose,
  waiting,
}: {
  system: SystemShown;
  preview: Preview;
  columns: ColumnChoice[] | null;
  choose: (columns: ColumnChoice[] | null) => void;
  waiting: boolean;
}) {
  const channels = useChannels(system.id);
  const { report } = preview;
  const guessed = new Map((report?.columns ?? []).map((column) => [column.header, column]));
  const set =
    columns ??
    (report?.columns ?? []).map((column): ColumnChoice => ({
      header: column.header,
      channel: column.channel,
      unit: column.unit || null,
      counts: null,
      each_row: false,
      modes: column.modes,
    }));
  const mine = (header: string) => set.find((column) => column.header === header);

  function put(header: string, channel: string, unit: string | null, more: Partial<ColumnChoice> = {}) {
    const others = set.filter((column) => column.header !== header && column.channel !== channel);
    const modes = channel === "mode" ? (mine(header)?.modes ?? guessed.get(header)?.modes ?? []) : [];
    choose(
      channel
        ? [...others, { header, channel, unit, counts: null, each_row: false, modes, ...more }]
        : others,
    );
  }

  // Once a column is set by hand nothing is guessed any more: what was asked before stays open.
  const [asked, setAsked] = useState<Question[]>([]);
  const [answered, setAnswered] = useState<string[]>([]);
  const open = (columns === null ? (report?.questions ?? []) : asked).filter(
    (one) => !mine(one.header) && !answered.includes(one.header),
  );

  function answer(header: string, channel: string) {
    if (columns === null) setAsked(report?.questions ?? []);
    setAnswered([...answered, header]);
    put(header, channel, null);
  }

  return (
    <div style={{ overflowX: "auto", display: "grid", gap: 8 }}>
      {preview.given.length > 0 && (
        <p className="notice mild">
          Of the same file, given to another unit already, and so to none here:{" "}
          {preview.given.map((one) => `${one.header} (${one.system})`).join(", ")}.
        </p>
      )}
      {open.length > 0 && <Asked questions={open} answer={answer} />}
      <table className="sheet tight" aria-label="Columns" aria-busy={waiting}>
        <thead>
          <tr>
            <th>Column of the file</th>
            <th>First readings</th>
            <th>Is</th>
            <th>In</th>
            <th>Why</th>
            <th className="num">Known</th>
          </tr>
        </thead>
        <tbody>
          {preview.headers.map((header, k) => {
            const column = guessed.get(header);
            const choice = mine(header);
            const channel = channels.data?.find((one) => one.channel === choice?.channel);
            const isClock =
              report !== null && columns === null && !column && !report.ignored.includes(header);
            const byHand = columns !== null && choice !== undefined;
            return (
              <tr key={`${header}${k}`}>
                <td style={{ fontWeight: column ? 600 : 400 }}>{header}</td>
                <td className="soft" style={{ whiteSpace: "nowrap" }}>
                  {preview.sample.map((row) => row[k] ?? "").join(" · ")}
                </td>
                <td>
                  {isClock ? (
                    <strong>the clock</strong>
                  ) : (
                    <select
                      aria-label={`${header} is`}
                      value={choice?.channel ?? ""}
                      onChange={(event) => put(header, event.target.value, null)}
                      style={{ maxWidth: 210 }}
                    >
                      <option value="">not used</option>
                      {channels.data?.map((one) => (
                        <option key={one.channel} value={one.channel}>
                          {one.meaning}
                          {one.needed ? " *" : ""}
                        </option>
                      ))}
                    </select>
                  )}
                </td>
                <td>
                  {channel && channel.units.length > 0 && (
                    <select
                      aria-label={`Unit of ${header}`}
                      value={choice?.unit ?? ""}
                      onChange={(event) => put(header, channel.channel, event.target.value || null)}
                    >
                      <option value="">{column ? column.symbol : "as the header says"}</option>
                      {channel.units.map((one) => (
                        <option key={one.unit} value={one.unit}>
                          {one.symbol}
                        </option>
                      ))}
                    </select>
                  )}
                  {choice?.channel === "mode" && (
                    <Modes
                      header={header}
                      modes={choice.modes ?? []}
                      put={(modes) => put(header, "mode", null, { modes })}
                    />
                  )}
                  {channel?.counter && choice && (
                    <Counter
                      header={header}
                      choice={choice}
                      put={(change) =>
                        put(header, choice.channel, choice.unit ?? (change.counts ? "Wh" : null), {
                          counts: choice.counts,
                          each_row: choice.each_row,
                          ...change,
                        })
                      }
                    />
                  )}
                </td>
                <td className="soft">
                  {column
                    ? byHand
                      ? "set by hand"
                      : preview.recipe
                        ? `as remembered in “${preview.recipe}”`
                        : preview.given.length
                          ? "by its header; others have the rest"
                          : column.reason
                    : isClock
                      ? report.clock
                      : ""}
                </td>
                <td className="num">{column && report ? percent(column.valid / report.cells) : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="cap" style={{ marginTop: 4 }}>
        * the description reads it.{" "}
        {(columns !== null || preview.recipe !== null) && (
          <button
            className="key"
            onClick={() => {
              setAnswered([]);
              choose(null);
            }}
          >
            Guess again
          </button>
        )}
      </p>
    </div>
  );
}

const STATES = [
  ["off", "off"],
  ["heating", "heating"],
  ["hot_water", "hot water"],
  ["defrost", "defrost"],
  ["cooling", "cooling"],
] as const;

/** A column of modes: what each of its words means, to be confirmed. */
function Modes({ header, modes, put }: { header: string; modes: Mode[]; put: (modes: Mode[]) => void }) {
  return (
    <span className="cap" style={{ display: "grid", gap: 2, minWidth: 150 }}>
      {modes.map((mode, k) => (
        <label key={mode.word} style={{ display: "flex", justifyContent: "space-between", gap: 6 }}>
          {mode.word}{" "}
          <select
            aria-label={`${mode.word} of ${header} means`}
            value={mode.state}
            onChange={(event) =>
              put(modes.map((one, j) => (j === k ? { ...one, state: event.target.value } : one)))
            }
          >
            {STATES.map(([state, words]) => (
              <option key={state} value={state}>
                {words}
              </option>
            ))}
          </select>
        </label>
      ))}
    </span>
  );
}

/** What only a person can say of a column, with what each answer would give. */
function Asked({
  questions,
  answer,
}: {
  questions: Question[];
  answer: (header: string, channel: string) => void;
}) {
  return (
    <section aria-label="Open columns" className="notice mild" style={{ display: "grid", gap: 8 }}>
      {questions.map((question) => (
        <div key={question.header}>
          <p>
            <strong>{question.sentence}</strong>
          </p>
          <p style={{ display: "flex", gap: 8, flexWrap: "wrap", marginTop: 4 }}>
            {question.choices.map((choice) => (
              <button
                key={choice.channel}
                className="key"
                onClick={() => answer(question.header, choice.channel)}
              >
                {choice.words} <span className="cap">{choice.preview}</span>
              </button>
            ))}
          </p>
        </div>
      ))}
    </section>
  );
}

/** A column of a register: pulses with what one is worth, or the amount of each row. */
function Counter({
  header,
  choice,
  put,
}: {
  header: string;
  choice: ColumnChoice;
  put: (change: Partial<ColumnChoice>) => void;
}) {
  const [pulse, setPulse] = useState(choice.counts === null ? "" : String(choice.counts));
  return (
    <span style={{ display: "block", width: 96 }} className="cap">
      <label
        style={{ display: "block" }}
        title="Each row holds what passed since the row before, not a register"
      >
        <input
          type="checkbox"
          aria-label={`${header} holds the amount of each row`}
          checked={choice.each_row}
          onChange={() => put({ each_row: !choice.each_row })}
        />{" "}
        of each row
      </label>
      <label style={{ display: "block" }} title="The column counts pulses: what one is worth, in this unit">
        a pulse{" "}
        <input
          type="text"
          inputMode="decimal"
          aria-label={`A pulse of ${header} is`}
          value={pulse}
          onChange={(event) => setPulse(event.target.value)}
          onBlur={() => {
            const value = Number(pulse.replace(",", "."));
            const counts = pulse.trim() && value > 0 ? value : null;
            if (counts !== choice.counts) put({ counts });
          }}
          style={{ width: 48 }}
        />
      </label>
    </span>
  );
}
