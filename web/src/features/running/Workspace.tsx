/** Lanes on one time axis under the states; drag to select, arrows do the same. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import {
  lazy,
  Suspense,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type MouseEvent,
  type PointerEvent,
  type ReactNode,
} from "react";

import { useMe, type Stretch } from "../../api/hooks";
import type { Window } from "../../api/window";
import { useSettings, useShade } from "../../app/settings";
import { useChart } from "../../components/echarts";
import { clock, localMinute, shortDay, shownIn, type Shown } from "../../components/numbers";
import { useWidth } from "../../components/useWidth";
import { LanesMenu, SaveMenu, type Choice } from "./Bar";
import { layout, LEFT, optionOf, readAt, RIGHT, rowsOf } from "./lanes";
import { download, drawing, picture, print, sizeOf } from "./save";
import { StateRibbon } from "./StateRibbon";
import { marks } from "./ticks";
import { tabled, type Table } from "../../components/behindOf";
import { must } from "../../components/must";

const Behind = lazy(() => import("../../components/Behind"));

const AXIS = 20;
const NEAR = 6; // of a run's end to which a brush snaps [px]

interface Props {
  window: Window;
  zone: string;
  step: number;
  zoomed: boolean;
  unzoom: () => void;
  cursor: number | null;
  setCursor: (at: number | null) => void;
  sel: Stretch | null;
  select: (sel: Stretch | null) => void;
  /** Asks why the selection is to be left out of every sum, what the unit did in it, what to note. */
  leaveOut: () => void;
  setState: () => void;
  note: () => void;
  choice: Choice;
  choose: (next: Choice) => void;
  /** What the stretch is called, and where its numbers are. */
  title: string;
  csv: string;
  /** What was noted, for the axis. */
  marked: { at: number; words: string }[];
  /** What was noted in this stretch; stands where else the hint does. */
  noted: ReactNode;
}

export function Workspace({
  window: shown,
  zone,
  step,
  zoomed,
  unzoom,
  cursor,
  setCursor,
  sel,
  select,
  leaveOut,
  setState,
  note,
  choice,
  choose,
  title,
  csv,
  marked,
  noted,
}: Props) {
  const shade = useShade();
  const outer = useRef<HTMLDivElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(outer);
  const height = useHeight();
  const { units } = useSettings();
  const me = useMe();
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const [hover, setHover] = useState<number | null>(null);

  const rows = useMemo(
    () => rowsOf(shown, me.data?.units ?? [], units, choice.hidden, choice.further),
    [shown, me.data, units, choice],
  );
  const option = useMemo(() => optionOf(shown, rows, height, shade), [shown, rows, height, shade]);
  const painted = useCallback(() => {
    performance.mark("ember-painted", { detail: { start: shown.start } });
  }, [shown.start]);
  useChart(box, option, painted);

  const room = Math.max(1, width - LEFT - RIGHT);
  const long = shown.stop - shown.start;
  const x = (instant: number) => LEFT + ((instant - shown.start) / long) * room;
  const grain = Math.max(60, step);
  const bounded = (instant: number) => Math.min(shown.stop, Math.max(shown.start, instant));
  const snap = (instant: number) => bounded(Math.round(instant / grain) * grain);
  // A brush that comes near the begin or end of a run takes it.
  const snapToRun = (instant: number) => {
    const near = (NEAR / room) * long;
    const edge = nearest(shown.runStarts, instant, nearest(shown.runStops, instant, null));
    return edge !== null && Math.abs(edge - instant) <= near ? bounded(edge) : snap(instant);
  };
  const runAt = (instant: number) => {
    const k = shown.runStarts.findLastIndex((start) => start <= instant);
    return k >= 0 && instant < must(shown.runStops[k]) ? k : null;
  };
  const selectRun = (instant: number) => {
    const k = runAt(instant);
    if (k !== null) put(must(shown.runStarts[k]), must(shown.runStops[k]));
  };
  const instantOf = (event: PointerEvent | MouseEvent) =>
    snapToRun(
      shown.start + ((event.clientX - must(outer.current).getBoundingClientRect().left - LEFT) / room) * long,
    );

  const chosen =
    drag ?? (sel ? { from: parse(sel.start, shown, zone), to: parse(sel.stop, shown, zone) } : null);
  const put = (from: number, to: number) => {
    const [a, b] = [Math.min(from, to), Math.max(from, to)];
    if (b - a < grain) select(null);
    else select({ start: localMinute(a, zone), stop: localMinute(b, zone) });
  };

  const [table, setTable] = useState(false);
  const [anchor, setAnchor] = useState<number | null>(null);
  function pressed(event: KeyboardEvent) {
    if (event.key === "Enter" && cursor !== null) {
      event.preventDefault();
      selectRun(cursor);
      return;
    }
    if (event.key === "t") setTable(true);
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -12, PageDown: 12 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    const stride = long <= 2 * 86_400 ? 600 : Math.max(3600, Math.round(long / 150 / 3600) * 3600);
    const now = cursor ?? snap(shown.start + long / 2);
    const next = snap(now + by * stride);
    setCursor(next);
    if (event.shiftKey) {
      const from = anchor ?? now;
      setAnchor(from);
      put(from, next);
    } else setAnchor(null);
  }

  const read = hover ?? cursor;
  const seen = read !== null && read >= shown.start && read <= shown.stop ? read : null;
  const out = seen === null ? undefined : shown.leftOut.find((one) => one.start <= seen && seen < one.stop);
  const places = layout(rows, height);
  const every = useMemo(() => rowsOf(shown, [], units, [], choice.further), [shown, units, choice]);
  const further = [
    ...shown.lanes.filter((lane) => lane.channel.startsWith("outdoor_humidity")).map((lane) => lane.channel),
    ...shown.further,
  ];
  const labels = useMemo(
    () => marks(shown.start, shown.stop, zone, room),
    [shown.start, shown.stop, zone, room],
  );
  const sheet = () => ({ title, window: shown, rows, places, option, labels, width, height });

  return (
    <Box sx={{ position: "relative", margin: "-4px -6px 0" }} ref={outer}>
      <StateRibbon window={shown} width={width} />
      <Box
        sx={{
          position: "relative",
          height: height + AXIS,
          cursor: "crosshair",
          touchAction: "none",
          outlineOffset: -2,
        }}
        tabIndex={0}
        role="application"
        aria-label="Chart of the readings. Arrow keys move the cursor, with Shift they select; Enter selects the run at the cursor; Escape selects nothing; t shows the readings as a table."
        data-testid="workspace"
        onKeyDown={pressed}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          const at = instantOf(event);
          setDrag({ from: at, to: at });
        }}
        onPointerMove={(event) => {
          const at = instantOf(event);
          setHover(at);
          if (drag) setDrag({ ...drag, to: at });
        }}
        onPointerUp={() => {
          if (drag) put(drag.from, drag.to);
          setDrag(null);
        }}
        onPointerLeave={() => setHover(null)}
        onDoubleClick={(event) => selectRun(instantOf(event))}
      >
        {labels.map((mark) => (
          <Box
            component="i"
            sx={{
              position: "absolute",
              left: x(mark.at),
              top: 0,
              height,
              borderLeft: "1px solid var(--hair)",
            }}
            key={mark.at}
            aria-hidden
          />
        ))}
        {shown.leftOut.map((one) => (
          <Tooltip key={one.start} title={`Left out: ${one.reason}`}>
            <Box
              component="i"
              sx={{
                position: "absolute",
                left: x(one.start),
                width: Math.max(2, x(one.stop) - x(one.start)),
                top: 0,
                height: height + AXIS,
                pointerEvents: "none",
                background: "repeating-linear-gradient(135deg, transparent 0 5px, var(--line) 5px 6px)",
                borderBottom: "3px solid var(--soft)",
              }}
              data-testid="left-out"
            />
          </Tooltip>
        ))}
        {marked.map((one) => (
          <Tooltip key={`${one.at} ${one.words}`} title={one.words}>
            <Box
              component="i"
              sx={{
                position: "absolute",
                left: x(one.at) - 4,
                top: height - 7,
                width: 8,
                height: 8,
                background: "var(--ink)",
                transform: "rotate(45deg)",
                zIndex: 2,
              }}
              data-testid="note-mark"
            />
          </Tooltip>
        ))}
        {chosen && (
          <Box
            component="i"
            sx={{
              position: "absolute",
              top: -28,
              height: height + 28,
              background: "var(--chosen)",
              pointerEvents: "none",
              left: x(Math.max(shown.start, Math.min(chosen.from, chosen.to))),
              width: Math.max(
                0,
                x(Math.min(shown.stop, Math.max(chosen.from, chosen.to))) -
                  x(Math.max(shown.start, Math.min(chosen.from, chosen.to))),
              ),
              borderLeft: "1px dashed var(--ink)",
              borderRight: "1px dashed var(--ink)",
            }}
            aria-hidden
            data-testid="selection"
          />
        )}
        <Box
          sx={{ position: "absolute", inset: 0, bottom: AXIS, pointerEvents: "none" }}
          ref={box}
          aria-hidden
        />
        {seen !== null && (
          <Box
            component="i"
            sx={{
              position: "absolute",
              left: x(seen),
              top: -28,
              height: height + 28,
              borderLeft: "1px solid var(--ember)",
              pointerEvents: "none",
            }}
            aria-hidden
          />
        )}
        {rows.map((row, k) => (
          <Box
            sx={{
              position: "absolute",
              left: LEFT + 4,
              right: RIGHT + 4,
              top: must(places[k]).top - 17,
              display: "flex",
              gap: 10,
              pointerEvents: "none",
              lineHeight: "17px",
            }}
            key={row.key}
          >
            <span>
              <strong>{row.title}</strong>{" "}
              <Box component="span" sx={look.soft}>
                {row.symbol}
              </Box>
            </span>
            <Typography
              variant="caption"
              component="span"
              sx={{ marginLeft: "auto", display: "flex", gap: 12 }}
            >
              {(seen === null
                ? row.drawn.map((d) => ({ name: d.name, colour: d.colour, text: "" }))
                : readAt(row, seen)
              ).map((value) => (
                <span key={value.name}>
                  <Box
                    component="i"
                    sx={{
                      display: "inline-block",
                      width: 9,
                      height: 3,
                      background: `var(--${value.colour})`,
                      marginRight: 4,
                      verticalAlign: "middle",
                    }}
                    aria-hidden
                  />
                  {value.name}{" "}
                  <Box component="strong" sx={{ color: "var(--ink)" }}>
                    {value.text}
                  </Box>
                </span>
              ))}
            </Typography>
          </Box>
        ))}
        {labels.map((mark) => (
          <Typography
            variant="caption"
            component="span"
            sx={{
              position: "absolute",
              left: x(mark.at),
              top: height + 2,
              transform: "translateX(-50%)",
              whiteSpace: "nowrap",
            }}
            key={mark.at}
            aria-hidden
          >
            {mark.text}
          </Typography>
        ))}
      </Box>
      <Typography
        variant="caption"
        component="div"
        sx={{
          paddingLeft: LEFT,
          paddingRight: RIGHT,
          minHeight: 20,
          display: "flex",
          gap: 12,
          alignItems: "center",
        }}
      >
        <Box
          component="span"
          sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}
          aria-live="polite"
        >
          {seen !== null && `${shortDay(seen, zone)} ${clock(seen, zone)}`}
          {out && (
            <Box component="span" sx={look.ember}>
              {" "}
              · left out: {out.reason}
            </Box>
          )}
          {seen === null &&
            !chosen &&
            (noted ?? "Drag to select a stretch, double-click for a run. d, s: next defrost, start.")}
          {seen !== null && !drag && runAt(seen) !== null && (
            <Box component="span" sx={look.soft}>
              {" "}
              · run of {clock(must(shown.runStarts[must(runAt(seen))]), zone)} to{" "}
              {clock(must(shown.runStops[must(runAt(seen))]), zone)}
            </Box>
          )}
        </Box>
        <Box component="span" sx={{ marginLeft: "auto", display: "flex", gap: 12, whiteSpace: "nowrap" }}>
          {chosen && !drag && (
            <>
              <Do act={() => select(null)}>Select nothing (Esc)</Do>
              <Do act={leaveOut}>Leave out (e)</Do>
              <Do act={setState}>State (c)</Do>
            </>
          )}
          {(chosen || cursor !== null) && !drag && <Do act={note}>Note (n)</Do>}
          {zoomed && <Do act={unzoom}>Zoom back (Z)</Do>}
          <Do act={() => setTable(true)}>Table (t)</Do>
          {table && (
            <Suspense>
              <Behind
                table={behindWindow(shown, zone, (unit) => shownIn(me.data?.units ?? [], unit, units))}
                close={() => setTable(false)}
              />
            </Suspense>
          )}
          <LanesMenu present={every} further={further} choice={choice} choose={choose} />
          <SaveMenu
            csv={csv}
            svg={() =>
              download(new Blob([drawing(sheet(), shade)], { type: "image/svg+xml" }), `${title}.svg`)
            }
            png={() =>
              void picture(drawing(sheet(), shade), ...sizeOf(width, height)).then((blob) =>
                download(blob, `${title}.png`),
              )
            }
            print={print}
          />
        </Box>
      </Typography>
    </Box>
  );
}

function Do({ act, children }: { act: () => void; children: string }) {
  return (
    <Button variant="text" sx={{ ...look.noprint, padding: 0, minHeight: 0 }} onClick={act}>
      {children}
    </Button>
  );
}

/** The instant of a list, in order, that lies nearest; or the one it is compared with. */
function nearest(instants: number[], to: number, other: number | null): number | null {
  let best = other;
  for (const one of instants) if (best === null || Math.abs(one - to) < Math.abs(best - to)) best = one;
  return best;
}

/** The instant of a local time within a window; by its clock, so found by trying. */
function parse(local: string, shown: Window, zone: string): number {
  const guess = Date.parse(`${local.length === 10 ? `${local}T00:00` : local}Z`) / 1000;
  const offset = Date.parse(`${localMinute(guess, zone)}Z`) / 1000 - guess;
  const first = guess - offset;
  return localMinute(first, zone) === local
    ? first
    : guess - (Date.parse(`${localMinute(shown.start, zone)}Z`) / 1000 - shown.start);
}

/** Room for the lanes below the head, so that all are seen at once. */
function useHeight(): number {
  const [height, setHeight] = useState(() => window.innerHeight);
  useEffect(() => {
    const changed = () => setHeight(window.innerHeight);
    window.addEventListener("resize", changed);
    return () => window.removeEventListener("resize", changed);
  }, []);
  return Math.max(400, height - 212);
}

const MOST_ROWS = 5000;

/** The readings that are drawn, a row a point. */
function behindWindow(shown: Window, zone: string, inUnits: (unit: string) => Shown): Table {
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
