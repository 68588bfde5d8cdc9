/** The tariff: what a kWh costs by the clock, the season and the date, drawn and written. */
import { useState } from "react";

import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Tab from "@mui/material/Tab";
import Tabs from "@mui/material/Tabs";
import TableBody from "@mui/material/TableBody";
import Typography from "@mui/material/Typography";
import type { components } from "../../../api/schema";
import { Choice } from "../../../components/Choice";
import * as look from "../../../components/look";
import { must } from "../../../components/must";
import { NumberField } from "../../../components/NumberField";
import { LineTable } from "../../../components/Sheets";
import { TextInput } from "../../../components/TextInput";
import { Field, Wrongs, type Part } from "../Fields";
import type { Prices, PricesFrom, Tariff } from "../draft";
import { Bands } from "./Bands";
import { ClockStrip, type Drawn } from "./ClockStrip";
import { Tiers } from "./Tiers";

export type EditionClock = components["schemas"]["EditionClock"];

export function TariffPart(part: Part & { clock: EditionClock[] }) {
  const { setup, draft, edit } = part;
  const { tariff } = draft;
  if (!tariff) {
    return (
      <section>
        <Typography variant="h2">Tariff</Typography>
        <Box component="p" sx={look.soft}>
          None: no cost is shown.
        </Box>
        <Button onClick={() => edit({ ...draft, tariff: must(setup.fresh.tariff) as unknown as Tariff })}>
          Add a tariff
        </Button>
      </section>
    );
  }
  return <Editions {...part} tariff={tariff} />;
}

type WithTariff = Part & { clock: EditionClock[]; tariff: Tariff };

/** Which prices are looked at: the first, or those from a date on. */
function Editions(part: WithTariff) {
  const { draft, edit, tariff, problems } = part;
  const [at, setAt] = useState(0);
  const put = (next: Tariff) => edit({ ...draft, tariff: next });
  const k = Math.min(at, tariff.changes.length);
  const changed = (changes: PricesFrom[]) => put({ ...tariff, changes });
  const add = () => {
    const { currency: _, changes: _changes, other_uses_kwh: _other, ...held } = tariff;
    const last = tariff.changes.at(-1) ?? held;
    changed([...tariff.changes, { ...last, start: new Date().toISOString().slice(0, 10) }]);
    setAt(tariff.changes.length + 1);
  };
  const one: Prices = k ? must(tariff.changes[k - 1]) : tariff;
  const putOne = (change: Partial<Prices>) =>
    k
      ? changed(tariff.changes.map((other, j) => (j === k - 1 ? { ...other, ...change } : other)))
      : put({ ...tariff, ...change });
  const where = k ? `tariff.changes.${k - 1}` : "tariff";
  return (
    <section>
      <Typography variant="h2">Tariff</Typography>
      <Box sx={{ display: "flex", alignItems: "center", gap: 12, marginBottom: 6 }}>
        <Tabs value={k} onChange={(_, next: number) => setAt(next)} aria-label="Prices by date">
          <Tab label={tariff.changes.length ? "at first" : "always"} value={0} />
          {tariff.changes.map((change, j) => (
            <Tab key={j} label={`from ${change.start}`} value={j + 1} />
          ))}
        </Tabs>
        <Button variant="text" onClick={add}>
          Add prices from a date on
        </Button>
        <Button variant="text" onClick={() => edit({ ...draft, tariff: null })}>
          Remove the tariff
        </Button>
      </Box>
      <Wrongs problems={problems.filter((p) => p.where === "tariff")} where="tariff" />
      <Edition
        {...part}
        one={one}
        putOne={putOne}
        where={where}
        at={k}
        from={
          k > 0 && (
            <Field label="From" where={`${where}.start`} problems={problems}>
              <TextInput
                type="date"
                aria-label="These prices hold from"
                value={must(tariff.changes[k - 1]).start}
                onChange={(event) =>
                  changed(
                    tariff.changes.map((c, j) => (j === k - 1 ? { ...c, start: event.target.value } : c)),
                  )
                }
              />{" "}
              <Button
                variant="text"
                onClick={() => {
                  changed(tariff.changes.filter((_, j) => j !== k - 1));
                  setAt(k - 1);
                }}
              >
                Remove these prices
              </Button>
            </Field>
          )
        }
      />
    </section>
  );
}

/** The prices of one edition. */
function Edition(
  part: WithTariff & {
    one: Prices;
    putOne: (change: Partial<Prices>) => void;
    where: string;
    at: number;
    from: React.ReactNode;
  },
) {
  const { setup, draft, edit, problems, tariff, one, putOne, where, clock, at, from } = part;
  const drawn = clock[at];
  const paint = (span: Drawn) =>
    putOne({
      bands: [
        ...one.bands,
        {
          ...(must(setup.fresh["tariff.bands"]) as unknown as Prices["bands"][number]),
          name: `band ${one.bands.length + 1}`,
          price: one.price,
          ...span,
        },
      ],
    });
  return (
    <>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "repeat(auto-fit, minmax(380px, 1fr))",
          gap: 24,
          alignItems: "start",
        }}
      >
        <LineTable aria-label="Tariff">
          <TableBody>
            {from}
            <Field label="Currency" where="tariff.currency" problems={problems}>
              <TextInput
                sx={{ width: 64 }}
                aria-label="Currency"
                value={tariff.currency}
                onChange={(event) => edit({ ...draft, tariff: { ...tariff, currency: event.target.value } })}
              />
            </Field>
            <Field label="Standing charge" where={`${where}.standing_charge`} problems={problems}>
              <NumberField
                label="Standing charge"
                value={one.standing_charge}
                put={(standing) => putOne({ standing_charge: standing ?? 0 })}
              />{" "}
              a{" "}
              <Choice
                aria-label="Standing charge is for a"
                value={one.standing_per}
                onChange={(event) => putOne({ standing_per: event.target.value })}
              >
                <option value="day">day</option>
                <option value="month">month</option>
              </Choice>
            </Field>
            <Field label="VAT, added" where={`${where}.vat`} problems={problems}>
              <NumberField
                label="VAT that is added"
                value={one.vat}
                put={(vat) => putOne({ vat: vat ?? 0 })}
              />{" "}
              <Box component="span" sx={look.soft}>
                share, as 0.2; 0 where the prices hold it
              </Box>
            </Field>
            <Field label="Export price" where={`${where}.export_price`} problems={problems}>
              <NumberField
                label="Export price"
                value={one.export_price}
                put={(price) => putOne({ export_price: price ?? 0 })}
              />{" "}
              <Box component="span" sx={look.soft}>
                a kWh given to the grid, as it is paid
              </Box>
            </Field>
            <Field label="By the hour" where={`${where}.by_the_hour`} problems={problems}>
              <Choice
                aria-label="Prices come"
                value={one.by_the_hour ? "readings" : "clock"}
                onChange={(event) =>
                  putOne({
                    by_the_hour:
                      event.target.value === "clock"
                        ? null
                        : (must(setup.fresh["tariff.by_the_hour"]) as unknown as { add: number }),
                  })
                }
              >
                <option value="clock">prices by the clock, below</option>
                <option value="readings">prices as readings, from a file</option>
              </Choice>
              {one.by_the_hour && (
                <>
                  {" "}
                  and{" "}
                  <NumberField
                    label="Added to each price read"
                    value={one.by_the_hour.add}
                    put={(more) => putOne({ by_the_hour: { add: more ?? 0 } })}
                  />{" "}
                  <Box component="span" sx={look.soft}>
                    added to each. Import the prices in Log like any file: a column in {tariff.currency}/kWh
                    becomes electricity_price.
                  </Box>
                </>
              )}
            </Field>
          </TableBody>
        </LineTable>
        {!one.by_the_hour && <ClockStrip edition={drawn} one={one} paint={paint} />}
      </Box>
      {!one.by_the_hour && <Bands {...part} ranks={drawn?.ranks} />}
      <Tiers {...part} />
    </>
  );
}
