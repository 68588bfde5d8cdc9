/** What feeds the house besides the grid: where each flow is logged, and what own electricity is priced at. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { LineTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import type { SupplyChannels, Supply } from "./draft";
import { ChoiceOf, ChoiceRow, Field, type Part, Wrongs } from "./Fields";

const FLOWS: [keyof SupplyChannels, string, string][] = [
  ["grid_import", "From the grid", "grid_power stands for both directions, from the grid positive"],
  ["grid_export", "To the grid", ""],
  ["solar", "Solar", "what the panels make"],
  ["battery_charge", "Into the battery", "battery_power stands for both directions, out of it positive"],
  ["battery_discharge", "Out of the battery", ""],
  ["house_load", "All the house uses", "in place of the grid, or beside it"],
];

export function SupplyPart({ setup, draft, edit, problems }: Part) {
  const { supply } = draft;
  if (!supply) {
    return (
      <section>
        <Typography variant="h2">Solar and battery</Typography>
        <Box component="p" sx={look.soft}>
          None: all electricity is priced as bought.
        </Box>
        <Button onClick={() => edit({ ...draft, supply: must(setup.fresh.supply) as unknown as Supply })}>
          Describe solar or a battery
        </Button>
      </section>
    );
  }
  const put = (change: Partial<Supply>) => edit({ ...draft, supply: { ...supply, ...change } });
  return (
    <section>
      <Typography variant="h2">Solar and battery</Typography>
      <Wrongs problems={problems.filter((one) => one.where === "supply")} where="supply" />
      <LineTable aria-label="Solar and battery">
        <TableBody>
          {FLOWS.map(([field, label, hint]) => (
            <Field key={field} label={label} where={`supply.${field}`} problems={problems}>
              <TextInput
                sx={{ width: 160 }}
                aria-label={`Channel: ${label.toLowerCase()}`}
                list="channels"
                value={supply[field] ?? ""}
                onChange={(event) => put({ [field]: event.target.value || null })}
              />{" "}
              <Box component="span" sx={look.soft}>
                {hint}
              </Box>
            </Field>
          ))}
          <ChoiceRow
            label="Own solar is priced at"
            where="supply.solar_worth"
            problems={problems}
            value={supply.solar_worth}
            choices={must(setup.choices["supply.solar_worth"])}
            put={(solar_worth) => put({ solar_worth: must(solar_worth) })}
          />
          <Field label="Own electricity goes to" where="supply.sharing" problems={problems}>
            <ChoiceOf
              label="Own electricity goes to"
              value={supply.sharing}
              choices={must(setup.choices["supply.sharing"])}
              put={(sharing) => put({ sharing: must(sharing) })}
            />{" "}
            <Button variant="text" onClick={() => edit({ ...draft, supply: null })}>
              Remove solar and battery
            </Button>
          </Field>
        </TableBody>
      </LineTable>
    </section>
  );
}
