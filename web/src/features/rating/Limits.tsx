/** The thresholds of the rules: what is in force, the default, and where it comes from. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type LimitShown, type SystemShown } from "../../api/client";
import { useForget, useLimits } from "../../api/hooks";
import { number } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";

/** A share is typed in percent. */
const factor = (limit: LimitShown) => (limit.unit === "%" ? 100 : 1);
const text = (limit: LimitShown, value: number) =>
  number(value * factor(limit), Number.isInteger(value * factor(limit)) ? 0 : 2);

export function Limits({ system }: { system: SystemShown }) {
  const limits = useLimits(system.id);
  const queries = useQueryClient();
  const forget = useForget();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const save = useMutation({
    mutationFn: (values: Record<string, number>) =>
      got(
        api.PATCH("/api/v1/systems/{pk}/thresholds", {
          params: { path: { pk: system.id } },
          body: { values },
        }),
      ),
    onSuccess: (found) => {
      queries.setQueryData(["system", system.id, "limits"], found);
      setTyped({});
      forget(system.id);
    },
  });
  if (limits.isError) return <Trouble error={limits.error} again={() => void limits.refetch()} />;
  if (!limits.data) return <Waiting what="the thresholds" />;
  const rows = limits.data.limits;
  const values: Record<string, number> = {};
  const wrong: string[] = [];
  for (const limit of rows) {
    const cell = typed[limit.name];
    if (cell === undefined) continue;
    const value = Number(cell.replace(",", ".")) / factor(limit);
    if (!cell.trim() || !Number.isFinite(value)) wrong.push(limit.name);
    else if (value !== limit.value) values[limit.name] = value;
  }
  const changed = Object.keys(values).length;
  return (
    <section>
      <div style={{ display: "flex", gap: 10, alignItems: "center", marginBottom: 6 }}>
        <p className="soft" style={{ flex: 1 }}>
          In force for {system.name} alone. A change works the findings out anew; the description before stays
          in Set up’s history.
        </p>
        <button
          className="key main"
          disabled={!changed || wrong.length > 0 || save.isPending}
          onClick={() => save.mutate(values)}
        >
          Save {changed || ""}
        </button>
        <button className="key" disabled={!Object.keys(typed).length} onClick={() => setTyped({})}>
          Undo
        </button>
        <button
          className="key"
          onClick={() =>
            setTyped(Object.fromEntries(rows.map((limit) => [limit.name, text(limit, limit.default)])))
          }
        >
          All defaults
        </button>
      </div>
      {save.isError && (
        <p role="alert" className="notice">
          {save.error.message}
        </p>
      )}
      <table className="sheet tight" aria-label="Thresholds">
        <thead>
          <tr>
            <th>Threshold</th>
            <th className="num">In force</th>
            <th style={{ paddingLeft: 6 }}>Unit</th>
            <th className="num">Default</th>
            <th style={{ paddingLeft: 12 }}>Source</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((limit) => (
            <tr key={limit.name}>
              <td>{limit.words}</td>
              <td className="num">
                <input
                  type="text"
                  inputMode="decimal"
                  aria-label={limit.words}
                  aria-invalid={wrong.includes(limit.name)}
                  value={typed[limit.name] ?? text(limit, limit.value)}
                  style={{
                    width: 64,
                    textAlign: "right",
                    borderColor: wrong.includes(limit.name) ? "var(--ember)" : undefined,
                  }}
                  onChange={(event) => setTyped((now) => ({ ...now, [limit.name]: event.target.value }))}
                />
              </td>
              <td className="soft" style={{ paddingLeft: 6 }}>
                {limit.unit}
              </td>
              <td className={limit.value === limit.default ? "num soft" : "num ember"}>
                {text(limit, limit.default)}
              </td>
              <td className="soft" style={{ paddingLeft: 12 }}>
                {limit.source}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
