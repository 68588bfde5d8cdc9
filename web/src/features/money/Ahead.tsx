/** Beside a fuel: a hybrid of both, the years until a purchase is paid back, the bills of the heating before. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Control } from "react-hook-form";
import { useMe } from "../../api/hooks";
import { useSettings } from "../../app/settings";
import { Figure } from "../../components/Form";
import { HonestFigure } from "../../components/Proof";
import * as look from "../../components/look";
import { backFrom, number, shownIn, type Shown } from "../../components/numbers";
import type { Asked, Compared } from "./Fuels";

/** The reader's own units for what is typed here. */
export interface Theirs {
  temperature: Shown;
  degreeDays: Shown;
}

export function useTheirs(): Theirs {
  const { units } = useSettings();
  const me = useMe();
  const of = (unit: string) => shownIn(me.data?.units ?? [], unit, units);
  return { temperature: of("degC"), degreeDays: of("kelvin_day") };
}

/** What was typed of the purchase, of prices to come and of the hybrid; nothing of what was not. */
export function further(typed: Asked, theirs: Theirs) {
  const is = (value: number | null): value is number => value !== null && Number.isFinite(value);
  return {
    ...(is(typed.below) ? { below: backFrom(theirs.temperature, typed.below) } : {}),
    ...(is(typed.purchase) ? { purchase: typed.purchase } : {}),
    ...(is(typed.grant) ? { grant: typed.grant } : {}),
    ...(is(typed.electricity_rise) ? { electricity_rise: typed.electricity_rise / 100 } : {}),
    ...(is(typed.fuel_rise) ? { fuel_rise: typed.fuel_rise / 100 } : {}),
    ...(is(typed.degree_days) ? { degree_days_before: backFrom(theirs.degreeDays, typed.degree_days) } : {}),
  };
}

export function Ahead({
  control,
  found,
  theirs,
}: {
  control: Control<Asked>;
  found: Compared | undefined;
  theirs: Theirs;
}) {
  return (
    <Box
      component="form"
      aria-label="Years ahead and hybrid"
      sx={{ display: "flex", flexWrap: "wrap", gap: "6px 12px" }}
    >
      <Figure control={control} name="purchase" label="Purchase" width={84} />
      <Figure control={control} name="grant" label="Grant" width={76} />
      <Figure control={control} name="electricity_rise" label="Electricity rises % a year" width={84} />
      <Figure control={control} name="fuel_rise" label="Fuel rises % a year" width={84} />
      <Figure
        control={control}
        name="below"
        label={`Fuel below ${theirs.temperature.symbol} outdoors`}
        width={84}
      />
      {found?.before && (
        <Figure
          control={control}
          name="degree_days"
          label={`Degree-days of the billed year, ${theirs.degreeDays.symbol}`}
          width={84}
        />
      )}
    </Box>
  );
}

export function Further({ about, found, fuel }: { about: string; found: Compared; fuel: string }) {
  return (
    <>
      <Both about={about} found={found} fuel={fuel} />
      <Years about={about} found={found} />
      <Bills about={about} found={found} fuel={fuel} />
    </>
  );
}

/** A hybrid: the fuel on the colder days. */
function Both({ about, found, fuel }: { about: string; found: Compared; fuel: string }) {
  const { temperature } = useTheirs();
  const { hybrid } = found;
  if (!hybrid) return null;
  const { saved } = hybrid;
  return (
    <p>
      A hybrid with {fuel} on the {number(hybrid.days, 0)} days below{" "}
      {number(temperature.of(hybrid.below), 1)} {temperature.symbol} ({number(hybrid.heat, 0)} kWh of heat)
      would have been {saved.value >= 0 ? "cheaper" : "dearer"} than the pump alone by{" "}
      <HonestFigure
        proof={{
          title: "A hybrid beside the pump alone",
          about,
          figure: { ...saved, value: Math.abs(saved.value) },
          formula:
            "Σ over the colder days of electricity × price paid − heat × price of the heat by the fuel",
          notes: ["Standing charges of the fuel, its boiler and losses at rest are not counted."],
        }}
      />
      .
    </p>
  );
}

/** When the purchase has come back. */
function Years({ about, found }: { about: string; found: Compared }) {
  const { payback } = found;
  if (!payback)
    return found.payback_reason ? (
      <Box component="p" sx={look.soft}>
        Not counted: {found.payback_reason.sentence}.
      </Box>
    ) : null;
  const years = (count: number | null) => (count === null ? "never within 100" : number(count, 1));
  return (
    <p>
      {number(payback.price, 2)} {found.currency} are paid back in{" "}
      <strong>{payback.years === null ? "no time within 100 years" : `${years(payback.years)} years`}</strong>{" "}
      (95 %: {years(payback.soonest)} to {years(payback.latest)}): a year of{" "}
      <HonestFigure
        proof={{
          title: "Electricity a year",
          about,
          figure: payback.spent,
          formula: "electricity × price paid",
        }}
      />{" "}
      against{" "}
      <HonestFigure
        proof={{
          title: "The fuel a year",
          about,
          figure: payback.before,
          formula: "heat × price of the heat",
        }}
      />
      , each with its rise. The interval is of the meters; prices to come are as typed.
    </p>
  );
}

/** What the heat of the bills would cost today. */
function Bills({ about, found, fuel }: { about: string; found: Compared; fuel: string }) {
  const { before } = found;
  if (!before) return null;
  const heat = before.in_this_weather ?? before.heat;
  return (
    <p>
      The bills before are{" "}
      <HonestFigure
        proof={{
          title: "Useful heat of the heating before",
          about,
          figure: heat,
          formula: before.in_this_weather
            ? "hot water + (heat billed − hot water) × degree-days of this year ÷ of the billed year"
            : "fuel × efficiency as described, by the year",
        }}
      />{" "}
      of heat a year{before.in_this_weather ? " in this year’s weather" : ""},{" "}
      {before.hot_water ? "hot water in it" : "without hot water, which this system may give as well"}; by{" "}
      {fuel} at this price{" "}
      <HonestFigure
        proof={{
          title: "The bills at today’s price",
          about,
          figure: before.cost,
          formula: "heat × price of the heat",
        }}
      />
      .{" "}
      {!before.in_this_weather && (
        <Typography variant="caption" component="span">
          Not corrected for the weather: type the degree-days of the billed year.
        </Typography>
      )}
    </p>
  );
}
