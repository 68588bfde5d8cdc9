/** The table of runs; the server sorts, filters and turns its pages. */
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import {
  getGridNumericOperators,
  getGridSingleSelectOperators,
  type GridColDef,
  type GridFilterModel,
} from "@mui/x-data-grid";
import { useMemo } from "react";

import type { RunRow, RunsSeen, SystemShown } from "../../api/client";
import type { RunsAsked, Stretch } from "../../api/hooks";
import { Grid } from "../../components/Grid";
import { numbers, words } from "../../components/gridLook";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { clock, dayYear, localMinute, number, type Shown } from "../../components/numbers";
import { AT_MOMENTS } from "../../components/costProof";
import { HonestFigure, type Origin } from "../../components/Proof";
import { eventsCsv, OnItsDay } from "./Latest";

interface Props {
  found: RunsSeen;
  asked: RunsAsked;
  ask: (next: RunsAsked) => void;
  system: SystemShown;
  stretch: Stretch;
  temp: Shown;
  show: (start: number, stop: number) => void;
}

const LIMITS = getGridNumericOperators().filter((one) => one.value === ">=" || one.value === "<=");
const IS = getGridSingleSelectOperators().filter((one) => one.value === "is");
const HIDDEN = ["paid"];
const MEASURES: readonly string[] = ["length", "electricity", "heat", "cop", "outdoor", "pause"];

/** A filter of the grid as the server is asked. Lengths and pauses are typed in minutes. */
export function asked(
  filter: GridFilterModel,
  temp: Shown,
): Omit<RunsAsked, "order" | "descending" | "first"> {
  const [item] = filter.items;
  if (!item || item.value === undefined || item.value === "") return {};
  if (item.field === "mode") return { mode: String(item.value) };
  const typed = Number(item.value);
  if (!MEASURES.includes(item.field) || !Number.isFinite(typed)) return {};
  const by = item.field as NonNullable<RunsAsked["by"]>;
  const [none, one] = [temp.of(0), temp.of(1)];
  const value =
    by === "outdoor" ? (typed - none) / (one - none) : by === "length" || by === "pause" ? typed * 60 : typed;
  return item.operator === ">=" ? { by, least: value } : { by, most: value };
}

export function RunsGrid({ found, asked: now, ask, system, stretch, temp, show }: Props) {
  const columns = useMemo(
    () => columnsOf(system, found.level, temp, found.modes, show),
    [system, found.level, found.modes, temp, show],
  );
  return (
    <Grid<RunRow>
      label="Runs"
      hidden={HIDDEN}
      title={`${number(found.fit, 0)} ${found.fit === found.count ? "runs" : `of ${number(found.count, 0)} runs`}`}
      about={`Energies and COP at ${found.level ?? "no level"}, U at k = 2. A row shows the run on its day.`}
      nothing={found.count ? "No run fits the filter." : "No run in this period."}
      csv={eventsCsv(system, stretch, "runs")}
      columns={columns}
      rows={found.rows}
      getRowId={(row) => row.start}
      rowCount={found.fit}
      sortingMode="server"
      filterMode="server"
      paginationMode="server"
      sortingOrder={["desc", "asc"]}
      sortModel={[{ field: now.order, sort: now.descending ? "desc" : "asc" }]}
      onSortModelChange={([sort]) => {
        const order = (sort?.field ?? "time") as RunsAsked["order"];
        ask({ ...now, order, descending: sort?.sort !== "asc", first: 0 });
      }}
      onFilterModelChange={(filter) =>
        ask({ order: now.order, descending: now.descending, first: 0, ...asked(filter, temp) })
      }
      paginationModel={{ page: Math.floor(now.first / 100), pageSize: 100 }}
      onPaginationModelChange={({ page }) => {
        if (page * 100 !== now.first) ask({ ...now, first: page * 100 });
      }}
    />
  );
}

function columnsOf(
  system: SystemShown,
  level: string | null,
  temp: Shown,
  modes: string[],
  show: Props["show"],
): GridColDef<RunRow>[] {
  const figure = (title: string, of: (row: RunRow) => RunRow["cop"]) => (row: RunRow) => {
    const shown = of(row);
    if (!shown) return "–";
    const about = `${system.name} · run of ${dayYear(row.start, system.zone)} ${clock(row.start, system.zone)}`;
    return (
      <HonestFigure
        unit={false}
        proof={{
          title: title === "COP" && row.mode === "cooling" ? "EER" : title,
          about,
          figure: shown,
          ...fromOf(row, system, level, title),
        }}
      />
    );
  };
  const limited = (one: GridColDef<RunRow>) => ({ ...one, filterOperators: LIMITS });
  const plain = { sortable: false, filterable: false };
  return [
    words("time", "Start", (row) => localMinute(row.start, system.zone).replace("T", " "), {
      width: 112,
      filterable: false,
      shown: (row) => <OnItsDay start={row.start} stop={row.stop} zone={system.zone} show={show} />,
    }),
    limited(numbers("length", "Length, min", (row) => (row.stop - row.start) / 60, 0, { width: 66 })),
    {
      ...words<RunRow>("mode", "Mode", (row) => row.mode, {
        width: 72,
        sortable: false,
        shown: (row) => <Mode row={row} />,
      }),
      type: "singleSelect",
      valueOptions: modes,
      filterOperators: IS,
    },
    limited(
      numbers("electricity", "Electricity, kWh", (row) => row.electricity?.value ?? null, 2, {
        width: 88,
        shown: figure("Electricity", (row) => row.electricity),
      }),
    ),
    ...(system.currency
      ? [
          numbers<RunRow>("paid", `Cost, ${system.currency}`, (row) => row.paid?.value ?? null, 2, {
            width: 96,
            ...plain,
            tip: "all metered electricity meanwhile, at the prices of its moments",
            shown: (row) => <Cost row={row} system={system} />,
          }),
        ]
      : []),
    limited(
      numbers("heat", "Heat, kWh", (row) => row.heat?.value ?? null, 2, {
        width: 76,
        shown: figure("Heat", (row) => row.heat),
      }),
    ),
    limited(
      numbers("cop", "COP", (row) => row.cop?.value ?? null, 2, {
        width: 70,
        shown: figure("COP", (row) => row.cop),
      }),
    ),
    numbers("ratio", "PR", (row) => row.ratio?.value ?? null, 2, {
      width: 68,
      ...plain,
      tip: "measured ÷ expected at the same conditions",
      shown: figure("Performance ratio", (row) => row.ratio),
    }),
    words("since", "since start", () => null, {
      width: 58,
      ...plain,
      shown: (row) => <Spark values={row.since_start} />,
    }),
    limited(
      numbers(
        "outdoor",
        `Outdoors, ${temp.symbol}`,
        (row) => (row.outdoor === null ? null : temp.of(row.outdoor)),
        1,
        { width: 70 },
      ),
    ),
    numbers("flow", `Flow, ${temp.symbol}`, (row) => (row.flow === null ? null : temp.of(row.flow)), 1, {
      width: 50,
      ...plain,
    }),
    limited(
      numbers("pause", "Pause, min", (row) => (row.pause === null ? null : row.pause / 60), 0, {
        width: 60,
        tip: "before it",
      }),
    ),
    words("ended", "Ended by", (row) => row.ended, {
      width: 78,
      flex: 1,
      ...plain,
      shown: (row) => (
        <Tooltip title={row.ended}>
          <Box component="span" sx={look.cap}>
            {row.ended}
          </Box>
        </Tooltip>
      ),
    }),
  ];
}

function Cost({ row, system }: { row: RunRow; system: SystemShown }) {
  if (!row.paid) return "–";
  const about = `${system.name} · run of ${dayYear(row.start, system.zone)} ${clock(row.start, system.zone)}`;
  return <HonestFigure unit={false} proof={{ title: "Cost", about, figure: row.paid, ...AT_MOMENTS }} />;
}

function fromOf(row: RunRow, system: SystemShown, level: string | null, what: string): { from?: Origin } {
  if (!level) return {};
  const [start, stop] = [row.start, row.stop].map((one) => localMinute(one, system.zone));
  return {
    from: { system: system.id, zone: system.zone, start: must(start), stop: must(stop), level, what },
  };
}

function Mode({ row }: { row: RunRow }) {
  return (
    <>
      {row.mode}
      {row.defrosts > 0 && (
        <Tooltip title={defrostWords(row.defrosts)}>
          <Box component="span" role="img" aria-label={defrostWords(row.defrosts)} sx={look.soft}>
            {" "}
            ▾{row.defrosts}
          </Box>
        </Tooltip>
      )}
    </>
  );
}

const defrostWords = (count: number) => (count === 1 ? "1 defrost" : `${count} defrosts`);

/** COP since the start over half an hour, small. */
function Spark({ values }: { values: (number | null)[] }) {
  const known = values
    .map((value, k): [number, number] | null => (value === null ? null : [k, value]))
    .filter((one): one is [number, number] => one !== null);
  if (known.length < 2) return null;
  const most = Math.max(5, ...known.map(([, value]) => value));
  const path = known
    .map(
      ([k, value], n) =>
        `${n ? "L" : "M"}${(k / Math.max(1, values.length - 1)) * 44 + 1} ${15 - (Math.max(0, value) / most) * 14}`,
    )
    .join("");
  const last = must(known.at(-1))[1];
  return (
    <svg
      width="46"
      height="16"
      role="img"
      aria-label={`COP since the start: ${number(last, 2)} at the end`}
      style={{ verticalAlign: "middle" }}
    >
      <path d={path} fill="none" stroke="var(--ink)" strokeWidth="1.2" />
    </svg>
  );
}
