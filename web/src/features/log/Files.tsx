/** Files in: dropped, looked at, their columns set right, stored, and taken out again. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { FileInput } from "../../components/FileInput";
import * as look from "../../components/look";
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
    <Box sx={{ display: "grid", gap: 16 }}>
      {(!previews.length || sending) && <Drop sending={sending} take={(files) => void take(files)} />}
      {problems.map((problem) => (
        <Alert severity="warning" key={problem} role="alert">
          {problem} Nothing was stored.
        </Alert>
      ))}
      {keep.isError && (
        <Alert severity="warning" role="alert">
          {keep.error.message}
        </Alert>
      )}
      {previews.length > 1 && (
        <Pile
          system={system}
          previews={previews}
          open={open}
          lookAt={setOpen}
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
    </Box>
  );
}

/** Several files at once: which can be stored, and why not the others. */
function Pile({
  system,
  previews,
  open,
  lookAt,
  storeAll,
  forget,
  busy,
}: {
  system: SystemShown;
  previews: Preview[];
  open: number | null;
  lookAt: (upload: number | null) => void;
  storeAll: (some: Preview[]) => void;
  forget: (upload: number) => void;
  busy: boolean;
}) {
  const fine = previews.filter((one) => one.report && one.already === null);
  return (
    <section aria-label="Files">
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 10 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          {previews.length} files
        </Typography>
        <Button variant="contained" disabled={!fine.length || busy} onClick={() => storeAll(fine)}>
          Store {fine.length} of them
        </Button>
        <Button onClick={() => previews.forEach((one) => forget(one.upload))}>Forget all</Button>
      </Box>
      <FigureTable aria-label="Files to store">
        <TableHead>
          <TableRow>
            <TableCell>File</TableCell>
            <TableCell>From</TableCell>
            <TableCell>To</TableCell>
            <TableCell align="right">Rows</TableCell>
            <TableCell>What reading it does</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
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
              <TableRow key={one.upload}>
                <TableCell>{one.name}</TableCell>
                <TableCell>{one.report ? dayYear(one.report.start, system.zone) : "–"}</TableCell>
                <TableCell>{one.report ? dayYear(one.report.stop - 1, system.zone) : "–"}</TableCell>
                <TableCell align="right">{one.report ? number(one.report.rows, 0) : "–"}</TableCell>
                <TableCell sx={one.problem ? look.ember : look.soft}>
                  <Box component="span" sx={look.clamp}>
                    {said}
                  </Box>
                </TableCell>
                <TableCell align="right">
                  <Button
                    aria-expanded={open === one.upload}
                    onClick={() => lookAt(open === one.upload ? null : one.upload)}
                  >
                    Look
                  </Button>
                </TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
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
      <Typography variant="h2">Outdoor weather</Typography>
      <Box component="p" sx={{ ...look.soft, marginTop: 2 }}>
        The outdoor temperature is known for {percent(known)} of the record.{" "}
        {known < 0.9995 &&
          (reason ? (
            <>The rest cannot be fetched: {reason.sentence}.</>
          ) : (
            <Button disabled={fetching.isPending} onClick={() => fetching.mutate()}>
              Fetch the rest from the weather service
            </Button>
          ))}
      </Box>
      {fetching.isError && (
        <Alert severity="warning" role="alert">
          {fetching.error.message}
        </Alert>
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
        <Box component="span" sx={look.ember} role="alert">
          {remove.error.message}{" "}
        </Box>
      )}
      {sure ? (
        <>
          Its description is forgotten. <Button onClick={() => remove.mutate()}>Remove {system.name}</Button>{" "}
          <Button onClick={() => setSure(false)}>Keep it</Button>
        </>
      ) : (
        <Button onClick={() => setSure(true)}>Remove this system …</Button>
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
    <Box
      sx={{
        border: `1px dashed ${over ? "var(--ember)" : "var(--faint)"}`,
        background: over ? "var(--ember-wash)" : "var(--sheet)",
        padding: "18px 16px",
        borderRadius: 3,
      }}
      data-testid="drop"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={dropped}
    >
      <p>
        <strong>{sending ? `Sending and reading ${sending} …` : "Drop a log here, or several"}</strong>{" "}
        {!sending && (
          <>
            or <Button onClick={() => input.current?.click()}>choose files</Button>
          </>
        )}
      </p>
      <Box component="p" sx={look.soft}>
        CSV from any logger, plain or gzipped; XLSX, ODS, Parquet, Arrow or JSON lines. It is shown first;
        nothing is stored before you say so.
      </Box>
      <FileInput
        ref={input}
        multiple
        tabIndex={-1}
        aria-label="Log files"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length) take(files);
        }}
      />
    </Box>
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
    <Alert
      severity="info"
      role="note"
      sx={
        job.state === "failed" || job.state === "interrupted"
          ? { borderLeftColor: "var(--ember)" }
          : undefined
      }
      key={job.id}
      aria-label="Job"
      data-testid="job"
    >
      <Box sx={{ display: "flex", gap: 12, alignItems: "center" }}>
        <strong>{job.title}</strong>
        <Box component="span" sx={{ ...look.soft, flex: 1 }} role="status">
          {words(job)}
        </Box>
        {!isOver(job) && (
          <Button onClick={() => act.mutate({ job: job.id, action: "cancel" })}>Cancel</Button>
        )}
        {(["interrupted", "failed", "cancelled"].includes(job.state) || waitsLong(job)) && (
          <Button onClick={() => act.mutate({ job: job.id, action: "go-on" })}>Go on</Button>
        )}
        {job.state === "done" && system.stop !== null && (job.rows !== null || job.turned !== null) && (
          <Button component={Link} to={`/systems/${system.id}/running`}>
            Look at it
          </Button>
        )}
        {isOver(job) && (
          <Button variant="text" aria-label="Hide" onClick={() => setHidden([...hidden, job.id])}>
            Hide
          </Button>
        )}
      </Box>
      {!isOver(job) && (
        <LinearProgress
          sx={{ marginTop: 6 }}
          aria-label={job.title}
          variant="determinate"
          value={Math.round(job.progress * 100)}
        />
      )}
    </Alert>
  ));
}

/** A job that the queue may have lost; going on queues it anew. */
function waitsLong(job: Job): boolean {
  return job.state === "waiting" && Date.now() / 1000 - job.created > 120;
}

/** How long still, no finer than anybody needs. */
function leftOf(seconds: number): string {
  if (seconds < 10) return "a few seconds left";
  if (seconds < 90) return `about ${Math.ceil(seconds / 10) * 10} s left`;
  return `about ${duration(Math.ceil(seconds / 60) * 60)} left`;
}

function words(job: Job): string {
  if (!isOver(job)) return `${job.doing} …${job.left === null ? "" : ` · ${leftOf(job.left)}`}`;
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
      <Typography variant="h2">Files that were imported</Typography>
      {turn.isError && (
        <Alert severity="warning" role="alert">
          {turn.error.message}
        </Alert>
      )}
      {!imports.data.length && (
        <Box component="p" sx={look.soft}>
          None yet.
        </Box>
      )}
      {imports.data.length > 0 && (
        <FigureTable aria-label="Imports">
          <TableHead>
            <TableRow>
              <TableCell>File</TableCell>
              <TableCell>From</TableCell>
              <TableCell>To</TableCell>
              <TableCell align="right">Rows</TableCell>
              <TableCell align="right">Every</TableCell>
              <TableCell>Imported</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
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
          </TableBody>
        </FigureTable>
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
      <TableRow sx={gone ? look.soft : {}} data-testid={`import-${batch.id}`}>
        <TableCell sx={gone ? { textDecoration: "line-through" } : undefined}>{batch.file}</TableCell>
        <TableCell>{dayYear(batch.start, system.zone)}</TableCell>
        <TableCell>{dayYear(batch.stop - 1, system.zone)}</TableCell>
        <TableCell align="right">{number(batch.rows, 0)}</TableCell>
        <TableCell align="right">{duration(batch.step)}</TableCell>
        <TableCell>{dayYear(batch.created, system.zone)}</TableCell>
        <TableCell align="right">
          <Button aria-expanded={open} onClick={toggle}>
            Report
          </Button>{" "}
          <Button onClick={turn}>{gone ? "Put back" : "Undo"}</Button>
        </TableCell>
      </TableRow>
      {open && (
        <TableRow>
          <TableCell colSpan={7}>
            <Notes report={batch.report} />
          </TableCell>
        </TableRow>
      )}
    </>
  );
}
