/** Work in the background: what it does, how far it is, how long still. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";

import type { Job, SystemShown } from "../../api/client";
import { isOver, useForget, useJobAction, useJobs } from "../../api/hooks";
import * as look from "../../components/look";
import { duration, number } from "../../components/numbers";
import { useNow } from "../../components/useNow";

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
