/** Systems on the same axes: measured COP and performance ratio over outdoor temperature. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link } from "react-router";

import { api, got, type FleetRow, type Rating } from "../../api/client";
import { useMe } from "../../api/hooks";
import { useSettings, useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, chartText } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { figureText, localMinute, number, plusMinus, shownIn, type Shown } from "../../components/numbers";
import { Waiting } from "../../components/Said";
import { must } from "../../components/must";
import { InCommon } from "./InCommon";

const TONES = ["ember", "return", "outdoor", "hot-water", "start-up", "ink"];
const SIGNS = ["circle", "rect", "triangle", "diamond", "emptyCircle", "emptyRect"];

interface Line {
  row: FleetRow;
  rating: Rating;
  tone: string;
  sign: string;
}

export function Compare({ rows }: { rows: FleetRow[] }) {
  const shade = useShade();
  const { units } = useSettings();
  const temp = shownIn(useMe().data?.units ?? [], "degC", units);
  const made = useMemo(() => rows.filter((row) => row.system.of_start && row.system.of_stop), [rows]);
  const ratings = useQueries({
    queries: made.map((row) => {
      const local = (instant: number) => localMinute(instant, row.system.zone);
      const query = { start: local(must(row.system.of_start)), stop: local(must(row.system.of_stop)) };
      return {
        queryKey: ["system", row.id, "rating", query],
        queryFn: () =>
          got(api.GET("/api/v1/systems/{pk}/rating", { params: { path: { pk: row.id }, query } })),
      };
    }),
    combine: (results) => results.map((one) => one.data),
  });
  const lines: Line[] = useMemo(
    () =>
      made.flatMap((row, k) => {
        const rating = ratings[k];
        return rating
          ? [{ row, rating, tone: must(TONES[k % TONES.length]), sign: must(SIGNS[k % SIGNS.length]) }]
          : [];
      }),
    [made, ratings],
  );
  const [cop, ratio] = useMemo(
    () => [
      overWeather(lines, temp, (bin) => bin.measured.cop?.value ?? null, 0, shade),
      overWeather(lines, temp, (bin) => bin.ratio.value, 0.4, shade),
    ],
    [lines, temp, shade],
  );
  if (lines.length < made.length) return <Waiting what="the systems" />;
  return (
    <Box
      component="section"
      sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 10, marginTop: 14 }}
      aria-label="Compared"
    >
      <p>
        {lines.map((line) => (
          <Box component="span" sx={{ marginRight: 16, whiteSpace: "nowrap" }} key={line.row.id}>
            <Box
              component="i"
              sx={{
                display: "inline-block",
                width: 16,
                borderTop: `3px solid var(--${line.tone})`,
                marginRight: 5,
                verticalAlign: "middle",
              }}
              aria-hidden
            />
            <Link to={`/systems/${line.row.id}/rating`}>{line.row.system.name}</Link>{" "}
            <Typography variant="caption" component="span">
              {SIGNS.indexOf(line.sign) + 1}
            </Typography>
          </Box>
        ))}
      </p>
      <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)", gap: 22 }}>
        <div>
          <Typography variant="h2">
            Measured COP over outdoor temperature{" "}
            <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
              {temp.symbol} · of the compared running
            </Typography>
          </Typography>
          <Chart option={cop} height={260} words={lines.map((line) => line.row.system.name).join(", ")} />
        </div>
        <div>
          <Typography variant="h2">
            Performance ratio over outdoor temperature{" "}
            <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
              1 is as rated
            </Typography>
          </Typography>
          <Chart
            option={ratio}
            height={260}
            words={lines
              .map(
                (line) =>
                  `${line.row.system.name} ${line.rating.comparison ? figureText(line.rating.comparison.ratio) : "none"}`,
              )
              .join(", ")}
          />
        </div>
      </Box>
      {lines.length > 1 && <InCommon ids={lines.map((line) => line.row.id)} />}
      <FigureTable aria-label="Compared systems">
        <TableHead>
          <TableRow>
            <TableCell>System</TableCell>
            <TableCell align="right">Performance ratio</TableCell>
            <TableCell align="right">Compared, h</TableCell>
            <TableCell>Verdict</TableCell>
            <TableCell>Findings</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {lines.map(({ row, rating }) => (
            <TableRow key={row.id}>
              <TableCell>{row.system.name}</TableCell>
              <TableCell align="right">
                {rating.comparison
                  ? `${figureText(rating.comparison.ratio)} ${plusMinus(rating.comparison.ratio)}`
                  : "–"}
              </TableCell>
              <TableCell align="right">
                {rating.comparison ? number(rating.comparison.hours, 0) : "–"}
              </TableCell>
              <TableCell>{rating.verdict.kind}</TableCell>
              <TableCell sx={look.soft}>
                {[...row.system.foremost.actions, ...row.system.foremost.advisories]
                  .map((one) => one.name)
                  .join(", ") || "none"}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </Box>
  );
}

function overWeather(
  lines: Line[],
  temp: Shown,
  of: (bin: Rating["bins"][number]) => number | null,
  least: number,
  shade: Shade,
): Option {
  return {
    animation: false,
    grid: { left: 36, right: 24, top: 10, bottom: 24 },
    xAxis: axisX(
      {
        min: ({ min }: { min: number }) => Math.floor(min),
        max: ({ max }: { max: number }) => Math.ceil(max),
      },
      shade,
    ),
    yAxis: axisY({ min: least }, shade),
    series: lines.map((line, k) => ({
      type: "line",
      data: line.rating.bins.map((bin) => [temp.of((bin.low + bin.high) / 2), of(bin)]),
      symbol: line.sign,
      symbolSize: 6,
      silent: true,
      lineStyle: { color: shade(line.tone), width: 1.5 },
      itemStyle: { color: shade(line.tone) },
      endLabel: { show: true, formatter: String(k + 1), ...chartText(shade) },
    })),
  } as Option;
}
