/** The picture that shows what a check found. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useMemo, useRef } from "react";

import type { Picture as Shown } from "../../api/client";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { useChart, type Option } from "../../components/echarts";
import { clock, dayYear, number, shortDay } from "../../components/numbers";
import { must } from "../../components/must";

const TONES = ["ink", "ember", "return", "soft"];

export function Picture({ picture, zone }: { picture: Shown; zone: string }) {
  const shade = useShade();
  const box = useRef<HTMLDivElement>(null);
  const option = useMemo(() => optionOf(picture, zone, shade), [picture, zone, shade]);
  useChart(box, option);
  return (
    <Box component="figure" sx={{ margin: 0 }}>
      <Typography variant="caption" component="figcaption">
        {picture.y_label}, over {picture.time ? "time" : picture.x_label}
        {picture.series.length > 1 &&
          picture.series.map((one, k) => (
            <Box component="span" sx={{ marginLeft: 12 }} key={one.name}>
              <Box
                component="i"
                sx={{
                  display: "inline-block",
                  width: 9,
                  height: 3,
                  background: `var(--${TONES[k]})`,
                  marginRight: 4,
                  verticalAlign: "middle",
                }}
                aria-hidden
              />
              {one.name}
            </Box>
          ))}
      </Typography>
      <Box sx={{ height: 170 }} ref={box} role="img" aria-label={words(picture, zone)} />
    </Box>
  );
}

function words(picture: Shown, zone: string): string {
  const first = picture.series[0];
  const known = (first?.y ?? []).filter((value): value is number => value !== null);
  if (!first || !known.length) return `${picture.y_label}: nothing to show`;
  const range = picture.time
    ? `, ${dayYear(must(first.x[0]), zone)} to ${dayYear(must(first.x.at(-1)), zone)}`
    : "";
  const limits = picture.limits
    .filter((one) => one.name)
    .map((one) => `; ${one.name} ${number(one.value, 2)}`);
  return `${picture.y_label} over ${picture.x_label}${range}: from ${number(Math.min(...known), 2)} to ${number(Math.max(...known), 2)}${limits.join("")}`;
}

function optionOf(picture: Shown, zone: string, shade: Shade): Option {
  const text = { color: shade("soft"), fontSize: 11, fontFamily: "Source Sans 3 Variable" };
  const every = picture.series.flatMap((one) => one.x);
  const [low, high] = [Math.min(...every), Math.max(...every)];
  const short = picture.time && high - low < 3 * 86_400;
  const limits = picture.limits.map((one) => ({
    type: "line" as const,
    data: [
      [low, one.value],
      [high, one.value],
    ],
    showSymbol: false,
    silent: true,
    z: 1,
    lineStyle: { color: shade("ember"), width: 1, type: "dashed" as const },
  }));
  return {
    animation: false,
    grid: { left: 48, right: 10, top: 8, bottom: 22 },
    tooltip: {
      trigger: "item",
      confine: true,
      formatter: (at: unknown) => tip(at as { value: [number, number] }, picture, zone),
    },
    xAxis: {
      type: "value",
      min: low,
      max: high,
      containShape: false,
      splitNumber: picture.time ? 5 : 6,
      axisLabel: {
        ...text,
        hideOverlap: true,
        showMinLabel: true,
        formatter: (value: number) =>
          picture.time
            ? short
              ? clock(value, zone)
              : shortDay(value, zone)
            : number(value, high - low < 5 ? 1 : 0),
      },
      axisLine: { onZero: false, lineStyle: { color: shade("line") } },
      axisTick: { show: false },
      splitLine: { show: false },
    },
    yAxis: {
      type: "value",
      scale: true,
      splitNumber: 4,
      axisLabel: text,
      axisLine: { show: false, onZero: false },
      axisTick: { show: false },
      splitLine: { lineStyle: { color: shade("hair") } },
    },
    series: [
      ...picture.series.map((one, k) => {
        const data = one.x.map((x, i) => [x, one.y[i]]).filter(([, y]) => y !== null);
        const tone = shade(TONES[k] ?? "soft");
        if (one.style === "bars")
          return { type: "bar" as const, data, barMaxWidth: 12, itemStyle: { color: shade("day-rated") } };
        if (one.style === "line")
          return {
            type: "line" as const,
            data,
            showSymbol: false,
            lineStyle: { color: tone, width: 1.3 },
            itemStyle: { color: tone },
          };
        return { type: "scatter" as const, data, symbolSize: 4, itemStyle: { color: tone, opacity: 0.7 } };
      }),
      ...limits,
    ],
  } as Option;
}

function tip(at: { value: [number, number] }, picture: Shown, zone: string): string {
  const [x, y] = at.value;
  const where = picture.time ? `${dayYear(x, zone)} ${clock(x, zone)}` : `${number(x, 2)} ${picture.x_label}`;
  return `${where}: ${number(y, 2)}`;
}
