/** What was seen and done at the unit, by one tap with the time, or written down later. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useRef } from "react";
import { useWatch } from "react-hook-form";
import type { GridColDef } from "@mui/x-data-grid";
import * as look from "../../components/look";
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useObservations } from "../../api/hooks";
import { useKeys } from "../../app/keys";
import { Unsaved } from "../../app/Unsaved";
import { CellButton } from "../../components/CellButton";
import { Figure, OneOf, refusedAt, useTyped, Words } from "../../components/Form";
import { Grid } from "../../components/Grid";
import { words } from "../../components/gridLook";
import { localMinute, number } from "../../components/numbers";
import { useNow } from "../../components/useNow";
import { Trouble, Waiting } from "../../components/Said";
import { useRemove } from "./remove";

type Observation = components["schemas"]["ObservationShown"];
type Typed = components["schemas"]["ObservationTyped"];

const NOTHING = { id: null, time: "", note: "", photo: "", cost: null, done_by: "" };

export function Noted({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const noted = useObservations(system.id);
  const queries = useQueryClient();
  const form = useTyped<Typed>("ObservationTyped", { ...NOTHING, kind: "note" });
  const { control, formState } = form;
  const kind = useWatch({ control, name: "kind" });
  const now = useNow();
  const remove = useRemove(system.id, "observations");
  const keep = useMutation({
    mutationFn: (body: Typed) => got(api.POST("/api/v1/systems/{pk}/observations", { ...params, body })),
    onSuccess: (next) => {
      queries.setQueryData(["observations", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
    },
  });
  const submit = form.handleSubmit((typed) =>
    keep.mutate(typed, {
      onSuccess: () => form.reset({ ...NOTHING, kind: typed.kind }),
      onError: (error) => refusedAt(form, error),
    }),
  );
  // At once: the form's own way of focusing waits a moment, in which a letter would be lost.
  const box = useRef<HTMLFormElement>(null);
  useKeys({ n: () => (box.current?.elements.namedItem("note") as HTMLInputElement | null)?.focus() });
  if (noted.isError) return <Trouble error={noted.error} again={() => void noted.refetch()} />;
  if (!noted.data) return <Waiting what="what was noted" />;
  const changes = noted.data.kinds.some((one) => one.kind === kind && one.change);
  return (
    <Box
      component="section"
      sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12, maxWidth: 900 }}
    >
      <div>
        <Typography variant="h2">Now</Typography>
        <Box component="p" sx={{ display: "flex", gap: 6, flexWrap: "wrap", marginTop: 4 }}>
          {noted.data.kinds
            .filter((one) => one.tap && one.kind !== "note")
            .map((one) => (
              <Button
                sx={{ minHeight: 34, padding: "4px 14px" }}
                key={one.kind}
                disabled={keep.isPending}
                onClick={() => keep.mutate({ ...NOTHING, kind: one.kind })}
              >
                {one.words}
              </Button>
            ))}
        </Box>
        <Typography variant="caption" component="p">
          Keep clear of the fan: it starts by itself. Meltwater freezes on paths; ice is not knocked off a
          coil.
        </Typography>
      </div>
      <Box
        component="form"
        ref={box}
        noValidate
        aria-label="A note"
        sx={{ display: "flex", gap: 6, flexWrap: "wrap", alignItems: "flex-start" }}
        onSubmit={(event) => void submit(event)}
      >
        <Unsaved when={formState.isDirty && !keep.isPending} what="A note was typed and is not stored" />
        <OneOf
          control={control}
          name="kind"
          label="What"
          of={noted.data.kinds.map((one) => [one.kind, one.words] as const)}
        />
        <Words
          control={control}
          name="time"
          label="When, empty for now"
          width={140}
          hint={localMinute(now, system.zone).replace("T", " ")}
        />
        <Words control={control} name="note" label="Note" width={220} grows />
        <Words control={control} name="photo" label="Photo, its name" width={130} />
        {changes && (
          <>
            <Figure
              control={control}
              name="cost"
              label={`Cost${noted.data.currency ? `, ${noted.data.currency}` : ""}`}
              width={76}
            />
            <Words control={control} name="done_by" label="Done by" width={120} />
          </>
        )}
        <Button variant="contained" type="submit" sx={{ marginTop: 16 }} disabled={keep.isPending}>
          Write down
        </Button>
      </Box>
      {(formState.errors.root ?? remove.error) && (
        <Alert severity="warning" role="alert">
          {(formState.errors.root ?? remove.error)?.message}
        </Alert>
      )}
      {noted.data.rows.length === 0 ? (
        <Box component="p" sx={look.soft}>
          Nothing noted yet. A defrost that is watched, ice that is left after it, a setting that was changed:
          one tap keeps the time.
        </Box>
      ) : (
        <Grid<Observation>
          label="Noted"
          title={`${number(noted.data.rows.length, 0)} noted`}
          columns={columnsOf((one) => remove.mutate(one.id))}
          rows={noted.data.rows}
        />
      )}
    </Box>
  );
}

function columnsOf(remove: (one: Observation) => void): GridColDef<Observation>[] {
  return [
    words("local", "Time", (one) => one.local, { width: 120 }),
    words("what", "What", (one) => one.words, { width: 150 }),
    words("note", "Note", (one) => one.note, {
      width: 240,
      flex: 1,
      shown: (one) => (
        <Tooltip title={one.note}>
          <span>{one.note}</span>
        </Tooltip>
      ),
    }),
    words("photo", "Photo", (one) => one.photo, { width: 110 }),
    words("user", "By", (one) => one.user, { width: 80 }),
    words("out", "Out", () => "", {
      width: 40,
      sortable: false,
      filterable: false,
      shown: (one) => (
        <CellButton
          variant="text"
          aria-label={`Take ${one.words}, ${one.local}, out`}
          onClick={() => remove(one)}
        >
          ×
        </CellButton>
      ),
    }),
  ];
}
