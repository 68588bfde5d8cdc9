import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { useSearchParams } from "react-router";

import type { Observation, SystemShown } from "../api/client";
import { useEvents, useObservations, windowQuery, type Stretch } from "../api/hooks";
import { useKeys } from "../app/keys";
import { addDays, type Period } from "../app/period";
import { localMinute } from "../parts/numbers";
import { Room } from "../parts/Room";
import { Trouble, Waiting } from "../parts/Said";
import { LeaveOut } from "./LeaveOut";
import { Workspace } from "./Workspace";

export const POINTS = 800;
const MOST_NOTED = 4;

export default function Running() {
  return <Room byDay>{(system, period) => period && <Inside system={system} period={period} />}</Room>;
}

function Inside({ system, period }: { system: SystemShown; period: Period }) {
  const [params, setParams] = useSearchParams();
  const queries = useQueryClient();
  const events = useEvents(system.id);
  const noted = useObservations(system.id);
  const [begin, end] = (params.get("win") ?? "").split("_");
  const stretch: Stretch = begin && end ? { start: begin, stop: end } : period.stretch;
  const shown = useQuery({ ...windowQuery(system.id, stretch, POINTS), placeholderData: (before) => before });
  const cursor = Number(params.get("at")) || null;

  const put = useCallback(
    (change: Record<string, string | null>) =>
      setParams(
        (now) => {
          const next = new URLSearchParams(now);
          for (const [key, value] of Object.entries(change)) value === null ? next.delete(key) : next.set(key, value);
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );

  // The neighbours are fetched beforehand, so that a flip only has to paint.
  useEffect(() => {
    if (period.from !== period.to || begin) return;
    for (const by of [1, -1, 2, -2]) {
      const day = addDays(period.from, by);
      if (day >= period.first && day <= period.last) void queries.prefetchQuery(windowQuery(system.id, { start: day, stop: day }, POINTS));
    }
  }, [queries, system.id, period.from, period.to, period.first, period.last, begin]);

  // A window within another day than the period's is left when the day is.
  const jump = async (what: "defrosts" | "starts", by: 1 | -1) => {
    const instants = (events.data ?? (await events.refetch()).data)?.[what] ?? []; // a key pressed early waits
    const now = cursor ?? (by > 0 ? shown.data?.start : shown.data?.stop) ?? 0;
    const next = by > 0 ? instants.find((t) => t > now) : instants.findLast((t) => t < now);
    if (next === undefined) return;
    const day = localMinute(next, system.zone).slice(0, 10);
    const inside = shown.data && next >= shown.data.start && next < shown.data.stop;
    put(inside ? { at: String(next) } : { at: String(next), from: day, to: day, sel: null, win: null });
  };
  useKeys({
    d: () => void jump("defrosts", 1),
    D: () => void jump("defrosts", -1),
    s: () => void jump("starts", 1),
    S: () => void jump("starts", -1),
    e: () => period.sel && setLeaving(period.sel),
    z: () => period.sel && put({ win: `${period.sel.start}_${period.sel.stop}` }),
    Z: () => put({ win: null }),
    Escape: () => put({ sel: null, at: null }),
  });

  const [leaving, setLeaving] = useState<Stretch | null>(null);
  const { start = 0, stop = 0 } = shown.data ?? {};
  const here = (noted.data?.rows ?? []).filter((one) => one.time >= start && one.time < stop).reverse();
  if (shown.isError) return <Trouble error={shown.error} again={() => void shown.refetch()} />;
  if (!shown.data) return <Waiting what="the readings" />;
  return (
    <>
    {leaving && <LeaveOut system={system} stretch={leaving} close={() => setLeaving(null)} />}
    <Workspace
      leaveOut={() => period.sel && setLeaving(period.sel)}
      window={shown.data}
      zone={system.zone}
      step={system.step ?? 60}
      zoomed={begin !== undefined && begin !== ""}
      unzoom={() => put({ win: null })}
      cursor={cursor}
      setCursor={(at) => put({ at: at === null ? null : String(Math.round(at)) })}
      sel={period.sel}
      select={(sel) => put({ sel: sel ? `${sel.start}_${sel.stop}` : null })}
      noted={here.length > 0 ? <NotedHere rows={here} long={shown.data.stop - shown.data.start > 90_000} setCursor={(at) => put({ at: String(at) })} /> : null}
    />
    </>
  );
}

/** What was seen and done in the stretch that is shown; a click puts the cursor there. */
function NotedHere({ rows, long, setCursor }: { rows: Observation[]; long: boolean; setCursor: (at: number) => void }) {
  return (
    <span aria-label="Noted">
      Noted:{" "}
      {rows.slice(0, MOST_NOTED).map((one) => (
        <button key={one.id} className="figure" title={one.note} style={{ marginRight: 10 }} onClick={() => setCursor(one.time)}>
          {one.local.slice(long ? 5 : 11)} {one.words.toLowerCase()}
        </button>
      ))}
      {rows.length > MOST_NOTED && `and ${rows.length - MOST_NOTED} more`}
    </span>
  );
}
