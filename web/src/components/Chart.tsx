/** A chart in a box, with what it shows in words. */
import Box from "@mui/material/Box";
import { useRef } from "react";

import { type Shade } from "../app/theme";
import { useChart, type Option } from "./echarts";

export function Chart({ option, words, height }: { option: Option; words: string; height: number }) {
  const box = useRef<HTMLDivElement>(null);
  useChart(box, option);
  return <Box sx={{ height }} ref={box} role="img" aria-label={words} />;
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
