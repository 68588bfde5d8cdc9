/** The installation, described: the metering drawn, and what the sums need to know. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, got, type SystemShown } from "../../api/client";
import { useForget } from "../../api/hooks";
import { dayYear, clock } from "../../components/numbers";
import { Room } from "../../components/Room";
import { Trouble, Waiting } from "../../components/Said";
import { toggleConsumer, type Draft } from "./draft";
import type { SetUp } from "./Fields";
import { HandSheet, Sensors } from "./HandSheet";
import { Heating, House, Installation, Siblings, Tank } from "./House";
import { Further } from "./Further";
import { Meters } from "./Meters";
import { Schematic } from "./Schematic";
import { Prices } from "./Tariff";
import { must } from "../../components/must";

type Edit = (next: Draft) => void;

export default function Setup() {
  return (
    <Room needs={false} panel={false}>
      {(system) => <Fetch key={system.id} system={system} />}
    </Room>
  );
}

function Fetch({ system }: { system: SystemShown }) {
  const setup = useQuery({
    queryKey: ["setup", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/setup", { params: { path: { pk: system.id } } })),
  });
  if (setup.isError) return <Trouble error={setup.error} again={() => void setup.refetch()} />;
  if (!setup.data) return <Waiting what="the description" />;
  return <Inside system={system} setup={setup.data} />;
}

function Inside({ system, setup }: { system: SystemShown; setup: SetUp }) {
  const stored = setup.description as unknown as Draft;
  const [draft, setDraft] = useState<Draft>(stored);
  const [before, setBefore] = useState<Draft[]>([]);
  const [active, setActive] = useState(0);
  const queries = useQueryClient();
  const forget = useForget();
  const text = useMemo(() => JSON.stringify(draft), [draft]);
  const dirty = text !== JSON.stringify(stored);
  const [shown, setShown] = useState(stored);
  if (shown !== stored) {
    setShown(stored);
    setDraft(stored);
    setBefore([]);
  }

  const checked = useQuery({
    queryKey: ["setup", system.id, "check", text],
    queryFn: () =>
      got(
        api.POST("/api/v1/systems/{pk}/setup/check", {
          params: { path: { pk: system.id } },
          body: { description: draft, based_on: null },
        }),
      ),
    placeholderData: (last) => last,
    enabled: dirty,
  });
  const problems = dirty ? (checked.data?.problems ?? []) : [];
  // A draft that cannot be promises nothing.
  const levels = dirty ? (checked.data?.levels ?? []) : setup.levels;
  const parts = dirty ? (checked.data?.parts ?? {}) : setup.parts;

  const saved = (next: SetUp) => {
    queries.setQueryData(["setup", system.id], next);
    forget(system.id);
  };
  const save = useMutation({
    mutationFn: () =>
      got(
        api.PUT("/api/v1/systems/{pk}/setup", {
          params: { path: { pk: system.id } },
          body: { description: draft, based_on: setup.history[0]?.id ?? null },
        }),
      ),
    onSuccess: saved,
  });
  const back = useMutation({
    mutationFn: (edition: number) =>
      got(
        api.POST("/api/v1/systems/{pk}/setup/{edition}/put-back", {
          params: { path: { pk: system.id, edition } },
        }),
      ),
    onSuccess: saved,
  });
  const edit: Edit = (next) => {
    setBefore([...before, draft]);
    setDraft(next);
  };
  const undo = () => {
    setDraft(must(before.at(-1)));
    setBefore(before.slice(0, -1));
  };

  const part = { setup, draft, edit, problems };
  return (
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 16, maxWidth: 1180 }}>
      <header style={{ display: "flex", gap: 8, alignItems: "baseline" }}>
        <h1 style={{ flex: 1 }}>
          Set up{" "}
          <span className="soft" style={{ fontWeight: 400, fontSize: 13 }}>
            {dirty ? "changed, not stored yet" : "as stored"}
          </span>
        </h1>
        <button className="key" disabled={!before.length} onClick={undo}>
          Undo
        </button>
        <button
          className="key main"
          disabled={!dirty || problems.length > 0 || checked.isFetching || save.isPending}
          onClick={() => save.mutate()}
        >
          Store
        </button>
        <a
          className="key"
          style={{ textDecoration: "none" }}
          href={`/api/v1/systems/${system.id}/installation.json`}
          download
        >
          JSON
        </a>
        <FromFile take={edit} />
      </header>
      {problems.length > 0 && (
        <div role="alert" className="notice" data-testid="problems">
          {problems.map((problem) => (
            <p key={problem.where + problem.what}>
              <strong>{problem.where}</strong> {problem.what}
            </p>
          ))}
        </div>
      )}
      {(save.isError || back.isError) && (
        <p role="alert" className="notice">
          {(save.error ?? back.error)?.message}
        </p>
      )}
      <section>
        <h2>Metering</h2>
        <p className="soft">
          Choose a meter, then click what it includes. A level that lights up can be computed once its meters
          are logged.
        </p>
        <div className="seg" role="group" aria-label="Meter" style={{ margin: "6px 0", flexWrap: "wrap" }}>
          {draft.electricity.map((meter, k) => (
            <button key={k} aria-pressed={k === active} onClick={() => setActive(k)}>
              {meter.name}
            </button>
          ))}
        </div>
        <Schematic
          draft={draft}
          consumers={setup.consumers}
          levels={levels}
          active={active}
          toggle={(consumer) => edit(toggleConsumer(draft, active, consumer))}
        />
        <ul style={{ margin: "6px 0 0", paddingLeft: 18 }} className="soft">
          {levels
            .filter((level) => level.reason?.sentence)
            .map((level) => (
              <li key={level.level}>
                {level.level}, {level.words}: {level.reason?.sentence}
              </li>
            ))}
        </ul>
      </section>
      <Meters {...part} parts={parts} />
      <Further {...part} />
      <div
        style={{
          display: "grid",
          gridTemplateColumns: "repeat(auto-fit, minmax(320px, 1fr))",
          gap: 22,
          alignItems: "start",
        }}
      >
        <Installation {...part} />
        <House {...part} />
        <div style={{ display: "grid", gap: 22 }}>
          <Tank {...part} />
          <Heating {...part} />
          <Prices {...part} />
        </div>
      </div>
      <Sensors {...part} />
      <HandSheet {...part} />
      <Siblings ids={setup.siblings} here={system.id} property={stored.property} />
      <History setup={setup} zone={system.zone} back={(edition) => back.mutate(edition)} />
    </div>
  );
}

function FromFile({ take }: { take: Edit }) {
  const [problem, setProblem] = useState("");
  async function read(file: File | undefined) {
    if (!file) return;
    try {
      take(JSON.parse(await file.text()) as Draft);
      setProblem("");
    } catch {
      setProblem(`${file.name} is no JSON.`);
    }
  }
  return (
    <label className="key" style={{ cursor: "pointer" }}>
      From JSON …
      <input
        type="file"
        accept=".json"
        className="unseen"
        onChange={(event) => void read(event.target.files?.[0])}
      />
      {problem && (
        <span role="alert" className="ember">
          {" "}
          {problem}
        </span>
      )}
    </label>
  );
}

function History({ setup, zone, back }: { setup: SetUp; zone: string; back: (edition: number) => void }) {
  if (setup.history.length < 2) return null;
  return (
    <section>
      <h2>Earlier descriptions</h2>
      <table className="sheet tight" aria-label="Earlier descriptions" style={{ maxWidth: 560 }}>
        <tbody>
          {setup.history.map((edition) => (
            <tr key={edition.id}>
              <td>
                {dayYear(edition.created, zone)} {clock(edition.created, zone)}
              </td>
              <td className="soft">{edition.user ?? "by a command"}</td>
              <td className="num">
                {edition.current ? (
                  "as it is now"
                ) : (
                  <button className="key" onClick={() => back(edition.id)}>
                    Put back
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
