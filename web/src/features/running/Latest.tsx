/** What tables of events share: their head, and the way to an event's day. */
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureButton } from "../../components/FigureButton";
import type { SystemShown } from "../../api/client";
import type { Stretch } from "../../api/hooks";
import { clock, dayYear, number } from "../../components/numbers";

export function Latest({
  count,
  system,
  stretch,
  what,
}: {
  count: number;
  system: SystemShown;
  stretch: Stretch;
  what: "defrosts" | "hot-water";
}) {
  return (
    <Box sx={{ display: "flex", alignItems: "baseline", gap: 12 }}>
      <Typography variant="h2">The latest {number(count, 0)}</Typography>
      <Typography
        variant="caption"
        component="a"
        sx={{ marginLeft: "auto" }}
        href={`/api/v1/systems/${system.id}/events.csv?${new URLSearchParams({ ...stretch, what })}`}
      >
        All as CSV
      </Typography>
    </Box>
  );
}

export function OnItsDay({
  start,
  stop,
  zone,
  show,
}: {
  start: number;
  stop: number;
  zone: string;
  show: (start: number, stop: number) => void;
}) {
  return (
    <Tooltip title="Show it on its day">
      <FigureButton onClick={() => show(start, stop)}>
        {dayYear(start, zone)} {clock(start, zone)}
      </FigureButton>
    </Tooltip>
  );
}
