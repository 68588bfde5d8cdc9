/** All that was logged, the latest first, each with its undo. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { clock, dayYear } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { Jobs } from "./Files";

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
    <Box component="section" sx={{ display: "grid", gap: 10, maxWidth: 900 }}>
      {turn.isError && (
        <Alert severity="warning" role="alert">
          {turn.error.message}
        </Alert>
      )}
      <Jobs system={system} />
      {!history.data.length && (
        <Box component="p" sx={look.soft}>
          Nothing was logged yet.
        </Box>
      )}
      {history.data.length > 0 && (
        <FigureTable aria-label="History">
          <TableHead>
            <TableRow>
              <TableCell>When</TableCell>
              <TableCell>How</TableCell>
              <TableCell>What</TableCell>
              <TableCell>By</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {history.data.map((one) => (
              <TableRow sx={one.undone ? look.soft : {}} key={`${one.kind}${one.key}`}>
                <TableCell sx={{ whiteSpace: "nowrap" }}>
                  {dayYear(one.time, system.zone)} {clock(one.time, system.zone)}
                </TableCell>
                <TableCell>{one.kind}</TableCell>
                <TableCell sx={one.undone ? { textDecoration: "line-through" } : undefined}>
                  {one.words}
                </TableCell>
                <TableCell sx={look.soft}>{one.user ?? ""}</TableCell>
                <TableCell align="right">
                  <Button disabled={turn.isPending} onClick={() => turn.mutate(one)}>
                    {one.undone ? "Put back" : "Undo"}
                  </Button>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
      )}
    </Box>
  );
}
