/** The logbook of one system: files, readings by hand, loggers, what was noted, and all of it out again. */
import { useQueryString } from "../../app/query";
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";

import type { SystemShown } from "../../api/client";
import type { Period } from "../../app/period";
import { dayYear, duration } from "../../components/numbers";
import { Room } from "../../components/Room";
import { Bills } from "./Bills";
import { Files } from "./Files";
import { History } from "./History";
import { Live } from "./Live";
import { Noted } from "./Noted";
import { Out } from "./Out";
import { Sheet } from "./Sheet";

const PARTS: [string, string][] = [
  ["files", "Files"],
  ["hand", "By hand"],
  ["live", "Live"],
  ["noted", "Noted"],
  ["bills", "Bills"],
  ["history", "History"],
  ["out", "Out"],
];

export default function Log() {
  return (
    <Room needs={false} panel={false}>
      {(system, period) => <Inside key={system.id} system={system} period={period} />}
    </Room>
  );
}

function Inside({ system, period }: { system: SystemShown; period: Period | null }) {
  const [params, put] = useQueryString();
  const part = params.get("part") ?? (system.by_hand === null ? "files" : "hand");
  const go = (next: string) => put({ part: next }, true);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14, maxWidth: 1160 }}>
      <Box component="header" sx={{ display: "flex", alignItems: "baseline", gap: 14, flexWrap: "wrap" }}>
        <Typography variant="h1">Log of {system.name}</Typography>
        <Box component="p" sx={{ ...look.soft, flex: 1 }}>
          {system.start === null || system.stop === null
            ? "No logged readings are stored yet."
            : system.by_hand !== null
              ? `${system.by_hand} readings by hand: ${dayYear(system.start, system.zone)} to ${dayYear(system.stop - 1, system.zone)}.`
              : `Stored: ${dayYear(system.start, system.zone)} to ${dayYear(system.stop - 1, system.zone)}, every ${duration(system.step ?? 60)}.`}
        </Box>
        <ToggleButtonGroup aria-label="Part of the log">
          {PARTS.map(([key, words]) => (
            <ToggleButton value={key} key={key} selected={key === part} onClick={() => go(key)}>
              {words}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </Box>
      {part === "files" && <Files system={system} />}
      {part === "hand" && <Sheet system={system} />}
      {part === "live" && <Live system={system} />}
      {part === "noted" && <Noted system={system} />}
      {part === "bills" && <Bills system={system} />}
      {part === "history" && <History system={system} />}
      {part === "out" && <Out system={system} period={period} />}
    </Box>
  );
}
