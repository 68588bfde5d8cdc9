/** Measured against rated over the weather: the verdict, the chart, the bands. */
import Box from "@mui/material/Box";
import type { CSSObject } from "@mui/material/styles";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useMemo, useRef } from "react";

import type { Rating as RatingShown, SystemShown } from "../../api/client";
import { useRating, type Stretch } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { useChart, type Option } from "../../components/echarts";
import { cap, copFormula, HonestFigure, originOf } from "../../components/Proof";
import { figureText, number, percent, type Shown } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { must } from "../../components/must";

export function OverWeather({
  system,
  stretch,
  temp,
}: {
  system: SystemShown;
  stretch: Stretch;
  temp: Shown;
}) {
  const rating = useRating(system.id, stretch);
  if (rating.isError) return <Trouble error={rating.error} again={() => void rating.refetch()} />;
  if (!rating.data) return <Waiting what="the comparison" />;
  const found = rating.data;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Verdict system={system} found={found} />
      {found.bins.length > 0 && <Weather found={found} temp={temp} />}
      {found.bins.length > 0 && <Bins system={system} found={found} temp={temp} />}
    </Box>
  );
}

export function Verdict({ system, found }: { system: SystemShown; found: RatingShown }) {
  const { comparison, verdict } = found;
  const tones: Record<string, CSSObject> = {
    "below rated": look.ember,
    "too good": look.ember,
    "as rated": look.teal,
    "no verdict": look.soft,
  };
  const tone = tones[verdict.kind] ?? {};
  return (
    <Box component="section" sx={{ display: "flex", gap: 18, alignItems: "baseline" }} aria-label="Verdict">
      {comparison && (
        <Box sx={{ whiteSpace: "nowrap" }}>
          <Box component="span" sx={{ ...tone, fontSize: 22, fontWeight: 700 }}>
            <HonestFigure
              proof={{
                title: "Performance ratio",
                about: `${system.name} · ${found.local} · ${comparison.span}`,
                figure: comparison.ratio,
                formula: `Σ expected ÷ Σ measured electricity = measured ÷ rated at the same conditions = ${comparison.measured.cop ? figureText(comparison.measured.cop) : "–"} ÷ ${figureText(comparison.rated_cop)}`,
                reckoning: comparison.measured,
                from: originOf(system, comparison.measured, "performance ratio"),
                notes: [
                  `${percent(comparison.outside_table)} of the running that fits lies outside the table; nothing is extrapolated.`,
                ],
              }}
            />
          </Box>
        </Box>
      )}
      <div>
        <Typography variant="h1" sx={tone}>
          {cap(verdict.kind)}
        </Typography>
        <p>{verdict.sentence}</p>
        {comparison && (
          <Typography variant="caption" component="p">
            Compared: {comparison.span}.
          </Typography>
        )}
        {comparison?.stands_at.map((said) => (
          <Typography variant="caption" component="p" key={said}>
            {said}
          </Typography>
        ))}
        {verdict.doubted && (
          <Typography variant="caption" component="p" sx={look.ember}>
            The ratio is shown as doubted; no verdict and no finding rests on it.
          </Typography>
        )}
      </div>
    </Box>
  );
}

function Weather({ found, temp }: { found: RatingShown; temp: Shown }) {
  const shade = useShade();
  const box = useRef<HTMLDivElement>(null);
  const option = useMemo(() => weatherOption(found, temp, shade), [found, temp, shade]);
  useChart(box, option);
  return (
    <section>
      <Typography variant="h2">
        COP over outdoor temperature{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
          {temp.symbol} · measured and rated, each with its U; hours below
        </Box>
      </Typography>
      <Box sx={{ height: 290 }} ref={box} role="img" aria-label={weatherWords(found, temp)} />
    </section>
  );
}

function weatherWords(found: RatingShown, temp: Shown): string {
  return found.bins
    .map(
      (bin) =>
        `${number(temp.of(bin.low), 0)} to ${number(temp.of(bin.high), 0)}: measured ${bin.measured.cop ? figureText(bin.measured.cop) : "none"}, rated ${figureText(bin.rated)}, ${number(bin.hours, 0)} hours`,
    )
    .join("; ");
}

function weatherOption(found: RatingShown, temp: Shown, shade: Shade): Option {
  const middle = (bin: (typeof found.bins)[number]) => temp.of((bin.low + bin.high) / 2);
  const width = Math.abs(temp.of(2) - temp.of(0));
  const hours = found.hours.outdoor.map((outdoor, k): [number, number] => [
    temp.of(outdoor),
    must(found.hours.measured[k]),
  ]);
  const low = Math.min(...found.bins.map((bin) => temp.of(bin.low)));
  const high = Math.max(...found.bins.map((bin) => temp.of(bin.high)));
  const most =
    Math.max(...found.bins.map((bin) => Math.max(bin.rated.value, bin.measured.cop?.value ?? 0))) * 1.15;
  const text = { color: shade("soft"), fontSize: 11, fontFamily: "Source Sans 3 Variable" };
  const below = found.verdict.kind === "below rated";
  const measured = found.bins.filter((bin) => bin.measured.cop);
  const axis = {
    type: "value" as const,
    containShape: false,
    min: low,
    max: high,
    interval: width * (found.bins.length > 12 ? 2 : 1),
    axisTick: { show: false },
    splitLine: { lineStyle: { color: shade("hair") } },
  };
  return {
    animation: false,
    grid: [
      { left: 46, right: 12, top: 10, height: 195 },
      { left: 46, right: 12, top: 218, height: 42 },
    ],
    xAxis: [
      {
        ...axis,
        axisLabel: { show: false },
        axisLine: { onZero: false, lineStyle: { color: shade("line") } },
      },
      {
        ...axis,
        gridIndex: 1,
        splitLine: { show: false },
        axisLabel: { ...text, formatter: (value: number) => number(value, 0) },
        axisLine: { onZero: false, lineStyle: { color: shade("line") } },
      },
    ],
    yAxis: [
      {
        type: "value",
        min: 0,
        max: most > 6 ? 2 * Math.ceil(most / 2) : Math.ceil(most),
        interval: most > 6 ? 2 : 1,
        axisLabel: text,
        axisLine: { show: false, onZero: false },
        axisTick: { show: false },
        splitLine: { lineStyle: { color: shade("hair") } },
      },
      {
        type: "value",
        gridIndex: 1,
        name: "h",
        nameTextStyle: text,
        splitNumber: 1,
        axisLabel: { ...text, showMinLabel: false },
        axisLine: { show: false, onZero: false },
        axisTick: { show: false },
        splitLine: { show: false },
      },
    ],
    series: [
      {
        type: "scatter",
        data: hours,
        symbolSize: 2.5,
        itemStyle: { color: shade("soft"), opacity: 0.16 },
        silent: true,
        clip: true,
        large: false,
        z: 1,
      },
      // The band: its lower edge is not drawn, what lies on it is.
      {
        type: "line",
        stack: "band",
        data: found.bins.map((bin) => [middle(bin), bin.rated.value - bin.rated.U]),
        lineStyle: { opacity: 0 },
        showSymbol: false,
        silent: true,
        z: 2,
      },
      {
        type: "line",
        stack: "band",
        data: found.bins.map((bin) => [middle(bin), 2 * bin.rated.U]),
        lineStyle: { opacity: 0 },
        showSymbol: false,
        silent: true,
        areaStyle: { color: shade("band"), opacity: 0.85 },
        z: 2,
      },
      // Whiskers, one line each.
      ...measured.map((bin) => ({
        type: "line" as const,
        data: [
          [middle(bin), must(bin.measured.cop).value - must(bin.measured.cop).U],
          [middle(bin), must(bin.measured.cop).value + must(bin.measured.cop).U],
        ],
        lineStyle: { color: shade(below ? "ember" : "ink"), width: 1.5 },
        showSymbol: false,
        silent: true,
        z: 3,
      })),
      {
        type: "line",
        data: measured.map((bin) => [middle(bin), must(bin.measured.cop).value]),
        symbol: "circle",
        symbolSize: 6,
        itemStyle: { color: shade(below ? "ember" : "ink") },
        lineStyle: { color: shade(below ? "ember" : "ink"), width: 1.2 },
        silent: true,
        z: 4,
      },
      {
        type: "bar",
        xAxisIndex: 1,
        yAxisIndex: 1,
        data: found.bins.map((bin) => [middle(bin), bin.hours]),
        barWidth: "70%",
        itemStyle: { color: shade("day-rated") },
        silent: true,
      },
    ],
  } as Option;
}

function Bins({ system, found, temp }: { system: SystemShown; found: RatingShown; temp: Shown }) {
  return (
    <section>
      <Typography variant="h2">By outdoor temperature</Typography>
      <FigureTable aria-label="Measured and rated by outdoor temperature">
        <TableHead>
          <TableRow>
            <TableCell>Outdoors {temp.symbol}</TableCell>
            <TableCell align="right">Flow {temp.symbol}</TableCell>
            <TableCell align="right">Hours</TableCell>
            <TableCell align="right">Measured</TableCell>
            <TableCell align="right">Rated</TableCell>
            <TableCell align="right">Ratio ± U</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.bins.map((bin) => {
            const about = `${system.name} · ${found.local} · ${number(temp.of(bin.low), 0)} to ${number(temp.of(bin.high), 0)} ${temp.symbol} outdoors`;
            // Only where the metering is believed: no band accuses what the verdict does not.
            const bad = found.verdict.kind === "below rated" && bin.ratio.value + bin.ratio.U < found.below;
            return (
              <TableRow key={bin.low}>
                <TableCell>
                  {number(temp.of(bin.low), 0)} to {number(temp.of(bin.high), 0)}
                </TableCell>
                <TableCell align="right">{bin.flow === null ? "–" : number(temp.of(bin.flow), 1)}</TableCell>
                <TableCell align="right">{number(bin.hours, 0)}</TableCell>
                <TableCell align="right">
                  <HonestFigure
                    proof={{
                      title: "Measured COP",
                      about,
                      figure: bin.measured.cop,
                      formula: copFormula(bin.measured),
                      reckoning: bin.measured,
                      from: originOf(system, bin.measured, "COP by temperature"),
                    }}
                  />
                </TableCell>
                <TableCell align="right">
                  <HonestFigure
                    proof={{
                      title: "Rated COP at the same conditions",
                      about,
                      figure: bin.rated,
                      formula: "Σ(electricity × rated COP) ÷ Σ electricity",
                    }}
                  />
                </TableCell>
                <TableCell sx={bad ? { ...look.num, ...look.ember } : look.num}>
                  <HonestFigure
                    proof={{
                      title: "Performance ratio",
                      about,
                      figure: bin.ratio,
                      formula: `${bin.measured.cop ? figureText(bin.measured.cop) : "–"} ÷ ${figureText(bin.rated)}`,
                      reckoning: bin.measured,
                      from: originOf(system, bin.measured, "COP by temperature"),
                    }}
                  />
                </TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
    </section>
  );
}
