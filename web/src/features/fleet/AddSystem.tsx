/** A new system: by its name, from a description as JSON, or out of an archive. */
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, got, over, send, type Job, type SystemShown } from "../../api/client";
import { useForget } from "../../api/hooks";
import { LogFirst } from "./LogFirst";
import { must } from "../../components/must";

export function AddSystem({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [description, setDescription] = useState<File | null>(null);
  const [rated, setRated] = useState<File | null>(null);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const forget = useForget();
  const go = useNavigate();

  const [name, setName] = useState("");
  const [zone, setZone] = useState(Intl.DateTimeFormat().resolvedOptions().timeZone);
  const [archive, setArchive] = useState<File | null>(null);

  async function doing(work: () => Promise<void>) {
    setBusy(true);
    setProblem("");
    try {
      await work();
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  }

  const begin = () =>
    doing(async () => {
      const made = await got(api.POST("/api/v1/systems/begun", { body: { name, zone } }));
      forget(made.id);
      void go(`/systems/${made.id}/setup`);
    });

  const bringIn = () =>
    doing(async () => {
      const job = await over(await send<Job>("/api/v1/archive", { archive: must(archive) }));
      const brought = await got(api.GET("/api/v1/jobs/{job}/systems", { params: { path: { job: job.id } } }));
      for (const one of brought) forget(one.id);
    });

  const add = () =>
    doing(async () => {
      const files: Record<string, File> = { installation: must(description) };
      if (rated) files.rated = rated;
      const made = await send<SystemShown>("/api/v1/systems", files);
      forget(made.id);
      void go(`/systems/${made.id}/log`);
    });

  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="add-title">
      <DialogTitle id="add-title">Add a system</DialogTitle>
      <DialogContent>
        <div style={{ display: "grid", gap: 10, width: 440 }}>
          <LogFirst zone={zone} onDone={onClose} />
          <h2>By its name</h2>
          <form
            style={{ display: "flex", gap: 6, alignItems: "flex-end" }}
            onSubmit={(event) => {
              event.preventDefault();
              void begin();
            }}
          >
            <label className="cap">
              Name
              <br />
              <input
                type="text"
                value={name}
                onChange={(event) => setName(event.target.value)}
                style={{ width: 170 }}
              />
            </label>
            <label className="cap">
              Time zone
              <br />
              <input
                type="text"
                value={zone}
                onChange={(event) => setZone(event.target.value)}
                style={{ width: 130 }}
              />
            </label>
            <button className="key main" disabled={!name.trim() || busy}>
              Describe it
            </button>
          </form>
          <h2>From its description</h2>
          <label>
            Description, JSON <span className="soft">(docs/formats.md)</span>
            <br />
            <input
              type="file"
              accept=".json,application/json"
              onChange={(event) => setDescription(event.target.files?.[0] ?? null)}
            />
          </label>
          <label>
            Rated table, CSV <span className="soft">(if it is not in the description)</span>
            <br />
            <input
              type="file"
              accept=".csv,text/csv"
              onChange={(event) => setRated(event.target.files?.[0] ?? null)}
            />
          </label>
          <p>
            <button className="key main" disabled={!description || busy} onClick={() => void add()}>
              Add
            </button>
          </p>
          <h2>From an archive</h2>
          <label>
            One installation or many, with all that was logged, ZIP
            <br />
            <input
              type="file"
              accept=".zip,application/zip"
              onChange={(event) => setArchive(event.target.files?.[0] ?? null)}
            />
          </label>
          <p>
            <button className="key main" disabled={!archive || busy} onClick={() => void bringIn()}>
              Bring in
            </button>{" "}
            <a className="key" style={{ textDecoration: "none" }} href="/api/v1/archive" download>
              All of these as one archive
            </a>
          </p>
          {problem && (
            <p role="alert" className="notice">
              {problem}
            </p>
          )}
          <p>
            <button className="key" onClick={onClose}>
              Cancel
            </button>
          </p>
        </div>
      </DialogContent>
    </Dialog>
  );
}
