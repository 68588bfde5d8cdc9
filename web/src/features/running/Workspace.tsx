/** Lanes on one time axis under the states; drag to select, arrows do the same. */
import Box from "@mui/material/Box";
import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";

import { useMe, type Stretch } from "../../api/hooks";
import type { Window } from "../../api/window";
import { useSettings, useShade } from "../../app/settings";
import { useChart } from "../../components/echarts";
import { shownIn } from "../../components/numbers";
import { useWidth } from "../../components/useWidth";
import { LanesMenu, SaveMenu, type Choice } from "./Bar";
import { behindWindow } from "./behindWindow";
import { layout, optionOf, rowsOf } from "./lanes";
import { AXIS, Over, Under } from "./Overlay";
import { download } from "../../components/download";
import { drawing, picture, print, sizeOf } from "./save";
import { StateRibbon } from "./StateRibbon";
import { marks } from "./ticks";
import { UnderChart } from "./UnderChart";
import { useBrush } from "./useBrush";

const Behind = lazy(() => import("../../components/Behind"));

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
  const [table, setTable] = useState(false);
  const brush = useBrush({
    window: shown,
    zone,
    step,
    width,
    outer,
    cursor,
    setCursor,
    sel,
    select,
    table: () => setTable(true),
  });
  const { x, room, seen, chosen, dragging } = brush;

  const rows = useMemo(
    () => rowsOf(shown, me.data?.units ?? [], units, choice.hidden, choice.further),
    [shown, me.data, units, choice],
  );
  const option = useMemo(() => optionOf(shown, rows, height, shade), [shown, rows, height, shade]);
  const painted = useCallback(() => {
    performance.mark("ember-painted", { detail: { start: shown.start } });
  }, [shown.start]);
  useChart(box, option, painted);

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
        {...brush.on}
      >
        <Under window={shown} x={x} height={height} labels={labels} marked={marked} chosen={chosen} />
        <Box
          sx={{ position: "absolute", inset: 0, bottom: AXIS, pointerEvents: "none" }}
          ref={box}
          aria-hidden
        />
        <Over x={x} height={height} labels={labels} rows={rows} places={places} seen={seen} />
      </Box>
      <UnderChart
        window={shown}
        zone={zone}
        seen={seen}
        chosen={chosen}
        dragging={dragging}
        cursor={cursor}
        zoomed={zoomed}
        run={seen !== null && !dragging ? brush.runAt(seen) : null}
        noted={noted}
        acts={{
          selectNothing: () => select(null),
          leaveOut,
          setState,
          note,
          unzoom,
          table: () => setTable(true),
        }}
      >
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
          svg={() => download(new Blob([drawing(sheet(), shade)], { type: "image/svg+xml" }), `${title}.svg`)}
          png={() =>
            void picture(drawing(sheet(), shade), ...sizeOf(width, height)).then((blob) =>
              download(blob, `${title}.png`),
            )
          }
          print={print}
        />
      </UnderChart>
    </Box>
  );
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
