/** A described installation in: its JSON, and its rated table if that is not inside. */
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { useNavigate } from "react-router";

import { send, type SystemShown } from "../api/client";
import { useForget } from "../api/hooks";

export function AddSystem({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [description, setDescription] = useState<File | null>(null);
  const [rated, setRated] = useState<File | null>(null);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const forget = useForget();
  const go = useNavigate();

  async function add() {
    if (!description) return;
    setBusy(true);
    setProblem("");
    try {
      const files: Record<string, File> = { installation: description };
      if (rated) files.rated = rated;
      const made = await send<SystemShown>("/api/systems", files);
      forget(made.id);
      onClose();
      void go(`/systems/${made.id}/log`);
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  }

  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="add-title">
      <DialogTitle id="add-title">Add a system</DialogTitle>
      <DialogContent>
        <div style={{ display: "grid", gap: 10, width: 440 }}>
          <p className="soft">
            An installation is described in a JSON file: its unit, meters and what each includes, tariff. The form is in docs/formats.md.
          </p>
          <label>
            Description, JSON
            <br />
            <input type="file" accept=".json,application/json" onChange={(event) => setDescription(event.target.files?.[0] ?? null)} />
          </label>
          <label>
            Rated table, CSV <span className="soft">(if it is not in the description)</span>
            <br />
            <input type="file" accept=".csv,text/csv" onChange={(event) => setRated(event.target.files?.[0] ?? null)} />
          </label>
          {problem && (
            <p role="alert" className="notice">
              {problem}
            </p>
          )}
          <p>
            <button className="key main" disabled={!description || busy} onClick={() => void add()}>
              Add
            </button>{" "}
            <button className="key" onClick={onClose}>
              Cancel
            </button>
          </p>
        </div>
      </DialogContent>
    </Dialog>
  );
}
