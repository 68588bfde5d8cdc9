/** Heating, hot water and cooling each alone, with what may stand beside heating: SCOP, the expected SPF. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import type { SystemShown } from "../../api/client";
import * as look from "../../components/look";
import { number } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import { SumCells } from "../../components/SumCells";
import type { SeasonShown } from "./Season";

export function Apart({ system, found }: { system: SystemShown; found: SeasonShown }) {
  if (!found.modes.length) return null;
  return (
    <section>
      <Typography variant="h2">
        Heating and hot water apart{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
          at {found.modes_level}, what is used at rest in neither
        </Box>
      </Typography>
      <FigureTable tight aria-label="Heating and hot water apart">
        <TableHead>
          <TableRow>
            <TableCell>For</TableCell>
            <TableCell align="right">Hours</TableCell>
            <TableCell align="right">Heat kWh, ± U</TableCell>
            <TableCell align="right">Electricity kWh, ± U</TableCell>
            <TableCell align="right">{found.whole.quotient}, ± U</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.modes.map((mode) => (
            <TableRow key={mode.name}>
              <TableCell>
                {cap(mode.name)}
                {mode.quotient === "EER" && " (EER)"}
              </TableCell>
              <TableCell align="right">{number(mode.hours, 0)}</TableCell>
              <SumCells
                system={system}
                about={`${system.name} · ${found.local} · ${mode.name}`}
                reckoning={mode.reckoning}
                quotient={mode.quotient}
              />
            </TableRow>
          ))}
          {found.peers.map((peer) => (
            <TableRow key={peer.what}>
              <TableCell colSpan={4} sx={look.soft}>
                {peer.what}, {peer.words}
              </TableCell>
              <TableCell align="right">{number(peer.value, 2)}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}
