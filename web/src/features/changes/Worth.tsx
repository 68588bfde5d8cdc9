/** What a change was worth: electricity, heat and COP before and after, in the weather that both saw. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";

import type { Figure, SystemShown } from "../../api/client";
import { useMe } from "../../api/hooks";
import type { components } from "../../api/schema";
import { useSettings, useShade } from "../../app/settings";
import { Chart, Key } from "../../components/Chart";
import { HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { figureText, inUnit, number, percent, plusMinus, shownIn } from "../../components/numbers";
import { AvoidedTable } from "../season/YearBefore";
import { daysPlot } from "../season/daysPlot";
import { Alike } from "./Alike";

type Found = components["schemas"]["ChangeFound"];
type Changed = components["schemas"]["ChangedShown"];

const SAID: Record<string, string> = {
  saved: "Saved",
  "used more": "More used",
  "cannot be told yet": "Cannot be told yet",
};

export function Worth({ system, found }: { system: SystemShown; found: Found }) {
  const { electricity, heat } = found;
  const about = `${system.name} · ${found.before} against ${found.after}`;
  return (
    <section aria-label="What it was worth">
      {electricity ? (
        <>
          <Typography variant="h2">
            <Box component="span" sx={electricity.worth === "saved" ? look.teal : {}}>
              {SAID[electricity.worth]}
            </Box>
            {electricity.worth !== "cannot be told yet" &&
              `: ${figureText(absolute(electricity.saved))} ${plusMinus(electricity.saved)} kWh of electricity a year, ${percent(Math.abs(electricity.share))}`}
          </Typography>
          <p>
            {electricity.worth === "cannot be told yet" &&
              `${figureText(absolute(electricity.saved))} ${plusMinus(electricity.saved)} kWh of electricity a year ${lessOrMore(electricity.saved)}, within its interval. ${found.advice} `}
            {found.money && (
              <>
                At the price paid since:{" "}
                <HonestFigure
                  proof={{
                    title: "Saved a year, in money",
                    about,
                    figure: absolute(found.money),
                    formula: "electricity saved × average price paid after the change",
                  }}
                />{" "}
                a year {lessOrMore(found.money)}.{" "}
              </>
            )}
            {found.payback && <Payback found={found} />}
            In the weather that both stretches saw, {percent(found.seen)} of a year’s days; nothing is said of
            the rest.
          </p>
        </>
      ) : (
        <Alert severity="info" role="note">
          Cannot be told: {found.electricity_reason?.sentence}.
        </Alert>
      )}
      {found.same_rooms && <SameRooms about={about} rooms={found.same_rooms} />}
      {found.beside.length > 0 && (
        <Alert severity="warning" role="note">
          In the same days also:{" "}
          {found.beside.map((one) => `${one.local} ${one.words} ${one.note}`.trim()).join("; ")}. These cannot
          be told apart.
        </Alert>
      )}
      {(electricity ?? heat) && (
        <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12, marginTop: 8 }}>
          <div>
            <Sums about={about} found={found} />
            <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
              Two energy signatures, {found.before} and {found.after}, laid over the same weather, each with
              its own days where they lie off its line. The ± (k = 2) is of both fits, for days that resemble
              the day before, and of what another sun, damp air or colder water may do where they lie in other
              seasons; errors of the meters stand on both sides and count only with the share saved. A lower
              need for heat is no better unit: see the COP.
            </Typography>
          </div>
          <Plot found={found} />
        </Box>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14, marginTop: 12 }}>
        <section>
          <Typography variant="h2">
            Avoided in the actual days after{" "}
            <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
              {found.after}
            </Box>
          </Typography>
          <AvoidedTable
            about={about}
            rows={[
              ["Electricity", found.avoided_electricity, found.avoided_electricity_reason?.sentence],
              ["Heat", found.avoided_heat, found.avoided_heat_reason?.sentence],
            ]}
          />
        </section>
        <Alike found={found} />
      </Box>
    </section>
  );
}

/** What is the change's alone, where the rooms or the sun were others after it. */
function SameRooms({ about, rooms }: { about: string; rooms: NonNullable<Found["same_rooms"]> }) {
  const { units } = useSettings();
  const me = useMe();
  const temp = shownIn(me.data?.units ?? [], "degC", units);
  const kelvin = shownIn(me.data?.units ?? [], "kelvin", units);
  const warm = (value: number) => `${number(temp.of(value), 1)} ${temp.symbol}`;
  const shine = inUnit(rooms.sun, kelvin);
  const sun = shine && `${figureText(shine)} ${plusMinus(shine)} ${kelvin.symbol} outdoors for 100 W/m²`;
  const figure = (title: string, one: Figure, formula: string) => (
    <HonestFigure proof={{ title, about, figure: one, formula }} />
  );
  return (
    <Box component="p" data-testid="same-rooms" sx={{ marginTop: 4 }}>
      <b>{rooms.room_before === null ? "Under the same sun" : "As warm as before"}:</b>{" "}
      {SAID[rooms.worth]?.toLowerCase()}, electricity {lessOrMore(rooms.electricity)} by{" "}
      {figure(
        "Saved by the change alone, a year",
        absolute(rooms.electricity),
        "saved − what rooms and sun saved, both on the days within the weather of both, as they were and as warm as before",
      )}{" "}
      a year.{" "}
      {rooms.room_before !== null && rooms.room_after !== null && (
        <>
          The rooms were at {warm(rooms.room_before)} before and {warm(rooms.room_after)} after.{" "}
        </>
      )}
      {sun && <>The sun was worth {sun}. </>}
      {rooms.room_before === null ? "The sun" : sun ? "Rooms and sun" : "The rooms"}{" "}
      {rooms.others.value < 0 ? "cost" : "saved"}{" "}
      {figure(
        "Saved by rooms and sun, a year",
        absolute(rooms.others),
        `heat that they saved ÷ COP after${rooms.flow ? `, and a flow by ${number(kelvin.of(rooms.flow), 1)} ${kelvin.symbol} cooler` : ""}`,
      )}
      , which is not the change’s.
    </Box>
  );
}

/** When what was paid for the change has come back. */
function Payback({ found }: { found: Found }) {
  const { payback, currency } = found;
  if (!payback) return null;
  const years = (count: number | null) => (count === null ? "never" : number(count, 1));
  return (
    <>
      It cost {number(payback.cost, 2)} {currency}, paid back in{" "}
      {payback.years === null ? "no time: nothing is saved" : `${years(payback.years)} years`} (95 %:{" "}
      {years(payback.soonest)} to {years(payback.latest)}) at prices of today.{" "}
    </>
  );
}

const absolute = (figure: Figure): Figure => ({ ...figure, value: Math.abs(figure.value) });

/** What a saving means, said of its size. */
const lessOrMore = (saved: Figure) => (saved.value < 0 ? "more" : "less");

function Sums({ about, found }: { about: string; found: Found }) {
  const cell = (title: string, figure: Figure | null, formula: string) => (
    <TableCell align="right">
      {figure ? <HonestFigure unit={false} proof={{ title, about, figure, formula }} /> : "–"}
    </TableCell>
  );
  const row = (name: string, one: Changed | null) =>
    one && (
      <TableRow key={name}>
        <TableCell>{name} kWh a year</TableCell>
        {cell(
          `${name} before`,
          one.before,
          "Σ over the weather of a year of the signature before + how far its own days within 1 K lie off it",
        )}
        {cell(
          `${name} after`,
          one.after,
          "Σ over the same weather of the signature after + how far its own days within 1 K lie off it",
        )}
        {cell(`${name} saved`, one.saved, "before − after")}
        <TableCell align="right">
          {percent(one.cv_before)} · {percent(one.cv_after)}
        </TableCell>
        <TableCell align="right">{one.fractional === null ? "–" : `± ${percent(one.fractional)}`}</TableCell>
      </TableRow>
    );
  return (
    <FigureTable aria-label="Before and after">
      <TableHead>
        <TableRow>
          <TableCell />
          <TableCell align="right">Before, ± U</TableCell>
          <TableCell align="right">After, ± U</TableCell>
          <TableCell align="right">Less by, ± U</TableCell>
          <TableCell align="right">CV(RMSE)</TableCell>
          <TableCell align="right">Of the saving, 90 %</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {row("Electricity", found.electricity)}
        {row("Heat", found.heat)}
        {found.cop_before && (
          <TableRow>
            <TableCell>COP in that weather</TableCell>
            {cell("COP before", found.cop_before, "heat before ÷ electricity before")}
            {cell("COP after", found.cop_after, "heat after ÷ electricity after")}
            <TableCell align="right">
              {found.cop_change && (
                <HonestFigure
                  unit={false}
                  proof={{
                    title: "COP after less before",
                    about,
                    figure: absolute(found.cop_change),
                    formula: "after − before; what the meters err stands in both",
                  }}
                />
              )}{" "}
              <Box component="span" sx={look.soft}>
                {found.cop_change && (found.cop_change.value < 0 ? "lower" : "higher")}
              </Box>
            </TableCell>
            <TableCell />
            <TableCell />
          </TableRow>
        )}
      </TableBody>
    </FigureTable>
  );
}

function Plot({ found }: { found: Found }) {
  const shade = useShade();
  const { units } = useSettings();
  const me = useMe();
  const temp = useMemo(() => shownIn(me.data?.units ?? [], "degC", units), [me.data, units]);
  const { signature_before: before, signature_after: after } = found;
  const option = useMemo(
    () =>
      daysPlot(
        [
          { of: before, name: "before", days: "soft", line: "soft" },
          { of: after, name: "after", days: "teal", line: "teal" },
        ],
        temp,
        shade,
      ),
    [before, after, temp, shade],
  );
  return (
    <>
      <Typography variant="h2">
        Electricity a day, kWh
        <Key tone="soft">before</Key>
        <Key tone="teal">after</Key>
      </Typography>
      <Chart
        option={option}
        height={220}
        words={`Electricity a day over outdoor temperature: ${number(before?.days ?? 0, 0)} days before, ${number(after?.days ?? 0, 0)} after`}
      />
    </>
  );
}
