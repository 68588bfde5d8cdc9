/** Taking a bill or an observation out; the history can put it back. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, got } from "../../api/client";

export function useRemove(pk: number, what: "observations" | "bills") {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (key: number) =>
      got(api.DELETE("/api/v1/systems/{pk}/entries/{key}", { params: { path: { pk, key } } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: [what, pk] });
      void queries.invalidateQueries({ queryKey: ["history", pk] });
    },
  });
}
