/** Starts laid over one another: what a display shows, what the run has made, and what it cost. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import type { GridColDef } from "@mui/x-data-grid";
import { useMemo, useState, type ReactNode } from "react";

import type { StartsSeen } from "../../api/client";
import { useStarts, type StartsAsked } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, Key } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import { Grid } from "../../components/Grid";
import { numbers, words as column } from "../../components/gridLook";
import { figureText, localMinute, number, percent, plusMinus } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { eventsCsv, OnItsDay } from "./Latest";
import type { Seen } from "./Runs";
import { must } from "../../components/must";

type StartRow = StartsSeen["rows"][number];

export function Starts({ system, stretch, temp, show }: Seen) {
  const shade = useShade();
  const [asked, setAsked] = useState<StartsAsked>({});
  const starts = useStarts(system.id, stretch, asked);
  const option = useMemo(
    () => (starts.data && starts.data.minutes.length ? optionOf(starts.data, shade) : null),
    [starts.data, shade],
  );
  if (starts.isError) return <Trouble error={starts.error} again={() => void starts.refetch()} />;
  if (!starts.data) return <Waiting what="the starts" />;
  const found = starts.data;
  if (found.reason?.sentence)
    return (
      <Empty title="Starts cannot be shown">
        <p>{cap(found.reason?.sentence)}.</p>
      </Empty>
    );
  const { settled, to_90: to90, loss_each: each, shown_at_5: shown, made_at_5: made } = found;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Filters found={found} asked={asked} set={setAsked} temp={temp} />
      {found.count === 0 ? (
        <Box component="p" sx={look.soft}>
          No start fits this filter.
        </Box>
      ) : (
        <>
          <Facts
            facts={[
              {
                name: "to 90 % of the settled COP",
                value: to90 ? `${number(to90.median / 60, 1)} min` : "–",
                note: to90
                  ? `half of them ${number(to90.low / 60, 1)} to ${number(to90.high / 60, 1)}`
                  : "none settled",
              },
              {
                name: `settled COP, ${found.level}`,
                value: settled ? number(settled.median, 2) : "–",
                note: settled ? `${number(settled.low, 2)} to ${number(settled.high, 2)}` : null,
              },
              {
                name: "loss of a start",
                value: each ? `${number(each.median, 0)} Wh` : "–",
                note: each ? `${number(each.low, 0)} to ${number(each.high, 0)}` : null,
              },
              {
                name: "all of them, this period",
                value: found.loss ? `${figureText(found.loss)} kWh` : "–",
                note: found.loss
                  ? `${plusMinus(found.loss)}${found.cost ? ` · ${figureText(found.cost)} ${found.cost.unit}` : ""}`
                  : null,
              },
            ]}
          />
          {shown !== null && made !== null && (
            <p>
              Five minutes after a start the display reads <strong>{number(shown, 1)}</strong>; the run has
              made <strong>{number(made, 1)}</strong> until then.
            </p>
          )}
          <section>
            <Typography variant="h2">
              COP over the first half hour
              <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                <Key tone="ink">since the start, median</Key>
                <Key tone="band">its middle half</Key>
                <Key tone="flow" dashed>
                  at the moment, median
                </Key>
                <Key tone="line">single starts</Key>
              </Typography>
            </Typography>
            {option && <Chart option={option} height={330} words={words(found)} />}
            <Typography variant="caption" component="p">
              {number(found.count, 0)} of {number(found.of, 0)} starts. Loss = electricity of the first ten
              minutes − heat ÷ settled COP; the settled COP is of each run itself from a quarter of an hour on
              {found.by_like > 0 &&
                `, for ${number(found.by_like, 0)} short ones that of runs in like weather`}
              . It is negative where a start warms water cooler than later on.
            </Typography>
          </section>
          <Rows found={found} system={system} stretch={stretch} temp={temp} show={show} />
        </>
      )}
    </Box>
  );
}

function Rows({ found, system, stretch, temp, show }: { found: StartsSeen } & Seen) {
  const columns = useMemo<GridColDef<StartRow>[]>(
    () => [
      column("start", "Start", (row) => localMinute(row.start, system.zone).replace("T", " "), {
        width: 112,
        shown: (row) => <OnItsDay start={row.start} stop={row.stop} zone={system.zone} show={show} />,
      }),
      column("mode", "Mode", (row) => row.mode, { width: 72 }),
      numbers("length", "length, min", (row) => (row.stop - row.start) / 60, 0, { width: 66 }),
      numbers("pause", "pause before, min", (row) => (row.pause === null ? null : row.pause / 60), 0, {
        width: 94,
      }),
      numbers(
        "outdoor",
        `outdoors, ${temp.symbol}`,
        (row) => (row.outdoor === null ? null : temp.of(row.outdoor)),
        1,
        { width: 70 },
      ),
      numbers("to_90", "to 90 %, min", (row) => (row.to_90 === null ? null : row.to_90 / 60), 1, {
        width: 74,
      }),
      numbers("shown", "COP at 5 min", (row) => row.shown_at_5, 2, {
        width: 78,
        tip: "what a display shows",
      }),
      numbers("made", "made by 5 min", (row) => row.made_at_5, 2, {
        width: 82,
        tip: "of the run until then",
      }),
      numbers("settled", "settled COP", (row) => row.settled, 2, { width: 72 }),
      numbers("loss", "loss, Wh", (row) => row.loss, 0, { width: 58 }),
      column(
        "by",
        "Settled by",
        (row) => (row.settled === null ? "" : row.by_like ? "like runs" : "itself"),
        {
          width: 72,
          flex: 1,
        },
      ),
    ],
    [system.zone, temp, show],
  );
  return (
    <Grid<StartRow>
      label="Starts"
      title={found.rows.length < found.count ? `The latest ${number(found.rows.length, 0)}` : "One by one"}
      about={`COP at ${found.level ?? "no level"}. A row shows the run on its day.`}
      csv={eventsCsv(system, stretch, "starts")}
      columns={columns}
      rows={found.rows}
      getRowId={(row) => row.start}
    />
  );
}

function Filters({
  found,
  asked,
  set,
  temp,
}: {
  found: StartsSeen;
  asked: StartsAsked;
  set: (next: StartsAsked) => void;
  temp: Seen["temp"];
}) {
  const { outdoor } = found;
  const bands: [string, number | undefined, number | undefined][] = [
    ["any", undefined, undefined],
    ["below 0 °C", undefined, 0],
    ["0 to 7 °C", 0, 7],
    ["above 7 °C", 7, undefined],
  ];
  const pauses: [string, number | undefined, number | undefined][] = [
    ["any", undefined, undefined],
    ["under 15 min", undefined, 900],
    ["15 min to 1 h", 900, 3600],
    ["over 1 h", 3600, undefined],
  ];
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: "8px 22px", alignItems: "center" }}>
      <Choice name="Mode">
        {(
          [
            ["all", undefined],
            ["heating", "heating"],
            ["hot water", "hot water"],
          ] as const
        ).map(([name, mode]) => (
          <ToggleButton
            key={name}
            value={name}
            selected={asked.mode === mode}
            onClick={() => set({ ...asked, mode })}
          >
            {name}
          </ToggleButton>
        ))}
      </Choice>
      <Choice name="Outdoors">
        {bands.map(([name, low, high]) => (
          <ToggleButton
            key={name}
            value={name}
            selected={asked.outdoor_low === low && asked.outdoor_high === high}
            onClick={() => set({ ...asked, outdoor_low: low, outdoor_high: high })}
          >
            {temp.symbol === "°C" || name === "any" ? name : band(low, high, temp)}
          </ToggleButton>
        ))}
      </Choice>
      <Choice name="Pause before">
        {pauses.map(([name, low, high]) => (
          <ToggleButton
            key={name}
            value={name}
            selected={asked.pause_low === low && asked.pause_high === high}
            onClick={() => set({ ...asked, pause_low: low, pause_high: high })}
          >
            {name}
          </ToggleButton>
        ))}
      </Choice>
      {outdoor && (
        <Typography variant="caption" component="span">
          in the period {number(temp.of(outdoor.low), 0)} to {number(temp.of(outdoor.high), 0)} {temp.symbol}
        </Typography>
      )}
    </Box>
  );
}

function band(low: number | undefined, high: number | undefined, temp: Seen["temp"]): string {
  if (low === undefined) return `below ${number(temp.of(must(high)), 0)} ${temp.symbol}`;
  if (high === undefined) return `above ${number(temp.of(low), 0)} ${temp.symbol}`;
  return `${number(temp.of(low), 0)} to ${number(temp.of(high), 0)} ${temp.symbol}`;
}

function Choice({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Box component="span" sx={{ display: "inline-flex", alignItems: "center", gap: 6 }}>
      <Typography variant="caption" component="span">
        {name}
      </Typography>
      <ToggleButtonGroup aria-label={name}>{children}</ToggleButtonGroup>
    </Box>
  );
}

function words(found: StartsSeen): string {
  const at = [2, 5, 10, 20].map((minute) => {
    const k = found.minutes.findIndex((one) => one >= minute);
    const value = found.since_start[1]?.[k];
    return typeof value === "number" ? `${minute} min: ${number(value, 2)}` : null;
  });
  return `Median COP since the start, ${at.filter(Boolean).join("; ")}; ${percent(found.count / Math.max(1, found.of))} of the starts`;
}

function optionOf(found: StartsSeen, shade: Shade): Option {
  const line = (values: (number | null)[]) => found.minutes.map((minute, k) => [minute, values[k] ?? null]);
  const [low, median, high] = [0, 1, 2].map((k) => found.since_start[k] ?? []);
  const known = [...(found.since_start[2] ?? []), ...(found.instantaneous[1] ?? [])].filter(
    (v): v is number => v !== null,
  );
  const most = Math.max(2, Math.ceil(Math.max(...known) + 0.5));
  const plain = { type: "line" as const, showSymbol: false, silent: true, connectNulls: false };
  return {
    animation: false,
    grid: { left: 34, right: 10, top: 8, bottom: 34 },
    xAxis: axisX(
      {
        min: 0,
        max: 30,
        interval: 5,
        name: "minutes since the start",
        nameLocation: "middle",
        nameGap: 20,
      },
      shade,
    ),
    yAxis: axisY({ min: 0, max: most }, shade),
    series: [
      ...found.singles.map((one) => ({
        ...plain,
        data: line(one),
        lineStyle: { color: shade("line"), width: 1, opacity: 0.8 },
        z: 1,
      })),
      { ...plain, stack: "band", data: line(must(low)), lineStyle: { opacity: 0 }, z: 2 },
      {
        ...plain,
        stack: "band",
        data: line(
          must(high).map((value, k) =>
            value === null || must(low)[k] == null ? null : value - must(must(low)[k]),
          ),
        ),
        lineStyle: { opacity: 0 },
        areaStyle: { color: shade("band"), opacity: 0.75 },
        z: 2,
      },
      {
        ...plain,
        data: line(found.instantaneous[1] ?? []),
        lineStyle: { color: shade("flow"), width: 1.5, type: "dashed" },
        z: 4,
      },
      { ...plain, data: line(must(median)), lineStyle: { color: shade("ink"), width: 2.2 }, z: 5 },
    ],
  } as Option;
}
