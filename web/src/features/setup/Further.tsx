/** Heat measured otherwise than in water, and consumers without a meter. */
import type { ReactNode } from "react";

import { changed, toggled, type Draft } from "./draft";
import { Choice, NumberField, Wrongs, type Part } from "./Fields";
import { must } from "../../components/must";

type List = "air" | "reported" | "yields" | "fixed";

const NEW: { [K in List]: (draft: Draft) => Draft[K][number] } = {
  air: () => ({
    name: "air side",
    supply_temp: "supply_air_temp",
    return_temp: "return_air_temp",
    airflow: null,
    fan_speed: null,
    fan: [],
    nominal_m3h: 1000,
    airflow_limit: 0.2,
    supply_humidity: null,
    return_humidity: null,
    includes: ["heat_pump"],
    probe_limit_k: 0.5,
    altitude_m: 0,
    place: "",
  }),
  reported: () => ({
    name: "controller",
    channel: "heat_power",
    includes: ["heat_pump"],
    place: "",
    serves: "all",
    resolution_kwh: null,
  }),
  yields: () => ({
    name: "source yield",
    channel: "environmental_yield",
    limit: 0.1,
    lost: 0.1,
    place: "",
    serves: "all",
    resolution_kwh: null,
  }),
  fixed: (draft) => ({
    name: "pump",
    includes: draft.consumers.includes("distribution_pump") ? ["distribution_pump"] : [],
    watts: 45,
    runs_with: "pump",
    limit: 0.3,
    serves: "all",
  }),
};
type Fan = Draft["air"][number]["fan"];

const fanText = (fan: Fan) => fan.map((one) => `${one.speed} = ${one.m3h}`).join("; ");

/** "1 = 320; 2 = 450" as points; what is not yet a number is left out. */
export function fanOf(text: string): Fan {
  return text
    .split(";")
    .map((part) => part.split("=").map((one) => Number(one.trim().replace(",", ".") || NaN)))
    .filter((pair) => pair.length === 2 && pair.every(Number.isFinite))
    .map(([speed, m3h]) => ({ speed: must(speed), m3h: must(m3h) }));
}

const ADD: Record<List, string> = {
  air: "Add heat by the air side",
  reported: "Add heat that the controller reports",
  yields: "Add environmental yield",
  fixed: "Add a fixed power",
};
const REFRIGERANTS = ["R290", "R32", "R410A", "R134a", "R407C"].map((name) => ({ value: name, words: name }));
const RUNS = [
  { value: "pump", words: "while the water flows" },
  { value: "compressor", words: "while the compressor runs" },
  { value: "always", words: "always" },
];

export function Further({ setup, draft, edit, problems }: Part) {
  const add = <K extends List>(list: K) => edit({ ...draft, [list]: [...draft[list], NEW[list](draft)] });
  const row = <K extends List>(list: K, k: number, what: string, cells: ReactNode) => {
    const entry = must(draft[list][k]);
    return (
      <tr key={`${list}${k}`}>
        <td>
          <input
            type="text"
            aria-label={`Name of ${what} ${k + 1}`}
            value={entry.name}
            style={{ width: 130 }}
            onChange={(event) =>
              edit(changed(draft, list, k, { name: event.target.value } as Partial<Draft[K][number]>))
            }
          />
        </td>
        <td className="soft">{what}</td>
        <td>
          {cells}
          <Wrongs problems={problems} where={`${list}.${k}`} />
        </td>
        <td className="num">
          <button
            className="key quiet"
            onClick={() => edit({ ...draft, [list]: draft[list].filter((_, j) => j !== k) })}
          >
            Remove
          </button>
        </td>
      </tr>
    );
  };
  const channel = (label: string, value: string | null, put: (value: string) => void) => (
    <label className="cap" style={{ marginRight: 10, display: "inline-block", whiteSpace: "nowrap" }}>
      {label}{" "}
      <input
        type="text"
        value={value ?? ""}
        list="channels"
        style={{ width: 128 }}
        onChange={(event) => put(event.target.value)}
      />
    </label>
  );
  return (
    <section>
      <h2>Measured otherwise, or not at all</h2>
      {draft.air.length +
        draft.reported.length +
        draft.yields.length +
        draft.fixed.length +
        (draft.refrigerant ? 1 : 0) >
        0 && (
        <table className="sheet tight" aria-label="Measured otherwise">
          <tbody>
            {draft.air.map((air, k) =>
              row(
                "air",
                k,
                "air side",
                <>
                  {channel("supply", air.supply_temp, (value) =>
                    edit(changed(draft, "air", k, { supply_temp: value })),
                  )}
                  {channel("return", air.return_temp, (value) =>
                    edit(changed(draft, "air", k, { return_temp: value })),
                  )}
                  {channel("airflow", air.airflow, (value) =>
                    edit(changed(draft, "air", k, { airflow: value || null })),
                  )}
                  {channel("or fan speed", air.fan_speed, (value) =>
                    edit(changed(draft, "air", k, { fan_speed: value || null })),
                  )}
                  {air.fan_speed !== null && (
                    <label
                      className="cap"
                      title="Each speed of the fan as it is logged, and its airflow in m³/h"
                    >
                      airflow by speed{" "}
                      <input
                        type="text"
                        aria-label={`Airflow by fan speed of ${air.name}`}
                        placeholder="1 = 320; 2 = 450"
                        defaultValue={fanText(air.fan)}
                        style={{ width: 150 }}
                        onChange={(event) =>
                          edit(changed(draft, "air", k, { fan: fanOf(event.target.value) }))
                        }
                      />
                    </label>
                  )}
                  <label className="cap">
                    nominal{" "}
                    <NumberField
                      label={`Nominal airflow of ${air.name}, m³/h`}
                      value={air.nominal_m3h}
                      put={(value) => edit(changed(draft, "air", k, { nominal_m3h: value }))}
                      width={56}
                    />{" "}
                    m³/h ±{" "}
                    <NumberField
                      label={`Limit of the airflow of ${air.name}, %`}
                      value={Math.round(air.airflow_limit * 100)}
                      put={(value) => edit(changed(draft, "air", k, { airflow_limit: (value ?? 20) / 100 }))}
                      width={36}
                    />{" "}
                    %
                  </label>{" "}
                  {channel("humidity, return", air.return_humidity, (value) =>
                    edit(changed(draft, "air", k, { return_humidity: value || null })),
                  )}
                  {channel("humidity, supply", air.supply_humidity, (value) =>
                    edit(changed(draft, "air", k, { supply_humidity: value || null })),
                  )}
                  <label className="cap">
                    altitude{" "}
                    <NumberField
                      label={`Altitude of ${air.name}, m`}
                      value={air.altitude_m}
                      put={(value) => edit(changed(draft, "air", k, { altitude_m: value ?? 0 }))}
                      width={48}
                    />{" "}
                    m
                  </label>
                </>,
              ),
            )}
            {draft.reported.map((one, k) =>
              row(
                "reported",
                k,
                "reported by the controller",
                <>
                  {channel("channel", one.channel, (value) =>
                    edit(changed(draft, "reported", k, { channel: value })),
                  )}{" "}
                  no COP from it alone
                </>,
              ),
            )}
            {draft.yields.map((one, k) =>
              row(
                "yields",
                k,
                "environmental yield",
                <>
                  {channel("channel", one.channel, (value) =>
                    edit(changed(draft, "yields", k, { channel: value })),
                  )}{" "}
                  the electricity is added; an upper bound
                </>,
              ),
            )}
            {draft.fixed.map((one, k) =>
              row(
                "fixed",
                k,
                "fixed power",
                <>
                  <NumberField
                    label={`Power of ${one.name}, W`}
                    value={one.watts}
                    put={(value) => edit(changed(draft, "fixed", k, { watts: value ?? 0 }))}
                    width={56}
                  />{" "}
                  W ±{" "}
                  <NumberField
                    label={`Limit of the power of ${one.name}, %`}
                    value={Math.round(one.limit * 100)}
                    put={(value) => edit(changed(draft, "fixed", k, { limit: (value ?? 30) / 100 }))}
                    width={36}
                  />{" "}
                  %{" "}
                  <Choice
                    label={`${one.name} runs`}
                    value={one.runs_with}
                    choices={RUNS}
                    put={(value) => edit(changed(draft, "fixed", k, { runs_with: value ?? "pump" }))}
                  />{" "}
                  {setup.consumers.map((consumer) => (
                    <label key={consumer.value} style={{ marginRight: 8, whiteSpace: "nowrap" }}>
                      <input
                        type="checkbox"
                        checked={one.includes.includes(consumer.value)}
                        onChange={() =>
                          edit(
                            changed(draft, "fixed", k, { includes: toggled(one.includes, consumer.value) }),
                          )
                        }
                      />{" "}
                      {consumer.words}
                    </label>
                  ))}
                </>,
              ),
            )}
            {draft.refrigerant && (
              <tr>
                <td>refrigerant side</td>
                <td className="soft">enthalpies</td>
                <td>
                  <Choice
                    label="Refrigerant"
                    value={draft.refrigerant.refrigerant}
                    choices={REFRIGERANTS}
                    put={(value) =>
                      edit({ ...draft, refrigerant: { ...draft.refrigerant, refrigerant: value ?? "R290" } })
                    }
                  />{" "}
                  from logged pressures and temperatures; shown beside the others, no COP rests on it
                  <Wrongs problems={problems} where="refrigerant" />
                </td>
                <td className="num">
                  <button className="key quiet" onClick={() => edit({ ...draft, refrigerant: null })}>
                    Remove
                  </button>
                </td>
              </tr>
            )}
          </tbody>
        </table>
      )}
      {!draft.refrigerant && (
        <button
          className="key"
          style={{ margin: "6px 6px 0 0" }}
          onClick={() => edit({ ...draft, refrigerant: { refrigerant: "R290" } })}
        >
          Add the refrigerant side
        </button>
      )}
      {(Object.keys(ADD) as List[]).map((list) => (
        <button key={list} className="key" style={{ margin: "6px 6px 0 0" }} onClick={() => add(list)}>
          {ADD[list]}
        </button>
      ))}
    </section>
  );
}
