/** All that was logged, the latest first, each with its undo. */
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
    <section style={{ display: "grid", gap: 10, maxWidth: 900 }}>
      {turn.isError && (
        <p role="alert" className="notice">
          {turn.error.message}
        </p>
      )}
      <Jobs system={system} />
      {!history.data.length && <p className="soft">Nothing was logged yet.</p>}
      {history.data.length > 0 && (
        <table className="sheet" aria-label="History">
          <thead>
            <tr>
              <th>When</th>
              <th>How</th>
              <th>What</th>
              <th>By</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {history.data.map((one) => (
              <tr key={`${one.kind}${one.key}`} className={one.undone ? "soft" : undefined}>
                <td style={{ whiteSpace: "nowrap" }}>
                  {dayYear(one.time, system.zone)} {clock(one.time, system.zone)}
                </td>
                <td>{one.kind}</td>
                <td style={one.undone ? { textDecoration: "line-through" } : undefined}>{one.words}</td>
                <td className="soft">{one.user ?? ""}</td>
                <td className="num">
                  <button className="key" disabled={turn.isPending} onClick={() => turn.mutate(one)}>
                    {one.undone ? "Put back" : "Undo"}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
