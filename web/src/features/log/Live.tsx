/** Loggers that send by themselves: their token, when they were last heard of, what each name is read as. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, got, type Channel, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useChannels } from "../../api/hooks";
import { clock, dayYear, duration, number } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { must } from "../../components/must";

type Loggers = components["schemas"]["Loggers"];
type Logger = components["schemas"]["LoggerShown"];
type Choice = components["schemas"]["NameChoice"];

export function Live({ system }: { system: SystemShown }) {
  const key = ["loggers", system.id];
  const params = { params: { path: { pk: system.id } } };
  const queries = useQueryClient();
  const loggers = useQuery({
    queryKey: key,
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/loggers", params)),
    refetchInterval: 5000,
  });
  const [token, setToken] = useState<{ of: number; is: string } | null>(null);
  const [name, setName] = useState("");
  const took = (next: Loggers) => {
    queries.setQueryData(key, { ...next, token: null });
    if (next.token && next.token_of) setToken({ of: next.token_of, is: next.token });
  };
  const add = useMutation({
    mutationFn: () => got(api.POST("/api/v1/systems/{pk}/loggers", { ...params, body: { name } })),
    onSuccess: took,
  });
  const act = useMutation({
    mutationFn: ({ logger, what }: { logger: number; what: "token" | "revoke" }) => {
      const path = { params: { path: { key: logger } } };
      return got(
        what === "token"
          ? api.PUT("/api/v1/loggers/{key}/token", path)
          : api.DELETE("/api/v1/loggers/{key}", path),
      );
    },
    onSuccess: took,
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    add.mutate(undefined, { onSuccess: () => setName("") });
  }
  if (loggers.isError) return <Trouble error={loggers.error} again={() => void loggers.refetch()} />;
  if (!loggers.data) return <Waiting what="the loggers" />;
  const shown = loggers.data.rows.find((one) => one.id === token?.of);
  return (
    <section style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <form onSubmit={submit} style={{ display: "flex", gap: 8, alignItems: "baseline" }}>
        <p className="soft" style={{ flex: 1 }}>
          A logger sends to <code>{window.location.origin}/api/ingest</code>, or over MQTT, with a token of
          its own; late and repeated batches do no harm.
        </p>
        <input
          type="text"
          aria-label="Name of a new logger"
          placeholder="boiler room"
          value={name}
          onChange={(event) => setName(event.target.value)}
          style={{ width: 150 }}
        />
        <button className="key main" disabled={!name.trim() || add.isPending}>
          Add a logger
        </button>
      </form>
      {(add.isError || act.isError) && (
        <p role="alert" className="notice">
          {(add.error ?? act.error)?.message}
        </p>
      )}
      {token && shown && <Token name={shown.name} token={token.is} close={() => setToken(null)} />}
      {!loggers.data.rows.length && (
        <p className="soft">No logger yet. Give one a name; its token is shown once.</p>
      )}
      {loggers.data.lacking.length > 0 && (
        <p className="notice mild">
          No logger sends {loggers.data.lacking.join(", ")}, which the description reads.
        </p>
      )}
      {loggers.data.rows.map((logger) => (
        <One
          key={logger.id}
          system={system}
          logger={logger}
          act={(what) => act.mutate({ logger: logger.id, what })}
          took={took}
        />
      ))}
    </section>
  );
}

function Token({ name, token, close }: { name: string; token: string; close: () => void }) {
  const example = `curl -X POST ${window.location.origin}/api/ingest \\\n  -H "Authorization: Bearer ${token}" -H "Content-Type: text/plain" \\\n  --data "$(date -u +%FT%TZ) flow_temp 35.2"`;
  return (
    <div className="notice" data-testid="token">
      <p>
        The token of <strong>{name}</strong>, shown this once: <code>{token}</code>{" "}
        <button className="key" onClick={close}>
          I have it
        </button>
      </p>
      <pre style={{ font: "11px/1.4 monospace", margin: "6px 0 0", overflowX: "auto" }}>{example}</pre>
    </div>
  );
}

function One({
  system,
  logger,
  act,
  took,
}: {
  system: SystemShown;
  logger: Logger;
  act: (what: "token" | "revoke") => void;
  took: (next: Loggers) => void;
}) {
  const [open, setOpen] = useState(false);
  const when = (instant: number | null) =>
    instant === null ? "–" : `${dayYear(instant, system.zone)} ${clock(instant, system.zone)}`;
  const well = logger.state === "sending" && logger.said === "All well.";
  return (
    <section
      aria-label={`Logger ${logger.name}`}
      style={{
        border: "1px solid var(--line)",
        background: "var(--sheet)",
        padding: "10px 14px",
        borderRadius: 3,
      }}
    >
      <div style={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        <h2>{logger.name}</h2>
        <span
          className={well ? "teal" : logger.state === "waiting" ? "soft" : "ember"}
          style={{ fontWeight: 600 }}
        >
          {logger.state}
        </span>
        <span className="soft" style={{ flex: 1 }}>
          {logger.said}
        </span>
        <button className="key" aria-expanded={open} onClick={() => setOpen(!open)}>
          Names
        </button>
        <button className="key" onClick={() => act("token")}>
          New token
        </button>
        {logger.state !== "revoked" && (
          <button className="key" onClick={() => act("revoke")}>
            Revoke
          </button>
        )}
      </div>
      <p style={{ display: "flex", gap: 22, flexWrap: "wrap", marginTop: 4 }}>
        <span>
          <span className="soft">Last heard of</span> {when(logger.seen)}
        </span>
        <span>
          <span className="soft">Newest reading</span> {when(logger.latest)}
        </span>
        <span>
          <span className="soft">Readings</span> {number(logger.readings, 0)}
          {logger.waiting > 0 && (
            <span className="soft"> · {number(logger.waiting, 0)} batches on their way into the charts</span>
          )}
        </span>
        <span>
          <span className="soft">Clock</span>{" "}
          {logger.drift === null
            ? "not told"
            : Math.abs(logger.drift) < 2
              ? "right"
              : `${number(Math.abs(logger.drift), 0)} s ${logger.drift > 0 ? "ahead" : "behind"}`}
        </span>
        <span>
          <span className="soft">Number, for MQTT</span> {logger.id}
        </span>
      </p>
      {logger.problem && <p className="ember">Last refused: {logger.problem}</p>}
      {logger.gaps.length > 0 && (
        <p className="soft">
          Gaps of the last week:{" "}
          {logger.gaps
            .map(
              (gap) =>
                `${dayYear(gap.start, system.zone)} ${clock(gap.start, system.zone)}, ${duration(gap.stop - gap.start)}`,
            )
            .join("; ")}
          .
        </p>
      )}
      {open && <Names system={system} logger={logger} took={took} />}
    </section>
  );
}

function Names({
  system,
  logger,
  took,
}: {
  system: SystemShown;
  logger: Logger;
  took: (next: Loggers) => void;
}) {
  const channels = useChannels(system.id);
  const keep = useMutation({
    mutationFn: (columns: Choice[]) =>
      got(
        api.PUT("/api/v1/loggers/{key}/names", { params: { path: { key: logger.id } }, body: { columns } }),
      ),
    onSuccess: took,
  });
  if (!channels.data) return <Waiting what="the channels" />;
  const now: Choice[] = logger.names
    .filter((one) => one.channel)
    .map((one) => ({ header: one.name, channel: must(one.channel), unit: one.unit }));
  const put = (name: string, channel: string, unit: string | null) =>
    keep.mutate([
      ...now.filter((one) => one.header !== name),
      ...(channel ? [{ header: name, channel, unit }] : []),
    ]);
  const unitsOf = (channel: string | null): Channel["units"] =>
    channels.data.find((one) => one.channel === channel)?.units ?? [];
  if (!logger.names.length) return <p className="soft">No names yet; they are listed once it has sent.</p>;
  return (
    <>
      {keep.isError && (
        <p role="alert" className="notice">
          {keep.error.message}
        </p>
      )}
      <table
        className="sheet tight"
        aria-label={`Names of ${logger.name}`}
        style={{ maxWidth: 640, marginTop: 6 }}
      >
        <thead>
          <tr>
            <th>Sent as</th>
            <th className="num">Latest</th>
            <th>Is</th>
            <th>In</th>
          </tr>
        </thead>
        <tbody>
          {logger.names.map((one) => (
            <tr key={one.name}>
              <td>{one.name}</td>
              <td className="num">{short(one.value)}</td>
              <td>
                <select
                  aria-label={`${one.name} is`}
                  value={one.channel ?? ""}
                  onChange={(event) =>
                    put(one.name, event.target.value, unitsOf(event.target.value)[0]?.unit ?? null)
                  }
                >
                  <option value="">not used</option>
                  {one.channel && !channels.data.some((channel) => channel.channel === one.channel) && (
                    <option value={one.channel}>{one.channel}</option>
                  )}
                  {channels.data.map((channel) => (
                    <option key={channel.channel} value={channel.channel}>
                      {channel.channel}
                      {channel.needed ? " *" : ""}
                    </option>
                  ))}
                </select>
              </td>
              <td>
                <select
                  aria-label={`Unit of ${one.name}`}
                  value={one.unit ?? ""}
                  disabled={!one.channel}
                  onChange={(event) => put(one.name, must(one.channel), event.target.value)}
                >
                  {unitsOf(one.channel).map((unit) => (
                    <option key={unit.unit} value={unit.unit}>
                      {unit.symbol}
                    </option>
                  ))}
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="cap">* read by the description. A change counts from now on, and for the last hour.</p>
    </>
  );
}

/** A value of any size, in few digits. */
function short(value: number): string {
  const size = Math.abs(value);
  return size !== 0 && (size < 0.01 || size >= 1e7)
    ? value.toExponential(3)
    : number(value, size < 100 ? 2 : 0);
}
