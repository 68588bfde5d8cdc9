/** Files that were imported, each with its report and its undo. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { GridColDef } from "@mui/x-data-grid";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type Import, type Job, type SystemShown } from "../../api/client";
import { useImports } from "../../api/hooks";
import { CellButton } from "../../components/CellButton";
import { Grid } from "../../components/Grid";
import { acts, numbers, words } from "../../components/gridLook";
import * as look from "../../components/look";
import { dayYear, duration } from "../../components/numbers";
import { Notes } from "./Notes";

export function Imports({ system }: { system: SystemShown }) {
  const imports = useImports(system.id);
  const queries = useQueryClient();
  const [open, setOpen] = useState<number | null>(null);
  const turn = useMutation({
    mutationFn: (batch: Import) => {
      const params = { params: { path: { pk: batch.id } } };
      return got(
        batch.state === "stored"
          ? api.POST("/api/v1/imports/{pk}/undo", params)
          : api.POST("/api/v1/imports/{pk}/redo", params),
      );
    },
    onSuccess: (job) =>
      queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]),
  });
  if (!imports.data) return null;
  const opened = imports.data.find((batch) => batch.id === open);
  const day = (of: (batch: Import) => number) => ({
    width: 110,
    shown: (batch: Import) => dayYear(of(batch), system.zone),
  });
  const columns: GridColDef<Import>[] = [
    words<Import>("file", "File", ({ file }) => file, { width: 220, flex: 2 }),
    numbers<Import>(
      "start",
      "From",
      ({ start }) => start,
      0,
      day(({ start }) => start),
    ),
    numbers<Import>(
      "stop",
      "To",
      ({ stop }) => stop,
      0,
      day(({ stop }) => stop - 1),
    ),
    numbers<Import>("rows", "Rows", ({ rows }) => rows, 0, { width: 90 }),
    numbers<Import>("step", "Every", ({ step }) => step, 0, {
      width: 80,
      shown: ({ step }) => duration(step),
    }),
    numbers<Import>(
      "created",
      "Imported",
      ({ created }) => created,
      0,
      day(({ created }) => created),
    ),
    acts<Import>("Report, undo", 160, ({ row }) => (
      <>
        <CellButton aria-expanded={open === row.id} onClick={() => setOpen(open === row.id ? null : row.id)}>
          Report
        </CellButton>{" "}
        <CellButton onClick={() => turn.mutate(row)}>{isUndone(row) ? "Put back" : "Undo"}</CellButton>
      </>
    )),
  ];
  return (
    <Box component="section" sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 6 }}>
      {turn.isError && (
        <Alert severity="warning" role="alert">
          {turn.error.message}
        </Alert>
      )}
      {imports.data.length > 0 ? (
        <Grid<Import>
          label="Imports"
          title="Files that were imported"
          rows={imports.data}
          columns={columns}
          high={10}
          getRowClassName={({ row }) => (isUndone(row) ? "undone" : "")}
        />
      ) : (
        <>
          <Typography variant="h2">Files that were imported</Typography>
          <Box component="p" sx={look.soft}>
            None yet.
          </Box>
        </>
      )}
      {opened && (
        <section aria-label={`Report of ${opened.file}`}>
          <Typography variant="h2">Report of {opened.file}</Typography>
          <Notes report={opened.report} />
        </section>
      )}
    </Box>
  );
}

const isUndone = (batch: Import) => batch.state === "undone";
