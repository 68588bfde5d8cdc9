/** What is asked before a stretch is left out, set to another state, or a note is written. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { TextInput } from "../../components/TextInput";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import Dialog from "@mui/material/Dialog";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent, type ReactNode } from "react";

import { api, got, type SystemShown } from "../../api/client";
import { useAccept, type Stretch } from "../../api/hooks";

const words = (local: string) => local.replace("T", " ");

interface Asked {
  system: SystemShown;
  stretch: Stretch;
  close: () => void;
}

function Ask({
  title,
  about,
  label,
  placeholder,
  button,
  send,
  pending,
  error,
  close,
  children,
}: {
  title: string;
  about: string;
  label: string;
  placeholder: string;
  button: string;
  send: (text: string) => void;
  pending: boolean;
  error: Error | null;
  close: () => void;
  children?: ReactNode;
}) {
  const [text, setText] = useState("");
  function submitted(event: FormEvent) {
    event.preventDefault();
    send(text.trim());
  }
  return (
    <Dialog open onClose={close} aria-labelledby="ask">
      <Box component="form" sx={{ padding: 16, width: 420, display: "grid", gap: 10 }} onSubmit={submitted}>
        <Typography variant="h1" id="ask">
          {title}
        </Typography>
        <Box component="p" sx={look.soft}>
          {about}
        </Box>
        {children}
        <label>
          <Typography variant="caption" component="span">
            {label}
          </Typography>
          <br />
          <TextInput
            sx={{ width: "100%" }}
            value={text}
            autoFocus
            maxLength={200}
            placeholder={placeholder}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        {error && (
          <Alert severity="warning" role="alert">
            {error.message}
          </Alert>
        )}
        <Box sx={{ display: "flex", gap: 8 }}>
          <Button variant="contained" type="submit" disabled={!text.trim() || pending}>
            {button}
          </Button>
          <Button onClick={close}>Cancel</Button>
        </Box>
      </Box>
    </Dialog>
  );
}

export function LeaveOut({ system, stretch, close }: Asked) {
  const accept = useAccept(system.id);
  return (
    <Ask
      title="Leave this stretch out of every sum"
      about={`${words(stretch.start)} to ${words(stretch.stop)}, local time. The readings stay; Trust lists it and can undo it.`}
      label="why"
      placeholder="pump mode test"
      button="Leave out"
      send={(reason) =>
        accept.mutate([{ kind: "exclude", start: stretch.start, end: stretch.stop, reason }], {
          onSuccess: close,
        })
      }
      pending={accept.isPending}
      error={accept.error}
      close={close}
    />
  );
}

const STATES = [
  "heating",
  "hot_water",
  "defrost",
  "cooling",
  "start_up",
  "standby",
  "off",
  "backup_only",
  "pump_overrun",
] as const;

/** Another state than was logged or inferred; every table and sum by state follows. */
export function SetState({ system, stretch, close }: Asked) {
  const accept = useAccept(system.id);
  const [state, setState] = useState<string>("standby");
  return (
    <Ask
      title="Say what the unit did"
      about={`${words(stretch.start)} to ${words(stretch.stop)}, local time. The readings stay; runs, defrosts and sums by state follow. Trust lists it and can undo it.`}
      label="why"
      placeholder="engineer on site, test mode"
      button="Set the state"
      send={(reason) =>
        accept.mutate([{ kind: "state", start: stretch.start, end: stretch.stop, state, reason }], {
          onSuccess: close,
        })
      }
      pending={accept.isPending}
      error={accept.error}
      close={close}
    >
      <label>
        <Typography variant="caption" component="span">
          state
        </Typography>
        <br />
        <Choice value={state} onChange={(event) => setState(event.target.value)}>
          {STATES.map((one) => (
            <option key={one} value={one}>
              {one.replace("_", " ").replace("start up", "start-up")}
            </option>
          ))}
        </Choice>
      </label>
    </Ask>
  );
}

export function Note({ system, at, close }: { system: SystemShown; at: string; close: () => void }) {
  const queries = useQueryClient();
  const keep = useMutation({
    mutationFn: (note: string) =>
      got(
        api.POST("/api/v1/systems/{pk}/observations", {
          params: { path: { pk: system.id } },
          body: { id: null, kind: "note", time: words(at), note, photo: "" },
        }),
      ),
    onSuccess: (next) => {
      queries.setQueryData(["observations", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
      close();
    },
  });
  return (
    <Ask
      title="Write a note"
      about={`At ${words(at)}, local time. It stands on the axis and in the Log.`}
      label="note"
      placeholder="ice left on the coil after the defrost"
      button="Write down"
      send={(note) => keep.mutate(note)}
      pending={keep.isPending}
      error={keep.error}
      close={close}
    />
  );
}
