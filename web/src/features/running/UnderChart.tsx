/** The line under the chart: what is read at the cursor, and what can be done with the selection. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

import type { Window } from "../../api/window";
import * as look from "../../components/look";
import { clock, shortDay } from "../../components/numbers";
import { LEFT, RIGHT } from "./lanes";
import type { Span } from "./useBrush";

interface UnderChartProps {
  window: Window;
  zone: string;
  seen: number | null;
  chosen: Span | null;
  dragging: boolean;
  cursor: number | null;
  zoomed: boolean;
  /** The run at the cursor. */
  run: Span | null;
  /** What was noted in this stretch; stands where else the hint does. */
  noted: ReactNode;
  acts: Record<"selectNothing" | "leaveOut" | "setState" | "note" | "unzoom" | "table", () => void>;
  /** Menus. */
  children: ReactNode;
}

export function UnderChart({
  window: shown,
  zone,
  seen,
  chosen,
  dragging,
  cursor,
  zoomed,
  run,
  noted,
  acts,
  children,
}: UnderChartProps) {
  const out = seen === null ? undefined : shown.leftOut.find((one) => one.start <= seen && seen < one.stop);
  return (
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
        {run && (
          <Box component="span" sx={look.soft}>
            {" "}
            · run of {clock(run.from, zone)} to {clock(run.to, zone)}
          </Box>
        )}
      </Box>
      <Box component="span" sx={{ marginLeft: "auto", display: "flex", gap: 12, whiteSpace: "nowrap" }}>
        {chosen && !dragging && (
          <>
            <Do act={acts.selectNothing}>Select nothing (Esc)</Do>
            <Do act={acts.leaveOut}>Leave out (e)</Do>
            <Do act={acts.setState}>State (c)</Do>
          </>
        )}
        {(chosen || cursor !== null) && !dragging && <Do act={acts.note}>Note (n)</Do>}
        {zoomed && <Do act={acts.unzoom}>Zoom back (Z)</Do>}
        <Do act={acts.table}>Table (t)</Do>
        {children}
      </Box>
    </Typography>
  );
}

function Do({ act, children }: { act: () => void; children: string }) {
  return (
    <Button variant="text" sx={{ ...look.noprint, padding: 0, minHeight: 0 }} onClick={act}>
      {children}
    </Button>
  );
}
