/** Heat, electricity and COP of a row, each with its proof; electricity alone where there is no sum. */
import TableCell from "@mui/material/TableCell";

import type { Figure, Reckoning, SystemShown } from "../api/client";
import { copFormula, HonestFigure, originOf } from "./Proof";

interface SumCellsProps {
  system: SystemShown;
  about: string;
  reckoning: Reckoning | null;
  /** What the quotient is called. */
  quotient?: string;
  /** All metered electricity, where there is no sum. */
  alone?: Figure | null;
}

export function SumCells({ system, about, reckoning, quotient = "COP", alone = null }: SumCellsProps) {
  return (
    <>
      <TableCell align="right">
        {reckoning?.heat ? (
          <HonestFigure
            unit={false}
            proof={{
              title: "Heat",
              about,
              figure: reckoning.heat,
              reckoning,
              from: originOf(system, reckoning, "heat"),
            }}
          />
        ) : (
          "–"
        )}
      </TableCell>
      <TableCell align="right">
        {reckoning ? (
          <HonestFigure
            unit={false}
            proof={{
              title: "Electricity",
              about,
              figure: reckoning.electricity,
              reckoning,
              from: originOf(system, reckoning, "electricity"),
            }}
          />
        ) : alone ? (
          <HonestFigure
            unit={false}
            proof={{
              title: "Electricity",
              about,
              figure: alone,
              formula: "all metered electricity, whatever the heat does",
            }}
          />
        ) : (
          "–"
        )}
      </TableCell>
      <TableCell align="right">
        {reckoning ? (
          <HonestFigure
            proof={{
              title: `${quotient} at ${reckoning.level}`,
              about,
              figure: reckoning.cop,
              formula: copFormula(reckoning),
              reckoning,
              from: originOf(system, reckoning, quotient),
              why: reckoning.reason?.sentence,
            }}
            none="none"
          />
        ) : (
          "–"
        )}
      </TableCell>
    </>
  );
}
