/** The months as a table: heat, electricity, COP, what is filled, and the weather they had. */
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";

import type { SystemShown } from "../../api/client";
import { useMe } from "../../api/hooks";
import { useSettings } from "../../app/settings";
import { HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import { SumCells } from "../../components/SumCells";
import * as look from "../../components/look";
import { monthYear, number, percent, shownIn } from "../../components/numbers";
import type { SeasonMonth, SeasonShown } from "./Season";

export function Months({ system, found }: { system: SystemShown; found: SeasonShown }) {
  const { units } = useSettings();
  const me = useMe();
  const temp = shownIn(me.data?.units ?? [], "degC", units);
  const days = shownIn(me.data?.units ?? [], "kelvin_day", units);
  const below = found.whole.degree_days;
  const base = below
    ? `Below ${number(temp.of(below.base), 0)} ${temp.symbol}, by the ${below.method}`
    : "No outdoor temperature";
  const gaps = [...found.months, found.whole].some((month) => month.filled ?? month.filled_reason);
  return (
    <FigureTable tight aria-label="Season by month">
      <TableHead>
        <TableRow>
          <TableCell>Month</TableCell>
          <TableCell align="right">Heat kWh, ± U</TableCell>
          <TableCell align="right">Electricity kWh, ± U</TableCell>
          <TableCell align="right">
            {found.whole.quotient === "SPF" ? "COP, SPF" : "COP"} {found.level}, ± U
          </TableCell>
          <TableCell align="right">Covered</TableCell>
          {gaps && <TableCell align="right">With what lacks</TableCell>}
          <TableCell align="right">Outdoors {temp.symbol}</TableCell>
          <Tooltip title={base}>
            <TableCell align="right">Degree-days {days.symbol}</TableCell>
          </Tooltip>
        </TableRow>
      </TableHead>
      <TableBody>
        {[...found.months, found.whole].map((month) => (
          <Row
            key={month.name}
            system={system}
            found={found}
            month={month}
            gaps={gaps}
            degreeDays={month.degree_days === null ? "–" : number(days.of(month.degree_days.heating), 0)}
            outdoor={month.outdoor === null ? "–" : number(temp.of(month.outdoor), 1)}
          />
        ))}
      </TableBody>
    </FigureTable>
  );
}

interface RowProps {
  system: SystemShown;
  found: SeasonShown;
  month: SeasonMonth;
  /** Whether any month lacks something. */
  gaps: boolean;
  outdoor: string;
  degreeDays: string;
}

function Row({ system, found, month, gaps, outdoor, degreeDays }: RowProps) {
  const { reckoning, filled } = month;
  const all = month === found.whole;
  const name = all ? "All" : monthYear(month.name);
  const about = `${system.name} · ${all ? found.local : name}`;
  return (
    <TableRow sx={all ? look.total : {}}>
      <TableCell>{name}</TableCell>
      <SumCells system={system} about={about} reckoning={reckoning} quotient={month.quotient} />
      <TableCell align="right">{reckoning ? percent(reckoning.coverage) : "–"}</TableCell>
      {gaps && (
        <TableCell align="right" sx={look.soft}>
          {filled ? (
            <HonestFigure
              proof={{
                about,
                title: `${month.quotient} of the whole, an estimate`,
                figure: filled.cop,
                formula: "(measured + filled heat) ÷ (measured + filled electricity)",
                notes: [`${percent(filled.share)} of the time is filled by the days that were measured.`],
              }}
            />
          ) : (
            <Tooltip title={month.filled_reason ? `Not filled: ${month.filled_reason.sentence}` : ""}>
              <span>{month.filled_reason ? "not filled" : "–"}</span>
            </Tooltip>
          )}
        </TableCell>
      )}
      <TableCell align="right">{outdoor}</TableCell>
      <TableCell align="right">{degreeDays}</TableCell>
    </TableRow>
  );
}
