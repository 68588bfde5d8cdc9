/** All that was logged, the latest first, each with its undo. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Tooltip from "@mui/material/Tooltip";
import type { GridColDef } from "@mui/x-data-grid";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { CellButton } from "../../components/CellButton";
import { Grid } from "../../components/Grid";
import { words } from "../../components/gridLook";
import { clock, dayYear, localMinute, number } from "../../components/numbers";
import { To } from "../../components/To";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { Jobs } from "./Jobs";

type Change = components["schemas"]["ChangeShown"];

export function History({ system }: { system: SystemShown }) {
  const queries = useQueryClient();
  const history = useQuery({
    queryKey: ["history", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/history", { params: { path: { pk: system.id } } })),
  });
  const turn = useMutation({
    mutationFn: async (one: Change) => {
      if (one.kind === "by hand")
        return got(api.POST("/api/v1/changes/{key}/turn", { params: { path: { key: one.key } } }));
      const path = { params: { path: { pk: one.key } } };
      return got(
        one.undone
          ? api.POST("/api/v1/imports/{pk}/redo", path)
          : api.POST("/api/v1/imports/{pk}/undo", path),
      );
    },
    onSuccess: () => {
      for (const what of ["history", "sheet", "observations", "bills", "jobs"])
        void queries.invalidateQueries({ queryKey: [what, system.id] });
    },
  });
  if (history.isError) return <Trouble error={history.error} again={() => void history.refetch()} />;
  if (!history.data) return <Waiting what="the history" />;
  return (
    <Box
      component="section"
      sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 10, maxWidth: 1100 }}
    >
      {turn.isError && (
        <Alert severity="warning" role="alert">
          {turn.error.message}
        </Alert>
      )}
      <Jobs system={system} />
      {history.data.length > 0 ? (
        <Grid<Change>
          label="History"
          title={history.data.length === 1 ? "1 change" : `${number(history.data.length, 0)} changes`}
          about="Whatever was logged, the latest first; each can be taken back."
          columns={columnsOf(system, turn.isPending, (one) => turn.mutate(one))}
          rows={history.data}
          getRowId={(one) => `${one.kind}${one.key}`}
          getRowClassName={({ row }) => (row.undone ? "undone" : "")}
        />
      ) : (
        <Empty title="Nothing was logged yet">
          <p>
            <To to={`/systems/${system.id}/log`}>Drop a log file</To>; whatever is stored stands here, with
            its undo.
          </p>
        </Empty>
      )}
    </Box>
  );
}

function columnsOf(system: SystemShown, busy: boolean, turn: (one: Change) => void): GridColDef<Change>[] {
  return [
    words("time", "When", (one) => localMinute(one.time, system.zone).replace("T", " "), {
      width: 132,
      shown: (one) => `${dayYear(one.time, system.zone)} ${clock(one.time, system.zone)}`,
    }),
    words("kind", "How", (one) => one.kind, { width: 90 }),
    words("words", "What", (one) => one.words, {
      width: 300,
      flex: 1,
      shown: (one) => (
        <Tooltip title={one.words}>
          <span>{one.words}</span>
        </Tooltip>
      ),
    }),
    words("user", "By", (one) => one.user, { width: 90 }),
    words("undone", "Way back", (one) => (one.undone ? "taken back" : ""), {
      width: 92,
      sortable: false,
      filterable: false,
      shown: (one) => (
        <CellButton disabled={busy} onClick={() => turn(one)}>
          {one.undone ? "Put back" : "Undo"}
        </CellButton>
      ),
    }),
  ];
}
