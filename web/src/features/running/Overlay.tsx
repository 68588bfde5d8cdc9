/** What lies over and under the lanes: the grid of time, what is left out, notes, the selection, the cursor. */
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";

import type { Window } from "../../api/window";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { LEFT, readAt, RIGHT, type layout, type rowsOf } from "./lanes";
import type { marks } from "./ticks";
import type { Span } from "./useBrush";

export const AXIS = 20;

interface UnderProps {
  window: Window;
  x: (instant: number) => number;
  height: number;
  labels: ReturnType<typeof marks>;
  /** What was noted, for the axis. */
  marked: { at: number; words: string }[];
  chosen: Span | null;
}

/** What lies under the curves. */
export function Under({ window: shown, x, height, labels, marked, chosen }: UnderProps) {
  return (
    <>
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
            role="img"
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
            role="img"
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
    </>
  );
}

interface OverProps {
  x: (instant: number) => number;
  height: number;
  labels: ReturnType<typeof marks>;
  rows: ReturnType<typeof rowsOf>;
  places: ReturnType<typeof layout>;
  /** The instant that is read. */
  seen: number | null;
}

/** What lies over them: the cursor, what each lane reads there, the times. */
export function Over({ x, height, labels, rows, places, seen }: OverProps) {
  return (
    <>
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
    </>
  );
}
