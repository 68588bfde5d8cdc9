/** What is odd in a rated table, with the reading that makes sense of it. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

import type { ReadingShown, SheetShown } from "../../api/client";
import { cap } from "../../components/Proof";
import * as look from "../../components/look";
import { must } from "../../components/must";

export function Doubts({ sheet, take }: { sheet: SheetShown; take: (reading: ReadingShown) => void }) {
  return (
    <Box component="section" sx={{ display: "grid", gap: 4 }} aria-label="What is odd">
      {sheet.doubts.map((doubt) => (
        <Box component="p" key={doubt.kind + doubt.sentence}>
          <strong>{cap(doubt.kind)}.</strong> {cap(doubt.sentence)}{" "}
          {doubt.reading ? (
            <Button onClick={() => take(must(doubt.reading))}>{doubt.remedy}</Button>
          ) : (
            <Box component="span" sx={look.soft}>
              {doubt.remedy}
            </Box>
          )}
        </Box>
      ))}
      {sheet.assumed.length > 0 && (
        <Typography variant="caption" component="p">
          Assumed, since the header says no unit:{" "}
          {sheet.assumed
            .map(
              (column) =>
                `${column} in ${{ degC: "°C", kW: "kW" }[sheet.units[column] ?? ""] ?? sheet.units[column]}`,
            )
            .join(", ")}
          .
        </Typography>
      )}
    </Box>
  );
}
