/** A new system: by its name, from a description as JSON, or out of an archive. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { TextInput } from "../../components/TextInput";
import { FileInput } from "../../components/FileInput";
import * as look from "../../components/look";
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
        <Box sx={{ display: "grid", gap: 10, width: 440 }}>
          <LogFirst zone={zone} onDone={onClose} />
          <Typography variant="h2">By its name</Typography>
          <Box
            component="form"
            sx={{ display: "flex", gap: 6, alignItems: "flex-end" }}
            onSubmit={(event) => {
              event.preventDefault();
              void begin();
            }}
          >
            <Typography variant="caption" component="label">
              Name
              <br />
              <TextInput sx={{ width: 170 }} value={name} onChange={(event) => setName(event.target.value)} />
            </Typography>
            <Typography variant="caption" component="label">
              Time zone
              <br />
              <TextInput sx={{ width: 130 }} value={zone} onChange={(event) => setZone(event.target.value)} />
            </Typography>
            <Button variant="contained" type="submit" disabled={!name.trim() || busy}>
              Describe it
            </Button>
          </Box>
          <Typography variant="h2">From its description</Typography>
          <label>
            Description, JSON{" "}
            <Box component="span" sx={look.soft}>
              (docs/formats.md)
            </Box>
            <br />
            <FileInput
              accept=".json,application/json"
              onChange={(event) => setDescription(event.target.files?.[0] ?? null)}
            />
          </label>
          <label>
            Rated table, CSV{" "}
            <Box component="span" sx={look.soft}>
              (if it is not in the description)
            </Box>
            <br />
            <FileInput
              accept=".csv,text/csv"
              onChange={(event) => setRated(event.target.files?.[0] ?? null)}
            />
          </label>
          <p>
            <Button variant="contained" disabled={!description || busy} onClick={() => void add()}>
              Add
            </Button>
          </p>
          <Typography variant="h2">From an archive</Typography>
          <label>
            One installation or many, with all that was logged, ZIP
            <br />
            <FileInput
              accept=".zip,application/zip"
              onChange={(event) => setArchive(event.target.files?.[0] ?? null)}
            />
          </label>
          <p>
            <Button variant="contained" disabled={!archive || busy} onClick={() => void bringIn()}>
              Bring in
            </Button>{" "}
            <Box component="a" sx={{ textDecoration: "none" }} href="/api/v1/archive" download>
              All of these as one archive
            </Box>
          </p>
          {problem && (
            <Alert severity="warning" role="alert">
              {problem}
            </Alert>
          )}
          <p>
            <Button onClick={onClose}>Cancel</Button>
          </p>
        </Box>
      </DialogContent>
    </Dialog>
  );
}
