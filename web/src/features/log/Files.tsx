/** Files in: dropped, looked at, their columns set right, stored, and taken out again. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, sendLog, type Job, type Preview, type SystemShown } from "../../api/client";
import { Drop } from "./Drop";
import { Imports } from "./Imports";
import { Jobs } from "./Jobs";
import { Look, type Storing } from "./Look";
import { Pile } from "./Pile";
import { RemoveSystem } from "./RemoveSystem";
import { Weather } from "./Weather";

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
      {system.start === null && <RemoveSystem system={system} />}
    </Box>
  );
}
