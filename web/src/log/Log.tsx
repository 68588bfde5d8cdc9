/** A file in: dropped, looked at, its columns set right, stored, and taken out again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type DragEvent } from "react";
import { Link, useNavigate } from "react-router";

import { api, got, send, type ColumnChoice, type Import, type Job, type Preview, type SystemShown } from "../api/client";
import { isOver, useForget, useImports, useJobAction, useJobs } from "../api/hooks";
import type { Period } from "../app/period";
import { dayYear, duration, number } from "../parts/numbers";
import { Room } from "../parts/Room";
import { Look, type Rule } from "./Look";
import { Notes } from "./Notes";

export default function Log() {
  return (
    <Room needs={false} panel={false}>
      {(system, period) => (
        <>
          <Inside key={system.id} system={system} />
          {period && <Out system={system} period={period} />}
        </>
      )}
    </Room>
  );
}

function Inside({ system }: { system: SystemShown }) {
  const [preview, setPreview] = useState<Preview | null>(null);
  const [sending, setSending] = useState<string | null>(null);
  const [problem, setProblem] = useState("");
  const queries = useQueryClient();

  async function take(file: File) {
    setProblem("");
    setPreview(null);
    setSending(file.name);
    try {
      setPreview(await send<Preview>(`/api/systems/${system.id}/uploads`, { file }));
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setSending(null);
    }
  }

  const keep = useMutation({
    mutationFn: ({ upload, columns, rule }: { upload: number; columns: ColumnChoice[] | null; rule: Rule }) =>
      got(api.POST("/api/uploads/{pk}/store", { params: { path: { pk: upload } }, body: { columns, rule } })),
    onSuccess: (job) => {
      setPreview(null);
      queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]);
    },
  });

  function forget() {
    if (preview) void api.POST("/api/uploads/{pk}/discard", { params: { path: { pk: preview.upload } } });
    setPreview(null);
  }

  return (
    <div style={{ display: "grid", gap: 16, maxWidth: 1120 }}>
      <header>
        <h1>Log of {system.name}</h1>
        <p className="soft">
          {system.start === null || system.stop === null
            ? "Nothing is stored yet."
            : `Stored: ${dayYear(system.start, system.zone)} to ${dayYear(system.stop - 1, system.zone)}, every ${duration(system.step ?? 60)}.`}
        </p>
      </header>
      {!preview && <Drop sending={sending} take={(file) => void take(file)} />}
      {problem && (
        <p role="alert" className="notice">
          {problem} Nothing was stored.
        </p>
      )}
      {keep.isError && (
        <p role="alert" className="notice">
          {keep.error.message}
        </p>
      )}
      {preview && (
        <Look
          system={system}
          preview={preview}
          changed={setPreview}
          busy={keep.isPending}
          store={(columns, rule) => keep.mutate({ upload: preview.upload, columns, rule })}
          forget={forget}
        />
      )}
      <Jobs system={system} />
      <Imports system={system} />
      {system.start === null && <Remove system={system} />}
    </div>
  );
}

/** Readings and results as files. */
function Out({ system, period }: { system: SystemShown; period: Period }) {
  const query = (form: string) => new URLSearchParams({ start: period.from, stop: period.to, form });
  const link = { textDecoration: "none", marginRight: 6 };
  return (
    <section style={{ marginTop: 18 }}>
      <h2>Out again</h2>
      <p style={{ marginTop: 4 }}>
        {["csv", "xlsx", "parquet"].map((form) => (
          <a key={form} className="key" style={link} href={`/api/systems/${system.id}/readings?${query(form)}`} download>
            {form === "parquet" ? "Parquet" : form.toUpperCase()}
          </a>
        ))}
        <span className="soft">
          the readings of {period.from} to {period.to}, UTC, in °C, W, m³/s and J; imported again they are the same.
        </span>
      </p>
      <p style={{ marginTop: 6 }}>
        <a className="key" style={link} href={`/api/systems/${system.id}/assessment.json`} download>
          JSON
        </a>
        <span className="soft">everything worked out of the record, with the description (docs/formats.md).</span>
      </p>
    </section>
  );
}

/** A system that was added by mistake goes again, as long as nothing is stored of it. */
function Remove({ system }: { system: SystemShown }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [sure, setSure] = useState(false);
  const remove = useMutation({
    mutationFn: () => got(api.POST("/api/systems/{pk}/remove", { params: { path: { pk: system.id } } })),
    onSuccess: () => {
      sessionStorage.removeItem("system");
      void go("/fleet");
      queries.removeQueries({ queryKey: ["system", system.id] });
      void queries.invalidateQueries({ queryKey: ["fleet"] });
    },
  });
  return (
    <p>
      {remove.isError && (
        <span role="alert" className="ember">
          {remove.error.message}{" "}
        </span>
      )}
      {sure ? (
        <>
          Its description is forgotten.{" "}
          <button className="key" onClick={() => remove.mutate()}>
            Remove {system.name}
          </button>{" "}
          <button className="key" onClick={() => setSure(false)}>
            Keep it
          </button>
        </>
      ) : (
        <button className="key" onClick={() => setSure(true)}>
          Remove this system …
        </button>
      )}
    </p>
  );
}

function Drop({ sending, take }: { sending: string | null; take: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  function dropped(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) take(file);
  }
  return (
    <div
      data-testid="drop"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={dropped}
      style={{ border: `1px dashed ${over ? "var(--ember)" : "var(--faint)"}`, background: over ? "var(--ember-wash)" : "var(--sheet)", padding: "18px 16px", borderRadius: 3 }}
    >
      <p>
        <strong>{sending ? `Sending and reading ${sending} …` : "Drop a log here"}</strong>{" "}
        {!sending && (
          <>
            or{" "}
            <button className="key" onClick={() => input.current?.click()}>
              choose a file
            </button>
          </>
        )}
      </p>
      <p className="soft">CSV from any logger, plain or gzipped; XLSX, ODS, Parquet, Arrow or JSON lines. It is shown first; nothing is stored before you say so.</p>
      <input
        ref={input}
        type="file"
        className="unseen"
        tabIndex={-1}
        aria-label="Log file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) take(file);
        }}
      />
    </div>
  );
}

function Jobs({ system }: { system: SystemShown }) {
  const jobs = useJobs(system.id);
  const forget = useForget();
  const seen = useRef<string | null>(null);
  const state = (jobs.data ?? []).map((job) => `${job.id}${job.state}`).join();
  useEffect(() => {
    if (seen.current !== null && seen.current !== state) forget(system.id);
    if (jobs.data) seen.current = state;
  }, [state, jobs.data, forget, system.id]);
  const act = useJobAction(system.id);
  const [hidden, setHidden] = useState<number[]>([]);
  const recent = (jobs.data ?? []).filter((job, k) => !hidden.includes(job.id) && (!isOver(job) || (k === 0 && (job.finished ?? 0) > Date.now() / 1000 - 3600)));
  return recent.map((job) => (
    <section key={job.id} className="notice mild" aria-label="Job" data-testid="job" style={job.state === "failed" || job.state === "interrupted" ? { borderLeftColor: "var(--ember)" } : undefined}>
      <div style={{ display: "flex", gap: 12, alignItems: "center" }}>
        <strong>{job.title}</strong>
        <span className="soft" role="status" style={{ flex: 1 }}>
          {words(job)}
        </span>
        {!isOver(job) && (
          <button className="key" onClick={() => act.mutate({ job: job.id, action: "cancel" })}>
            Cancel
          </button>
        )}
        {["interrupted", "failed", "cancelled"].includes(job.state) && (
          <button className="key" onClick={() => act.mutate({ job: job.id, action: "go-on" })}>
            Go on
          </button>
        )}
        {job.state === "done" && system.stop !== null && (job.rows !== null || job.turned !== null) && (
          <Link className="key" style={{ textDecoration: "none" }} to={`/systems/${system.id}/running`}>
            Look at it
          </Link>
        )}
        {isOver(job) && (
          <button className="key quiet" aria-label="Hide" onClick={() => setHidden([...hidden, job.id])}>
            Hide
          </button>
        )}
      </div>
      {!isOver(job) && (
        <div role="progressbar" aria-label={job.title} aria-valuenow={Math.round(job.progress * 100)} aria-valuemin={0} aria-valuemax={100} style={{ height: 4, background: "var(--hair)", marginTop: 6 }}>
          <div style={{ height: 4, width: `${job.progress * 100}%`, background: "var(--ink)" }} />
        </div>
      )}
    </section>
  ));
}

function words(job: Job): string {
  if (!isOver(job)) return `${job.doing} …`;
  if (job.state !== "done") return `${job.state}: ${job.message}`;
  if (job.already !== null) return "nothing was added: the same file is stored already.";
  if (job.turned !== null) return `${job.kind === "undo" ? "taken out" : "put back"}; the figures are worked out anew.`;
  if (job.rows !== null) return `${number(job.rows, 0)} rows stored; the figures are worked out.`;
  return "done.";
}

function Imports({ system }: { system: SystemShown }) {
  const imports = useImports(system.id);
  const queries = useQueryClient();
  const [open, setOpen] = useState<number | null>(null);
  const turn = useMutation({
    mutationFn: (batch: Import) => {
      const params = { params: { path: { pk: batch.id } } };
      return got(batch.state === "stored" ? api.POST("/api/imports/{pk}/undo", params) : api.POST("/api/imports/{pk}/redo", params));
    },
    onSuccess: (job) => queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]),
  });
  if (!imports.data) return null;
  return (
    <section>
      <h2>Files that were imported</h2>
      {turn.isError && (
        <p role="alert" className="notice">
          {turn.error.message}
        </p>
      )}
      {!imports.data.length && <p className="soft">None yet.</p>}
      {imports.data.length > 0 && (
        <table className="sheet" aria-label="Imports">
          <thead>
            <tr>
              <th>File</th>
              <th>From</th>
              <th>To</th>
              <th className="num">Rows</th>
              <th className="num">Every</th>
              <th>Imported</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {imports.data.map((batch) => (
              <ImportRow key={batch.id} system={system} batch={batch} open={open === batch.id} toggle={() => setOpen(open === batch.id ? null : batch.id)} turn={() => turn.mutate(batch)} />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function ImportRow({ system, batch, open, toggle, turn }: { system: SystemShown; batch: Import; open: boolean; toggle: () => void; turn: () => void }) {
  const gone = batch.state === "undone";
  return (
    <>
      <tr className={gone ? "soft" : undefined} data-testid={`import-${batch.id}`}>
        <td style={gone ? { textDecoration: "line-through" } : undefined}>{batch.file}</td>
        <td>{dayYear(batch.start, system.zone)}</td>
        <td>{dayYear(batch.stop - 1, system.zone)}</td>
        <td className="num">{number(batch.rows, 0)}</td>
        <td className="num">{duration(batch.step)}</td>
        <td>{dayYear(batch.created, system.zone)}</td>
        <td className="num">
          <button className="key" aria-expanded={open} onClick={toggle}>
            Report
          </button>{" "}
          <button className="key" onClick={turn}>
            {gone ? "Put back" : "Undo"}
          </button>
        </td>
      </tr>
      {open && (
        <tr>
          <td colSpan={7}>
            <Notes report={batch.report} />
          </td>
        </tr>
      )}
    </>
  );
}
