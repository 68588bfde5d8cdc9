/** `/`: find an installation by a few letters. */
import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState, type KeyboardEvent } from "react";
import { useLocation, useNavigate } from "react-router";

import { useFleet } from "../api/hooks";

export function Finder({ open, onClose }: { open: boolean; onClose: () => void }) {
  const fleet = useFleet();
  const go = useNavigate();
  const { pathname } = useLocation();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const room = /^\/systems\/\d+\/(\w+)/.exec(pathname)?.[1] ?? "running";
  const found = (fleet.data?.rows ?? []).filter((row) =>
    `${row.system.name} ${row.system.unit}`.toLowerCase().includes(text.toLowerCase()),
  );

  function choose(id: number) {
    onClose();
    setText("");
    void go(`/systems/${id}/${room}`);
  }

  function pressed(event: KeyboardEvent) {
    if (event.key === "ArrowDown") setAt((k) => Math.min(k + 1, found.length - 1));
    else if (event.key === "ArrowUp") setAt((k) => Math.max(k - 1, 0));
    else if (event.key === "Enter" && found[at]) choose(found[at].id);
    else return;
    event.preventDefault();
  }

  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="find-title">
      <DialogTitle id="find-title">Find an installation</DialogTitle>
      <DialogContent>
        <input
          type="text"
          autoFocus
          aria-label="Part of the name"
          style={{ width: 360 }}
          value={text}
          onKeyDown={pressed}
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
          }}
        />
        <div
          role="listbox"
          aria-label="Installations"
          style={{ marginTop: 8, maxHeight: 320, overflow: "auto" }}
        >
          {found.map((row, k) => (
            <div
              key={row.id}
              role="option"
              aria-selected={k === at}
              tabIndex={-1}
              onClick={() => choose(row.id)}
              style={{
                padding: "4px 8px",
                cursor: "pointer",
                background: k === at ? "var(--chosen)" : "none",
              }}
            >
              {row.system.name} <span className="soft">{row.system.unit}</span>
            </div>
          ))}
          {!found.length && <p className="soft">No installation has “{text}” in its name.</p>}
        </div>
      </DialogContent>
    </Dialog>
  );
}
