/** A tariff's week drawn on the clock, a strip a day; a drag over it makes a band. */
import { useRef, useState, type PointerEvent } from "react";

import Box from "@mui/material/Box";
import type { components } from "../../../api/schema";
import * as look from "../../../components/look";
import type { Band, Prices } from "../draft";
import { DAYS, letterOf, seasonOf, shadeOf } from "./shades";

type Season = components["schemas"]["SeasonClock"];

/** What a drag has marked. */
export type Drawn = Pick<Band, "start" | "end" | "weekdays" | "months">;

const HALF_HOURS = 48;
const ROW = 20; // px
const NAMES = 40; // px, the days' names

interface Corner {
  day: number;
  half: number;
}

export function ClockStrip({
  edition,
  one,
  paint,
}: {
  edition: components["schemas"]["EditionClock"] | undefined;
  one: Prices;
  paint: (span: Drawn) => void;
}) {
  if (!edition) return null;
  return (
    <Box>
      {edition.seasons.map((season) => (
        <Week key={season.months.join()} season={season} ranks={edition.ranks} one={one} paint={paint} />
      ))}
      <Box sx={look.cap}>
        The dearer the darker; by the clock on the wall, also on days of 23 and 25 hours. Drag over hours to
        make a band of them.
      </Box>
    </Box>
  );
}

function Week({
  season,
  ranks,
  one,
  paint,
}: {
  season: Season;
  ranks: number[];
  one: Prices;
  paint: (span: Drawn) => void;
}) {
  const sheet = useRef<HTMLDivElement>(null);
  const [from, setFrom] = useState<Corner | null>(null);
  const [to, setTo] = useState<Corner | null>(null);
  const at = (event: PointerEvent): Corner => {
    const box = sheet.current?.getBoundingClientRect();
    if (!box) return { day: 0, half: 0 };
    const half = Math.floor(((event.clientX - box.left) / box.width) * HALF_HOURS);
    const day = Math.floor((event.clientY - box.top) / ROW);
    return { day: Math.max(0, Math.min(6, day)), half: Math.max(0, Math.min(HALF_HOURS - 1, half)) };
  };
  const marked = from && to ? spanOf(from, to) : null;
  const done = () => {
    if (marked && from && to && (from.half !== to.half || from.day !== to.day)) {
      paint({
        start: clockOf(marked.left),
        end: clockOf(marked.right % HALF_HOURS),
        weekdays: DAYS.map((_, d) => d).slice(marked.top, marked.bottom),
        months: season.months,
      });
    }
    setFrom(null);
    setTo(null);
  };
  const words = season.days.map((day, d) => `${DAYS[d]}: ${day.map((part) => said(part, one)).join(", ")}`);
  return (
    <Box sx={{ marginBottom: 8, maxWidth: 860 }}>
      <Box sx={{ display: "flex", paddingLeft: NAMES, ...look.cap }} aria-hidden>
        {[0, 3, 6, 9, 12, 15, 18, 21].map((hour) => (
          <Box key={hour} sx={{ flex: 1 }}>
            {hour}
          </Box>
        ))}
      </Box>
      <Box sx={{ display: "flex" }}>
        <Box sx={{ width: NAMES, flex: "none" }} aria-hidden>
          {DAYS.map((day) => (
            <Box key={day} sx={{ height: ROW, lineHeight: `${ROW}px`, ...look.cap }}>
              {day.slice(0, 3)}
            </Box>
          ))}
        </Box>
        <Box
          ref={sheet}
          role="img"
          aria-label={`The week${season.months.length < 12 ? `, ${seasonOf(season.months)}` : ""}. ${words.join(". ")}`}
          data-testid="clock-strip"
          sx={{
            flex: 1,
            position: "relative",
            cursor: "crosshair",
            touchAction: "none",
            userSelect: "none",
            border: "1px solid var(--line)",
          }}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            setFrom(at(event));
            setTo(at(event));
          }}
          onPointerMove={(event) => from && setTo(at(event))}
          onPointerUp={done}
          onPointerCancel={() => setFrom(null)}
        >
          {season.days.map((day, d) => (
            <Box key={d} sx={{ display: "flex", height: ROW, boxShadow: "inset 0 -1px 0 var(--sheet)" }}>
              {day.map(([begin, end, band]) => (
                <Box
                  key={begin}
                  sx={{
                    ...shadeOf(ranks[band + 1]),
                    flex: `${end - begin} 0 0`,
                    overflow: "hidden",
                    textAlign: "center",
                    fontSize: 11,
                    lineHeight: `${ROW - 1}px`,
                    borderRight: "1px solid var(--sheet)",
                    borderBottom: "1px solid var(--sheet)",
                  }}
                >
                  {letterOf(band, one.bands[band]?.name ?? "")}
                </Box>
              ))}
            </Box>
          ))}
          {marked && (
            <Box
              sx={{
                position: "absolute",
                left: `${(marked.left / HALF_HOURS) * 100}%`,
                width: `${((marked.right - marked.left) / HALF_HOURS) * 100}%`,
                top: marked.top * ROW,
                height: (marked.bottom - marked.top) * ROW,
                outline: "2px solid var(--teal)",
                pointerEvents: "none",
              }}
            >
              <Box component="span" sx={{ background: "var(--sheet)", fontSize: 11, padding: "0 3px" }}>
                {clockOf(marked.left).slice(0, 5)} – {clockOf(marked.right % HALF_HOURS).slice(0, 5)}
              </Box>
            </Box>
          )}
        </Box>
      </Box>
      {season.months.length < 12 && (
        <Box sx={{ ...look.cap, paddingLeft: NAMES }}>{seasonOf(season.months)}</Box>
      )}
    </Box>
  );
}

/** The rectangle between two corners: half hours and days, the last ones behind it. */
function spanOf(one: Corner, other: Corner) {
  return {
    left: Math.min(one.half, other.half),
    right: Math.max(one.half, other.half) + 1,
    top: Math.min(one.day, other.day),
    bottom: Math.max(one.day, other.day) + 1,
  };
}

const two = (n: number) => String(n).padStart(2, "0");

/** The clock at a half hour of the day. */
const clockOf = (half: number): string => `${two(Math.floor(half / 2))}:${half % 2 ? "30" : "00"}:00`;

const minutes = (at: number): string => `${two(Math.floor(at / 60))}:${two(at % 60)}`;

const said = ([begin, end, band]: [number, number, number], one: Prices): string =>
  `${minutes(begin)} to ${minutes(end)} ${one.bands[band]?.name ?? one.name}`;
