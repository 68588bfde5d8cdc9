/** The table behind a picture: the same numbers, to be read, sorted and taken along. */
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useMemo } from "react";

import type { Table } from "./behindOf";
import { Grid } from "./Grid";
import { numbers, words } from "./gridLook";

interface Row {
  id: number;
  cells: Table["rows"][number];
}

export default function Behind({ table, close }: { table: Table; close: () => void }) {
  const rows = useMemo(() => table.rows.map((cells, id): Row => ({ id, cells })), [table]);
  const columns = useMemo(
    () =>
      table.columns.map((name, k) => {
        const of = (row: Row) => row.cells[k] ?? null;
        const asWords = table.rows.some((row) => typeof row[k] === "string");
        const width = Math.max(90, 16 + 6.5 * name.length);
        return asWords
          ? words<Row>(`c${k}`, name, (row) => String(of(row) ?? ""), { width: Math.max(width, 130) })
          : numbers<Row>(`c${k}`, name, (row) => of(row) as number | null, table.decimals[k] ?? 2, { width });
      }),
    [table],
  );
  return (
    <Dialog open onClose={close} maxWidth={false} aria-labelledby="behind-title">
      <DialogTitle id="behind-title">{table.title}</DialogTitle>
      <DialogContent sx={{ width: "min(860px, 90vw)", overflowX: "auto" }}>
        <Grid<Row>
          label={table.title}
          title={`${rows.length} rows`}
          columns={columns}
          rows={rows}
          high={14}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
