/** Weather of a service, where the outdoor temperature is not logged. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, got, type Job, type SystemShown } from "../../api/client";
import * as look from "../../components/look";
import { percent } from "../../components/numbers";

/** Outdoor weather from a service, where the record lacks it. */
export function Weather({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const queries = useQueryClient();
  const outdoors = useQuery({
    queryKey: ["system", system.id, "weather"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/weather", params)),
  });
  const fetching = useMutation({
    mutationFn: () => got(api.POST("/api/v1/systems/{pk}/weather", params)),
    onSuccess: (job) =>
      queries.setQueryData<Job[]>(["jobs", system.id], (before) => [job, ...(before ?? [])]),
  });
  if (!outdoors.data || system.start === null) return null;
  const { known, reason } = outdoors.data;
  return (
    <section>
      <Typography variant="h2">Outdoor weather</Typography>
      <Box component="p" sx={{ ...look.soft, marginTop: 2 }}>
        The outdoor temperature is known for {percent(known)} of the record.{" "}
        {known < 0.9995 &&
          (reason ? (
            <>The rest cannot be fetched: {reason.sentence}.</>
          ) : (
            <Button disabled={fetching.isPending} onClick={() => fetching.mutate()}>
              Fetch the rest from the weather service
            </Button>
          ))}
      </Box>
      {fetching.isError && (
        <Alert severity="warning" role="alert">
          {fetching.error.message}
        </Alert>
      )}
    </section>
  );
}
