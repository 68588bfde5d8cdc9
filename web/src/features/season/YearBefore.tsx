/** This period against the same days a year earlier, with the weather of these laid under both. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import type { Figure, SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import * as look from "../../components/look";
import { number } from "../../components/numbers";
import { HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import type { SeasonShown } from "./Season";

type Avoided = components["schemas"]["AvoidedShown"];

export function YearBefore({ system, found }: { system: SystemShown; found: SeasonShown }) {
  const { before } = found;
  if (!before) return null;
  const about = `${system.name} · ${found.local} against ${before.local}`;
  return (
    <section>
      <Typography variant="h2">
        Against a year earlier{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
          {before.local}, by the days then in the weather of now
        </Box>
      </Typography>
      <AvoidedTable
        about={about}
        rows={[
          ["Electricity", before.electricity, before.electricity_reason?.sentence],
          ["Heat", before.heat, before.heat_reason?.sentence],
        ]}
      />
    </section>
  );
}

/** What was used against what the days before would have used in the same weather. */
export function AvoidedTable({
  about,
  rows,
}: {
  about: string;
  rows: [string, Avoided | null, string | undefined][];
}) {
  const cell = (title: string, figure: Figure, formula: string, notes: string[] = []) => (
    <TableCell align="right">
      <HonestFigure unit={false} proof={{ title, about, figure, formula, notes }} />
    </TableCell>
  );
  return (
    <FigureTable tight aria-label="Avoided">
      <TableHead>
        <TableRow>
          <TableCell>kWh</TableCell>
          <TableCell align="right">By the days before, ± U</TableCell>
          <TableCell align="right">Used, ± U</TableCell>
          <TableCell align="right">Less by, ± U</TableCell>
          <TableCell>What may be said</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {rows.map(([name, one, why]) =>
          one ? (
            <TableRow key={name}>
              <TableCell>{name}</TableCell>
              {cell(
                `${name} by the days before`,
                one.expected,
                "Σ at each day’s weather of the signature before + how far its own days within 1 K lie off it",
                [
                  `${number(one.days, 0)} days; ${number(one.outside, 0)} in weather that the days before did not see are not counted.`,
                ],
              )}
              {cell(`${name} used`, one.measured, "Σ of the same days as measured")}
              {cell(`${name} less by`, one.avoided, "by the days before − used")}
              <TableCell>
                <Box component="span" sx={one.worth === "saved" ? look.teal : {}}>
                  {one.worth}
                </Box>{" "}
                <Box component="span" sx={look.soft}>
                  over {number(one.days, 0)} days
                </Box>
              </TableCell>
            </TableRow>
          ) : (
            <TableRow key={name}>
              <TableCell>{name}</TableCell>
              <TableCell colSpan={4} sx={look.soft}>
                {why}
              </TableCell>
            </TableRow>
          ),
        )}
      </TableBody>
    </FigureTable>
  );
}
