/** Leaving the selection out of every sum, with the reason. */
import Dialog from "@mui/material/Dialog";
import { useState, type FormEvent } from "react";

import type { SystemShown } from "../api/client";
import { useAccept, type Stretch } from "../api/hooks";

export function LeaveOut({ system, stretch, close }: { system: SystemShown; stretch: Stretch; close: () => void }) {
  const accept = useAccept(system.id);
  const [reason, setReason] = useState("");
  const words = (local: string) => local.replace("T", " ");
  function send(event: FormEvent) {
    event.preventDefault();
    accept.mutate([{ kind: "exclude", start: stretch.start, end: stretch.stop, reason: reason.trim() }], { onSuccess: close });
  }
  return (
    <Dialog open onClose={close} aria-labelledby="leave-out">
      <form onSubmit={send} style={{ padding: 16, width: 420, display: "grid", gap: 10 }}>
        <h1 id="leave-out">Leave this stretch out of every sum</h1>
        <p className="soft">
          {words(stretch.start)} to {words(stretch.stop)}, local time. The readings stay; Trust lists it and can undo it.
        </p>
        <label>
          <span className="cap">why</span>
          <br />
          <input type="text" value={reason} autoFocus maxLength={200} placeholder="pump mode test" style={{ width: "100%" }} onChange={(event) => setReason(event.target.value)} />
        </label>
        {accept.isError && (
          <p role="alert" className="notice">
            {accept.error.message}
          </p>
        )}
        <div style={{ display: "flex", gap: 8 }}>
          <button className="key main" disabled={!reason.trim() || accept.isPending}>
            Leave out
          </button>
          <button type="button" className="key" onClick={close}>
            Cancel
          </button>
        </div>
      </form>
    </Dialog>
  );
}
