/** `/`: find an installation by a few letters. */
import Box from "@mui/material/Box";
import { TextInput } from "../components/TextInput";
import * as look from "../components/look";
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
        <TextInput
          sx={{ width: 360 }}
          autoFocus
          aria-label="Part of the name"
          value={text}
          onKeyDown={pressed}
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
          }}
        />
        <Box
          sx={{ marginTop: 8, maxHeight: 320, overflow: "auto" }}
          role="listbox"
          aria-label="Installations"
        >
          {found.map((row, k) => (
            <Box
              sx={{
                padding: "4px 8px",
                cursor: "pointer",
                background: k === at ? "var(--chosen)" : "none",
              }}
              key={row.id}
              role="option"
              aria-selected={k === at}
              tabIndex={-1}
              onClick={() => choose(row.id)}
            >
              {row.system.name}{" "}
              <Box component="span" sx={look.soft}>
                {row.system.unit}
              </Box>
            </Box>
          ))}
          {!found.length && (
            <Box component="p" sx={look.soft}>
              No installation has “{text}” in its name.
            </Box>
          )}
        </Box>
      </DialogContent>
    </Dialog>
  );
}
