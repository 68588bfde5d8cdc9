/** What the electricity went to: each state of the unit, its kWh, and what it cost at the prices of its moments. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import type { Money, SystemShown } from "../../api/client";
import { AT_MOMENTS } from "../../components/costProof";
import * as look from "../../components/look";
import { number } from "../../components/numbers";
import { cap, HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";

export function Uses({ system, found }: { system: SystemShown; found: Money }) {
  if (!found.uses.length) return null;
  const about = (name: string) => `${system.name} · ${found.local} · ${name}`;
  return (
    <section>
      <Typography variant="h2">
        What it went to{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
          all metered electricity, {found.currency ? "at the prices of its moments" : "no tariff"}
        </Box>
      </Typography>
      <FigureTable aria-label="What the electricity went to">
        <TableHead>
          <TableRow>
            <TableCell>While</TableCell>
            <TableCell align="right">Hours</TableCell>
            <TableCell align="right">Electricity kWh, ± U</TableCell>
            {found.currency && (
              <>
                <TableCell align="right">Cost {found.currency}, ± U</TableCell>
                <TableCell align="right">Paid {found.currency}/kWh</TableCell>
              </>
            )}
          </TableRow>
        </TableHead>
        <TableBody>
          {found.uses.map((use) => (
            <TableRow key={use.name}>
              <TableCell>{cap(use.name)}</TableCell>
              <TableCell align="right">{number(use.hours, 0)}</TableCell>
              <TableCell align="right">
                <HonestFigure
                  unit={false}
                  proof={{
                    title: "Electricity",
                    about: about(use.name),
                    figure: use.electricity,
                    formula: `Σ of all meters, each counted once, over ${number(use.hours, 0)} h of ${use.name}`,
                  }}
                />
              </TableCell>
              {found.currency && (
                <>
                  <TableCell align="right">
                    {use.paid ? (
                      <HonestFigure
                        unit={false}
                        proof={{
                          title: "Cost",
                          about: about(use.name),
                          figure: use.paid,
                          ...AT_MOMENTS,
                        }}
                      />
                    ) : (
                      "–"
                    )}
                  </TableCell>
                  <TableCell align="right">
                    {use.price_paid === null ? "–" : number(use.price_paid, 3)}
                  </TableCell>
                </>
              )}
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}
