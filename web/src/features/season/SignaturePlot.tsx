/** The energy signature: each day's heat and electricity over the outdoor temperature, with base, slope, knee. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useMemo } from "react";

import type { Figure, SystemShown } from "../../api/client";
import { useMe } from "../../api/hooks";
import { useSettings, useShade } from "../../app/settings";
import { Chart, Key } from "../../components/Chart";
import { HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { inUnit, number, percent, shownIn, type Shown } from "../../components/numbers";
import { daysPlot } from "./daysPlot";
import type { SeasonShown, SignatureShown } from "./Season";

export function SignaturePlot({ system, found }: { system: SystemShown; found: SeasonShown }) {
  const shade = useShade();
  const { units } = useSettings();
  const me = useMe();
  const temp = useMemo(() => shownIn(me.data?.units ?? [], "degC", units), [me.data, units]);
  const { heat, electricity } = found;
  const option = useMemo(
    () =>
      daysPlot(
        [
          { of: heat, name: "heat", days: "heat", line: "ember" },
          { of: electricity, name: "electricity", days: "power", line: "ink" },
        ],
        temp,
        shade,
      ),
    [heat, electricity, temp, shade],
  );
  if (!heat && !electricity)
    return (
      <section aria-label="Energy signature">
        <Typography variant="h2">Energy signature</Typography>
        <Box component="p" sx={look.soft}>
          None: {(found.heat_reason ?? found.electricity_reason)?.sentence}. Choose a longer period.
        </Box>
      </section>
    );
  return (
    <section aria-label="Energy signature">
      <Typography variant="h2">
        Energy signature, kWh a day over outdoor temperature
        {heat && <Key tone="heat">heat</Key>}
        {electricity && <Key tone="power">electricity</Key>}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 16, alignItems: "start" }}>
        <Box sx={{ flex: "1 1 420px", minWidth: 0 }}>
          <Chart
            option={option}
            height={230}
            words={`Energy signature: ${number((heat ?? electricity)?.days ?? 0, 0)} days over the outdoor temperature`}
          />
        </Box>
        <Box sx={{ flex: "0 1 400px", minWidth: 0 }}>
          <FigureTable aria-label="Signature">
            <TableHead>
              <TableRow>
                <TableCell />
                <TableCell align="right">Base kWh/d</TableCell>
                <TableCell align="right">Slope kWh/(K·d)</TableCell>
                <TableCell align="right">Knee {temp.symbol}</TableCell>
                <TableCell align="right">Days</TableCell>
                <TableCell align="right">CV(RMSE)</TableCell>
              </TableRow>
            </TableHead>
            <TableBody>
              {heat && <Line name="Heat" system={system} found={found} of={heat} temp={temp} />}
              {electricity && (
                <Line name="Electricity" system={system} found={found} of={electricity} temp={temp} />
              )}
            </TableBody>
          </FigureTable>
          <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
            Energy a day = base + slope · (knee − outdoor temperature) below the knee, by least squares over
            all knees. The ± is of the fit alone (k = 2), widened for days that resemble the day before. Base:
            hot water and what runs all year.
          </Typography>
        </Box>
      </Box>
    </section>
  );
}

interface LineProps {
  name: string;
  system: SystemShown;
  found: SeasonShown;
  of: SignatureShown;
  temp: Shown;
}

function Line({ name, system, found, of, temp }: LineProps) {
  const cell = (title: string, figure: Figure | null) => (
    <TableCell align="right">
      {figure ? (
        <HonestFigure
          unit={false}
          proof={{
            title: `${title} of the ${name.toLowerCase()}`,
            about: `${system.name} · ${found.local}`,
            figure,
            formula: "least squares over the days; errors after Newey and West",
            notes: [`R² ${number(of.r2, 2)}, ${number(of.days, 0)} whole days.`],
          }}
        />
      ) : (
        "not seen"
      )}
    </TableCell>
  );
  return (
    <TableRow>
      <TableCell>{name}</TableCell>
      {cell("Base", of.base)}
      {cell("Slope", of.slope)}
      {cell("Knee", inUnit(of.knee, temp))}
      <TableCell align="right">{number(of.days, 0)}</TableCell>
      <TableCell align="right">{percent(of.cv)}</TableCell>
    </TableRow>
  );
}
