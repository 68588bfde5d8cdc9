/** The sum, always beside the screen: heat over electricity, written out. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

import type { Level, SpanFigures, SystemShown } from "../api/client";
import { useSpan, type Stretch } from "../api/hooks";
import { useKeys } from "../app/keys";
import { useQueryString } from "../app/query";
import { Panel } from "./Frame";
import * as look from "./look";
import { clock, dayYear } from "./numbers";
import { Beside } from "./reckoning/Beside";
import { Fraction } from "./reckoning/Fraction";
import { Stepper } from "./reckoning/Stepper";
import { SumText } from "./reckoning/SumText";
import { Doubts, Stale, Trusted } from "./reckoning/Trusted";

/** The level of the URL, else the widest that can be computed. */
export function useLevel(levels: Level[] | undefined): [string | null, (level: string) => void] {
  const [params, put] = useQueryString();
  const asked = params.get("level");
  const possible = (levels ?? []).filter((level) => level.reckoning);
  const chosen = possible.find((level) => level.level === asked) ?? possible.at(-1) ?? null;
  const set = (level: string) => put({ level });
  return [chosen?.level ?? null, set];
}

export function ReckoningPanel({
  system,
  stretch,
  selected,
  children,
}: {
  system: SystemShown;
  stretch: Stretch | null;
  selected: boolean;
  children?: ReactNode;
}) {
  const span = useSpan(system.id, stretch);
  const [level, setLevel] = useLevel(span.data?.levels);
  const keys = Object.fromEntries(
    (span.data?.levels ?? [])
      .filter((l) => l.reckoning)
      .map((l) => [l.level.slice(1), () => setLevel(l.level)]),
  );
  useKeys(keys);
  return (
    <Panel label="Reckoning" busy={span.isFetching}>
      <Typography variant="h3" component="h2" data-testid="reckoning-title">
        Reckoning{span.data ? ` · ${titleOf(span.data, system.zone)}` : ""}
        {selected ? " · selection" : ""}
      </Typography>
      {span.isError && (
        <Alert severity="warning" sx={{ marginTop: 8 }} role="alert">
          {span.error.message}
        </Alert>
      )}
      {!span.data && span.isPending && (
        <Box component="p" sx={look.soft}>
          Adding up …
        </Box>
      )}
      {span.data && <Sum system={system} span={span.data} level={level} setLevel={setLevel} />}
      {children}
    </Panel>
  );
}

export function titleOf(span: { start: number; stop: number }, zone: string): string {
  const length = span.stop - span.start;
  if (length < 23 * 3600 + 60) return `${clock(span.start, zone)} – ${clock(span.stop, zone)}`;
  const [first, last] = [dayYear(span.start, zone), dayYear(span.stop - 1, zone)];
  return first === last ? first : `${first} – ${last}`;
}

function Sum({
  system,
  span,
  level,
  setLevel,
}: {
  system: SystemShown;
  span: SpanFigures;
  level: string | null;
  setLevel: (level: string) => void;
}) {
  const chosen = span.levels.find((one) => one.level === level);
  const reckoning = chosen?.reckoning ?? null;
  return (
    <>
      {(span.stale || span.corrections.length > 0) && (
        <Box sx={{ margin: "6px 0" }}>
          {span.stale && <Stale system={system} />}
          {span.corrections.map((said) => (
            <Typography variant="caption" component="p" key={said}>
              Corrected: {said}
            </Typography>
          ))}
        </Box>
      )}
      {reckoning ? (
        <Fraction
          system={system}
          span={span}
          reckoning={reckoning}
          words={chosen?.words ?? ""}
          whole={chosen?.whole ?? null}
        />
      ) : (
        <Alert severity="warning" role="note" sx={{ margin: "8px 0" }}>
          No sum: no boundary level can be computed from these meters: {span.no_sum?.sentence}
        </Alert>
      )}
      {span.doubts.length > 0 ? (
        <Doubts system={system} span={span} />
      ) : (
        <Trusted system={system} span={span} />
      )}
      <Stepper levels={span.levels} level={level} setLevel={setLevel} />
      <Beside system={system} span={span} reckoning={reckoning} />
      <SumText system={system} span={span} />
    </>
  );
}
