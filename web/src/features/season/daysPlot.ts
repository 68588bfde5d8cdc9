/** Days over the outdoor temperature with the line of their signature. */
import type { Shade } from "../../app/theme";
import { axisX, axisY } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import type { Shown } from "../../components/numbers";
import type { SignatureShown } from "./Season";

export interface DrawnDays {
  of: SignatureShown | null;
  name: string;
  /** Colours of the days and of the line. */
  days: string;
  line: string;
}

export function daysPlot(drawn: DrawnDays[], temp: Shown, shade: Shade): Option {
  return {
    animation: false,
    grid: { left: 40, right: 10, top: 10, bottom: 24 },
    xAxis: axisX({ scale: true }, shade),
    yAxis: axisY({ min: 0 }, shade),
    series: drawn.flatMap(({ of, name, days, line }) =>
      of
        ? [
            {
              type: "scatter",
              name: `${name}, a day`,
              data: of.outdoor.map((outdoor, k) => [temp.of(outdoor), of.energy[k]]),
              symbolSize: 4,
              itemStyle: { color: shade(days), opacity: 0.7 },
              silent: true,
            },
            {
              type: "line",
              name: `${name}, line`,
              data: of.line_outdoor.map((outdoor, k) => [temp.of(outdoor), of.line_energy[k]]),
              showSymbol: false,
              lineStyle: { color: shade(line), width: 1.5 },
              silent: true,
            },
          ]
        : [],
    ),
  } as Option;
}
