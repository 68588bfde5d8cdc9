/** A chart in a box, with what it shows in words. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { lazy, Suspense, useRef, useState } from "react";

import { type Shade } from "../app/theme";
import { behindOf } from "./behindOf";
import { savePicture, useChart, type Option } from "./echarts";

const small = { opacity: 0, minHeight: 20, padding: "0 7px", fontSize: 11 };

const Behind = lazy(() => import("./Behind"));

export function Chart({ option, words, height }: { option: Option; words: string; height: number }) {
  const box = useRef<HTMLDivElement>(null);
  useChart(box, option);
  const [open, setOpen] = useState(false);
  const title = words.split(/[:;,]/)[0] ?? "";
  return (
    <Box sx={{ position: "relative", "&:hover .behind, & .behind:focus-visible": { opacity: 1 } }}>
      <Box sx={{ height }} ref={box} role="img" aria-label={words} />
      <Box sx={{ position: "absolute", top: 0, right: 0, display: "flex", gap: 2 }}>
        <Button
          className="behind"
          sx={small}
          aria-label={`Picture: ${title}`}
          onClick={() => box.current && savePicture(box.current, title)}
        >
          PNG
        </Button>
        <Button className="behind" sx={small} aria-label={`Table: ${title}`} onClick={() => setOpen(true)}>
          Table
        </Button>
      </Box>
      {open && (
        <Suspense>
          <Behind table={behindOf(option, "What the chart draws")} close={() => setOpen(false)} />
        </Suspense>
      )}
    </Box>
  );
}

export const chartText = (shade: Shade) => ({
  color: shade("soft"),
  fontSize: 11,
  fontFamily: "Source Sans 3 Variable",
});

/** Axes as all charts of this product have them. */
export const axisX = (more: object = {}, shade: Shade) => ({
  type: "value" as const,
  containShape: false,
  axisLabel: { ...chartText(shade), hideOverlap: true },
  axisTick: { show: false },
  axisLine: { onZero: false, lineStyle: { color: shade("line") } },
  splitLine: { show: false },
  nameTextStyle: chartText(shade),
  ...more,
});

export const axisY = (more: object = {}, shade: Shade) => ({
  type: "value" as const,
  splitNumber: 4,
  axisLabel: chartText(shade),
  axisLine: { show: false, onZero: false },
  axisTick: { show: false },
  splitLine: { lineStyle: { color: shade("hair") } },
  nameTextStyle: chartText(shade),
  ...more,
});

/** A key to a line or a bar. */
export function Key({ tone, dashed, children }: { tone: string; dashed?: boolean; children: string }) {
  return (
    <Box component="span" sx={{ marginLeft: 12, whiteSpace: "nowrap" }}>
      <Box
        component="i"
        sx={{
          display: "inline-block",
          width: 14,
          borderTop: `${dashed ? "2px dashed" : "3px solid"} var(--${tone})`,
          marginRight: 4,
          verticalAlign: "middle",
        }}
        aria-hidden
      />
      {children}
    </Box>
  );
}
