/** Loggers as rows: their state, when they were last heard of, how much has come. */
import Box from "@mui/material/Box";
import type { GridColDef } from "@mui/x-data-grid";

import type { SystemShown } from "../../api/client";
import { CellButton } from "../../components/CellButton";
import { Grid } from "../../components/Grid";
import { numbers, words } from "../../components/gridLook";
import * as look from "../../components/look";
import { clock, dayYear, number } from "../../components/numbers";
import type { Logger } from "./Live";

interface LoggersGridProps {
  system: SystemShown;
  loggers: Logger[];
  open: number | null;
  setOpen: (logger: number | null) => void;
}

export function LoggersGrid({ system, loggers, open, setOpen }: LoggersGridProps) {
  const when = (instant: number | null) =>
    instant === null ? "–" : `${dayYear(instant, system.zone)} ${clock(instant, system.zone)}`;
  const columns: GridColDef<Logger>[] = [
    words<Logger>("name", "Logger", ({ name }) => name, {
      width: 150,
      flex: 1,
      shown: ({ id, name }) => (
        <CellButton
          variant="text"
          sx={{ minHeight: 20, padding: 0 }}
          aria-expanded={id === open}
          onClick={() => setOpen(id === open ? null : id)}
        >
          {name}
        </CellButton>
      ),
    }),
    words<Logger>("state", "State", ({ state }) => state, {
      width: 84,
      shown: (one) => (
        <Box component="span" sx={{ ...lookOf(one), fontWeight: 600 }}>
          {one.state}
        </Box>
      ),
    }),
    words<Logger>("said", "What is to be said", ({ said }) => said, { width: 220, flex: 2 }),
    {
      ...numbers<Logger>("seen", "Last heard of", ({ seen }) => seen, 0, {
        width: 124,
        shown: ({ seen }) => when(seen),
      }),
    },
    numbers<Logger>("latest", "Newest reading", ({ latest }) => latest, 0, {
      width: 124,
      shown: ({ latest }) => when(latest),
    }),
    numbers<Logger>("readings", "Readings", ({ readings }) => readings, 0),
    numbers<Logger>("waiting", "Batches waiting", ({ waiting }) => waiting, 0, {
      width: 104,
      tip: "On their way into the charts",
    }),
    numbers<Logger>("drift", "Clock", ({ drift }) => drift, 0, {
      width: 92,
      tip: "How far its clock is off",
      shown: ({ drift }) => driftOf(drift),
    }),
    numbers<Logger>("id", "Number", ({ id }) => id, 0, { width: 66, tip: "For MQTT" }),
  ];
  return <Grid<Logger> label="Loggers" title="Loggers" rows={loggers} columns={columns} />;
}

export function lookOf(logger: Logger) {
  if (logger.state === "waiting" || logger.state === "revoked") return look.soft;
  return logger.state === "sending" && logger.said === "All well." ? look.teal : look.ember;
}

function driftOf(drift: number | null): string {
  if (drift === null) return "not told";
  const off = number(Math.abs(drift), 0);
  if (off === "0") return "right";
  return `${off} s ${drift > 0 ? "ahead" : "behind"}`;
}
