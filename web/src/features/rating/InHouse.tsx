/** Rated tables in this house, before anything is logged: capacity and need, balance point, season. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { FileInput } from "../../components/FileInput";
import { FigureTable } from "../../components/Sheets";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { Link } from "react-router";

import { send, type ForHouse, type InHouseShown, type SystemShown } from "../../api/client";
import { useRated } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisX, axisY, Chart, chartText } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { figureText, number, percent, type Shown } from "../../components/numbers";
import { cap, HonestFigure } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { BinTable } from "./Scop";
import { thousands } from "./sheet";
import { must } from "../../components/must";

const WHAT = [
  ["capacity", "capacity"],
  ["input", "input"],
  ["cop", "COP"],
  ["supply", "supply air"],
] as const;
type What = (typeof WHAT)[number][0];
const TONES = ["ember", "return", "outdoor", "heating", "day-better"];

export function InHouse({
  system,
  temp,
  power,
  go,
}: {
  system: SystemShown;
  temp: Shown;
  power: Shown;
  go: () => void;
}) {
  const rated = useRated(system.id);
  const [weather, setWeather] = useState("average");
  const [file, setFile] = useState<File | null>(null);
  const [others, setOthers] = useState<number[]>([]);
  const [what, setWhat] = useState<What>("capacity");
  const input = useRef<HTMLInputElement>(null);
  const asked = useQuery({
    queryKey: ["system", system.id, "in-house", weather, others, file?.name, file?.lastModified],
    queryFn: () =>
      send<InHouseShown>(
        `/api/v1/systems/${system.id}/in-house?weather=${weather}&others=${others.join(",")}`,
        file ? { file } : {},
      ),
    placeholderData: keepPreviousData,
  });
  const kw = thousands(power);
  const found = asked.data;
  if (!found)
    return asked.isError ? (
      <Trouble error={asked.error} again={() => void asked.refetch()} />
    ) : (
      <Waiting what="the table in the house" />
    );
  const library =
    rated.data?.library.filter(
      (one) => (one.kind === "air") === (rated.data?.kind === "air") && one.name !== rated.data?.table?.name,
    ) ?? [];
  const shown = found.tables.filter((one) => !one.reason?.sentence);
  const supplied = shown.some((one) => one.lines.some((at) => at.supply !== null));
  const views = WHAT.filter(([key]) => key !== "supply" || supplied);
  const drawn = what === "supply" && !supplied ? "capacity" : what;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 10 }}>
      <Box sx={{ display: "flex", gap: 10, alignItems: "center", flexWrap: "wrap" }}>
        <Typography variant="caption" component="label">
          Weather{" "}
          <Choice
            aria-label="Weather"
            value={file ? "file" : weather}
            onChange={(event) => {
              if (event.target.value === "open") input.current?.click();
              else {
                setFile(null);
                setWeather(event.target.value);
              }
            }}
          >
            {found.choices.map((one) => (
              <option key={one.key} value={one.key} disabled={one.reason !== null}>
                {one.name}
                {one.reason?.sentence && ` (${one.reason?.sentence})`}
              </option>
            ))}
            {file && <option value="file">{file.name}</option>}
            <option value="open">from an EPW or TMY3 file …</option>
          </Choice>
        </Typography>
        <FileInput
          ref={input}
          accept=".epw,.csv,.tm3"
          aria-label="Weather file"
          onChange={(event) => event.target.files?.[0] && setFile(event.target.files[0])}
        />
        {library.length > 0 && (
          <Typography variant="caption" component="span">
            Beside it{" "}
            {library.map((one) => (
              <Box component="label" sx={{ marginLeft: 8 }} key={one.id}>
                <Checkbox
                  checked={others.includes(one.id)}
                  onChange={() =>
                    setOthers(
                      others.includes(one.id) ? others.filter((k) => k !== one.id) : [...others, one.id],
                    )
                  }
                />{" "}
                {one.name}
              </Box>
            ))}
          </Typography>
        )}
      </Box>
      {asked.isError && <Trouble error={asked.error} again={() => void asked.refetch()} />}
      {!found.tables.length && (
        <Empty title="No rated table yet">
          <p>
            A table says what the unit can do in this house, before anything is logged.{" "}
            <Button variant="contained" onClick={go}>
              Paste one or take one from the library
            </Button>
          </p>
        </Empty>
      )}
      {found.tables.map(
        (one) =>
          one.reason?.sentence && (
            <Alert severity="warning" role="note" key={one.name}>
              {one.name}: {one.reason?.sentence}. <Link to={`/systems/${system.id}/setup`}>Set up</Link>
            </Alert>
          ),
      )}
      {shown.length > 0 && (
        <>
          <Summary system={system} tables={shown} weather={found.weather} temp={temp} kw={kw} />
          {found.before_words && (
            <Typography variant="caption" component="p">
              {found.before ? (
                <>
                  By its bills the heating before gave{" "}
                  <HonestFigure
                    proof={{
                      title: "Heat of the heating before",
                      about: `${system.name} · by its bills`,
                      figure: found.before,
                      formula: `fuel a year × efficiency, ${found.before_words}`,
                    }}
                  />{" "}
                  of heat a year ({found.before_words}), to hold against the season’s heat.
                </>
              ) : (
                `The heating before (${found.before_words}) says nothing here yet: its bills of a year are needed, in the Log.`
              )}
            </Typography>
          )}
          <section>
            <Box sx={{ display: "flex", alignItems: "baseline", gap: 10 }}>
              <Typography variant="h2" sx={{ flex: 1 }}>
                {heading(drawn, kw, temp)} over outdoor temperature{" "}
                <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                  {temp.symbol} · at the flow or room temperature that the house asks for
                </Typography>
              </Typography>
              <ToggleButtonGroup aria-label="What is drawn">
                {views.map(([key, name]) => (
                  <ToggleButton value={key} key={key} selected={drawn === key} onClick={() => setWhat(key)}>
                    {name}
                  </ToggleButton>
                ))}
              </ToggleButtonGroup>
            </Box>
            <Lines tables={shown} what={drawn} temp={temp} kw={kw} />
          </section>
          <section>
            <Typography variant="h2">What was taken</Typography>
            <Typography variant="caption" component="ul" sx={{ margin: "2px 0 6px", paddingLeft: 18 }}>
              {shown.map((one, k) =>
                one.notes
                  .filter((note) => !k || !must(shown[0]).notes.includes(note)) // what holds for all is said once
                  .map((note) => (
                    <li key={one.name + note}>
                      {k > 0 && `${one.name}: `}
                      {note}
                    </li>
                  )),
              )}
            </Typography>
          </section>
          <section>
            <Typography variant="h2">
              The sum, bin by bin{" "}
              <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
                {must(shown[0]).name}, {found.weather}
              </Typography>
            </Typography>
            <BinTable
              label={`Bins of ${must(shown[0]).name} in the house`}
              bins={must(shown[0]).bins}
              temp={temp}
              power={power}
            />
          </section>
        </>
      )}
    </Box>
  );
}

function heading(what: What, kw: Shown, temp: Shown): string {
  if (what === "cop") return "COP at full load";
  if (what === "supply") return `Supply air, ${temp.symbol},`;
  return `${cap(what)}${what === "capacity" ? " and need" : ""}, ${kw.symbol},`;
}

function Summary({
  system,
  tables,
  weather,
  temp,
  kw,
}: {
  system: SystemShown;
  tables: ForHouse[];
  weather: string;
  temp: Shown;
  kw: Shown;
}) {
  const perArea = tables[0]?.heat_per_area ?? null;
  const shade = useShade();
  const at = tables[0]?.design_outdoor ?? null;
  const there = at === null ? "the design" : `${number(temp.of(at), 0)} ${temp.symbol}`;
  const size = (value: number | null) => (value === null ? "–" : number(kw.of(value), 1));
  return (
    <FigureTable aria-label="Tables in the house">
      <TableHead>
        <TableRow>
          <TableCell>Table</TableCell>
          <TableCell align="right">Balance point {temp.symbol}</TableCell>
          <TableCell align="right">Need {kw.symbol}</TableCell>
          <TableCell align="right">Capacity</TableCell>
          <TableCell align="right">Heaters make up</TableCell>
          <TableCell align="right">Kept of 7 °C</TableCell>
          <TableCell align="right">Stops below</TableCell>
          <TableCell align="right">Season heat kWh</TableCell>
          <TableCell align="right">Electricity kWh</TableCell>
          <TableCell align="right">Heaters kWh</TableCell>
          <TableCell align="right">Expected SPF</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {tables.map((one, k) => {
          const about = `${system.name} · ${one.name} · ${weather}`;
          const base = { about, notes: one.notes };
          return (
            <TableRow key={one.name}>
              <TableCell>
                <Box
                  component="i"
                  sx={{
                    display: "inline-block",
                    width: 14,
                    borderTop: `3px solid ${shade(must(TONES[k % TONES.length]))}`,
                    marginRight: 6,
                    verticalAlign: "middle",
                  }}
                  aria-hidden
                />
                {one.name}
                {one.pair && (
                  <Typography variant="caption" component="div">
                    {one.pair}
                  </Typography>
                )}
              </TableCell>
              <TableCell align="right">
                {one.balance === null
                  ? one.capacity === null
                    ? "–"
                    : one.makeup
                      ? "none"
                      : `below ${number(temp.of(must(one.lines[0]).outdoor), 0)}`
                  : number(temp.of(one.balance), 1)}
              </TableCell>
              <TableCell align="right">{size(one.need)}</TableCell>
              <TableCell align="right">{size(one.capacity)}</TableCell>
              <TableCell align="right" sx={one.makeup ? look.ember : {}}>
                {size(one.makeup)}
              </TableCell>
              <TableCell align="right">{one.kept === null ? "–" : percent(one.kept)}</TableCell>
              <TableCell align="right">
                {one.low_limit === null ? "not known" : number(temp.of(one.low_limit), 0)}
              </TableCell>
              <TableCell align="right">
                <HonestFigure
                  unit={false}
                  proof={{
                    ...base,
                    title: "Heat of the year",
                    figure: one.heat,
                    formula: `Σ need × hours, bin by bin = ${one.heat ? figureText(one.heat) : "–"} kWh`,
                  }}
                />
              </TableCell>
              <TableCell align="right">
                <HonestFigure
                  unit={false}
                  proof={{
                    ...base,
                    title: "Electricity of the year",
                    figure: one.electricity,
                    formula: "Σ (heat of the unit ÷ its COP + heat of heaters), bin by bin",
                  }}
                />
              </TableCell>
              <TableCell align="right">
                {one.makeup_energy && one.makeup_energy.value < 0.5 ? (
                  "0"
                ) : (
                  <HonestFigure
                    unit={false}
                    proof={{
                      ...base,
                      title: "Heat that heaters make up",
                      figure: one.makeup_energy,
                      formula: "Σ (need − capacity) × hours where the need is greater",
                    }}
                  />
                )}
              </TableCell>
              <TableCell align="right">
                <strong>
                  <HonestFigure
                    proof={{
                      ...base,
                      title: "Expected SPF of heating",
                      figure: one.spf,
                      formula: `Σ heat ÷ Σ electricity, heaters in it${one.heat && one.electricity ? ` = ${figureText(one.heat)} kWh ÷ ${figureText(one.electricity)} kWh` : ""}`,
                    }}
                  />
                </strong>
              </TableCell>
            </TableRow>
          );
        })}
      </TableBody>
      <Typography variant="caption" component="caption" sx={{ captionSide: "bottom", textAlign: "left" }}>
        Need, capacity and make-up at {there}; the season in the {weather}, heating alone. Calculated from the
        table, nothing of it is measured.
        {perArea !== null && ` ${number(perArea, 0)} kWh of heat per m² of floor.`}
      </Typography>
    </FigureTable>
  );
}

function Lines({ tables, what, temp, kw }: { tables: ForHouse[]; what: What; temp: Shown; kw: Shown }) {
  const shade = useShade();
  const option = useMemo(() => linesOption(tables, what, temp, kw, shade), [tables, what, temp, kw, shade]);
  const words = tables
    .map(
      (one) =>
        `${one.name}: ${one.lines.map((at) => `${number(temp.of(at.outdoor), 0)}: ${value(at, what) === null ? "none" : number(must(value(at, what)), 1)}`).join(", ")}`,
    )
    .join("; ");
  return <Chart option={option} height={230} words={words} />;
}

function value(at: ForHouse["lines"][number], what: What): number | null {
  return at[what];
}

function linesOption(tables: ForHouse[], what: What, temp: Shown, kw: Shown, shade: Shade): Option {
  const of = (one: number | null) =>
    one === null ? null : what === "cop" ? one : what === "supply" ? temp.of(one) : kw.of(one);
  const first = must(tables[0]).lines;
  const unit = what === "cop" ? "" : what === "supply" ? temp.symbol : kw.symbol;
  return {
    animation: false,
    grid: { left: 42, right: 60, top: 12, bottom: 24 },
    tooltip: {
      trigger: "axis",
      valueFormatter: (one) => (typeof one === "number" ? `${number(one, 1)} ${unit}` : "–"),
    },
    xAxis: axisX({ min: temp.of(must(first[0]).outdoor), max: temp.of(must(first.at(-1)).outdoor) }, shade),
    yAxis: axisY({ min: what === "supply" ? undefined : 0, scale: what === "supply" }, shade),
    series: [
      ...(what === "capacity"
        ? [
            {
              type: "line" as const,
              name: "need",
              data: first.map((at) => [temp.of(at.outdoor), kw.of(at.need)]),
              showSymbol: false,
              lineStyle: { color: shade("ink"), width: 1.4, type: "dashed" as const },
              itemStyle: { color: shade("ink") },
              endLabel: { show: false },
            },
          ]
        : []),
      ...tables.map((one, k) => {
        const tone = shade(must(TONES[k % TONES.length]));
        return {
          type: "line" as const,
          name: one.name,
          showSymbol: false,
          connectNulls: false,
          data: one.lines.map((at) => [temp.of(at.outdoor), of(value(at, what))]),
          lineStyle: { color: tone, width: 2 },
          itemStyle: { color: tone },
        };
      }),
      // Where capacity meets need: ringed, with its temperature.
      ...(what === "capacity" ? tables : []).flatMap((one, k) =>
        one.balance === null || one.balance_kw === null
          ? []
          : [
              {
                type: "scatter" as const,
                data: [[temp.of(one.balance), kw.of(one.balance_kw)]],
                symbolSize: 9,
                silent: true,
                itemStyle: {
                  color: shade("sheet"),
                  borderColor: shade(must(TONES[k % TONES.length])),
                  borderWidth: 2,
                },
                label: {
                  show: true,
                  ...chartText(shade),
                  color: shade("ink"),
                  position: "bottom" as const,
                  formatter: `balance point ${number(temp.of(one.balance), 1)}`,
                },
              },
            ],
      ),
    ],
  };
}
