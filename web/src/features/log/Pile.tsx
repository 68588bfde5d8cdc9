/** Several files at once: which can be stored, and why not the others. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";

import type { Preview, SystemShown } from "../../api/client";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { dayYear, number } from "../../components/numbers";

export function Pile({
  system,
  previews,
  open,
  lookAt,
  storeAll,
  forget,
  busy,
}: {
  system: SystemShown;
  previews: Preview[];
  open: number | null;
  lookAt: (upload: number | null) => void;
  storeAll: (some: Preview[]) => void;
  forget: (upload: number) => void;
  busy: boolean;
}) {
  const fine = previews.filter((one) => one.report && one.already === null);
  return (
    <section aria-label="Files">
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 10 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          {previews.length} files
        </Typography>
        <Button variant="contained" disabled={!fine.length || busy} onClick={() => storeAll(fine)}>
          Store {fine.length} of them
        </Button>
        <Button onClick={() => previews.forEach((one) => forget(one.upload))}>Forget all</Button>
      </Box>
      <FigureTable aria-label="Files to store">
        <TableHead>
          <TableRow>
            <TableCell>File</TableCell>
            <TableCell>From</TableCell>
            <TableCell>To</TableCell>
            <TableCell align="right">Rows</TableCell>
            <TableCell>What reading it does</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {previews.map((one) => {
            const lost =
              one.report?.notes.filter(
                (note) => note.treatment === "left out" || note.treatment === "doubted",
              ) ?? [];
            const said =
              one.problem ??
              (one.already !== null
                ? "stored already"
                : lost.map((note) => note.text).join(" ") || "nothing left out or doubted");
            return (
              <TableRow key={one.upload}>
                <TableCell>{one.name}</TableCell>
                <TableCell>{one.report ? dayYear(one.report.start, system.zone) : "–"}</TableCell>
                <TableCell>{one.report ? dayYear(one.report.stop - 1, system.zone) : "–"}</TableCell>
                <TableCell align="right">{one.report ? number(one.report.rows, 0) : "–"}</TableCell>
                <TableCell sx={one.problem ? look.ember : look.soft}>
                  <Box component="span" sx={look.clamp}>
                    {said}
                  </Box>
                </TableCell>
                <TableCell align="right">
                  <Button
                    aria-expanded={open === one.upload}
                    onClick={() => lookAt(open === one.upload ? null : one.upload)}
                  >
                    Look
                  </Button>
                </TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
    </section>
  );
}
