import { useQueryString, type Put } from "../../app/query";
import Alert from "@mui/material/Alert";
import Tooltip from "@mui/material/Tooltip";
import { FigureButton } from "../../components/FigureButton";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import type { Observation, SystemShown } from "../../api/client";
import { useEvents, useMe, useObservations, windowQuery, type Stretch } from "../../api/hooks";
import { useKeys } from "../../app/keys";
import { addDays, type Period } from "../../app/period";
import { useSettings } from "../../app/settings";
import { localMinute, shownIn } from "../../components/numbers";
import { Room } from "../../components/Room";
import { Tabs } from "../../components/Tabs";
import { Trouble, Waiting } from "../../components/Said";
import { LeaveOut, Note, SetState } from "./Ask";
import { Control } from "./Control";
import { Defrosts } from "./Defrosts";
import { HotWater } from "./HotWater";
import { Inside as InsideUnit } from "./Inside";
import { Runs, type Seen } from "./Runs";
import { Starts } from "./Starts";
import { Units } from "./Units";
import { change, viewOf, VIEWS, type View } from "./views";
import { Workspace } from "./Workspace";
import { must } from "../../components/must";

export const POINTS = 800;
const MOST_NOTED = 4;
const MOST_MARKED = 120;

const TABLES: Record<Exclude<View, "day">, (seen: Seen) => React.JSX.Element> = {
  runs: Runs,
  starts: Starts,
  defrosts: Defrosts,
  "hot-water": HotWater,
  control: Control,
  inside: InsideUnit,
  units: Units,
};

export default function Running() {
  const [params] = useQueryString();
  const view = viewOf(params.get("view"));
  return (
    <Room byDay={view === "day"}>
      {(system, period) => period && <Inside system={system} period={period} view={view} />}
    </Room>
  );
}

function Inside({ system, period, view }: { system: SystemShown; period: Period; view: View }) {
  const [params, put] = useQueryString();
  const { units } = useSettings();
  const me = useMe();
  const left = params.get("day");
  const go = (to: View) =>
    to !== view && put(change(view, to, period.from === period.to ? period.from : null, left));
  // A unit that gives its heat to air makes no hot water.
  const views = VIEWS.filter(([key]) => key !== "hot-water" || !system.by_air);
  const turn = (by: number) => {
    const at = views.findIndex(([key]) => key === view);
    go(must(views[(at + by + views.length) % views.length])[0]);
  };
  useKeys({ v: () => turn(1), V: () => turn(-1) });
  const temp = useMemo(() => shownIn(me.data?.units ?? [], "degC", units), [me.data, units]);
  const show = (start: number, stop: number) => {
    const day = localMinute(start, system.zone).slice(0, 10);
    put({
      view: null,
      day: null,
      from: day,
      to: day,
      win: null,
      at: String(start),
      sel: `${localMinute(start, system.zone)}_${localMinute(stop, system.zone)}`,
    });
  };
  const Table = view === "day" ? null : TABLES[view];
  return (
    <>
      <Tabs label="Views of Running" views={views} view={view} go={go} />
      {Table && system.without_runs ? (
        <Alert severity="info" role="note">
          {system.without_runs}
        </Alert>
      ) : Table ? (
        <Table system={system} stretch={period.stretch} temp={temp} show={show} />
      ) : (
        <Day system={system} period={period} put={put} />
      )}
    </>
  );
}

const listed = (text: string | null) => (text ?? "").split(",").filter(Boolean);

function Day({ system, period, put }: { system: SystemShown; period: Period; put: Put }) {
  const [params] = useQueryString();
  const queries = useQueryClient();
  const events = useEvents(system.id);
  const noted = useObservations(system.id);
  const [begin, end] = (params.get("win") ?? "").split("_");
  const stretch: Stretch = begin && end ? { start: begin, stop: end } : period.stretch;
  const further = params.get("lanes") ?? "";
  const choice = useMemo(
    () => ({ hidden: listed(params.get("hide")), further: listed(further) }),
    [params, further],
  );
  const shown = useQuery({
    ...windowQuery(system.id, stretch, POINTS, further),
    placeholderData: (before) => before,
  });
  const cursor = Number(params.get("at")) || null;

  // The neighbours are fetched beforehand, so that a flip only has to paint.
  useEffect(() => {
    if (period.from !== period.to || begin) return;
    for (const by of [1, -1, 2, -2]) {
      const day = addDays(period.from, by);
      if (day >= period.first && day <= period.last)
        void queries.prefetchQuery(windowQuery(system.id, { start: day, stop: day }, POINTS, further));
    }
  }, [queries, system.id, period.from, period.to, period.first, period.last, begin, further]);

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
  const [asking, setAsking] = useState<
    { what: "leave-out" | "state"; stretch: Stretch } | { what: "note"; at: string } | null
  >(null);
  const leaveOut = () => period.sel && setAsking({ what: "leave-out", stretch: period.sel });
  const setState = () => period.sel && setAsking({ what: "state", stretch: period.sel });
  const note = () => {
    const at = cursor !== null ? localMinute(cursor, system.zone) : period.sel?.start;
    if (at) setAsking({ what: "note", at });
  };
  useKeys({
    d: () => void jump("defrosts", 1),
    D: () => void jump("defrosts", -1),
    s: () => void jump("starts", 1),
    S: () => void jump("starts", -1),
    e: leaveOut,
    c: setState,
    n: note,
    z: () => period.sel && put({ win: `${period.sel.start}_${period.sel.stop}` }),
    Z: () => put({ win: null }),
    Escape: () => put({ sel: null, at: null }),
  });

  const { start = 0, stop = 0 } = shown.data ?? {};
  const here = (noted.data?.rows ?? []).filter((one) => one.time >= start && one.time < stop).reverse();
  if (shown.isError) return <Trouble error={shown.error} again={() => void shown.refetch()} />;
  if (!shown.data) return <Waiting what="the readings" />;
  const close = () => setAsking(null);
  return (
    <>
      {asking?.what === "leave-out" && <LeaveOut system={system} stretch={asking.stretch} close={close} />}
      {asking?.what === "state" && <SetState system={system} stretch={asking.stretch} close={close} />}
      {asking?.what === "note" && <Note system={system} at={asking.at} close={close} />}
      <Workspace
        leaveOut={leaveOut}
        setState={setState}
        note={note}
        choice={choice}
        choose={(next) => put({ hide: next.hidden.join(",") || null, lanes: next.further.join(",") || null })}
        title={`${system.name} ${stretch.start}${stretch.stop === stretch.start ? "" : ` to ${stretch.stop}`}`
          .replaceAll("T", " ")
          .replaceAll(":", "")}
        csv={`/api/v1/systems/${system.id}/window.csv?${new URLSearchParams({ start: stretch.start, stop: stretch.stop, further })}`}
        marked={here.slice(-MOST_MARKED).map((one) => ({
          at: one.time,
          words: `${one.local} ${one.words}${one.note ? `: ${one.note}` : ""}`,
        }))}
        window={shown.data}
        zone={system.zone}
        step={system.step ?? 60}
        zoomed={begin !== undefined && begin !== ""}
        unzoom={() => put({ win: null })}
        cursor={cursor}
        setCursor={(at) => put({ at: at === null ? null : String(Math.round(at)) })}
        sel={period.sel}
        select={(sel) => put({ sel: sel ? `${sel.start}_${sel.stop}` : null })}
        noted={
          here.length > 0 ? (
            <NotedHere rows={here} long={stop - start > 90_000} setCursor={(at) => put({ at: String(at) })} />
          ) : null
        }
      />
    </>
  );
}

/** What was seen and done in the stretch that is shown; a click puts the cursor there. */
function NotedHere({
  rows,
  long,
  setCursor,
}: {
  rows: Observation[];
  long: boolean;
  setCursor: (at: number) => void;
}) {
  return (
    <span aria-label="Noted">
      Noted:{" "}
      {rows.slice(0, MOST_NOTED).map((one) => (
        <Tooltip key={one.id} title={one.note}>
          <FigureButton sx={{ marginRight: 10 }} onClick={() => setCursor(one.time)}>
            {one.local.slice(long ? 5 : 11)} {one.words.toLowerCase()}
          </FigureButton>
        </Tooltip>
      ))}
      {rows.length > MOST_NOTED && `and ${rows.length - MOST_NOTED} more`}
    </span>
  );
}
