/** The parts of ECharts that are used, and no more. */
import { BarChart, LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, TooltipComponent } from "echarts/components";
import { getInstanceByDom, init, use as withParts, type ComposeOption, type ECharts } from "echarts/core";
import type { BarSeriesOption, LineSeriesOption, ScatterSeriesOption } from "echarts/charts";
import type { GridComponentOption, TooltipComponentOption } from "echarts/components";
import { CanvasRenderer } from "echarts/renderers";
import { useEffect, useRef, type RefObject } from "react";

withParts([LineChart, BarChart, ScatterChart, GridComponent, TooltipComponent, CanvasRenderer]);

export type Option = ComposeOption<
  LineSeriesOption | BarSeriesOption | ScatterSeriesOption | GridComponentOption | TooltipComponentOption
>;

/** Draws an option into an element, and again when it or its size changes. */
export function useChart(
  box: RefObject<HTMLElement | null>,
  option: Option | null,
  painted?: () => void,
): void {
  const chart = useRef<ECharts | null>(null);
  const shape = useRef("");
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const made = init(element, undefined, { renderer: "canvas" });
    chart.current = made;
    const observer = new ResizeObserver(() => made.resize());
    observer.observe(element);
    return () => {
      observer.disconnect();
      made.dispose();
      chart.current = null;
      shape.current = "";
    };
  }, [box]);
  useEffect(() => {
    if (!option || !chart.current) return;
    // Of the same shape only the values are laid in anew, which is much faster than building it.
    const now = JSON.stringify([option.grid, (option.series as { type: string }[]).map((one) => one.type)]);
    chart.current.setOption(option, { notMerge: now !== shape.current });
    shape.current = now;
    chart.current.getZr().flush();
    painted?.();
  }, [option, painted]);
}

/** Saves what a chart shows as a PNG of twice its size, on the ground of the sheet. */
export function savePicture(element: HTMLElement, title: string): void {
  const chart = getInstanceByDom(element);
  if (!chart) return;
  const ground = getComputedStyle(document.body).backgroundColor;
  const link = document.createElement("a");
  link.href = chart.getDataURL({ type: "png", pixelRatio: 2, backgroundColor: ground });
  link.download = `${
    title
      .trim()
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, "-") || "chart"
  }.png`;
  link.click();
}
