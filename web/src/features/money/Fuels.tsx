/** Another fuel: what its heat costs beside this system's, and from which COP, at which weather, on. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useForm, useWatch } from "react-hook-form";

import { api, got, type SystemShown } from "../../api/client";
import { useMe, type Stretch } from "../../api/hooks";
import type { components } from "../../api/schema";
import { useSettings } from "../../app/settings";
import { Ahead, Further, further, useTheirs } from "./Ahead";
import { Facts } from "../../components/Facts";
import { Figure, OneOf } from "../../components/Form";
import { HonestFigure } from "../../components/Proof";
import { Trouble } from "../../components/Said";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { figureText, inUnit, number, shownIn } from "../../components/numbers";

type Fuel = components["schemas"]["FuelShown"];
export type Compared = components["schemas"]["FuelsCompared"];

export interface Asked {
  kind: string;
  unit: string;
  price: number | null;
  kwh: number | null;
  efficiency: number | null;
  by: string;
  below: number | null;
  purchase: number | null;
  grant: number | null;
  electricity_rise: number | null;
  fuel_rise: number | null;
  degree_days: number | null;
}

interface FuelsProps {
  system: SystemShown;
  stretch: Stretch;
}

export function Fuels({ system, stretch }: FuelsProps) {
  const fuels = useQuery({
    queryKey: ["fuels"],
    queryFn: () => got(api.GET("/api/v1/fuels")),
    staleTime: Infinity,
  });
  if (fuels.isError) return <Trouble error={fuels.error} again={() => void fuels.refetch()} />;
  if (!fuels.data) return null;
  return <Beside system={system} stretch={stretch} fuels={fuels.data} />;
}

const asChoices = (words: readonly string[]) => words.map((one) => [one, one] as const);

function Beside({ system, stretch, fuels }: FuelsProps & { fuels: Fuel[] }) {
  const first = must(fuels[0]);
  const form = useForm<Asked>({
    defaultValues: {
      kind: first.kind,
      unit: must(first.units[0]).unit,
      price: null,
      kwh: must(first.units[0]).kwh,
      efficiency: first.efficiency * 100,
      by: must(first.units[0]).value,
      below: null,
      purchase: null,
      grant: null,
      electricity_rise: 0,
      fuel_rise: 0,
      degree_days: null,
    },
  });
  const typed = useWatch({ control: form.control }) as Asked;
  const fuel = must(fuels.find((one) => one.kind === typed.kind));
  const unit = fuel.units.find((one) => one.unit === typed.unit) ?? must(fuel.units[0]);
  // What belongs to a fuel and its unit comes with the choice of them.
  const choose = (kind: string, name: string | null) => {
    const next = must(fuels.find((one) => one.kind === kind));
    const sold = next.units.find((one) => one.unit === name) ?? must(next.units[0]);
    form.setValue("unit", sold.unit);
    form.setValue("kwh", sold.kwh);
    form.setValue("by", sold.value);
    if (kind !== fuel.kind) form.setValue("efficiency", next.efficiency * 100);
  };
  const theirs = useTheirs();
  const known = [typed.price, typed.kwh, typed.efficiency].every(
    (one) => one !== null && Number.isFinite(one),
  );
  const found = useQuery({
    queryKey: ["system", system.id, "fuels", stretch, typed],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/fuels", {
          params: {
            path: { pk: system.id },
            query: {
              ...stretch,
              kind: typed.kind,
              price: must(typed.price),
              kwh: must(typed.kwh),
              efficiency: must(typed.efficiency) / 100,
              by: typed.by as "upper",
              of: unit.value,
              ...further(typed, theirs),
            },
          },
        }),
      ),
    enabled: known,
    placeholderData: keepPreviousData,
  });
  return (
    <Box component="section" aria-label="Another fuel" sx={{ display: "grid", gap: 8 }}>
      <Typography variant="h2">The same heat by another fuel</Typography>
      <Box
        component="form"
        sx={{ display: "flex", flexWrap: "wrap", gap: "6px 12px" }}
        aria-label="Price and content"
      >
        <OneOf
          control={form.control}
          name="kind"
          label="Fuel"
          of={fuels.map((one) => [one.kind, one.words] as const)}
          chosen={(kind) => choose(kind, null)}
        />
        <OneOf
          control={form.control}
          name="unit"
          label="Sold by the"
          of={asChoices(fuel.units.map((one) => one.unit))}
          chosen={(name) => choose(typed.kind, name)}
        />
        <Figure control={form.control} name="price" label={`Price a ${unit.unit}`} width={84} />
        <Figure control={form.control} name="kwh" label={`kWh a ${unit.unit}`} width={84} />
        <Figure control={form.control} name="efficiency" label="Efficiency %" width={64} />
        {unit.value !== "none" && (
          <OneOf
            control={form.control}
            name="by"
            label="by heating value"
            of={asChoices(["upper", "lower"])}
          />
        )}
        <Typography variant="caption" component="p" sx={{ alignSelf: "end" }}>
          Content by the {unit.value === "none" ? "meter" : `${unit.value} heating value`}: {unit.source}.
        </Typography>
      </Box>
      <Ahead control={form.control} found={found.data} theirs={theirs} />
      {!known && (
        <Box component="p" sx={look.soft}>
          Type the price of a {unit.unit}, without the standing charge, to compare.
        </Box>
      )}
      {found.isError && (
        <Alert severity="warning" role="alert">
          {found.error.message}
        </Alert>
      )}
      {known && found.data && <Said system={system} found={found.data} fuel={fuel.words} />}
    </Box>
  );
}

function Said({ system, found, fuel }: { system: SystemShown; found: Compared; fuel: string }) {
  const about = `${system.name} · beside ${fuel}`;
  const money = found.currency ?? "";
  return (
    <>
      <Facts
        facts={[
          found.pumped && {
            name: "Heat of this system",
            value: (
              <HonestFigure
                unit={false}
                proof={{
                  title: "What a kWh of heat costs",
                  about,
                  figure: found.pumped,
                  formula: "average price paid for electricity ÷ COP",
                }}
              />
            ),
            note: `${money}/kWh`,
          },
          {
            name: `Heat of ${fuel}`,
            value: number(found.fuel.per_kwh, 4),
            note: `${money}/kWh · ${number(found.fuel.per_mmbtu, 2)} a MMBtu`,
          },
          found.needed_cop !== null
            ? {
                name: "Break-even COP",
                value: number(found.needed_cop, 2),
                note: `electricity at ${number(found.electricity_price ?? 0, 4)}`,
              }
            : null,
          found.saved && {
            name: found.saved.value >= 0 ? "Cheaper in this period by" : "Dearer in this period by",
            value: (
              <HonestFigure
                unit={false}
                proof={{
                  title: "The same heat by the fuel, less the electricity",
                  about,
                  figure: found.saved,
                  formula: `heat × ${number(found.fuel.per_kwh, 4)} − electricity × ${number(found.electricity_price ?? 0, 4)}`,
                  notes: [
                    "Standing charges are on neither side. Heat of the readings that there are; the fuel's efficiency is as typed, without a U of its own.",
                  ],
                }}
              />
            ),
            note: money,
          },
        ].filter((one) => one !== null)}
      />
      {found.reason && (
        <Box component="p" sx={look.soft}>
          Not compared: {found.reason.sentence}.
        </Box>
      )}
      <Crossing found={found} fuel={fuel} />
      <Further about={about} found={found} fuel={fuel} />
    </>
  );
}

/** The weather at which the one overtakes the other, in a sentence. */
function Crossing({ found, fuel }: { found: Compared; fuel: string }) {
  const { units } = useSettings();
  const me = useMe();
  const temp = shownIn(me.data?.units ?? [], "degC", units);
  const { break_even } = found;
  if (!break_even)
    return found.break_even_reason ? (
      <Box component="p" sx={look.soft}>
        Break-even weather: not told; {found.break_even_reason.sentence}.
      </Box>
    ) : null;
  if (break_even.crossing === "always cheaper")
    return <p>On none of the days seen was it too cold: {fuel} was dearer at every temperature.</p>;
  if (break_even.crossing === "never cheaper")
    return <p>On none of the days seen was the COP high enough: {fuel} was cheaper at every temperature.</p>;
  const at = inUnit(break_even.outdoor, temp);
  return (
    <p>
      The COP of these days crosses the break-even at{" "}
      <strong>{at ? `${figureText(at)} ± ${number(at.U, at.decimals ?? 1)} ${temp.symbol}` : "–"}</strong>:{" "}
      {number(break_even.days_dearer, 0)} days were colder, {number(break_even.heat_dearer, 0)} kWh of heat,
      when {fuel} was cheaper; {number(break_even.days_cheaper, 0)} warmer,{" "}
      {number(break_even.heat_cheaper, 0)} kWh.
    </p>
  );
}
