/** The tariff: prices by time of day. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import Typography from "@mui/material/Typography";
import { LineTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { cap } from "../../components/Proof";
import { NumberField } from "../../components/NumberField";
import { Field, type Part } from "./Fields";

export function Prices({ draft, edit, problems }: Part) {
  const { tariff } = draft;
  if (!tariff) {
    return (
      <section>
        <Typography variant="h2">Tariff</Typography>
        <Box component="p" sx={look.soft}>
          None: no cost is shown.
        </Box>
        <Button
          onClick={() =>
            edit({
              ...draft,
              tariff: { price: 0.3, currency: "EUR", name: "day", standing_charge: 0, bands: [] },
            })
          }
        >
          Add a tariff
        </Button>
      </section>
    );
  }
  const put = (change: Partial<typeof tariff>) => edit({ ...draft, tariff: { ...tariff, ...change } });
  const band = (k: number, change: Partial<(typeof tariff.bands)[number]>) =>
    put({ bands: tariff.bands.map((one, j) => (j === k ? { ...one, ...change } : one)) });
  return (
    <section>
      <Typography variant="h2">Tariff</Typography>
      <LineTable aria-label="Tariff">
        <TableBody>
          <Field label={cap(tariff.name)} where="tariff.price" problems={problems}>
            <NumberField
              label="Price per kWh"
              value={tariff.price}
              put={(price) => put({ price: price ?? 0 })}
            />{" "}
            <TextInput
              sx={{ width: 52 }}
              aria-label="Currency"
              value={tariff.currency}
              onChange={(event) => put({ currency: event.target.value })}
            />{" "}
            a kWh
          </Field>
          <Field label="Standing charge" where="tariff.standing_charge" problems={problems}>
            <NumberField
              label="Standing charge a day"
              value={tariff.standing_charge}
              put={(standing) => put({ standing_charge: standing ?? 0 })}
            />{" "}
            a day
          </Field>
          {tariff.bands.map((one, k) => (
            <Field key={k} label={cap(one.name)} where={`tariff.bands.${k}.start`} problems={problems}>
              <NumberField
                label={`Price of ${one.name}`}
                value={one.price}
                put={(price) => band(k, { price: price ?? 0 })}
              />{" "}
              from{" "}
              <TextInput
                type="time"
                aria-label={`${one.name} begins`}
                value={one.start.slice(0, 5)}
                onChange={(event) => band(k, { start: `${event.target.value}:00` })}
              />{" "}
              to{" "}
              <TextInput
                type="time"
                aria-label={`${one.name} ends`}
                value={one.end.slice(0, 5)}
                onChange={(event) => band(k, { end: `${event.target.value}:00` })}
              />
              , share{" "}
              <NumberField
                label={`Share of the electricity in ${one.name}`}
                value={one.share}
                put={(share) => band(k, { share })}
              />{" "}
              <Box component="span" sx={look.soft}>
                0 to 1, from a bill; used where readings do not tell the hours
              </Box>{" "}
              <Button variant="text" onClick={() => put({ bands: tariff.bands.filter((_, j) => j !== k) })}>
                Remove
              </Button>
            </Field>
          ))}
        </TableBody>
      </LineTable>
      <Button
        onClick={() =>
          put({
            bands: [
              ...tariff.bands,
              {
                name: `band ${tariff.bands.length + 1}`,
                price: tariff.price,
                start: "23:00:00",
                end: "07:00:00",
                weekdays: [0, 1, 2, 3, 4, 5, 6],
                share: null,
              },
            ],
          })
        }
      >
        Add a band
      </Button>
    </section>
  );
}
