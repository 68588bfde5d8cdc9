/** What is read by hand, and further sensors that are logged. */
import { changed } from "./draft";
import { Choice, NumberField, Wrongs, type Part } from "./Fields";
import { must } from "../../components/must";

const PROBES = ["AA", "A", "B"].map((value) => ({ value, words: `class ${value}` }));

export function Sensors({ setup, draft, edit, problems }: Part) {
  const channels = setup.choices["channels"] ?? [];
  return (
    <section>
      <h2>Further sensors</h2>
      {draft.sensors.length > 0 && (
        <table className="sheet tight" aria-label="Further sensors" style={{ maxWidth: 720 }}>
          <thead>
            <tr>
              <th>What</th>
              <th>Channel</th>
              <th>Class</th>
              <th>Limit ±</th>
              <th>Place</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {draft.sensors.map((sensor, k) => (
              <tr key={k}>
                <td>
                  <Choice
                    label={`Sensor ${k + 1} measures`}
                    value={sensor.channel.split(":")[0] ?? null}
                    choices={channels}
                    put={(channel) =>
                      edit(changed(draft, "sensors", k, { channel: must(channel), probe: null }))
                    }
                  />
                </td>
                <td>
                  <input
                    type="text"
                    aria-label={`Channel of sensor ${k + 1}`}
                    value={sensor.channel}
                    onChange={(event) => edit(changed(draft, "sensors", k, { channel: event.target.value }))}
                    style={{ width: 150 }}
                  />
                  <Wrongs problems={problems} where={`sensors.${k}`} />
                </td>
                <td>
                  {/temp$/.test(sensor.channel.split(":")[0] ?? "") && (
                    <Choice
                      label={`Class of sensor ${k + 1}`}
                      value={sensor.probe}
                      choices={PROBES}
                      put={(probe) => edit(changed(draft, "sensors", k, { probe }))}
                      none="not known"
                    />
                  )}
                </td>
                <td>
                  <NumberField
                    label={`Limit of sensor ${k + 1}`}
                    value={sensor.limit_k}
                    put={(limit_k) => edit(changed(draft, "sensors", k, { limit_k }))}
                    width={50}
                  />{" "}
                  {setup.choices[`units of ${sensor.channel.split(":")[0]}`]?.[0]?.words ?? ""}
                </td>
                <td>
                  <input
                    type="text"
                    aria-label={`Place of sensor ${k + 1}`}
                    value={sensor.place}
                    onChange={(event) => edit(changed(draft, "sensors", k, { place: event.target.value }))}
                    style={{ width: 140 }}
                  />
                </td>
                <td className="num">
                  <button
                    className="key quiet"
                    onClick={() => edit({ ...draft, sensors: draft.sensors.filter((_, j) => j !== k) })}
                  >
                    Remove
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <button
        className="key"
        style={{ marginTop: 4 }}
        onClick={() =>
          edit({
            ...draft,
            sensors: [...draft.sensors, { channel: "room_temp", limit_k: 0.5, place: "", probe: null }],
          })
        }
      >
        Add a sensor
      </button>
    </section>
  );
}

export function HandSheet({ setup, draft, edit, problems }: Part) {
  const electric = draft.electricity.map((one) => one.name);
  const heat = [...draft.registers.map((one) => one.name), ...draft.circuits.map((one) => one.name)];
  const named = (names: string[]) => names.map((name) => ({ value: name, words: name }));
  return (
    <section>
      <h2>Readings by hand</h2>
      <p className="soft">
        The columns of the sheet in the Log. A display that shows only environmental yield is of its own kind:
        it is never taken for heat.
      </p>
      {draft.by_hand.length > 0 && (
        <table className="sheet tight" aria-label="Columns of the sheet">
          <thead>
            <tr>
              <th>Column</th>
              <th>Is</th>
              <th>Of</th>
              <th>Unit</th>
              <th>Keeps</th>
              <th>Last digit</th>
              <th>Digits</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {draft.by_hand.map((series, k) => {
              const other = series.kind === "other";
              const put = (change: Partial<typeof series>) => edit(changed(draft, "by_hand", k, change));
              return (
                <tr key={k}>
                  <td>
                    <input
                      type="text"
                      aria-label={`Column ${k + 1}`}
                      value={series.name}
                      onChange={(event) => put({ name: event.target.value })}
                      style={{ width: 130 }}
                    />
                    <Wrongs problems={problems} where={`by_hand.${k}`} />
                  </td>
                  <td>
                    <Choice
                      label={`Kind of ${series.name}`}
                      value={series.kind}
                      choices={setup.choices["by_hand.kind"] ?? []}
                      put={(kind) =>
                        put({
                          kind: must(kind),
                          meter:
                            kind === "electricity"
                              ? (electric[0] ?? null)
                              : kind === "heat"
                                ? (heat[0] ?? null)
                                : null,
                          channel: kind === "other" ? "outdoor_temp" : null,
                          unit: kind === "other" ? "degC" : "kWh",
                          keeps: "register",
                        })
                      }
                    />
                  </td>
                  <td>
                    {other ? (
                      <Choice
                        label={`What ${series.name} is`}
                        value={series.channel}
                        choices={setup.choices["channels"] ?? []}
                        put={(channel) =>
                          put({
                            channel,
                            unit: setup.choices[`units of ${channel}`]?.[0]?.value ?? series.unit,
                          })
                        }
                      />
                    ) : series.kind === "environmental_yield" ? (
                      <span className="soft">the source</span>
                    ) : (
                      <Choice
                        label={`Meter of ${series.name}`}
                        value={series.meter}
                        choices={named(series.kind === "heat" ? heat : electric)}
                        put={(meter) => put({ meter })}
                        none="choose"
                      />
                    )}
                  </td>
                  <td>
                    <Choice
                      label={`Unit of ${series.name}`}
                      value={series.unit}
                      choices={setup.choices[other ? `units of ${series.channel}` : "units.joule"] ?? []}
                      put={(unit) => put({ unit: must(unit) })}
                    />
                  </td>
                  <td>
                    {!other && (
                      <Choice
                        label={`${series.name} keeps`}
                        value={series.keeps}
                        choices={(setup.choices["by_hand.keeps"] ?? []).map((one) => ({
                          ...one,
                          words: one.value === "register" ? "a register" : `the ${one.words}’s total`,
                        }))}
                        put={(keeps) => put({ keeps: must(keeps) })}
                      />
                    )}
                  </td>
                  <td>
                    <NumberField
                      label={`Last digit of ${series.name}`}
                      value={series.resolution}
                      put={(resolution) => put({ resolution: resolution ?? 0 })}
                      width={50}
                    />
                  </td>
                  <td>
                    {!other && series.keeps === "register" && (
                      <NumberField
                        label={`Digits of ${series.name}`}
                        value={series.digits}
                        put={(digits) => put({ digits })}
                        width={40}
                      />
                    )}
                  </td>
                  <td className="num">
                    <button
                      className="key quiet"
                      onClick={() => edit({ ...draft, by_hand: draft.by_hand.filter((_, j) => j !== k) })}
                    >
                      Remove
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <button
        className="key"
        style={{ marginTop: 4 }}
        onClick={() =>
          edit({
            ...draft,
            by_hand: [
              ...draft.by_hand,
              {
                name: `column ${draft.by_hand.length + 1}`,
                kind: "electricity",
                unit: "kWh",
                meter: electric[0] ?? null,
                channel: null,
                keeps: "register",
                resolution: 1,
                digits: null,
              },
            ],
          })
        }
      >
        Add a column
      </button>
    </section>
  );
}
