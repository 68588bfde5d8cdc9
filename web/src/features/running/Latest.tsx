/** What tables of events share: their head, and the way to an event's day. */
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
    <div style={{ display: "flex", alignItems: "baseline", gap: 12 }}>
      <h2>The latest {number(count, 0)}</h2>
      <a
        className="cap"
        style={{ marginLeft: "auto" }}
        href={`/api/v1/systems/${system.id}/events.csv?${new URLSearchParams({ ...stretch, what })}`}
      >
        All as CSV
      </a>
    </div>
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
    <button className="figure" title="Show it on its day" onClick={() => show(start, stop)}>
      {dayYear(start, zone)} {clock(start, zone)}
    </button>
  );
}
