/** What a kWh costs more once a month's use is above a limit. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import * as look from "../../../components/look";
import { must } from "../../../components/must";
import { NumberField } from "../../../components/NumberField";
import { LineTable } from "../../../components/Sheets";
import { Field, Wrongs, type Part } from "../Fields";
import type { Prices, Tariff, Tier } from "../draft";

interface Props extends Part {
  tariff: Tariff;
  one: Prices;
  putOne: (change: Partial<Prices>) => void;
  where: string;
}

export function Tiers({ setup, draft, edit, tariff, one, putOne, where, problems }: Props) {
  const put = (k: number, change: Partial<Tier>) =>
    putOne({ tiers: one.tiers.map((tier, j) => (j === k ? { ...tier, ...change } : tier)) });
  return (
    <Box sx={{ marginTop: 8 }}>
      {one.tiers.length > 0 && (
        <LineTable aria-label="Tiers">
          <TableBody>
            {one.tiers.map((tier, k) => (
              <Field key={k} label={`Tier ${k + 1}`} where={`${where}.tiers.${k}`} problems={problems}>
                above{" "}
                <NumberField
                  label={`Tier ${k + 1} begins above`}
                  value={tier.above_kwh}
                  put={(above) => put(k, { above_kwh: above ?? 0 })}
                />{" "}
                kWh a month, a kWh costs{" "}
                <NumberField
                  label={`Tier ${k + 1} adds`}
                  value={tier.price_more}
                  put={(more) => put(k, { price_more: more ?? 0 })}
                />{" "}
                more{" "}
                <Button
                  variant="text"
                  aria-label={`Remove tier ${k + 1}`}
                  onClick={() => putOne({ tiers: one.tiers.filter((_, j) => j !== k) })}
                >
                  Remove
                </Button>
              </Field>
            ))}
            <Field label="Other uses" where="tariff.other_uses_kwh" problems={problems}>
              <NumberField
                label="Other uses of the supply a month"
                value={tariff.other_uses_kwh}
                put={(kwh) => edit({ ...draft, tariff: { ...tariff, other_uses_kwh: kwh ?? 0 } })}
              />{" "}
              kWh a month{" "}
              <Box component="span" sx={look.soft}>
                what else the same supply feeds; it fills the tiers first
              </Box>
            </Field>
          </TableBody>
        </LineTable>
      )}
      <Wrongs problems={problems.filter((p) => p.where === `${where}.tiers`)} where={`${where}.tiers`} />
      <Button
        variant="text"
        onClick={() =>
          putOne({ tiers: [...one.tiers, must(setup.fresh["tariff.tiers"]) as unknown as Tier] })
        }
      >
        Add a tier
      </Button>
    </Box>
  );
}
