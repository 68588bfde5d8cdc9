/** Hot water: charges, their COP by stage of the tank, what it loses and what it can reach. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import type { GridColDef } from "@mui/x-data-grid";
import { useMemo } from "react";

import type { Figure, SystemShown, WaterSeen } from "../../api/client";
import { useWater } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisY, Chart, chartText } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import { Facts } from "../../components/Facts";
import { Grid } from "../../components/Grid";
import { numbers, words } from "../../components/gridLook";
import {
  clock,
  dayYear,
  duration,
  figureText,
  localMinute,
  number,
  percent,
  plusMinus,
  type Shown,
} from "../../components/numbers";
import { AT_MOMENTS } from "../../components/costProof";
import { cap, HonestFigure, type Proof } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { eventsCsv, OnItsDay } from "./Latest";
import type { Seen } from "./Runs";

type ChargeRow = WaterSeen["rows"][number];

export function HotWater({ system, stretch, temp, show }: Seen) {
  const shade = useShade();
  const water = useWater(system.id, stretch);
  const option = useMemo(
    () => (water.data?.stages.length ? stagesOption(water.data, temp, shade) : null),
    [water.data, temp, shade],
  );
  if (water.isError) return <Trouble error={water.error} again={() => void water.refetch()} />;
  if (!water.data) return <Waiting what="the hot water" />;
  const found = water.data;
  if (found.reason?.sentence)
    return (
      <Empty title="No hot water to show">
        <p>{cap(found.reason?.sentence)}.</p>
      </Empty>
    );
  const { reheat, calorimeter } = found;
  const about = `${system.name} · the tank as a calorimeter`;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Facts
        facts={[
          {
            name: `COP of hot water${found.level ? `, ${found.level}` : ""}`,
            value: found.total?.cop ? figureText(found.total.cop) : "–",
            note: found.total?.cop ? plusMinus(found.total.cop) : null,
          },
          {
            name: "charges",
            value: number(found.count, 0),
            note: `${found.a_day === null ? "" : `${number(found.a_day, 1)} a day`}${found.pasteurisations ? ` · ${found.pasteurisations} to pasteurise` : ""}`,
          },
          {
            name: "electricity",
            value: found.total?.electricity ? `${figureText(found.total.electricity)} kWh` : "–",
            note: found.total?.electricity ? plusMinus(found.total.electricity) : null,
          },
          ...(found.total?.each
            ? [
                {
                  name: `a charge, ${system.currency}`,
                  value: figureText(found.total.each),
                  note: plusMinus(found.total.each),
                },
              ]
            : []),
          {
            name: "reheating",
            value: reheat ? duration(reheat.median) : "–",
            note:
              found.low !== null && found.warmest !== null
                ? `${number(temp.of(found.low), 0)} to ${number(temp.of(found.warmest), 0)} ${temp.symbol}${found.per_kelvin ? ` · ${number(found.per_kelvin.median / (temp.of(1) - temp.of(0)), 1)} min a ${temp.symbol === "°C" ? "K" : temp.symbol}` : ""}`
                : null,
          },
          {
            name: "reachable",
            value: found.reachable === null ? "–" : `${number(temp.of(found.reachable), 0)} ${temp.symbol}`,
            note: "highest flow less 10 K",
            ember: found.out_of_reach && found.stalls > 0,
          },
          {
            name: "dwells at the top",
            value: number(found.stalls, 0),
            note: "of 15 min and more",
            ember: found.stalls_often,
          },
          {
            name: "by heaters",
            value: found.immersion_share === null ? "–" : percent(found.immersion_share),
            note: found.heaters ? `${figureText(found.heaters)} kWh in the period` : "not metered",
          },
          {
            name: "standing loss",
            value: found.standing ? `${number(found.standing.watts, 0)} W` : "–",
            note: found.standing
              ? `${number(found.standing.kwh_a_day, 1)} kWh a day, from ${found.standing.hours} quiet hours`
              : found.standing_reason?.sentence,
          },
        ]}
      />
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1.35fr)",
          gap: 22,
          alignItems: "start",
        }}
      >
        <section>
          {calorimeter && (calorimeter.cop || !found.total?.cop) && (
            <ByTank found={calorimeter} about={about} />
          )}
          <Typography variant="h2">COP by stage of the tank</Typography>
          {option ? (
            <Chart
              option={option}
              height={190}
              words={found.stages
                .map(
                  (one) =>
                    `${number(temp.of(one.low), 0)} to ${number(temp.of(one.high), 0)}: ${one.cop === null ? "none" : number(one.cop, 2)}`,
                )
                .join("; ")}
            />
          ) : (
            <Box component="p" sx={look.soft}>
              The tank's temperature, heat and electricity are needed for it.
            </Box>
          )}
          <Typography variant="caption" component="p">
            {!found.stages_by_tank
              ? "Σ heat ÷ Σ electricity of all charges while the tank is in that stage, pasteurisation apart."
              : "Heat into the tank ÷ electricity of the charges without draws, by the tank alone; each stage is as uncertain as the whole."}{" "}
            The first minutes warm the primary loop.
          </Typography>
        </section>
        <section>
          <Alike title="By set point" rows={found.set_points} temp={temp} currency={system.currency} />
          <Box sx={{ height: 10 }} />
          <Alike title="By time of day" rows={found.schedules} temp={temp} currency={system.currency} />
        </section>
      </Box>
      <Typography variant="caption" component="p">
        Before a set point is lowered: water stored below 60 °C can grow legionella, follow local rules. Above
        50 °C it scalds within seconds to minutes: blend at the tap.
      </Typography>
      <Rows found={found} system={system} stretch={stretch} temp={temp} show={show} />
    </Box>
  );
}

/** What the tank itself says: only of charges in which no water was drawn. */
function ByTank({ found, about }: { found: NonNullable<WaterSeen["calorimeter"]>; about: string }) {
  const left = [
    found.refused ? `${number(found.refused, 0)} left out, water was drawn` : "",
    found.unknown ? `${number(found.unknown, 0)} not known` : "",
  ]
    .filter(Boolean)
    .join(", ");
  return (
    <Box sx={{ marginBottom: 10 }}>
      <Typography variant="h2">By the tank alone</Typography>
      {found.cop && found.heat && found.electricity ? (
        <p>
          COP into the tank{" "}
          <strong>
            <HonestFigure
              proof={{
                title: "COP into the tank",
                about,
                figure: found.cop,
                formula: `Σ (ρ·V·c·ΔT + standing loss) ÷ Σ electricity = ${figureText(found.heat)} kWh ÷ ${figureText(found.electricity)} kWh`,
                notes: [
                  `${found.words}.`,
                  `${number(found.charges, 0)} charges in which no water was drawn${left ? `; ${left}` : ""}.`,
                  "Heat that stays in the primary loop is not in it.",
                ],
              }}
            />
          </strong>{" "}
          <Box component="span" sx={look.soft}>
            from {number(found.charges, 0)} charges without draws{left && `; ${left}`}
          </Box>
        </p>
      ) : (
        <Box component="p" sx={look.soft}>
          {cap(found.reason?.sentence ?? "")}.{left && ` ${cap(left)}.`}
        </Box>
      )}
    </Box>
  );
}

function Alike({
  title,
  rows,
  temp,
  currency,
}: {
  title: string;
  rows: WaterSeen["set_points"];
  temp: Shown;
  currency: string | null;
}) {
  if (!rows.length) return null;
  return (
    <FigureTable tight aria-label={title}>
      <TableHead>
        <TableRow>
          <TableCell>{title}</TableCell>
          <TableCell align="right">charges</TableCell>
          <TableCell align="right">COP</TableCell>
          <TableCell align="right">kWh in</TableCell>
          {currency && <TableCell align="right">{currency} each</TableCell>}
          <TableCell align="right">min each</TableCell>
          <TableCell align="right">outdoors, {temp.symbol}</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {rows.map((row) => (
          <TableRow key={row.name}>
            <TableCell>{row.name}</TableCell>
            <TableCell align="right">{number(row.charges, 0)}</TableCell>
            <TableCell align="right">
              {row.cop ? (
                <>
                  {figureText(row.cop)}{" "}
                  <Box component="span" sx={look.soft}>
                    {plusMinus(row.cop)}
                  </Box>
                </>
              ) : (
                "–"
              )}
            </TableCell>
            <TableCell align="right">{row.electricity ? figureText(row.electricity) : "–"}</TableCell>
            {currency && <TableCell align="right">{row.each ? figureText(row.each) : "–"}</TableCell>}
            <TableCell align="right">{row.minutes === null ? "–" : number(row.minutes, 0)}</TableCell>
            <TableCell align="right">
              {row.outdoor === null ? "–" : number(temp.of(row.outdoor), 1)}
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </FigureTable>
  );
}

const HIDDEN = ["litres"];

function Rows({ found, system, stretch, temp, show }: { found: WaterSeen } & Seen) {
  const columns = useMemo(
    () => columnsOf(system, found.level, temp, show),
    [system, found.level, temp, show],
  );
  return (
    <Grid<ChargeRow>
      label="Charges"
      hidden={HIDDEN}
      title={found.rows.length < found.count ? `The latest ${number(found.rows.length, 0)}` : "One by one"}
      about={`At ${found.level ?? "no level"}, U at k = 2. A row shows the charge on its day.`}
      csv={eventsCsv(system, stretch, "hot-water")}
      columns={columns}
      rows={found.rows}
      getRowId={(row) => row.start}
    />
  );
}

function columnsOf(
  system: SystemShown,
  level: string | null,
  temp: Shown,
  show: Seen["show"],
): GridColDef<ChargeRow>[] {
  const figure = (row: ChargeRow, title: string, shown: Figure | null, more: Partial<Proof> = {}) => {
    if (!shown) return "–";
    const about = `${system.name} · hot water of ${dayYear(row.start, system.zone)} ${clock(row.start, system.zone)}`;
    const from = level && {
      system: system.id,
      zone: system.zone,
      start: localMinute(row.start, system.zone),
      stop: localMinute(row.start + row.length, system.zone),
      level,
      what: title,
    };
    const proof = more.formula
      ? { title, about, figure: shown, ...more }
      : { title, about, figure: shown, ...(from ? { from } : {}) };
    return <HonestFigure unit={false} proof={proof} />;
  };
  const heat = (row: ChargeRow) =>
    row.heat || !row.tank_heat
      ? figure(row, "Heat", row.heat)
      : figure(row, "Heat into the tank", row.tank_heat, {
          formula: "ρ·V·c·ΔT + standing loss, no water drawn",
          notes: ["By the tank alone; no heat is metered."],
        });
  const shownIn = (value: number | null) => (value === null ? null : temp.of(value));
  return [
    words("start", "Begin", (row) => localMinute(row.start, system.zone).replace("T", " "), {
      width: 112,
      shown: (row) => (
        <OnItsDay start={row.start} stop={row.start + row.length} zone={system.zone} show={show} />
      ),
    }),
    numbers("length", "reheating, min", (row) => row.length / 60, 0, { width: 80 }),
    numbers("low", `tank, ${temp.symbol}`, (row) => shownIn(row.low), 1, {
      width: 82,
      shown: (row) =>
        row.low === null || row.high === null
          ? "–"
          : `${number(temp.of(row.low), 1)} → ${number(temp.of(row.high), 1)}`,
    }),
    numbers("electricity", "electricity, kWh", (row) => row.electricity?.value ?? null, 2, {
      width: 88,
      shown: (row) => figure(row, "Electricity", row.electricity),
    }),
    ...(system.currency
      ? [
          numbers<ChargeRow>("paid", `cost, ${system.currency}`, (row) => row.paid?.value ?? null, 2, {
            width: 86,
            shown: (row) => figure(row, "Cost", row.paid, AT_MOMENTS),
          }),
        ]
      : []),
    numbers("heat", "heat, kWh", (row) => (row.heat ?? row.tank_heat)?.value ?? null, 2, {
      width: 76,
      shown: heat,
    }),
    numbers("cop", "COP", (row) => row.cop?.value ?? null, 2, {
      width: 76,
      shown: (row) => figure(row, "COP", row.cop),
    }),
    numbers("flow", `highest flow, ${temp.symbol}`, (row) => shownIn(row.flow), 1, { width: 86 }),
    numbers("outdoor", `outdoors, ${temp.symbol}`, (row) => shownIn(row.outdoor), 1, { width: 70 }),
    numbers("dwell", "dwell, min", (row) => (row.dwell === null ? null : row.dwell / 60), 0, { width: 58 }),
    numbers("litres", "litres of 40 °C", (row) => row.litres, 0, { width: 76 }),
    words("marks", "Marks", marksOf, {
      width: 60,
      flex: 1,
      shown: (row) => (
        <Box component="span" sx={look.soft}>
          {marksOf(row)}
        </Box>
      ),
    }),
  ];
}

function marksOf(row: ChargeRow): string {
  const { marks, defrosts } = row;
  return [...marks, ...(defrosts ? [`${defrosts} defrost${defrosts > 1 ? "s" : ""}`] : [])].join(", ");
}

function stagesOption(found: WaterSeen, temp: Shown, shade: Shade): Option {
  return {
    animation: false,
    grid: { left: 30, right: 6, top: 18, bottom: 34 },
    xAxis: {
      type: "category",
      data: found.stages.map((one) => `${number(temp.of(one.low), 0)}–${number(temp.of(one.high), 0)}`),
      name: `tank, ${temp.symbol}`,
      nameLocation: "middle",
      nameGap: 20,
      nameTextStyle: chartText(shade),
      axisLabel: { ...chartText(shade), interval: 0 },
      axisTick: { show: false },
      axisLine: { lineStyle: { color: shade("line") } },
    },
    yAxis: axisY({ min: 0, splitNumber: 3 }, shade),
    series: [
      {
        type: "bar",
        data: found.stages.map((one) => one.cop),
        barWidth: "62%",
        itemStyle: { color: shade("hot-water") },
        silent: true,
        label: {
          show: true,
          position: "top",
          ...chartText(shade),
          formatter: ({ value }: { value: number }) => number(value, 2),
        },
      },
    ],
  } as Option;
}
