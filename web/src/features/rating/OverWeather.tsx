/** Measured against rated over the weather: the verdict, the chart, the bands. */
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
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Verdict system={system} found={found} />
      {found.bins.length > 0 && <Weather found={found} temp={temp} />}
      {found.bins.length > 0 && <Bins system={system} found={found} temp={temp} />}
    </div>
  );
}

export function Verdict({ system, found }: { system: SystemShown; found: RatingShown }) {
  const { comparison, verdict } = found;
  const tones: Record<string, string> = {
    "below rated": "ember",
    "too good": "ember",
    "as rated": "teal",
    "no verdict": "soft",
  };
  const tone = tones[verdict.kind] ?? "";
  return (
    <section aria-label="Verdict" style={{ display: "flex", gap: 18, alignItems: "baseline" }}>
      {comparison && (
        <div style={{ whiteSpace: "nowrap" }}>
          <span className={tone} style={{ fontSize: 22, fontWeight: 700 }}>
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
          </span>
        </div>
      )}
      <div>
        <h1 className={tone}>{cap(verdict.kind)}</h1>
        <p>{verdict.sentence}</p>
        {comparison && <p className="cap">Compared: {comparison.span}.</p>}
        {comparison?.stands_at.map((said) => (
          <p key={said} className="cap">
            {said}
          </p>
        ))}
        {verdict.doubted && (
          <p className="cap ember">The ratio is shown as doubted; no verdict and no finding rests on it.</p>
        )}
      </div>
    </section>
  );
}

function Weather({ found, temp }: { found: RatingShown; temp: Shown }) {
  const shade = useShade();
  const box = useRef<HTMLDivElement>(null);
  const option = useMemo(() => weatherOption(found, temp, shade), [found, temp, shade]);
  useChart(box, option);
  return (
    <section>
      <h2>
        COP over outdoor temperature{" "}
        <span className="soft" style={{ fontWeight: 400 }}>
          {temp.symbol} · measured and rated, each with its U; hours below
        </span>
      </h2>
      <div ref={box} style={{ height: 290 }} role="img" aria-label={weatherWords(found, temp)} />
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
      <h2>By outdoor temperature</h2>
      <table className="sheet" aria-label="Measured and rated by outdoor temperature">
        <thead>
          <tr>
            <th>Outdoors {temp.symbol}</th>
            <th className="num">Flow {temp.symbol}</th>
            <th className="num">Hours</th>
            <th className="num">Measured</th>
            <th className="num">Rated</th>
            <th className="num">Ratio ± U</th>
          </tr>
        </thead>
        <tbody>
          {found.bins.map((bin) => {
            const about = `${system.name} · ${found.local} · ${number(temp.of(bin.low), 0)} to ${number(temp.of(bin.high), 0)} ${temp.symbol} outdoors`;
            // Only where the metering is believed: no band accuses what the verdict does not.
            const bad = found.verdict.kind === "below rated" && bin.ratio.value + bin.ratio.U < found.below;
            return (
              <tr key={bin.low}>
                <td>
                  {number(temp.of(bin.low), 0)} to {number(temp.of(bin.high), 0)}
                </td>
                <td className="num">{bin.flow === null ? "–" : number(temp.of(bin.flow), 1)}</td>
                <td className="num">{number(bin.hours, 0)}</td>
                <td className="num">
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
                </td>
                <td className="num">
                  <HonestFigure
                    proof={{
                      title: "Rated COP at the same conditions",
                      about,
                      figure: bin.rated,
                      formula: "Σ(electricity × rated COP) ÷ Σ electricity",
                    }}
                  />
                </td>
                <td className={bad ? "num ember" : "num"}>
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
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
