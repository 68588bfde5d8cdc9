/** What was corrected and left out, each with its undo; and one's own. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useState } from "react";

import type { SystemShown, TrustShown } from "../../api/client";
import { useWithdraw } from "../../api/hooks";
import { clock, dayYear, MINUS } from "../../components/numbers";
import { OwnCorrection } from "./OwnCorrection";

export function Corrections({ system, found }: { system: SystemShown; found: TrustShown }) {
  const withdraw = useWithdraw(system.id);
  const [own, setOwn] = useState(false);
  return (
    <section aria-label="Corrections">
      <Typography variant="h2" sx={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        Corrected and left out
        <Button aria-expanded={own} onClick={() => setOwn(!own)}>
          {own ? "Close" : "Correct or leave out by hand …"}
        </Button>
      </Typography>
      {withdraw.isError && (
        <Alert severity="warning" role="alert">
          {withdraw.error.message}
        </Alert>
      )}
      {own && <OwnCorrection system={system} found={found} done={() => setOwn(false)} />}
      {found.corrections.length === 0 ? (
        <Box component="p" sx={look.soft}>
          Nothing: every figure is made of the readings as they were logged.
        </Box>
      ) : (
        <FigureTable aria-label="Corrections in force">
          <TableHead>
            <TableRow>
              <TableCell>What, and why</TableCell>
              <TableCell>Since</TableCell>
              <TableCell>By</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {found.corrections.map((one) => (
              <TableRow key={one.index}>
                <TableCell>{one.words.replace(/(^|\s)-(?=\d)/g, `$1${MINUS}`)}</TableCell>
                <TableCell sx={{ whiteSpace: "nowrap" }}>
                  {one.since ? `${dayYear(one.since, system.zone)} ${clock(one.since, system.zone)}` : ""}
                </TableCell>
                <TableCell sx={look.soft}>{one.user ?? ""}</TableCell>
                <TableCell align="right">
                  <Button
                    disabled={withdraw.isPending}
                    aria-label={`Undo: ${one.words}`}
                    onClick={() => withdraw.mutate([one.correction])}
                  >
                    Undo
                  </Button>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
      )}
    </section>
  );
}
