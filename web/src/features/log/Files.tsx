/** Files in: dropped, looked at, their columns set right, stored, and taken out again. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type DragEvent } from "react";
import { Link, useNavigate } from "react-router";

import { api, got, sendLog, type Import, type Job, type Preview, type SystemShown } from "../../api/client";
import { isOver, useForget, useImports, useJobAction, useJobs } from "../../api/hooks";
import { dayYear, duration, number, percent } from "../../components/numbers";
import { useNow } from "../../components/useNow";
import { Look, type Storing } from "./Look";
import { Notes } from "./Notes";

export function Files({ system }: { system: SystemShown }) {
  const [previews, setPreviews] = useState<Preview[]>([]);
  const [open, setOpen] = useState<number | null>(null);
  const [sending, setSending] = useState<string | null>(null);
  const [problems, setProblems] = useState<string[]>([]);
  const queries = useQueryClient();

  async function take(files: File[]) {
    setProblems([]);
    for (const file of files) {
      setSending(file.name);
      try {
        const found = await sendLog(system.id, file, (job) => setSending(`${file.name} (${job.doing})`));
        setPreviews((before) => [...before, found]);
      } catch (error) {
        setProblems((before) => [...before, (error as Error).message]);
      }
    }
    setSending(null);
  }

  const drop = (upload: number) => setPreviews((before) => before.filter((one) => one.upload !== upload));

  const keep = useMutation({
    mutationFn: ({ upload, how }: { upload: number; how: Storing }) =>
      got(api.POST("/api/v1/uploads/{pk}/store", { params: { path: { pk: upload } }, body: how })),
    onSuccess: (job, { upload }) => {
      drop(upload);
      queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]);
    },
  });

  function forget(upload: number) {
    void api.DELETE("/api/v1/uploads/{pk}", { params: { path: { pk: upload } } });
    drop(upload);
  }

  async function storeAll(some: Preview[]) {
    for (const one of some)
      await keep.mutateAsync({
        upload: one.upload,
        how: { columns: null, guess: false, rule: "fill", remember: null },
      });
  }

  const shown = previews.length === 1 ? previews[0] : previews.find((one) => one.upload === open);
  return (
    <div style={{ display: "grid", gap: 16 }}>
      {(!previews.length || sending) && <Drop sending={sending} take={(files) => void take(files)} />}
      {problems.map((problem) => (
        <p key={problem} role="alert" className="notice">
          {problem} Nothing was stored.
        </p>
      ))}
      {keep.isError && (
        <p role="alert" className="notice">
          {keep.error.message}
        </p>
      )}
      {previews.length > 1 && (
        <Pile
          system={system}
          previews={previews}
          open={open}
          look={setOpen}
          storeAll={(some) => void storeAll(some)}
          forget={forget}
          busy={keep.isPending || sending !== null}
        />
      )}
      {shown && (
        <Look
          key={shown.upload}
          system={system}
          preview={shown}
          changed={(next) =>
            setPreviews((before) => before.map((one) => (one.upload === next.upload ? next : one)))
          }
          busy={keep.isPending}
          store={(how) => keep.mutate({ upload: shown.upload, how })}
          forget={() => forget(shown.upload)}
        />
      )}
      <Jobs system={system} />
      <Imports system={system} />
      <Weather system={system} />
      {system.start === null && <Remove system={system} />}
    </div>
  );
}

/** Several files at once: which can be stored, and why not the others. */
function Pile({
  system,
  previews,
  open,
  look,
  storeAll,
  forget,
  busy,
}: {
  system: SystemShown;
  previews: Preview[];
  open: number | null;
  look: (upload: number | null) => void;
  storeAll: (some: Preview[]) => void;
  forget: (upload: number) => void;
  busy: boolean;
}) {
  const fine = previews.filter((one) => one.report && one.already === null);
  return (
    <section aria-label="Files">
      <div style={{ display: "flex", alignItems: "baseline", gap: 10 }}>
        <h2 style={{ flex: 1 }}>{previews.length} files</h2>
        <button className="key main" disabled={!fine.length || busy} onClick={() => storeAll(fine)}>
          Store {fine.length} of them
        </button>
        <button className="key" onClick={() => previews.forEach((one) => forget(one.upload))}>
          Forget all
        </button>
      </div>
      <table className="sheet" aria-label="Files to store">
        <thead>
          <tr>
            <th>File</th>
            <th>From</th>
            <th>To</th>
            <th className="num">Rows</th>
            <th>What reading it does</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {previews.map((one) => {
            const lost =
              one.report?.notes.filter(
                (note) => note.treatment === "left out" || note.treatment === "doubted",
              ) ?? [];
            const said =
              one.problem ??
              (one.already !== null
                ? "stored already"
                : lost.map((note) => note.text).join(" ") || "nothing left out or doubted");
            return (
              <tr key={one.upload}>
                <td>{one.name}</td>
                <td>{one.report ? dayYear(one.report.start, system.zone) : "–"}</td>
                <td>{one.report ? dayYear(one.report.stop - 1, system.zone) : "–"}</td>
                <td className="num">{one.report ? number(one.report.rows, 0) : "–"}</td>
                <td className={one.problem ? "ember" : "soft"}>
                  <span className="clamp">{said}</span>
                </td>
                <td className="num">
                  <button
                    className="key"
                    aria-expanded={open === one.upload}
                    onClick={() => look(open === one.upload ? null : one.upload)}
                  >
                    Look
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

/** Outdoor weather from a service, where the record lacks it. */
function Weather({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const queries = useQueryClient();
  const outdoors = useQuery({
    queryKey: ["system", system.id, "weather"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/weather", params)),
  });
  const fetching = useMutation({
    mutationFn: () => got(api.POST("/api/v1/systems/{pk}/weather", params)),
    onSuccess: (job) =>
      queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]),
  });
  if (!outdoors.data || system.start === null) return null;
  const { known, reason } = outdoors.data;
  return (
    <section>
      <h2>Outdoor weather</h2>
      <p className="soft" style={{ marginTop: 2 }}>
        The outdoor temperature is known for {percent(known)} of the record.{" "}
        {known < 0.9995 &&
          (reason ? (
            <>The rest cannot be fetched: {reason.sentence}.</>
          ) : (
            <button className="key" disabled={fetching.isPending} onClick={() => fetching.mutate()}>
              Fetch the rest from the weather service
            </button>
          ))}
      </p>
      {fetching.isError && (
        <p role="alert" className="notice">
          {fetching.error.message}
        </p>
      )}
    </section>
  );
}

/** A system that was added by mistake goes again, as long as nothing is stored of it. */
function Remove({ system }: { system: SystemShown }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [sure, setSure] = useState(false);
  const remove = useMutation({
    mutationFn: () => got(api.DELETE("/api/v1/systems/{pk}", { params: { path: { pk: system.id } } })),
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

function Drop({ sending, take }: { sending: string | null; take: (files: File[]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  function dropped(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    if (event.dataTransfer.files.length) take([...event.dataTransfer.files]);
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
      style={{
        border: `1px dashed ${over ? "var(--ember)" : "var(--faint)"}`,
        background: over ? "var(--ember-wash)" : "var(--sheet)",
        padding: "18px 16px",
        borderRadius: 3,
      }}
    >
      <p>
        <strong>{sending ? `Sending and reading ${sending} …` : "Drop a log here, or several"}</strong>{" "}
        {!sending && (
          <>
            or{" "}
            <button className="key" onClick={() => input.current?.click()}>
              choose files
            </button>
          </>
        )}
      </p>
      <p className="soft">
        CSV from any logger, plain or gzipped; XLSX, ODS, Parquet, Arrow or JSON lines. It is shown first;
        nothing is stored before you say so.
      </p>
      <input
        ref={input}
        type="file"
        multiple
        className="unseen"
        tabIndex={-1}
        aria-label="Log files"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length) take(files);
        }}
      />
    </div>
  );
}

export function Jobs({ system }: { system: SystemShown }) {
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
  const now = useNow();
  const recent = (jobs.data ?? []).filter(
    (job, k) => !hidden.includes(job.id) && (!isOver(job) || (k === 0 && (job.finished ?? 0) > now - 3600)),
  );
  return recent.map((job) => (
    <section
      key={job.id}
      className="notice mild"
      aria-label="Job"
      data-testid="job"
      style={
        job.state === "failed" || job.state === "interrupted"
          ? { borderLeftColor: "var(--ember)" }
          : undefined
      }
    >
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
        {(["interrupted", "failed", "cancelled"].includes(job.state) || waitsLong(job)) && (
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
        <div
          role="progressbar"
          aria-label={job.title}
          aria-valuenow={Math.round(job.progress * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
          style={{ height: 4, background: "var(--hair)", marginTop: 6 }}
        >
          <div style={{ height: 4, width: `${job.progress * 100}%`, background: "var(--ink)" }} />
        </div>
      )}
    </section>
  ));
}

/** A job that the queue may have lost; going on queues it anew. */
function waitsLong(job: Job): boolean {
  return job.state === "waiting" && Date.now() / 1000 - job.created > 120;
}

function words(job: Job): string {
  if (!isOver(job)) return `${job.doing} …`;
  if (job.state !== "done") return `${job.state}: ${job.message}`;
  if (job.already !== null) return "nothing was added: the same file is stored already.";
  if (job.turned !== null)
    return `${job.kind === "undo" ? "taken out" : "put back"}; the figures are worked out anew.`;
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
      return got(
        batch.state === "stored"
          ? api.POST("/api/v1/imports/{pk}/undo", params)
          : api.POST("/api/v1/imports/{pk}/redo", params),
      );
    },
    onSuccess: (job) =>
      queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]),
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
              <ImportRow
                key={batch.id}
                system={system}
                batch={batch}
                open={open === batch.id}
                toggle={() => setOpen(open === batch.id ? null : batch.id)}
                turn={() => turn.mutate(batch)}
              />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function ImportRow({
  system,
  batch,
  open,
  toggle,
  turn,
}: {
  system: SystemShown;
  batch: Import;
  open: boolean;
  toggle: () => void;
  turn: () => void;
}) {
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
