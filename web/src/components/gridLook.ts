/** How a grid looks, and columns of the kinds that our grids are made of. */
import type { GridColDef, GridValidRowModel } from "@mui/x-data-grid";
import type { SxProps, Theme } from "@mui/material/styles";
import { visuallyHidden } from "@mui/utils";
import type { ReactNode } from "react";

import { number } from "./numbers";

export const PAGE = 100; // rows at a time

export const look: SxProps<Theme> = {
  "--DataGrid-t-color-border-base": "var(--hair)",
  "--DataGrid-t-color-background-base": "var(--ground)",
  "--DataGrid-t-header-background-base": "var(--ground)",
  "--DataGrid-t-spacing-unit": "4px",
  "--DataGrid-hasScrollY": 0,
  border: 0,
  font: "inherit",
  color: "inherit",
  background: "none",
  letterSpacing: "inherit",
  "& .MuiDataGrid-topContainer, & .MuiDataGrid-columnHeader, & .MuiDataGrid-toolbar, & .MuiDataGrid-filler": {
    background: "var(--ground)",
  },
  "& .MuiDataGrid-toolbar": { minHeight: 28, padding: 0, gap: 8, border: 0 },
  "& .MuiDataGrid-columnHeader": { padding: "0 8px 0 0", fontSize: 11, color: "var(--soft)" },
  "& .MuiDataGrid-columnHeaderTitle": { fontWeight: 400 },
  "& .MuiDataGrid-columnSeparator": { display: "none" },
  "& .MuiDataGrid-cell": { padding: "0 8px 0 0", lineHeight: "24px", borderTopColor: "var(--hair)" },
  "& .MuiDataGrid-row:hover": { background: "color-mix(in srgb, var(--hair) 45%, transparent)" },
  "& .MuiDataGrid-cell:focus, & .MuiDataGrid-cell:focus-within, & .MuiDataGrid-columnHeader:focus, & .MuiDataGrid-columnHeader:focus-within":
    { outline: "2px solid var(--ember)", outlineOffset: -2 },
  "& .undone .MuiDataGrid-cell": { color: "var(--soft)", "& span": { textDecoration: "line-through" } },
  "& .unseen .MuiDataGrid-columnHeaderTitle": visuallyHidden,
  "& .wrong": { boxShadow: "inset 0 -2px 0 var(--ember)" },
  "& .doubted": { background: "var(--ember-wash)" },
  "& .MuiDataGrid-cell--editing": { background: "var(--sheet)", boxShadow: "none" },
  "& .MuiDataGrid-editInputCell": { font: "inherit", "& input": { padding: "0 2px", height: "auto" } },
  "& .MuiDataGrid-footerContainer": { minHeight: 34, borderTopColor: "var(--line)" },
  "& .MuiTablePagination-root": { border: 0, color: "var(--soft)" },
  "& .MuiTablePagination-toolbar": { minHeight: 32 },
  "& .MuiDataGrid-sortIcon": { fontSize: 14 },
  "& .MuiDataGrid-iconButtonContainer .MuiIconButton-root": { border: 0, background: "none", minHeight: 0 },
};

interface Kind<Row> {
  width?: number;
  flex?: number;
  shown?: (row: Row) => ReactNode;
  tip?: string;
  sortable?: boolean;
  filterable?: boolean;
}

/** A column of words. */
export function words<Row extends GridValidRowModel>(
  field: string,
  headerName: string,
  of: (row: Row) => string | null,
  { width, flex, shown, tip, sortable = true, filterable = true }: Kind<Row> = {},
): GridColDef<Row> {
  return {
    field,
    headerName,
    sortable,
    filterable,
    ...(tip ? { description: tip } : {}),
    ...(width ? { width, minWidth: Math.min(width, 60) } : {}),
    ...(flex ? { flex } : {}),
    valueGetter: (_, row) => of(row) ?? "",
    ...(shown ? { renderCell: ({ row }) => shown(row) } : {}),
  };
}

/** A column of numbers, on the right; null where there is none. */
export function numbers<Row extends GridValidRowModel>(
  field: string,
  headerName: string,
  of: (row: Row) => number | null,
  decimals: number,
  { width = 84, flex, shown, tip, sortable = true, filterable = true }: Kind<Row> = {},
): GridColDef<Row, number | null, string> {
  return {
    field,
    headerName,
    type: "number",
    sortable,
    filterable,
    width,
    minWidth: Math.min(width, 56),
    ...(flex ? { flex } : {}),
    ...(tip ? { description: tip } : {}),
    valueGetter: (_, row) => of(row),
    // What is not known stands last, whichever way it is sorted.
    getSortComparator: (way) => (a: number | null, b: number | null) =>
      a === null || b === null ? Number(a === null) - Number(b === null) : way === "desc" ? b - a : a - b,
    valueFormatter: (value: number | null) => (value === null ? "–" : number(value, decimals)),
    ...(shown ? { renderCell: ({ row }) => shown(row) } : {}),
  };
}

/** A column of what can be done with a row; its head is for who cannot see that. */
export function acts<Row extends GridValidRowModel>(
  headerName: string,
  width: number,
  renderCell: NonNullable<GridColDef<Row>["renderCell"]>,
): GridColDef<Row> {
  return {
    field: "acts",
    headerName,
    headerClassName: "unseen",
    width,
    minWidth: width,
    align: "right",
    sortable: false,
    filterable: false,
    disableExport: true,
    renderCell,
  };
}
