/** A chart in a box, with what it shows in words. */
import { useRef } from "react";

import { colour } from "../app/theme";
import { useChart, type Option } from "./echarts";

export function Chart({ option, words, height }: { option: Option; words: string; height: number }) {
  const box = useRef<HTMLDivElement>(null);
  useChart(box, option);
  return <div ref={box} style={{ height }} role="img" aria-label={words} />;
}

export const chartText = () => ({
  color: colour("soft"),
  fontSize: 11,
  fontFamily: "Source Sans 3 Variable",
});

/** Axes as all charts of this product have them. */
export const axisX = (more: object = {}) => ({
  type: "value" as const,
  containShape: false,
  axisLabel: { ...chartText(), hideOverlap: true },
  axisTick: { show: false },
  axisLine: { onZero: false, lineStyle: { color: colour("line") } },
  splitLine: { show: false },
  nameTextStyle: chartText(),
  ...more,
});

export const axisY = (more: object = {}) => ({
  type: "value" as const,
  splitNumber: 4,
  axisLabel: chartText(),
  axisLine: { show: false, onZero: false },
  axisTick: { show: false },
  splitLine: { lineStyle: { color: colour("hair") } },
  nameTextStyle: chartText(),
  ...more,
});

/** A key to a line or a bar. */
export function Key({ tone, dashed, children }: { tone: string; dashed?: boolean; children: string }) {
  return (
    <span style={{ marginLeft: 12, whiteSpace: "nowrap" }}>
      <i
        aria-hidden
        style={{
          display: "inline-block",
          width: 14,
          borderTop: `${dashed ? "2px dashed" : "3px solid"} var(--${tone})`,
          marginRight: 4,
          verticalAlign: "middle",
        }}
      />
      {children}
    </span>
  );
}
