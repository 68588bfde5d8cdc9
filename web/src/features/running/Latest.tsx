/** What tables of events share: their file, and the way to an event's day. */
import Tooltip from "@mui/material/Tooltip";
import { FigureButton } from "../../components/FigureButton";
import type { SystemShown } from "../../api/client";
import type { Stretch } from "../../api/hooks";
import { clock, dayYear } from "../../components/numbers";

/** Where the whole table of a period is, each figure with its U. */
export function eventsCsv(
  system: SystemShown,
  stretch: Stretch,
  what: "runs" | "starts" | "defrosts" | "hot-water",
): string {
  return `/api/v1/systems/${system.id}/events.csv?${new URLSearchParams({ ...stretch, what })}`;
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
