import { costProof } from "../../components/costProof";
import { useMemo } from "react";
import { useShade } from "../../app/settings";
import { type Shade } from "../../app/theme";
import { axisY, Chart, chartText, Key } from "../../components/Chart";
import type { Option } from "../../components/echarts";
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import type { Money as MoneyShown, Month, SystemShown } from "../../api/client";
import { useMoney } from "../../api/hooks";
import type { Period } from "../../app/period";
import { HonestFigure } from "../../components/Proof";
import { figureText, monthYear, number, percent } from "../../components/numbers";
import { Room } from "../../components/Room";
import { SumCells } from "../../components/SumCells";
import { Trouble, Waiting } from "../../components/Said";
import { To } from "../../components/To";
import { Tabs } from "../../components/Tabs";
import { useKeys } from "../../app/keys";
import { useQueryString } from "../../app/query";
import { Fuels } from "./Fuels";
import { WhatIf } from "./WhatIf";
import { Uses } from "./Uses";

const VIEWS = [
  ["cost", "Cost"],
  ["what-if", "What if"],
] as const;
type View = (typeof VIEWS)[number][0];

export default function Money() {
  const [params, put] = useQueryString();
  const view = VIEWS.find(([key]) => key === params.get("view"))?.[0] ?? "cost";
  const go = (to: View) => put({ view: to === "cost" ? null : to });
  const turn = () => go(view === "cost" ? "what-if" : "cost");
  useKeys({ v: turn, V: turn });
  return (
    <Room>
      {(system, period) =>
        period && (
          <>
            <Tabs label="Views of Money" views={VIEWS} view={view} go={go} />
            {view === "cost" && <Inside system={system} period={period} />}
            {view === "what-if" && <WhatIf key={system.id} system={system} stretch={period.stretch} />}
          </>
        )
      }
    </Room>
  );
}

function Inside({ system, period }: { system: SystemShown; period: Period }) {
  const money = useMoney(system.id, period.stretch);
  if (money.isError) return <Trouble error={money.error} again={() => void money.refetch()} />;
  if (!money.data) return <Waiting what="the months" />;
  const found = money.data;
  const query = new URLSearchParams(period.stretch as unknown as Record<string, string>);
  return (
    <Box sx={{ display: "grid", gap: 12 }}>
      <Box component="header" sx={{ display: "flex", alignItems: "baseline", gap: 12 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Running cost by month{" "}
          <Box component="span" sx={{ ...look.soft, fontWeight: 400, fontSize: 13 }}>
            {found.level ? `heat and COP at ${found.level}; ` : ""}cost of all metered electricity
          </Box>
        </Typography>
        <Box
          component="a"
          sx={{ textDecoration: "none" }}
          href={`/api/v1/systems/${system.id}/money.csv?${query}`}
          download
        >
          CSV
        </Box>
      </Box>
      {!found.currency && (
        <Alert severity="info" role="note">
          No tariff is described, so there is no cost.{" "}
          <To to={`/systems/${system.id}/setup`}>Describe the tariff in Set up</To>.
        </Alert>
      )}
      <Months system={system} found={found} />
      <Box
        sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr) minmax(0, 1fr)", gap: 24 }}
        data-testid="uses"
      >
        <Uses system={system} found={found} />
        <Year found={found} />
      </Box>
      {found.level && <Fuels system={system} stretch={period.stretch} />}
      {found.supply && (
        <Box component="p" sx={look.soft} data-testid="supply">
          {found.supply}
        </Box>
      )}
      {found.carbon && (
        <Box component="p" sx={look.soft}>
          CO₂ of the electricity at {found.carbon_by}.
        </Box>
      )}
      {found.total.cost && (
        <Box component="p" sx={look.soft}>
          Prices, {found.currency} a kWh: {found.prices.map(priceSaid).join(" · ")}; standing charge{" "}
          {number(found.total.cost.standing, 2)} in the period. {percent(found.total.cost.covered)} of the
          time is metered; energy money is for that share only.
          {!found.hours_known &&
            found.bands.length > 1 &&
            " Readings so far apart do not tell the hours: without a described share of each price (Set up: tariff) the cost lies between the lowest and the highest."}
        </Box>
      )}
    </Box>
  );
}

/** The months as a picture: what each cost, or used where there is no tariff, and its COP. */
function Year({ found }: { found: MoneyShown }) {
  const shade = useShade();
  const option = useMemo(() => (found.months.length > 1 ? yearOption(found, shade) : null), [found, shade]);
  if (!option) return null;
  const what = found.currency ? `Cost, ${found.currency}` : "Electricity, kWh";
  return (
    <section>
      <Typography variant="h2">
        {what} and COP by month
        <Key tone="heat">{found.currency ? "cost" : "electricity"}</Key>
        <Key tone="ink">{`COP${found.level ? ` ${found.level}` : ""}`}</Key>
      </Typography>
      <Chart
        option={option}
        height={170}
        words={found.months
          .map((month) => `${name(month)}: ${month.cost ? figureText(month.cost.total) : "no cost"}`)
          .join("; ")}
      />
    </section>
  );
}

function yearOption(found: MoneyShown, shade: Shade): Option {
  const cop = (month: Month) => month.reckoning?.cop?.value ?? null;
  return {
    animation: false,
    grid: { left: 46, right: 34, top: 10, bottom: 22 },
    xAxis: {
      type: "category",
      data: found.months.map(name),
      axisLabel: { ...chartText(shade), hideOverlap: true },
      axisTick: { show: false },
      axisLine: { lineStyle: { color: shade("line") } },
    },
    yAxis: [
      axisY({ min: 0, splitNumber: 3 }, shade),
      axisY({ min: 0, splitNumber: 3, splitLine: { show: false } }, shade),
    ],
    series: [
      {
        type: "bar",
        data: found.months.map((month) =>
          found.currency ? (month.cost?.total.value ?? null) : (month.electricity?.value ?? null),
        ),
        barWidth: "55%",
        itemStyle: { color: shade("heat") },
        silent: true,
      },
      {
        type: "line",
        yAxisIndex: 1,
        data: found.months.map(cop),
        symbolSize: 5,
        lineStyle: { color: shade("ink"), width: 1.5 },
        itemStyle: { color: shade("ink") },
        silent: true,
      },
    ],
  } as Option;
}

/** A price of the tariff, in words. */
function priceSaid({ name, price, since, vat }: MoneyShown["prices"][number]): string {
  const said = `${name} ${price === null ? "as read" : number(price, 4)}`;
  return `${said}${vat ? ` with ${percent(vat)} VAT` : ""}${since ? ` from ${since}` : ""}`;
}

/** The bands whose electricity is known. */
const bandsOf = (found: MoneyShown) => (found.hours_known ? found.bands : []);

/** Where a month's paid electricity stands against the dearest, as a bar behind the figure. */
function Months({ system, found }: { system: SystemShown; found: MoneyShown }) {
  const most = Math.max(1e-9, ...found.months.map((month) => month.cost?.total.value ?? 0));
  return (
    <FigureTable aria-label="Months" data-testid="months">
      <TableHead>
        <TableRow>
          <TableCell>Month</TableCell>
          <TableCell align="right">Heat kWh, ± U</TableCell>
          <TableCell align="right">Electricity kWh, ± U</TableCell>
          <TableCell align="right">COP{found.level ? ` ${found.level}` : ""}, ± U</TableCell>
          <TableCell align="right">Covered</TableCell>
          {bandsOf(found).map((band) => (
            <TableCell align="right" key={band}>
              {band} kWh
            </TableCell>
          ))}
          {found.currency && (
            <>
              <TableCell sx={{ width: "6%" }} aria-label="bar" />
              <TableCell align="right">Cost {found.currency}, ± U</TableCell>
              <TableCell align="right">Paid {found.currency}/kWh</TableCell>
            </>
          )}
          {found.carbon && <TableCell align="right">CO₂ kg, ± U</TableCell>}
        </TableRow>
      </TableHead>
      <TableBody>
        {[...found.months, found.total].map((month) => (
          <Row
            key={month.name}
            system={system}
            found={found}
            month={month}
            most={most}
            total={month === found.total}
          />
        ))}
      </TableBody>
    </FigureTable>
  );
}

function name(month: Month): string {
  if (month.name === "all") return "All";
  return monthYear(month.name);
}

function Row({
  system,
  found,
  month,
  most,
  total,
}: {
  system: SystemShown;
  found: MoneyShown;
  month: Month;
  most: number;
  total: boolean;
}) {
  const { reckoning, cost } = month;
  const about = `${system.name} · ${total ? found.local : name(month)}`;
  return (
    <TableRow sx={total ? look.total : {}}>
      <TableCell sx={{ whiteSpace: "nowrap" }}>{name(month)}</TableCell>
      <SumCells system={system} about={about} reckoning={reckoning} alone={month.electricity} />
      <TableCell align="right">
        {reckoning ? percent(reckoning.coverage) : cost ? percent(cost.covered) : "–"}
      </TableCell>
      {bandsOf(found).map((named, k) => (
        <TableCell align="right" sx={look.soft} key={named}>
          {month.by_band[k] ? number(month.by_band[k], 0) : "–"}
        </TableCell>
      ))}
      {found.currency && (
        <>
          <TableCell sx={{ verticalAlign: "middle" }}>
            {!total && cost && (
              <Box
                sx={{
                  height: 8,
                  width: `${(cost.total.value / most) * 100}%`,
                  background: "var(--day-rated)",
                  marginLeft: "auto",
                }}
                aria-hidden
              />
            )}
          </TableCell>
          <TableCell align="right">
            {cost ? <HonestFigure unit={false} proof={costProof(cost, about)} /> : "–"}
          </TableCell>
          <TableCell align="right">
            {cost?.average_price == null ? "–" : number(cost.average_price, 3)}
          </TableCell>
        </>
      )}
      {found.carbon && (
        <TableCell align="right">
          <HonestFigure
            unit={false}
            proof={{
              title: "Carbon",
              about,
              figure: month.carbon,
              formula: `electricity × ${found.carbon_by}`,
            }}
          />
        </TableCell>
      )}
    </TableRow>
  );
}
