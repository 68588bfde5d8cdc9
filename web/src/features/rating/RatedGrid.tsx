/** The points of a rated table, typed or pasted. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { GridColDef } from "@mui/x-data-grid";

import { acts, words } from "../../components/gridLook";
import type { Shown } from "../../components/numbers";
import { TypedGrid, typedColumn, type TypedRow } from "../../components/TypedGrid";
import { thousands } from "./sheet";
import type { RatedWork } from "./useRatedSheet";

interface PointRow extends TypedRow {
  id: number;
}

const right = { right: true, width: 74, flex: 1 } as const;

export function RatedGrid({ work, temp, power }: { work: RatedWork; temp: Shown; power: Shown }) {
  const { kind } = work.head;
  const columns: GridColDef<PointRow>[] = [
    typedColumn<PointRow>(0, kind === "ground" ? "Source" : "Outdoors", { ...right, unit: temp.symbol }),
    typedColumn<PointRow>(1, kind === "air" ? "Indoor" : "Flow", { ...right, unit: temp.symbol }),
    typedColumn<PointRow>(2, "Capacity", { ...right, unit: thousands(power).symbol }),
    typedColumn<PointRow>(3, "Input", { ...right, unit: "kW" }),
    typedColumn<PointRow>(4, "COP", { ...right, width: 60 }),
    typedColumn<PointRow>(5, "Speed or load", { width: 92 }),
    ...(kind === "air" ? [typedColumn<PointRow>(6, "Airflow", { ...right, unit: "m³/h" })] : []),
    words<PointRow>("point", "Point", ({ id }) => work.point(id), {
      width: 64,
      sortable: false,
      filterable: false,
    }),
    acts<PointRow>("Remove", 34, ({ row: { id } }) => (
      <Button variant="text" aria-label={`Remove row ${id + 1}`} onClick={() => work.remove(id)}>
        ×
      </Button>
    )),
  ];
  return (
    <Box component="section" sx={{ flex: "1 1 470px", minWidth: 0 }}>
      <Typography variant="caption" component="p">
        Paste a table from a spreadsheet into any cell: one row a point, or flow temperatures across. Give
        capacity with either input or COP (one alone is kept for what it allows); speed or load as minimum,
        nominal, maximum, or by name, %, Hz or kW, as many as the maker gives.
      </Typography>
      <TypedGrid<PointRow>
        label="Rated table"
        rows={work.shown.map((cells, id) => ({ id, cells }))}
        columns={columns}
        high={15}
        getRowClassName={({ id }) => (work.doubted(Number(id)) ? "doubted" : "")}
        put={work.edit}
        paste={(_row, _column, text) => work.take(text)}
        nothing="No point yet."
      />
      <Button sx={{ marginTop: 6 }} onClick={work.add}>
        Add a row
      </Button>
    </Box>
  );
}
