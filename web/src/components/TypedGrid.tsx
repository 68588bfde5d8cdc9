/** A grid that is typed into cell by cell, and that takes a block pasted from a spreadsheet. */
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import { useGridApiRef, type GridColDef } from "@mui/x-data-grid";
import { useEffect, useMemo, type ClipboardEvent, type ReactNode } from "react";

import { Grid, type GridProps } from "./Grid";
import { PAGE } from "./gridLook";
import { must } from "./must";

/** A row as it is typed: one text a column that takes any. */
export interface TypedRow {
  id: number | string;
  cells: readonly string[];
}

interface TypedGridProps<Row extends TypedRow> extends Omit<GridProps<Row>, "rows"> {
  rows: readonly Row[];
  /** A text was typed into a cell: row and column by their place. */
  put: (row: number, column: number, text: string) => void;
  /** A block was pasted, beginning at a cell. */
  paste: (row: number, column: number, text: string) => void;
  /** Begins with its last rows in sight. */
  fromEnd?: boolean;
  /** The row that is to be seen, by its place. */
  seen?: number | null;
}

const several = (text: string) => /[\t\n]/.test(text.trim());

export function TypedGrid<Row extends TypedRow>({
  rows,
  put,
  paste,
  fromEnd,
  seen,
  ...rest
}: TypedGridProps<Row>) {
  const grid = useGridApiRef();
  const place = useMemo(() => new Map(rows.map((row, at) => [String(row.id), at])), [rows]);
  const last = rows.length - 1;
  const to = seen ?? (fromEnd ? last : null);
  useEffect(() => {
    if (to === null || to < 0) return;
    grid.current?.setPage(Math.floor(to / PAGE));
    grid.current?.scrollToIndexes({ rowIndex: to });
  }, [grid, to]);

  const pasted = (event: ClipboardEvent<HTMLElement>) => {
    const cell = (event.target as HTMLElement).closest<HTMLElement>("[role=gridcell]");
    const id = cell?.closest<HTMLElement>("[role=row]")?.dataset.id;
    const row = id === undefined ? undefined : place.get(id);
    const column = columnOf(cell?.dataset.field);
    if (row === undefined || column === null || !grid.current) return;
    const text = event.clipboardData.getData("text/plain");
    const typing = cell?.classList.contains("MuiDataGrid-cell--editing") ?? false;
    if (typing && !several(text)) return; // goes where the cursor is
    event.preventDefault();
    const one = must(rows[row]).id;
    if (typing) grid.current.stopCellEditMode({ id: one, field: fieldOf(column), ignoreModifications: true });
    if (several(text)) paste(row, column, text);
    else if (grid.current.isCellEditable(grid.current.getCellParams(one, fieldOf(column))))
      put(row, column, text.trim());
  };

  return (
    <Box onPaste={pasted}>
      <Grid<Row>
        columnHeaderHeight={38}
        {...rest}
        apiRef={grid}
        rows={rows}
        onCellEditStart={({ reason }, event) => {
          // What is pasted into a cell that is not open comes with its own event.
          if (reason === "pasteKeyDown") event.defaultMuiPrevented = true;
        }}
        processRowUpdate={(next, before) => {
          next.cells.forEach((text, column) => {
            if (text !== before.cells[column]) put(must(place.get(String(next.id))), column, text);
          });
          return next;
        }}
      />
    </Box>
  );
}

/** A head in two lines. */
export function Head({ name, unit, right }: { name: string; unit: string; right: boolean }) {
  return (
    <Box
      component="span"
      sx={{ lineHeight: 1.25, whiteSpace: "pre-line", textAlign: right ? "right" : "left" }}
    >
      {`${name}\n${unit}`}
    </Box>
  );
}

const fieldOf = (column: number) => `typed-${column}`;

function columnOf(field: string | undefined): number | null {
  const found = /^typed-(\d+)$/.exec(field ?? "");
  return found ? Number(found[1]) : null;
}

interface TypedColumn<Row> {
  width?: number;
  flex?: number;
  /** On the right, as numbers stand. */
  right?: boolean;
  /** What it is in, on a line of its own under its name. */
  unit?: string;
  tip?: string;
  /** What stands behind the text. */
  after?: (row: Row) => ReactNode;
  /** What is wrong with the cell. */
  wrong?: (row: Row) => string | undefined;
  /** What an empty cell says. */
  hint?: (row: Row) => string | undefined;
}

/** A column that is typed into. */
export function typedColumn<Row extends TypedRow>(
  column: number,
  headerName: string,
  { width = 84, flex, right, unit, tip, after, wrong, hint }: TypedColumn<Row> = {},
): GridColDef<Row, string> {
  return {
    field: fieldOf(column),
    headerName,
    editable: true,
    sortable: false, // rows stand as they were typed
    filterable: false,
    width,
    minWidth: Math.min(width, 56),
    ...(flex ? { flex } : {}),
    ...(right ? { align: "right", headerAlign: "right" } : {}),
    ...(unit !== undefined
      ? { renderHeader: () => <Head name={headerName} unit={unit} right={right ?? false} /> }
      : {}),
    ...(tip ? { description: tip } : {}),
    valueGetter: (_, row) => row.cells[column] ?? "",
    valueSetter: (text, row) => ({
      ...row,
      cells: row.cells.map((one, k) => (k === column ? String(text ?? "") : one)),
    }),
    cellClassName: ({ row }) => (wrong?.(row) ? "typed wrong" : "typed"),
    renderCell: ({ row, value }) => {
      const what = wrong?.(row);
      const text = (
        <Box component="span">
          {value || (
            <Box component="span" sx={{ color: "var(--soft)" }}>
              {hint?.(row)}
            </Box>
          )}
          {after?.(row)}
        </Box>
      );
      return what ? <Tooltip title={what}>{text}</Tooltip> : text;
    },
  };
}
