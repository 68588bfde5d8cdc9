/** The ways to a new system: out of logs, a description, an archive, or by its name. */
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, got, over, send, sendLog, type Job, type Proposal, type SystemShown } from "../../api/client";
import { useForget } from "../../api/hooks";

const DESCRIPTION = /\.json$/i;
const ARCHIVE = /\.zip$/i;
const LINES = /^\s*\{[^\n]*\}\s*\n\s*\{/; // JSON lines are a log

/** What a file is: an archive, a description, or readings. */
async function kindOf(file: File): Promise<"archive" | "description" | "log"> {
  if (ARCHIVE.test(file.name)) return "archive";
  if (!DESCRIPTION.test(file.name)) return "log";
  const begin = await file.slice(0, 65_536).text();
  return begin.trimStart().startsWith("{") && !LINES.test(begin) ? "description" : "log";
}

/** What waits for a word before it is stored. */
export interface Ready {
  said: string;
  name: string;
  work: () => Promise<void>;
}

export interface Brought {
  name: string;
  id: number;
}

export function useNew(zone: string) {
  const [files, setFiles] = useState<File[]>([]);
  const [found, setFound] = useState<Proposal | null>(null);
  const [name, setName] = useState("");
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [brought, setBrought] = useState<Brought[]>([]);
  const [ready, setReady] = useState<Ready | null>(null);
  const [busy, setBusy] = useState("");
  const [problem, setProblem] = useState("");
  const forget = useForget();
  const go = useNavigate();

  async function doing(what: string, work: () => Promise<void>) {
    setBusy(what);
    setProblem("");
    try {
      await work();
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy("");
    }
  }

  async function bringIn(archive: File) {
    const job = await over(await send<Job>("/api/v1/archive", { archive }), (now) =>
      setBusy(`${now.doing} …`),
    );
    const systems = await got(api.GET("/api/v1/jobs/{job}/systems", { params: { path: { job: job.id } } }));
    for (const one of systems) forget(one.id);
    setBrought(systems.map((one) => ({ name: one.name, id: one.id })));
  }

  async function describe(description: File, logs: File[]) {
    const rated = logs.find((one) => /rated|table/i.test(one.name) && /\.csv$/i.test(one.name));
    const sent = { installation: description, ...(rated ? { rated } : {}) };
    const made = await send<SystemShown>("/api/v1/systems", sent);
    await storeAll(
      made.id,
      logs.filter((one) => one !== rated),
    );
    forget(made.id);
    void go(`/systems/${made.id}/log`);
  }

  async function storeAll(system: number, logs: File[]) {
    for (const file of logs) {
      const upload = await sendLog(system, file, (job) => setBusy(`${job.doing} …`));
      await got(
        api.POST("/api/v1/uploads/{pk}/store", {
          params: { path: { pk: upload.upload } },
          body: { columns: null, guess: true, rule: "fill", remember: null },
        }),
      );
    }
  }

  async function propose(logs: File[]) {
    const job = await over(await send<Job>("/api/v1/proposal", { file: logs, zone }), (now) =>
      setBusy(`${now.doing} …`),
    );
    setFound(await got(api.GET("/api/v1/jobs/{job}/proposal", { params: { path: { job: job.id } } })));
    setName((before) => before || (logs[0]?.name.replace(/\.[^.]*(\.gz)?$/, "") ?? ""));
  }

  /** Whatever was dropped: each file is what it is. */
  const take = (chosen: File[]) => {
    if (!chosen.length) return;
    setFiles(chosen);
    setFound(null);
    setAnswers({});
    setBrought([]);
    setReady(null);
    void doing(`Reading ${chosen.map((one) => one.name).join(", ")} …`, async () => {
      const kinds = await Promise.all(chosen.map(kindOf));
      const of = (kind: string) => chosen.filter((_, k) => kinds[k] === kind);
      const [archive] = of("archive");
      const [description] = of("description");
      const logs = of("log");
      if (archive)
        setReady({ said: `${archive.name} is an archive.`, name: "Bring in", work: () => bringIn(archive) });
      else if (description) {
        const more = logs.length ? ` with ${logs.map((one) => one.name).join(", ")}` : "";
        const said = `${description.name} is a description${more}.`;
        setReady({ said, name: "Add it", work: () => describe(description, logs) });
      } else await propose(logs);
    });
  };

  const accept = () =>
    void doing("Storing it …", async () => {
      if (!found) return;
      const body = { name, description: found.description, answers };
      const made = await got(api.POST("/api/v1/proposal/accept", { body }));
      await storeAll(made.id, files);
      forget(made.id);
      void go(`/systems/${made.id}/log`);
    });

  const begin = (called: string) =>
    void doing("Beginning it …", async () => {
      const made = await got(api.POST("/api/v1/systems/begun", { body: { name: called, zone } }));
      forget(made.id);
      void go(`/systems/${made.id}/setup`);
    });

  const store = () =>
    void doing("Storing it …", async () => {
      if (!ready) return;
      await ready.work();
      setReady(null);
    });

  const answer = (key: string, value: string) => setAnswers((before) => ({ ...before, [key]: value }));
  return { ready, store, found, name, setName, answers, answer, brought, busy, problem, take, accept, begin };
}
