/** The installation, described: the metering drawn, and what the sums need to know. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState, type ReactNode } from "react";

import { api, got, type SystemShown } from "../api/client";
import type { components } from "../api/schema";
import { useForget } from "../api/hooks";
import { cap } from "../parts/Proof";
import { dayYear, clock } from "../parts/numbers";
import { Room } from "../parts/Room";
import { Trouble, Waiting } from "../parts/Said";
import { changed, numberOf, toggleConsumer, toggled, toggleThere, type Draft } from "./draft";
import { Schematic } from "./Schematic";

type SetUp = components["schemas"]["SetUp"];
type Problem = components["schemas"]["ProblemShown"];
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
    queryFn: () => got(api.GET("/api/systems/{pk}/setup", { params: { path: { pk: system.id } } })),
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
  useEffect(() => {
    setDraft(stored);
    setBefore([]);
  }, [stored]);

  const checked = useQuery({
    queryKey: ["setup", system.id, "check", text],
    queryFn: () => got(api.POST("/api/systems/{pk}/setup/check", { params: { path: { pk: system.id } }, body: { description: draft } })),
    placeholderData: (last) => last,
    enabled: dirty,
  });
  const problems = dirty ? (checked.data?.problems ?? []) : [];
  // A draft that cannot be promises nothing.
  const levels = dirty ? (checked.data?.levels ?? []) : setup.levels;

  const saved = (next: SetUp) => {
    queries.setQueryData(["setup", system.id], next);
    forget(system.id);
  };
  const save = useMutation({
    mutationFn: () => got(api.POST("/api/systems/{pk}/setup", { params: { path: { pk: system.id } }, body: { description: draft } })),
    onSuccess: saved,
  });
  const back = useMutation({
    mutationFn: (edition: number) => got(api.POST("/api/systems/{pk}/setup/{edition}/put-back", { params: { path: { pk: system.id, edition } } })),
    onSuccess: saved,
  });
  const edit: Edit = (next) => {
    setBefore([...before, draft]);
    setDraft(next);
  };
  const undo = () => {
    setDraft(before.at(-1)!);
    setBefore(before.slice(0, -1));
  };

  return (
    <div style={{ display: "grid", gap: 16, maxWidth: 1180 }}>
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
        <button className="key main" disabled={!dirty || problems.length > 0 || checked.isFetching || save.isPending} onClick={() => save.mutate()}>
          Store
        </button>
        <a className="key" style={{ textDecoration: "none" }} href={`/api/systems/${system.id}/installation.json`} download>
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
        <p className="soft">Choose a meter, then click what it includes. A level that lights up can be computed once its meters are logged.</p>
        <div className="seg" role="group" aria-label="Meter" style={{ margin: "6px 0", flexWrap: "wrap" }}>
          {draft.electricity.map((meter, k) => (
            <button key={k} aria-pressed={k === active} onClick={() => setActive(k)}>
              {meter.name}
            </button>
          ))}
        </div>
        <Schematic draft={draft} consumers={setup.consumers} levels={levels} active={active} toggle={(consumer) => edit(toggleConsumer(draft, active, consumer))} />
        <ul style={{ margin: "6px 0 0", paddingLeft: 18 }} className="soft">
          {levels
            .filter((level) => level.why_not)
            .map((level) => (
              <li key={level.level}>
                {level.level}, {level.words}: {level.why_not}
              </li>
            ))}
        </ul>
      </section>
      <Meters setup={setup} draft={draft} edit={edit} problems={problems} />
      <div style={{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(320px, 1fr))", gap: 22, alignItems: "start" }}>
        <Unit setup={setup} draft={draft} edit={edit} problems={problems} />
        <Prices draft={draft} edit={edit} problems={problems} />
      </div>
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
      <input type="file" accept=".json" className="unseen" onChange={(event) => void read(event.target.files?.[0])} />
      {problem && (
        <span role="alert" className="ember">
          {" "}
          {problem}
        </span>
      )}
    </label>
  );
}

/** A field with what is wrong with it beside. */
function Field({ label, where, problems, children }: { label: string; where?: string; problems?: Problem[]; children: ReactNode }) {
  const wrong = problems?.find((one) => one.where === where);
  return (
    <tr>
      <td className="soft" style={{ width: 150 }}>
        {label}
      </td>
      <td>
        {children}
        {wrong && <div className="ember">{wrong.what}</div>}
      </td>
    </tr>
  );
}

function NumberField({ label, value, put, width = 70 }: { label: string; value: number | null; put: (value: number | null) => void; width?: number }) {
  const [text, setText] = useState(value === null ? "" : String(value));
  useEffect(() => {
    setText((now) => (numberOf(now) === value ? now : value === null ? "" : String(value)));
  }, [value]);
  const wrong = numberOf(text) === undefined;
  return (
    <input
      type="text"
      inputMode="decimal"
      aria-label={label}
      aria-invalid={wrong}
      style={{ width, borderColor: wrong ? "var(--ember)" : undefined }}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        const found = numberOf(event.target.value);
        if (found !== undefined) put(found);
      }}
    />
  );
}

function Meters({ setup, draft, edit, problems }: { setup: SetUp; draft: Draft; edit: Edit; problems: Problem[] }) {
  const about = (where: string) => problems.filter((one) => one.where.startsWith(where)).map((one) => one.what);
  return (
    <section>
      <h2>Meters</h2>
      <table className="sheet tight" aria-label="Meters">
        <thead>
          <tr>
            <th>Meter</th>
            <th>Channel</th>
            <th>Includes</th>
            <th>Class</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {draft.electricity.map((meter, k) => (
            <tr key={k}>
              <td>
                <input type="text" aria-label={`Name of meter ${k + 1}`} value={meter.name} onChange={(event) => edit(changed(draft, "electricity", k, { name: event.target.value }))} style={{ width: 130 }} />
              </td>
              <td>
                <input type="text" aria-label={`Channel of ${meter.name}`} value={meter.channel} onChange={(event) => edit(changed(draft, "electricity", k, { channel: event.target.value }))} style={{ width: 130 }} list="channels" />
              </td>
              <td className="soft">
                {meter.includes.map((c) => c.replace("_", " ")).join(", ") || "nothing yet"}
                {about(`electricity.${k}`).map((what) => (
                  <div key={what} className="ember">
                    {what}
                  </div>
                ))}
              </td>
              <td>
                <select aria-label={`Class of ${meter.name}`} value={meter.accuracy} onChange={(event) => edit(changed(draft, "electricity", k, { accuracy: event.target.value }))}>
                  {setup.accuracies.map((one) => (
                    <option key={one.value} value={one.value}>
                      {one.words}
                    </option>
                  ))}
                </select>
              </td>
              <td className="num">
                <button className="key quiet" disabled={draft.electricity.length === 1} onClick={() => edit({ ...draft, electricity: draft.electricity.filter((_, j) => j !== k) })}>
                  Remove
                </button>
              </td>
            </tr>
          ))}
          {draft.circuits.map((circuit, k) => (
            <tr key={`circuit${k}`}>
              <td>{circuit.name}</td>
              <td className="soft">
                {circuit.flow_rate}, {circuit.flow_temp}, {circuit.return_temp}
              </td>
              <td>
                <Sources setup={setup} includes={circuit.includes} put={(includes) => edit(changed(draft, "circuits", k, { includes }))} name={circuit.name} />
              </td>
              <td>
                <select aria-label={`Flow class of ${circuit.name}`} value={circuit.flow_class ?? ""} onChange={(event) => edit(changed(draft, "circuits", k, { flow_class: event.target.value ? (Number(event.target.value) as 1 | 2 | 3) : null }))}>
                  <option value="">flow ± {circuit.flow_limit * 100} %</option>
                  {[1, 2, 3].map((one) => (
                    <option key={one} value={one}>
                      flow class {one}
                    </option>
                  ))}
                </select>{" "}
                <select aria-label={`Probes of ${circuit.name}`} value={circuit.probes} onChange={(event) => edit(changed(draft, "circuits", k, { probes: event.target.value }))}>
                  {setup.probes.map((one) => (
                    <option key={one.value} value={one.value}>
                      {one.words}
                    </option>
                  ))}
                </select>{" "}
                <select aria-label={`Flow sensor of ${circuit.name} in`} value={circuit.meter_in} onChange={(event) => edit(changed(draft, "circuits", k, { meter_in: event.target.value as "flow" | "return" }))}>
                  <option value="return">in the return</option>
                  <option value="flow">in the flow</option>
                </select>
              </td>
              <td />
            </tr>
          ))}
          {draft.registers.map((register, k) => (
            <tr key={`register${k}`}>
              <td>{register.name}</td>
              <td className="soft">{register.channel}</td>
              <td>
                <Sources setup={setup} includes={register.includes} put={(includes) => edit(changed(draft, "registers", k, { includes }))} name={register.name} />
              </td>
              <td>
                <select aria-label={`Class of ${register.name}`} value={register.accuracy_class} onChange={(event) => edit(changed(draft, "registers", k, { accuracy_class: Number(event.target.value) as 1 | 2 | 3 }))}>
                  {[1, 2, 3].map((one) => (
                    <option key={one} value={one}>
                      heat meter, class {one}
                    </option>
                  ))}
                </select>
              </td>
              <td />
            </tr>
          ))}
        </tbody>
      </table>
      <datalist id="channels">
        {["power:unit", "power:pump", "power:backup", "energy:unit", "energy:pump", ...setup.logged].map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <button
        className="key"
        style={{ marginTop: 6 }}
        onClick={() => edit({ ...draft, electricity: [...draft.electricity, { name: `meter ${draft.electricity.length + 1}`, channel: `power:meter${draft.electricity.length + 1}`, includes: [], accuracy: "unknown" }] })}
      >
        Add an electricity meter
      </button>
      <p className="cap" style={{ marginTop: 4 }}>
        This describes meters that are there. Fitting one is work on the mains: for qualified electricians, by local codes.
      </p>
    </section>
  );
}

function Sources({ setup, includes, put, name }: { setup: SetUp; includes: string[]; put: (includes: string[]) => void; name: string }) {
  return setup.heat_sources.map((one) => (
    <label key={one.value} style={{ marginRight: 10, whiteSpace: "nowrap" }}>
      <input type="checkbox" aria-label={`${name} holds the heat of the ${one.words}`} checked={includes.includes(one.value)} onChange={() => put(toggled(includes, one.value))} /> {one.words}
    </label>
  ));
}

function Unit({ setup, draft, edit, problems }: { setup: SetUp; draft: Draft; edit: Edit; problems: Problem[] }) {
  return (
    <section>
      <h2>Installation</h2>
      <table className="rows" aria-label="Installation">
        <tbody>
          <Field label="Name" where="name" problems={problems}>
            <input type="text" aria-label="Name" value={draft.name} onChange={(event) => edit({ ...draft, name: event.target.value })} style={{ width: 200 }} />
          </Field>
          <Field label="Time zone" where="zone" problems={problems}>
            <input type="text" aria-label="Time zone" value={draft.zone} onChange={(event) => edit({ ...draft, zone: event.target.value })} style={{ width: 200 }} />
          </Field>
          <Field label="Unit" where="unit.kind" problems={problems}>
            <select aria-label="Kind of unit" value={draft.unit.kind} onChange={(event) => edit({ ...draft, unit: { ...draft.unit, kind: event.target.value as Draft["unit"]["kind"] } })}>
              <option value="air_to_water">air-to-water</option>
              <option value="ground_source">ground source</option>
            </select>{" "}
            <NumberField label="Nominal capacity, kW" value={draft.unit.capacity_kw} put={(capacity_kw) => edit({ ...draft, unit: { ...draft.unit, capacity_kw } })} width={56} /> kW
          </Field>
          <Field label="Compressor">
            <label>
              <input type="checkbox" checked={draft.unit.variable_speed} onChange={() => edit({ ...draft, unit: { ...draft.unit, variable_speed: !draft.unit.variable_speed } })} /> variable speed
            </label>
          </Field>
          <Field label="Outdoor sensor ±" where="outdoor.limit_k" problems={problems}>
            <NumberField label="Limit of the outdoor sensor, K" value={draft.outdoor.limit_k} put={(limit) => edit({ ...draft, outdoor: { ...draft.outdoor, limit_k: limit ?? 0 } })} width={56} /> K
          </Field>
          <Field label="There is" where="consumers" problems={problems}>
            {setup.consumers.map((one) => (
              <label key={one.value} style={{ display: "block" }}>
                <input type="checkbox" checked={draft.consumers.includes(one.value)} onChange={() => edit(toggleThere(draft, one.value))} /> {one.words}
              </label>
            ))}
          </Field>
        </tbody>
      </table>
    </section>
  );
}

function Prices({ draft, edit, problems }: { draft: Draft; edit: Edit; problems: Problem[] }) {
  const { tariff } = draft;
  if (!tariff) {
    return (
      <section>
        <h2>Tariff</h2>
        <p className="soft">None: no cost is shown.</p>
        <button className="key" onClick={() => edit({ ...draft, tariff: { price: 0.3, currency: "EUR", name: "day", standing_charge: 0, bands: [] } })}>
          Add a tariff
        </button>
      </section>
    );
  }
  const put = (change: Partial<typeof tariff>) => edit({ ...draft, tariff: { ...tariff, ...change } });
  const band = (k: number, change: Partial<(typeof tariff.bands)[number]>) => put({ bands: tariff.bands.map((one, j) => (j === k ? { ...one, ...change } : one)) });
  return (
    <section>
      <h2>Tariff</h2>
      <table className="rows" aria-label="Tariff">
        <tbody>
          <Field label={cap(tariff.name)} where="tariff.price" problems={problems}>
            <NumberField label="Price per kWh" value={tariff.price} put={(price) => put({ price: price ?? 0 })} /> <input type="text" aria-label="Currency" value={tariff.currency} onChange={(event) => put({ currency: event.target.value })} style={{ width: 52 }} /> a kWh
          </Field>
          <Field label="Standing charge" where="tariff.standing_charge" problems={problems}>
            <NumberField label="Standing charge a day" value={tariff.standing_charge} put={(standing) => put({ standing_charge: standing ?? 0 })} /> a day
          </Field>
          {tariff.bands.map((one, k) => (
            <Field key={k} label={cap(one.name)} where={`tariff.bands.${k}.start`} problems={problems}>
              <NumberField label={`Price of ${one.name}`} value={one.price} put={(price) => band(k, { price: price ?? 0 })} /> from{" "}
              <input type="time" aria-label={`${one.name} begins`} value={one.start.slice(0, 5)} onChange={(event) => band(k, { start: `${event.target.value}:00` })} /> to{" "}
              <input type="time" aria-label={`${one.name} ends`} value={one.end.slice(0, 5)} onChange={(event) => band(k, { end: `${event.target.value}:00` })} />{" "}
              <button className="key quiet" onClick={() => put({ bands: tariff.bands.filter((_, j) => j !== k) })}>
                Remove
              </button>
            </Field>
          ))}
        </tbody>
      </table>
      <button className="key" onClick={() => put({ bands: [...tariff.bands, { name: `band ${tariff.bands.length + 1}`, price: tariff.price, start: "23:00:00", end: "07:00:00", weekdays: [0, 1, 2, 3, 4, 5, 6] }] })}>
        Add a band
      </button>
    </section>
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
