/** What was seen and done at the unit, by one tap with the time, or written down later. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type SystemShown } from "../../api/client";
import { useObservations } from "../../api/hooks";
import { useKeys } from "../../app/keys";
import { localMinute } from "../../components/numbers";
import { useNow } from "../../components/useNow";
import { Trouble, Waiting } from "../../components/Said";
import { useRemove } from "./remove";

export function Noted({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const noted = useObservations(system.id);
  const queries = useQueryClient();
  const [time, setTime] = useState("");
  const [kind, setKind] = useState("note");
  const [note, setNote] = useState("");
  const [photo, setPhoto] = useState("");
  const now = useNow();
  const remove = useRemove(system.id, "observations");
  const keep = useMutation({
    mutationFn: (one: { kind: string; time: string; note: string; photo: string }) =>
      got(api.POST("/api/v1/systems/{pk}/observations", { ...params, body: { id: null, ...one } })),
    onSuccess: (next) => {
      queries.setQueryData(["observations", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
    },
  });
  const written = () =>
    keep.mutate(
      { kind, time, note, photo },
      {
        onSuccess: () => {
          setNote("");
          setPhoto("");
          setTime("");
        },
      },
    );
  useKeys({ n: () => document.getElementById("note")?.focus() });
  if (noted.isError) return <Trouble error={noted.error} again={() => void noted.refetch()} />;
  if (!noted.data) return <Waiting what="what was noted" />;
  return (
    <section style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12, maxWidth: 900 }}>
      <div>
        <h2>Now</h2>
        <p style={{ display: "flex", gap: 6, flexWrap: "wrap", marginTop: 4 }}>
          {noted.data.kinds
            .filter((one) => one.tap && one.kind !== "note")
            .map((one) => (
              <button
                key={one.kind}
                className="key"
                style={{ minHeight: 34, padding: "4px 14px" }}
                disabled={keep.isPending}
                onClick={() => keep.mutate({ kind: one.kind, time: "", note: "", photo: "" })}
              >
                {one.words}
              </button>
            ))}
        </p>
        <p className="cap">
          Keep clear of the fan: it starts by itself. Meltwater freezes on paths; ice is not knocked off a
          coil.
        </p>
      </div>
      <form
        style={{ display: "flex", gap: 6, flexWrap: "wrap", alignItems: "end" }}
        onSubmit={(event) => {
          event.preventDefault();
          written();
        }}
      >
        <label className="cap">
          What
          <br />
          <select value={kind} onChange={(event) => setKind(event.target.value)}>
            {noted.data.kinds.map((one) => (
              <option key={one.kind} value={one.kind}>
                {one.words}
              </option>
            ))}
          </select>
        </label>
        <label className="cap">
          When, empty for now
          <br />
          <input
            type="text"
            value={time}
            placeholder={localMinute(now, system.zone).replace("T", " ")}
            onChange={(event) => setTime(event.target.value)}
            style={{ width: 140 }}
          />
        </label>
        <label className="cap" style={{ flex: 1, minWidth: 220 }}>
          Note
          <br />
          <input
            id="note"
            type="text"
            value={note}
            onChange={(event) => setNote(event.target.value)}
            style={{ width: "100%" }}
          />
        </label>
        <label className="cap">
          Photo, its name
          <br />
          <input
            type="text"
            value={photo}
            onChange={(event) => setPhoto(event.target.value)}
            style={{ width: 130 }}
          />
        </label>
        <button className="key main" disabled={keep.isPending} style={{ alignSelf: "flex-end" }}>
          Write down
        </button>
      </form>
      {(keep.isError || remove.isError) && (
        <p role="alert" className="notice">
          {(keep.error ?? remove.error)?.message}
        </p>
      )}
      {noted.data.rows.length === 0 ? (
        <p className="soft">
          Nothing noted yet. A defrost that is watched, ice that is left after it, a setting that was changed:
          one tap keeps the time.
        </p>
      ) : (
        <table className="sheet" aria-label="Noted">
          <thead>
            <tr>
              <th>Time</th>
              <th>What</th>
              <th>Note</th>
              <th>Photo</th>
              <th>By</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {noted.data.rows.map((one) => (
              <tr key={one.id}>
                <td style={{ whiteSpace: "nowrap" }}>{one.local}</td>
                <td style={{ whiteSpace: "nowrap" }}>{one.words}</td>
                <td>{one.note}</td>
                <td className="soft">{one.photo}</td>
                <td className="soft">{one.user ?? ""}</td>
                <td className="num">
                  <button
                    className="key quiet"
                    aria-label={`Take ${one.words}, ${one.local}, out`}
                    onClick={() => remove.mutate(one.id)}
                  >
                    ×
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
