/** Electricity that gave no heat, or more of it than is needed: each loss with its sum and where to look. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import type { SystemShown } from "../../api/client";
import * as look from "../../components/look";
import { percent } from "../../components/numbers";
import { HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import { To } from "../../components/To";
import type { SeasonShown } from "./Season";

export function Losses({ system, found }: { system: SystemShown; found: SeasonShown }) {
  if (!found.losses.length) return null;
  return (
    <section>
      <Typography variant="h2">
        Losses{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
          not to be added: some stand in two
        </Box>
      </Typography>
      <FigureTable tight aria-label="Losses">
        <TableHead>
          <TableRow>
            <TableCell>By</TableCell>
            <TableCell align="right">Electricity kWh, ± U</TableCell>
            <TableCell align="right">Of all</TableCell>
            {found.currency && <TableCell align="right">Cost {found.currency}, ± U</TableCell>}
          </TableRow>
        </TableHead>
        <TableBody>
          {found.losses.map((loss) => {
            const about = `${system.name} · ${found.local} · ${loss.name}`;
            return (
              <TableRow key={loss.code}>
                <TableCell>
                  <To to={viewOf(system.id, loss.view)}>{loss.name}</To>
                </TableCell>
                <TableCell align="right">
                  <HonestFigure
                    unit={false}
                    proof={{ title: loss.name, about, figure: loss.electricity, formula: loss.formula }}
                  />
                </TableCell>
                <TableCell align="right">{loss.share === null ? "–" : percent(loss.share)}</TableCell>
                {found.currency && (
                  <TableCell align="right">
                    <HonestFigure
                      unit={false}
                      proof={{
                        title: `${loss.name}, in money`,
                        about,
                        figure: loss.paid,
                        formula: "electricity × average price paid in the period",
                      }}
                    />
                  </TableCell>
                )}
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
    </section>
  );
}

/** The address of a view that the core names: running/starts. */
function viewOf(system: number, view: string): string {
  const [room, part] = view.split("/");
  return `/systems/${system}/${room}${part ? `?view=${part}` : ""}`;
}
