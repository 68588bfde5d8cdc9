/** The season in a normal year: what it would use in the weather of a file, and the hours of both by temperature. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { useMemo, useRef } from "react";

import { send, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useMe, type Stretch } from "../../api/hooks";
import { useSettings, useShade } from "../../app/settings";
import type { Shade } from "../../app/theme";
import { axisY, Chart, chartText, Key } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import { FileInput } from "../../components/FileInput";
import { HonestFigure } from "../../components/Proof";
import { Trouble } from "../../components/Said";
import * as look from "../../components/look";
import { number, shownIn, type Shown } from "../../components/numbers";

type Normal = components["schemas"]["NormalShown"];

export function NormalYear({ system, stretch }: { system: SystemShown; stretch: Stretch }) {
  const input = useRef<HTMLInputElement>(null);
  const ask = useMutation({
    mutationFn: (file: File) =>
      send<Normal>(`/api/v1/systems/${system.id}/season/normal?${new URLSearchParams({ ...stretch })}`, {
        file,
      }),
  });
  return (
    <section aria-label="In a normal year">
      <Box sx={{ display: "flex", gap: 12, alignItems: "baseline" }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          In a normal year{" "}
          <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
            {ask.data ? ask.data.name : "the weather of an EPW or TMY3 file of the place"}
          </Box>
        </Typography>
        <Button variant="text" disabled={ask.isPending} onClick={() => input.current?.click()}>
          From a weather file …
        </Button>
        <FileInput
          ref={input}
          tabIndex={-1}
          aria-label="An EPW or TMY3 weather file"
          accept=".epw,.csv"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) ask.mutate(file);
            event.target.value = "";
          }}
        />
      </Box>
      {ask.isError && <Trouble error={ask.error} />}
      {ask.data && <Told system={system} found={ask.data} />}
    </section>
  );
}

function Told({ system, found }: { system: SystemShown; found: Normal }) {
  const { units } = useSettings();
  const me = useMe();
  const shade = useShade();
  const of = (unit: string) => shownIn(me.data?.units ?? [], unit, units);
  const temp = of("degC");
  const days = of("kelvin_day");
  const about = `${system.name} · in the weather of ${found.name}`;
  const formula =
    "Σ over the days of that year of the signature + how far the season’s own days within 1 K lie off it";
  const option = useMemo(() => binsOption(found, temp, shade), [found, temp, shade]);
  return (
    <Box sx={{ display: "grid", gap: 8 }}>
      <Facts
        facts={[
          {
            name: `Heat kWh a year, ${found.level ?? ""}`,
            value: (
              <HonestFigure
                unit={false}
                proof={{ title: "Heat of that year", about, figure: found.heat, formula }}
              />
            ),
          },
          {
            name: "Electricity kWh a year",
            value: (
              <HonestFigure
                unit={false}
                proof={{ title: "Electricity of that year", about, figure: found.electricity, formula }}
              />
            ),
          },
          {
            name: "SPF of it",
            value: (
              <HonestFigure
                proof={{ title: "SPF of that year", about, figure: found.cop, formula: "heat ÷ electricity" }}
                none="none"
              />
            ),
          },
          { name: `Mean outdoors ${temp.symbol}`, value: number(temp.of(found.outdoor), 1) },
          {
            name: `Degree-days below ${number(temp.of(found.degree_days.base), 0)} ${temp.symbol}`,
            value: `${number(days.of(found.degree_days.heating), 0)} ${days.symbol}`,
          },
        ]}
      />
      <p>
        {found.reason && `No sum: ${found.reason.sentence}. `}
        {found.colder + found.warmer > 0
          ? `${number(found.colder, 0)} of its days are colder and ${number(found.warmer, 0)} warmer than nearly all of the season; there the lines go on.`
          : "All of its days lie within the weather of the season."}
      </p>
      <Typography variant="h3">
        Hours by outdoor temperature, {temp.symbol}
        <Key tone="soft">{found.name}</Key>
        <Key tone="heat">this season</Key>
      </Typography>
      <Chart
        option={option}
        height={150}
        words={`Hours by outdoor temperature: ${found.bins.map((one) => `${number(temp.of(one.low), 0)} ${one.hours}`).join(", ")}`}
      />
    </Box>
  );
}

function binsOption(found: Normal, temp: Shown, shade: Shade): Option {
  const lows = [...new Set([...found.bins, ...found.here].map((one) => one.low))].sort((a, b) => a - b);
  const hours = (bins: Normal["bins"]) => lows.map((low) => bins.find((one) => one.low === low)?.hours ?? 0);
  const bar = (tone: "soft" | "heat", data: number[]) => ({
    type: "bar" as const,
    data,
    barGap: "0%",
    itemStyle: { color: shade(tone) },
    silent: true,
  });
  return {
    animation: false,
    grid: { left: 46, right: 10, top: 8, bottom: 22 },
    xAxis: {
      type: "category",
      data: lows.map((low) => number(temp.of(low), 0)),
      axisLabel: { ...chartText(shade), hideOverlap: true },
      axisTick: { show: false },
      axisLine: { lineStyle: { color: shade("line") } },
    },
    yAxis: axisY({ min: 0, splitNumber: 3 }, shade),
    series: [bar("soft", hours(found.bins)), bar("heat", hours(found.here))],
  } as Option;
}
