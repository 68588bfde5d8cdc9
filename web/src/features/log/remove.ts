/** Taking a bill, an observation or a trial out; the history can put it back. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, got } from "../../api/client";
import { useTell } from "../../components/Told";

const SAID = { bills: "The bill", observations: "The note", trials: "The trial" };

export function useRemove(pk: number, what: keyof typeof SAID) {
  const queries = useQueryClient();
  const tell = useTell();
  return useMutation({
    mutationFn: (key: number) =>
      got(api.DELETE("/api/v1/systems/{pk}/entries/{key}", { params: { path: { pk, key } } })),
    onSuccess: (change) => {
      tell(`${SAID[what]} is taken out.`, async () => {
        await got(api.POST("/api/v1/changes/{key}/turn", { params: { path: { key: change.key } } }));
        for (const one of [what, "history"]) void queries.invalidateQueries({ queryKey: [one, pk] });
      });
      void queries.invalidateQueries({ queryKey: [what, pk] });
      void queries.invalidateQueries({ queryKey: ["history", pk] });
    },
  });
}
