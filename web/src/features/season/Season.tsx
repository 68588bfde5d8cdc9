/** Season: what a period used month by month, what lacks, and how the house answers the weather. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useMe } from "../../api/hooks";
import type { Period } from "../../app/period";
import { useQueryString } from "../../app/query";
import { useSettings } from "../../app/settings";
import { Facts } from "../../components/Facts";
import { HonestFigure } from "../../components/Proof";
import { Room } from "../../components/Room";
import { Trouble, Waiting } from "../../components/Said";
import * as look from "../../components/look";
import { NumberField } from "../../components/NumberField";
import { backFrom, inUnit, number, percent, shownIn, type Shown } from "../../components/numbers";
import { Apart } from "./Apart";
import { Bars } from "./Bars";
import { Losses } from "./Losses";
import { Months } from "./Months";
import { NormalYear } from "./NormalYear";
import { SignaturePlot } from "./SignaturePlot";
import { YearBefore } from "./YearBefore";

export type SeasonShown = components["schemas"]["SeasonShown"];
export type SeasonMonth = components["schemas"]["SeasonMonth"];
export type SignatureShown = components["schemas"]["SignatureShown"];

export default function Season() {
  return <Room>{(system, period) => period && <Inside system={system} period={period} />}</Room>;
}

function Inside({ system, period }: { system: SystemShown; period: Period }) {
  const [params] = useQueryString();
  const typed = params.get("base"); // of the degree-days, in the core's unit
  const base = typed === null || !Number.isFinite(Number(typed)) ? {} : { base: Number(typed) };
  const season = useQuery({
    queryKey: ["system", system.id, "season", period.stretch, base],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/season", {
          params: { path: { pk: system.id }, query: { ...period.stretch, ...base } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  if (season.isError) return <Trouble error={season.error} again={() => void season.refetch()} />;
  if (!season.data) return <Waiting what="the season" />;
  const found = season.data;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Box component="header" sx={{ display: "flex", alignItems: "baseline", gap: 12 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Season{" "}
          <Box component="span" sx={{ ...look.soft, fontWeight: 400, fontSize: 13 }}>
            {found.level ? `heat and electricity at ${found.level}` : ""}
          </Box>
        </Typography>
        {["csv", "xlsx"].map((form) => (
          <Box
            key={form}
            component="a"
            sx={{ textDecoration: "none" }}
            href={`/api/v1/systems/${system.id}/season/file?${new URLSearchParams({ ...period.stretch, form })}`}
            download
          >
            {form.toUpperCase()}
          </Box>
        ))}
      </Box>
      {!found.level && (
        <Alert severity="info" role="note">
          No boundary level can be computed from these meters, so there is no heat to add up; the electricity
          alone stands in Money.
        </Alert>
      )}
      {found.level && (
        <>
          <Whole system={system} found={found} />
          {found.months.length > 1 && <Bars found={found} />}
          <Months system={system} found={found} />
          <YearBefore system={system} found={found} />
          <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1.2fr) minmax(0, 1fr)", gap: 22 }}>
            <Apart system={system} found={found} />
            <Losses system={system} found={found} />
          </Box>
          <SignaturePlot system={system} found={found} />
          <NormalYear system={system} stretch={period.stretch} />
        </>
      )}
    </Box>
  );
}

const [LOWEST, HIGHEST] = [-20, 40]; // what the API takes as a base [°C]

/** Below which degree-days are counted: typed in the reader's unit, kept in the address. */
function BaseField({ base, temp }: { base: number; temp: Shown }) {
  const [, put] = useQueryString();
  return (
    <>
      <NumberField
        label={`Base of the degree-days, ${temp.symbol}`}
        width={44}
        value={Math.round(temp.of(base) * 10) / 10}
        put={(value) => {
          const base = value === null ? null : backFrom(temp, value);
          if (base === null || (base >= LOWEST && base <= HIGHEST))
            put({ base: base === null ? null : String(Math.round(base * 100) / 100) });
        }}
      />{" "}
      {temp.symbol}
    </>
  );
}

/** The season in one line: measured, as a whole, its weather. */
function Whole({ system, found }: { system: SystemShown; found: SeasonShown }) {
  const { whole, degree_days } = found;
  const about = `${system.name} · ${found.local}`;
  const { reckoning, filled } = whole;
  const { units } = useSettings();
  const me = useMe();
  const inTheirs = (unit: string) => shownIn(me.data?.units ?? [], unit, units);
  const loss = inTheirs("watt_per_kelvin");
  const days = inTheirs("kelvin_day");
  const temp = inTheirs("degC");
  const lossShown = inUnit(found.loss, loss, 0);
  const area = inTheirs("kWh_per_m2");
  const byArea = inUnit(found.heat_per_area, area, units === "SI" ? 0 : 1);
  const usedByArea = inUnit(found.electricity_per_area, area, 1);
  const lacks = reckoning !== null && reckoning.covered < reckoning.seconds;
  return (
    <>
      <Facts
        facts={[
          {
            name: `${whole.quotient} measured`,
            value: reckoning ? (
              <HonestFigure
                proof={{
                  title: `${whole.quotient} at ${reckoning.level}`,
                  about,
                  figure: reckoning.cop,
                  reckoning,
                  why: reckoning.reason?.sentence,
                }}
                none="none"
              />
            ) : (
              "none"
            ),
            note: reckoning ? `${percent(reckoning.coverage)} of the time` : null,
          },
          filled && {
            name: `${whole.quotient}, what lacks filled`,
            value: (
              <HonestFigure
                proof={{
                  title: `${whole.quotient} of the whole, an estimate`,
                  about,
                  figure: filled.cop,
                  formula:
                    "(heat measured + heat by the days that were measured) ÷ (the same of the electricity), at the outdoor temperature of the time that lacks",
                  notes: [`${percent(filled.share)} of the time is filled; an estimate, no measurement.`],
                }}
              />
            ),
            note: `estimate; ${percent(filled.share)} filled`,
          },
          lossShown && {
            name: "Heat loss by these days",
            value: (
              <HonestFigure
                proof={{
                  title: "Heat loss of the house",
                  about,
                  figure: lossShown,
                  formula: "slope of the daily heat below the knee × 1000 ÷ 24",
                  notes: found.heat
                    ? [
                        `${number(found.heat.days, 0)} days; what the house gains of people and sun is in the knee.`,
                      ]
                    : [],
                }}
              />
            ),
            note: found.described_loss
              ? `survey: ${number(loss.of(found.described_loss.value), 0)} ${loss.symbol}`
              : "no survey described",
          },
          byArea && {
            name: "Heat by heated floor",
            value: (
              <HonestFigure
                proof={{
                  title: "Heat of the year by the heated floor",
                  about,
                  figure: byArea,
                  formula: "heat ÷ floor area of the description",
                }}
              />
            ),
            note: usedByArea && (
              <>
                electricity{" "}
                <HonestFigure
                  proof={{
                    title: "Electricity of the year by the heated floor",
                    about,
                    figure: usedByArea,
                    formula: "electricity ÷ floor area of the description",
                  }}
                />
              </>
            ),
          },
          degree_days && {
            name: `Degree-days below ${number(temp.of(degree_days.base), 0)} ${temp.symbol}`,
            value: `${number(days.of(degree_days.heating), 0)} ${days.symbol}`,
            note: (
              <>
                by the {degree_days.method}, {number(degree_days.days, 0)} days; base{" "}
                <BaseField base={degree_days.base} temp={temp} />
              </>
            ),
          },
        ].filter((one) => one !== null)}
      />
      {lacks && !filled && whole.filled_reason && (
        <Box component="p" sx={look.soft}>
          What lacks is not filled: {whole.filled_reason.sentence}.
        </Box>
      )}
    </>
  );
}
