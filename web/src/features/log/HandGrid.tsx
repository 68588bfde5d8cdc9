/** The grid of readings by hand: what is typed, and the sum since the row before. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import type { GridColDef } from "@mui/x-data-grid";

import type { SystemShown } from "../../api/client";
import { copFormula, HonestFigure } from "../../components/Proof";
import { acts } from "../../components/gridLook";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { percent, plusMinus } from "../../components/numbers";
import { Head, TypedGrid, typedColumn, type TypedRow } from "../../components/TypedGrid";
import { cellOf, isBlank, type Typed } from "./paste";
import type { Hand, RowSaid, SheetShown } from "./useHand";

interface HandRow extends TypedRow {
  row: Typed;
  said: RowSaid | undefined;
  out: boolean;
}

interface HandGridProps {
  system: SystemShown;
  series: SheetShown["series"];
  hand: Hand;
  picked: number[];
  pick: (id: number) => void;
  /** The row that is to be seen, by its place. */
  seen: number | null;
}

export function HandGrid({ system, series, hand, picked, pick, seen }: HandGridProps) {
  const rows: HandRow[] = hand.rows.map((row, at) => ({
    id: row.id ?? `new ${at}`,
    cells: hand.columns.map((column) => cellOf(row, column)),
    row,
    said: hand.said(row),
    out: row.id !== null && hand.gone.includes(row.id),
  }));
  const wrong = (column: string) => (one: HandRow) =>
    (
      one.said?.problems.find((it) => it.column === column) ??
      one.said?.doubts.find((it) => it.column === column)
    )?.what;
  const columns: GridColDef<HandRow>[] = [
    {
      field: "picked",
      headerName: "Sum",
      description: "Tick two rows for the sum between them",
      width: 40,
      sortable: false,
      filterable: false,
      disableExport: true,
      renderCell: ({ row: { row }, api }) =>
        row.id !== null && (
          <Checkbox
            slotProps={{
              input: {
                "aria-label": `Row ${api.getRowIndexRelativeToVisibleRows(row.id) + 1} as an end of a sum`,
              },
            }}
            checked={picked.includes(row.id)}
            onChange={() => pick(must(row.id))}
          />
        ),
    },
    typedColumn<HandRow>(0, "Time", { width: 136, wrong: wrong("time"), hint: hintOf }),
    ...series.map((one, k) =>
      typedColumn<HandRow>(k + 1, one.name, {
        width: 96,
        flex: 1,
        right: true,
        tip: headTitle(one),
        unit: unitOf(one),
        wrong: wrong(one.name),
        after: ({ row }) => turned(row, one.name),
      }),
    ),
    typedColumn<HandRow>(series.length + 1, "Note", { width: 110, flex: 1, wrong: wrong("note") }),
    sum("heat", "Heat", "kWh", system, 74),
    sum("electricity", "Electricity", "kWh", system, 74),
    sum("cop", "COP since the last", hand.shown.level ?? "", system, 116),
    acts<HandRow>("Take out", 52, ({ row: { row, out }, api, id }) => {
      const at = api.getRowIndexRelativeToVisibleRows(id) + 1;
      return (
        (row.id !== null || !isBlank(row)) && (
          <Button
            variant="text"
            aria-label={out ? `Keep row ${at}` : `Take row ${at} out`}
            onClick={() => hand.drop(row)}
          >
            {out ? "keep" : "×"}
          </Button>
        )
      );
    }),
  ];
  return (
    <TypedGrid<HandRow>
      label="Readings by hand"
      rows={rows}
      columns={columns}
      high={13}
      fromEnd
      seen={seen}
      isCellEditable={({ row }) => !row.out}
      getRowClassName={({ row }) => (row.out ? "undone" : "")}
      put={(row, column, text) => hand.put(must(rows[row]).row, must(hand.columns[column]), text)}
      paste={(row, column, text) => hand.paste(must(rows[row]).row, must(hand.columns[column]), text)}
    />
  );
}

const hintOf = ({ row }: HandRow) => (row.id === null && isBlank(row) ? "new reading" : undefined);

function turned(row: Typed, column: string) {
  const turn = row.turns[column];
  return turn ? (
    <Typography variant="caption" component="span">
      {turn === "new_meter" ? " new meter" : " rolled over"}
    </Typography>
  ) : null;
}

const unitOf = (one: SheetShown["series"][number]) =>
  `${one.symbol}${one.keeps !== "register" ? ` a ${one.keeps}` : ""}${one.kind === "environmental_yield" ? " · yield" : ""}`;

function headTitle(one: SheetShown["series"][number]): string {
  if (!one.energy) return one.name;
  const kept =
    one.keeps === "register" ? "register" : `the ${one.keeps}'s total, which falls back to zero by design`;
  return `${one.name}: ${one.kind.replace("_", " ")}, ${kept}${one.meter ? `, of ${one.meter}` : ""}`;
}

const TITLES = { heat: "Heat", electricity: "Electricity", cop: "COP" } as const;

/** A column of what was summed since the row before; a reason where nothing was. */
function sum(
  which: keyof typeof TITLES,
  head: string,
  unit: string,
  system: SystemShown,
  width: number,
): GridColDef<HandRow> {
  const of = ({ said }: HandRow) => (said?.sum?.cop ? (said.sum[which] ?? null) : null);
  const why = (one: HandRow) =>
    !one.out && one.said && !one.said.sum?.cop ? (one.said.reason?.sentence ?? null) : null;
  return {
    field: which,
    headerName: head,
    align: "right",
    headerAlign: "right",
    width,
    sortable: false,
    filterable: false,
    renderHeader: () => <Head name={head} unit={unit} right />,
    valueGetter: (_, row) => of(row)?.value ?? (which === "heat" ? why(row) : null) ?? "",
    colSpan: (_, row) => (which === "heat" && why(row) ? 3 : 1),
    renderCell: ({ row }) => {
      const figure = of(row);
      const reckoning = row.said?.sum;
      const reason = which === "heat" ? why(row) : null;
      if (reason)
        return (
          <Tooltip title={reason}>
            <Typography variant="caption" component="span" noWrap>
              {reason}
            </Typography>
          </Tooltip>
        );
      if (!figure || !reckoning) return null;
      const proof = {
        about: `${system.name} · by hand · ${row.row.time} · ${reckoning.level}`,
        reckoning,
        figure,
        title: which === "cop" ? `COP at ${reckoning.level}` : TITLES[which],
        ...(which === "cop" ? { formula: copFormula(reckoning) } : {}),
      };
      if (which !== "cop") return <HonestFigure unit={false} pm={false} proof={proof} />;
      return (
        <Tooltip title={reckoning.coverage < 0.995 ? `${percent(reckoning.coverage)} known` : ""}>
          <span>
            <strong>
              <HonestFigure unit={false} pm={false} proof={proof} />
            </strong>{" "}
            <Box component="span" sx={look.soft}>
              {plusMinus(figure)}
              {reckoning.coverage < 0.995 ? " *" : ""}
            </Box>
          </span>
        </Tooltip>
      );
    },
  };
}
