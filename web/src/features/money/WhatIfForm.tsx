/** What is asked of a what-if: one line for settings, one for a store, one for a tariff, one for another unit. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { type ReactNode } from "react";
import { useController, useWatch, type Control } from "react-hook-form";

import type { components } from "../../api/schema";
import { FileInput } from "../../components/FileInput";
import { Figure, OneOf, Tick, Words } from "../../components/Form";
import * as look from "../../components/look";
import { backFrom, type Shown } from "../../components/numbers";

type Typed = components["schemas"]["WhatIfTyped"];
type Kind = components["schemas"]["StoreKind"];

export interface Lines {
  flow_lower: number | null;
  fewer_starts: number | null;
  defrosts_as_expected: boolean;
  hot_water_lower: number | null;
  heaters_off: boolean;
  store: Kind | null;
  kwh_k: number | null;
  swing: number | null;
  kwh: number | null;
  efficiency: number | null;
  price: number | null;
  standing: number | null;
  cheap: number | null;
  cheap_from: string;
  cheap_to: string;
  table: { name: string; text: string } | null;
}

export const BLANK: Lines = {
  flow_lower: null,
  fewer_starts: null,
  defrosts_as_expected: false,
  hot_water_lower: null,
  heaters_off: false,
  store: null,
  kwh_k: null,
  swing: null,
  kwh: null,
  efficiency: 90,
  price: null,
  standing: null,
  cheap: null,
  cheap_from: "00:30",
  cheap_to: "05:30",
  table: null,
};

const is = (value: number | null): value is number => value !== null && Number.isFinite(value);

/** What goes to the server, in its units; an empty field asks for nothing. */
export function asTyped(lines: Lines, kelvin: Shown): Typed {
  const kelvins = (value: number | null) => (is(value) ? backFrom(kelvin, value) : null);
  return {
    flow_lower: kelvins(lines.flow_lower) ?? 0,
    fewer_starts: is(lines.fewer_starts) ? lines.fewer_starts / 100 : 0,
    defrosts_as_expected: lines.defrosts_as_expected,
    hot_water_lower: kelvins(lines.hot_water_lower) ?? 0,
    heaters_off: lines.heaters_off,
    table: lines.table?.text ?? null,
    store: lines.store
      ? {
          kind: lines.store,
          kwh_k: is(lines.kwh_k) ? lines.kwh_k : null,
          swing_k: kelvins(lines.swing),
          kwh: is(lines.kwh) ? lines.kwh : null,
          efficiency: is(lines.efficiency) ? lines.efficiency / 100 : 0.9,
        }
      : null,
    tariff: is(lines.price)
      ? {
          price: lines.price,
          standing_charge: is(lines.standing) ? lines.standing : 0,
          cheap: is(lines.cheap) ? lines.cheap : null,
          cheap_from: lines.cheap_from,
          cheap_to: lines.cheap_to,
        }
      : null,
  };
}

interface WhatIfFormProps {
  control: Control<Lines>;
  kelvin: Shown;
}

export function WhatIfForm({ control, kelvin }: WhatIfFormProps) {
  const store = useWatch({ control, name: "store" });
  const by = kelvin.symbol;
  return (
    <Box sx={{ display: "grid", gap: 4 }}>
      <Row name="Settings">
        <Figure control={control} name="flow_lower" label={`Heating flow lower by ${by}`} width={84} />
        <Figure control={control} name="fewer_starts" label="Fewer starts, %" width={84} />
        <Figure control={control} name="hot_water_lower" label={`Hot water lower by ${by}`} width={84} />
        <Tick control={control} name="defrosts_as_expected" label="defrosts only as the frost asks" />
        <Tick control={control} name="heaters_off" label="resistance heaters off" />
      </Row>
      <Row name="Into cheap hours">
        <OneOf
          control={control}
          name="store"
          label="Held by"
          none="nothing"
          of={[
            ["building", "the building"],
            ["tank", "the hot-water tank"],
            ["battery", "a battery"],
          ]}
        />
        {store === "building" && (
          <Figure control={control} name="kwh_k" label={`It holds, kWh a kelvin`} width={84} />
        )}
        {(store === "building" || store === "tank") && (
          <Figure
            control={control}
            name="swing"
            label={store === "tank" ? `Tank hotter by up to ${by}` : `Rooms warmer by up to ${by}`}
            width={84}
          />
        )}
        {store === "battery" && (
          <>
            <Figure control={control} name="kwh" label="Gives a day, kWh" width={84} />
            <Figure control={control} name="efficiency" label="Out and in again, %" width={84} />
          </>
        )}
      </Row>
      <Row name="Another tariff">
        <Figure control={control} name="price" label="Price a kWh, with VAT" width={84} />
        <Figure control={control} name="standing" label="Standing charge a day" width={84} />
        <Figure control={control} name="cheap" label="Cheap a kWh" width={84} />
        <Words control={control} name="cheap_from" label="from" type="time" width={92} />
        <Words control={control} name="cheap_to" label="to" type="time" width={92} />
      </Row>
      <Row name="Another unit">
        <Table control={control} />
      </Row>
    </Box>
  );
}

function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <Box
      role="group"
      aria-label={name}
      sx={{
        display: "grid",
        gridTemplateColumns: "112px minmax(0, 1fr)",
        gap: 12,
        borderTop: "1px solid var(--hair)",
        paddingTop: "4px",
        minHeight: 46,
      }}
    >
      <Typography variant="h3" component="span" sx={{ alignSelf: "center" }}>
        {name}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: "4px 14px", alignItems: "flex-start" }}>
        {children}
      </Box>
    </Box>
  );
}

/** Another unit's rated table from a CSV file. */
function Table({ control }: { control: Control<Lines> }) {
  const { field } = useController({ control, name: "table" });
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 10, alignSelf: "center" }}>
      <Button component="label">
        Its rated table, CSV …
        <FileInput
          accept=".csv,text/csv"
          aria-label="Rated table of another unit"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) void file.text().then((text) => field.onChange({ name: file.name, text }));
            event.target.value = "";
          }}
        />
      </Button>
      {field.value ? (
        <>
          <span>{field.value.name}</span>
          <Button onClick={() => field.onChange(null)}>Leave it out</Button>
        </>
      ) : (
        <Box component="span" sx={look.soft}>
          columns outdoor, flow, capacity, cop, each with its unit
        </Box>
      )}
    </Box>
  );
}
