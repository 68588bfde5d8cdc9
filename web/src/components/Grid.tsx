/** The library's grid in our clothes: sort, filter, choose columns, cell by cell with the keyboard. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import {
  ColumnsPanelTrigger,
  DataGrid,
  ExportCsv,
  FilterPanelTrigger,
  Toolbar,
  type DataGridProps,
  type GridCellParams,
  type GridColDef,
  type GridValidRowModel,
} from "@mui/x-data-grid";
import type { KeyboardEvent, ReactNode } from "react";

import { InCell } from "./FigureButton";
import { look as dress, PAGE } from "./gridLook";
import { number } from "./numbers";

const ROW = 25;
const HEAD = 30;
const FOOT = 36;

export interface GridProps<Row extends GridValidRowModel> extends Omit<DataGridProps<Row>, "columns"> {
  /** What the grid is called for who cannot see it. */
  label: string;
  /** Its head, where that is to be seen. */
  title?: ReactNode;
  /** What is to be known of it, beside the head. */
  about?: ReactNode;
  columns: readonly GridColDef<Row>[];
  /** Where the whole table is as a file; without it the grid writes what it shows. */
  csv?: string;
  /** Rows seen at once, the rest by scrolling. */
  high?: number;
  nothing?: string;
  /** Fields of columns that are only shown once they are chosen. */
  hidden?: readonly string[];
}

export function Grid<Row extends GridValidRowModel>({
  label,
  title,
  about,
  columns,
  csv,
  high = 16,
  nothing = "Nothing here yet.",
  hidden = [],
  ...rest
}: GridProps<Row>) {
  const nonce = document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce;
  const count = rest.rowCount ?? rest.rows?.length ?? 0;
  const pages = count > PAGE;
  return (
    <InCell value={true}>
      <Box
        sx={{
          // One page scrolls inside; its head stays in sight.
          height:
            (title ? 30 : 0) +
            (rest.columnHeaderHeight ?? HEAD) +
            ROW * Math.max(2, Math.min(high, count)) +
            (pages ? FOOT : 0) +
            12,
        }}
      >
        <DataGrid<Row>
          {...(nonce ? { nonce } : {})}
          sx={dress}
          aria-label={label}
          columns={columns}
          rowHeight={ROW}
          columnHeaderHeight={HEAD}
          hideFooter={!pages}
          hideFooterSelectedRowCount
          disableRowSelectionOnClick
          disableColumnMenu
          pageSizeOptions={[PAGE]}
          initialState={{
            pagination: { paginationModel: { pageSize: PAGE, page: 0 } },
            columns: { columnVisibilityModel: Object.fromEntries(hidden.map((field) => [field, false])) },
          }}
          onCellKeyDown={opened}
          showToolbar={title !== undefined}
          slots={{ toolbar: Head }}
          slotProps={{ toolbar: { title, about, csv, label } as object, baseSelect: { native: true } }}
          localeText={{
            noRowsLabel: nothing,
            noResultsOverlayLabel: "No row fits the filter.",
            toolbarColumns: "Columns",
            toolbarFilters: "Filter",
            paginationDisplayedRows: ({ from, to, count: of }) =>
              `${number(from, 0)} to ${number(to, 0)} of ${number(of, 0)}`,
          }}
          {...rest}
        />
      </Box>
    </InCell>
  );
}

/** Enter on a cell presses what it holds. */
function opened(cell: GridCellParams, event: KeyboardEvent<HTMLElement>) {
  if (event.key !== "Enter" || cell.isEditable || event.target !== event.currentTarget) return;
  const held = event.currentTarget.querySelector<HTMLElement>("button, a");
  if (!held) return;
  event.preventDefault(); // else what opens is pressed too
  held.click();
}

interface HeadProps {
  title?: ReactNode;
  about?: ReactNode;
  csv?: string;
  label?: string;
}

function Head({ title, about, csv, label }: HeadProps) {
  return (
    <Toolbar aria-label={`${label}: columns, filter, file`}>
      <Typography variant="h2">{title}</Typography>
      <Typography variant="caption" component="span" sx={{ flex: 1, minWidth: 0 }}>
        {about}
      </Typography>
      <ColumnsPanelTrigger render={<Button variant="text">Columns</Button>} />
      <FilterPanelTrigger
        render={(props, state) => (
          <Button {...(props as object)} variant="text">
            Filter{state.filterCount > 0 ? ` · ${state.filterCount}` : ""}
          </Button>
        )}
      />
      {csv ? (
        <Button variant="text" component="a" href={csv}>
          CSV
        </Button>
      ) : (
        <ExportCsv
          render={<Button variant="text">CSV</Button>}
          options={{ fileName: label ?? "table", utf8WithBom: true }}
        />
      )}
    </Toolbar>
  );
}
