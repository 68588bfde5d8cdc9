/** What reading a file did, what was lost first. */
import Box from "@mui/material/Box";
import * as look from "../../components/look";
import type { Report } from "../../api/client";
import { cap } from "../../components/Proof";

const ORDER = ["left out", "doubted", "converted", "read"];

export function Notes({ report }: { report: Report }) {
  const groups = ORDER.map(
    (treatment) => [treatment, report.notes.filter((note) => note.treatment === treatment)] as const,
  ).filter(([, notes]) => notes.length > 0);
  return (
    <Box sx={{ display: "grid", gap: 3 }} data-testid="notes">
      {groups.map(([treatment, notes]) => (
        <p key={treatment}>
          <Box component="strong" sx={treatment === "left out" ? look.ember : {}}>
            {cap(treatment)}.
          </Box>{" "}
          {notes.map((note) => note.text).join(" ")}
        </p>
      ))}
      {!groups.length && (
        <Box component="p" sx={look.soft}>
          Read as it is: nothing converted, doubted or left out.
        </Box>
      )}
      {report.ignored.length > 0 && (
        <Box component="p" sx={look.soft}>
          Not used: {report.ignored.join(", ")}.
        </Box>
      )}
    </Box>
  );
}
