/** Heat and electricity of each month side by side, what is filled paler on top, and their quotient. */
import Typography from "@mui/material/Typography";
import { useMemo } from "react";

import { useShade } from "../../app/settings";
import type { Shade } from "../../app/theme";
import { axisY, Chart, chartText, Key } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { figureText, monthYear } from "../../components/numbers";
import type { SeasonMonth, SeasonShown } from "./Season";

export function Bars({ found }: { found: SeasonShown }) {
  const shade = useShade();
  const option = useMemo(() => optionOf(found, shade), [found, shade]);
  return (
    <section>
      <Typography variant="h2">
        Heat and electricity by month, kWh
        <Key tone="heat">heat</Key>
        <Key tone="power">electricity</Key>
        <Key tone="teal">COP</Key>
        {found.months.some((month) => month.filled) && <Key tone="line">filled, an estimate</Key>}
      </Typography>
      <Chart
        option={option}
        height={170}
        words={`Heat and electricity by month: ${found.months
          .map(
            (month) =>
              `${monthYear(month.name)} ${month.reckoning?.heat ? figureText(month.reckoning.heat) : "–"}`,
          )
          .join("; ")}`}
      />
    </section>
  );
}

const measured = (which: "heat" | "electricity") => (month: SeasonMonth) =>
  month.reckoning?.[which]?.value ?? null;
const filled = (which: "heat" | "electricity") => (month: SeasonMonth) =>
  month.filled ? Math.max(0, month.filled[which].value - (measured(which)(month) ?? 0)) : null;

function optionOf(found: SeasonShown, shade: Shade): Option {
  const bar = (which: "heat" | "electricity") => [
    {
      type: "bar",
      name: which,
      stack: which,
      data: found.months.map(measured(which)),
      barWidth: "26%",
      itemStyle: { color: shade(which === "heat" ? "heat" : "power") },
      silent: true,
    },
    {
      type: "bar",
      name: `${which}, filled`,
      stack: which,
      data: found.months.map(filled(which)),
      barWidth: "26%",
      itemStyle: {
        color: shade("line"),
        borderColor: shade(which === "heat" ? "heat" : "power"),
        borderType: "dashed",
        borderWidth: 1,
      },
      silent: true,
    },
  ];
  return {
    animation: false,
    grid: { left: 46, right: 34, top: 10, bottom: 22 },
    xAxis: {
      type: "category",
      data: found.months.map((month) => monthYear(month.name)),
      axisLabel: { ...chartText(shade), hideOverlap: true },
      axisTick: { show: false },
      axisLine: { lineStyle: { color: shade("line") } },
    },
    yAxis: [
      axisY({ min: 0, splitNumber: 3 }, shade),
      axisY({ min: 0, splitNumber: 3, splitLine: { show: false } }, shade),
    ],
    series: [
      ...bar("heat"),
      ...bar("electricity"),
      {
        type: "line",
        name: "COP",
        yAxisIndex: 1,
        data: found.months.map((month) => month.reckoning?.cop?.value ?? null),
        symbolSize: 5,
        lineStyle: { color: shade("teal"), width: 1.5 },
        itemStyle: { color: shade("teal") },
        silent: true,
      },
    ],
  } as Option;
}
