/** A line beside the sum. */
import { type ReactNode } from "react";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import * as look from "../look";

export function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <TableRow>
      <TableCell sx={look.soft}>{name}</TableCell>
      <TableCell align="right" sx={{ whiteSpace: "normal" }}>
        {children}
      </TableCell>
    </TableRow>
  );
}
