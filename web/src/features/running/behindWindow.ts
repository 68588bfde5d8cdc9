/** The table behind the chart of readings. */
import type { Window } from "../../api/window";
import { tabled, type Table } from "../../components/behindOf";
import { must } from "../../components/must";
import { localMinute, type Shown } from "../../components/numbers";

const MOST_ROWS = 5000;

/** The readings that are drawn, a row a point. */
export function behindWindow(shown: Window, zone: string, inUnits: (unit: string) => Shown): Table {
  const lanes = shown.lanes.map((lane) => ({ ...lane, shown: inUnits(lane.unit) }));
  const [longest] = [...shown.lanes].sort((a, b) => b.count - a.count);
  const rows = Array.from({ length: Math.min(longest?.count ?? 0, MOST_ROWS) }, (_, k) => {
    const at = must(longest).start + k * must(longest).step;
    return [
      localMinute(at, zone).replace("T", " "),
      ...lanes.map((lane) => {
        const j = Math.floor((at - lane.start) / lane.step);
        const value = (lane.mean ?? lane.low)[j];
        return value === undefined || Number.isNaN(value) ? null : lane.shown.of(value);
      }),
    ];
  });
  const drawn = lanes.map((lane) => `${lane.channel.replaceAll("_", " ")}, ${lane.shown.symbol}`);
  return tabled("Readings", ["time", ...drawn], rows);
}
