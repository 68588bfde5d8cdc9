/** The sum between two rows of readings by hand, at every level. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import { copFormula, HonestFigure } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { figureText } from "../../components/numbers";

export function Between({ system, picked }: { system: SystemShown; picked: number[] }) {
  const [first, last] = picked;
  const found = useQuery({
    queryKey: ["sheet", system.id, "between", first, last],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/sheet/between", {
          params: { path: { pk: system.id }, query: { first: must(first), last: must(last) } },
        }),
      ),
    enabled: first !== undefined && last !== undefined,
  });
  if (last === undefined)
    return (
      <Box component="p" sx={look.soft}>
        Tick two rows for the sum between them, at every boundary level.
      </Box>
    );
  if (found.isError) return <Trouble error={found.error} />;
  if (!found.data) return <Waiting what="the sum" />;
  return (
    <Box component="section" sx={{ maxWidth: 640 }} aria-label="Between the two rows">
      <Typography variant="h2">Between the two rows</Typography>
      <FigureTable aria-label="Sum between two rows">
        <TableHead>
          <TableRow>
            <TableCell>Boundary</TableCell>
            <TableCell align="right">Heat, kWh</TableCell>
            <TableCell align="right">Electricity, kWh</TableCell>
            <TableCell align="right">COP</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.data.levels.map((level) => (
            <TableRow key={level.level}>
              <TableCell>
                {level.level}{" "}
                <Box component="span" sx={look.soft}>
                  {level.words}
                </Box>
              </TableCell>
              {level.reckoning?.cop && level.reckoning.heat ? (
                <>
                  <TableCell align="right">{figureText(level.reckoning.heat)}</TableCell>
                  <TableCell align="right">{figureText(level.reckoning.electricity)}</TableCell>
                  <TableCell align="right">
                    <HonestFigure
                      proof={{
                        title: `COP at ${level.level}`,
                        about: `${system.name} · by hand`,
                        figure: level.reckoning.cop,
                        reckoning: level.reckoning,
                        formula: copFormula(level.reckoning),
                      }}
                    />
                  </TableCell>
                </>
              ) : (
                <TableCell sx={look.soft} colSpan={3}>
                  {level.reason?.sentence}
                </TableCell>
              )}
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </Box>
  );
}
