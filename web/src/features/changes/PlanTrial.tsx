/** Planning a trial: what is to be told apart, how many days that takes, and from when. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useWatch } from "react-hook-form";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { Unsaved } from "../../app/Unsaved";
import { Figure, refusedAt, useTyped, Words } from "../../components/Form";
import * as look from "../../components/look";
import { NumberField } from "../../components/NumberField";
import { number } from "../../components/numbers";

type Typed = components["schemas"]["TrialTyped"];

const BLANK = { a: "", b: "", first: "", days: 42, block: 7, carry: 2 };

export function PlanTrial({ system }: { system: SystemShown }) {
  const form = useTyped<Typed>("TrialTyped", BLANK);
  const { control, formState } = form;
  const queries = useQueryClient();
  const [percent, setPercent] = useState<number | null>(5);
  const [block, carry] = useWatch({ control, name: ["block", "carry"] });
  const whole = (value: unknown): value is number => Number.isInteger(value);
  const known = percent !== null && percent > 0 && whole(block) && whole(carry) && carry < block;
  const needed = useQuery({
    queryKey: ["system", system.id, "trials", "needed", percent, block, carry],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/trials/needed", {
          params: { path: { pk: system.id }, query: { share: (percent ?? 0) / 100, block, carry } },
        }),
      ),
    enabled: known,
    retry: false,
  });
  const keep = useMutation({
    mutationFn: (body: Typed) =>
      got(api.POST("/api/v1/systems/{pk}/trials", { params: { path: { pk: system.id } }, body })),
    onSuccess: (next) => {
      queries.setQueryData(["trials", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
      form.reset(BLANK);
    },
    onError: (error) => refusedAt(form, error),
  });
  const submit = form.handleSubmit((typed) => keep.mutate(typed));
  const days = known ? needed.data?.days : null;
  return (
    <Box
      component="form"
      noValidate
      aria-label="Plan a trial"
      sx={{ display: "grid", gap: 6, borderTop: "1px solid var(--hair)", paddingTop: 6 }}
      onSubmit={(event) => void submit(event)}
    >
      <Unsaved when={formState.isDirty && !keep.isPending} what="A trial was typed and is not stored" />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: "6px 12px", alignItems: "flex-start" }}>
        <Words control={control} name="a" label="Setting A, as it is" width={200} />
        <Words control={control} name="b" label="Setting B" width={200} />
        <Figure control={control} name="block" label="Days in turn" width={60} />
        <Figure control={control} name="carry" label="first not counted" width={60} />
        <Words control={control} name="first" label="First day" type="date" />
        <Figure control={control} name="days" label="Days in all" width={60} />
        <Button variant="contained" type="submit" sx={{ marginTop: 16 }} disabled={keep.isPending}>
          Plan it
        </Button>
      </Box>
      <Box sx={{ display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" }}>
        To show a difference of{" "}
        <NumberField label="Difference %" value={percent} put={setPercent} width={52} />% of the electricity{" "}
        {days ? (
          <>
            it takes <strong>{number(days, 0)} days</strong>
            <Button variant="text" onClick={() => form.setValue("days", days, { shouldDirty: true })}>
              Take {number(days, 0)}
            </Button>
          </>
        ) : (
          <Box component="span" sx={look.soft}>
            {needed.data?.reason?.sentence ??
              (needed.isError ? needed.error.message : "the days so far say how many it takes")}
          </Box>
        )}
      </Box>
      <Typography variant="caption" component="p">
        By the scatter of the latest days, for 95 % confidence and 80 % power. The order within each pair of
        blocks is drawn by chance. Keep all else as it is. Before a hot-water set point goes below 60 °C:
        local rules on legionella decide.
      </Typography>
      {formState.errors.root && (
        <Alert severity="warning" role="alert">
          {formState.errors.root.message}
        </Alert>
      )}
    </Box>
  );
}
