/** The meters: what each is called, logs, includes, and how good it is. */
import { changed, newCircuit, newRegister, toggled } from "./draft";
import { NumberField, Wrongs, type Part, type SetUp } from "./Fields";

export function Meters({ setup, draft, edit, problems, parts }: Part & { parts: Record<string, string[]> }) {
  return (
    <section>
      <h2>Meters</h2>
      <table className="sheet tight" aria-label="Meters">
        <thead>
          <tr>
            <th>Meter</th>
            <th>Channel</th>
            <th>Includes</th>
            <th>Serves</th>
            <th>Class</th>
            <th>Place</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {draft.electricity.map((meter, k) => (
            <tr key={k}>
              <td>
                <input
                  type="text"
                  aria-label={`Name of meter ${k + 1}`}
                  value={meter.name}
                  onChange={(event) => edit(changed(draft, "electricity", k, { name: event.target.value }))}
                  style={{ width: 130 }}
                />
              </td>
              <td>
                <input
                  type="text"
                  aria-label={`Channel of ${meter.name}`}
                  value={meter.channel}
                  onChange={(event) =>
                    edit(changed(draft, "electricity", k, { channel: event.target.value }))
                  }
                  style={{ width: 130 }}
                  list="channels"
                />
              </td>
              <td className="soft">
                {meter.includes.map((c) => c.replace("_", " ")).join(", ") || "nothing yet"}
                <Wrongs problems={problems} where={`electricity.${k}`} />
              </td>
              <td>
                <Serves
                  setup={setup}
                  name={meter.name}
                  serves={meter.serves}
                  part={parts[meter.name]}
                  put={(serves) => edit(changed(draft, "electricity", k, { serves }))}
                />
              </td>
              <td>
                <select
                  aria-label={`Class of ${meter.name}`}
                  value={meter.accuracy}
                  onChange={(event) =>
                    edit(changed(draft, "electricity", k, { accuracy: event.target.value }))
                  }
                >
                  {setup.accuracies.map((one) => (
                    <option key={one.value} value={one.value}>
                      {one.words}
                    </option>
                  ))}
                </select>
              </td>
              <td>
                <Place
                  name={meter.name}
                  place={meter.place}
                  put={(place) => edit(changed(draft, "electricity", k, { place }))}
                />
              </td>
              <td className="num">
                <button
                  className="key quiet"
                  disabled={draft.electricity.length === 1}
                  onClick={() => edit({ ...draft, electricity: draft.electricity.filter((_, j) => j !== k) })}
                >
                  Remove
                </button>
              </td>
            </tr>
          ))}
          {draft.circuits.map((circuit, k) => (
            <tr key={`circuit${k}`}>
              <td>
                <input
                  type="text"
                  aria-label={`Name of circuit ${k + 1}`}
                  value={circuit.name}
                  onChange={(event) => edit(changed(draft, "circuits", k, { name: event.target.value }))}
                  style={{ width: 130 }}
                />
              </td>
              <td>
                {(["flow_rate", "flow_temp", "return_temp"] as const).map((what) => (
                  <input
                    key={what}
                    type="text"
                    aria-label={`${what} of ${circuit.name}`}
                    value={circuit[what]}
                    onChange={(event) => edit(changed(draft, "circuits", k, { [what]: event.target.value }))}
                    style={{ width: 130, display: "block" }}
                    list="channels"
                  />
                ))}
                <Wrongs problems={problems} where={`circuits.${k}`} />
              </td>
              <td>
                <Sources
                  setup={setup}
                  includes={circuit.includes}
                  put={(includes) => edit(changed(draft, "circuits", k, { includes }))}
                  name={circuit.name}
                />
              </td>
              <td>
                <Serves
                  setup={setup}
                  name={circuit.name}
                  serves={circuit.serves}
                  part={parts[circuit.name]}
                  put={(serves) => edit(changed(draft, "circuits", k, { serves }))}
                />
              </td>
              <td>
                <select
                  aria-label={`Flow class of ${circuit.name}`}
                  value={circuit.flow_class ?? ""}
                  onChange={(event) =>
                    edit(
                      changed(draft, "circuits", k, {
                        flow_class: event.target.value ? (Number(event.target.value) as 1 | 2 | 3) : null,
                      }),
                    )
                  }
                >
                  <option value="">flow ± {circuit.flow_limit * 100} %</option>
                  {[1, 2, 3].map((one) => (
                    <option key={one} value={one}>
                      flow class {one}
                    </option>
                  ))}
                </select>{" "}
                <select
                  aria-label={`Probes of ${circuit.name}`}
                  value={circuit.probes}
                  onChange={(event) => edit(changed(draft, "circuits", k, { probes: event.target.value }))}
                >
                  {setup.probes.map((one) => (
                    <option key={one.value} value={one.value}>
                      {one.words}
                    </option>
                  ))}
                </select>{" "}
                <select
                  aria-label={`Flow sensor of ${circuit.name} in`}
                  value={circuit.meter_in}
                  onChange={(event) =>
                    edit(changed(draft, "circuits", k, { meter_in: event.target.value as "flow" | "return" }))
                  }
                >
                  <option value="return">in the return</option>
                  <option value="flow">in the flow</option>
                </select>
              </td>
              <td>
                <Place
                  name={circuit.name}
                  place={circuit.place}
                  put={(place) => edit(changed(draft, "circuits", k, { place }))}
                />
              </td>
              <td className="num">
                <button
                  className="key quiet"
                  onClick={() => edit({ ...draft, circuits: draft.circuits.filter((_, j) => j !== k) })}
                >
                  Remove
                </button>
              </td>
            </tr>
          ))}
          {draft.registers.map((register, k) => (
            <tr key={`register${k}`}>
              <td>
                <input
                  type="text"
                  aria-label={`Name of register ${k + 1}`}
                  value={register.name}
                  onChange={(event) => edit(changed(draft, "registers", k, { name: event.target.value }))}
                  style={{ width: 130 }}
                />
              </td>
              <td>
                <input
                  type="text"
                  aria-label={`Channel of ${register.name}`}
                  value={register.channel}
                  onChange={(event) => edit(changed(draft, "registers", k, { channel: event.target.value }))}
                  style={{ width: 130 }}
                  list="channels"
                />
                <Wrongs problems={problems} where={`registers.${k}`} />
              </td>
              <td>
                <Sources
                  setup={setup}
                  includes={register.includes}
                  put={(includes) => edit(changed(draft, "registers", k, { includes }))}
                  name={register.name}
                />
              </td>
              <td>
                <Serves
                  setup={setup}
                  name={register.name}
                  serves={register.serves}
                  part={parts[register.name]}
                  put={(serves) => edit(changed(draft, "registers", k, { serves }))}
                />
              </td>
              <td>
                <select
                  aria-label={`Class of ${register.name}`}
                  value={register.accuracy_class}
                  onChange={(event) =>
                    edit(
                      changed(draft, "registers", k, {
                        accuracy_class: Number(event.target.value) as 1 | 2 | 3,
                      }),
                    )
                  }
                >
                  {[1, 2, 3].map((one) => (
                    <option key={one} value={one}>
                      heat meter, class {one}
                    </option>
                  ))}
                </select>{" "}
                <label className="cap">
                  step{" "}
                  <NumberField
                    label={`Step of ${register.name}, kWh`}
                    value={register.resolution_kwh}
                    put={(kwh) => edit(changed(draft, "registers", k, { resolution_kwh: kwh ?? 0 }))}
                    width={44}
                  />{" "}
                  kWh
                </label>{" "}
                {draft.fluid.kind !== "water" && (
                  <label className="cap">
                    <input
                      type="checkbox"
                      checked={register.set_for_water}
                      onChange={() =>
                        edit(changed(draft, "registers", k, { set_for_water: !register.set_for_water }))
                      }
                    />{" "}
                    set for water
                  </label>
                )}
              </td>
              <td>
                <Place
                  name={register.name}
                  place={register.place}
                  put={(place) => edit(changed(draft, "registers", k, { place }))}
                />
              </td>
              <td className="num">
                <button
                  className="key quiet"
                  onClick={() => edit({ ...draft, registers: draft.registers.filter((_, j) => j !== k) })}
                >
                  Remove
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <datalist id="channels">
        {["power:unit", "power:pump", "power:backup", "energy:unit", "energy:pump", ...setup.logged].map(
          (one) => (
            <option key={one} value={one} />
          ),
        )}
      </datalist>
      <button
        className="key"
        style={{ marginTop: 6 }}
        onClick={() =>
          edit({
            ...draft,
            electricity: [
              ...draft.electricity,
              {
                name: `meter ${draft.electricity.length + 1}`,
                channel: `power:meter${draft.electricity.length + 1}`,
                includes: [],
                accuracy: "unknown",
                place: "",
                resolution_kwh: null,
                serves: "all",
              },
            ],
          })
        }
      >
        Add an electricity meter
      </button>{" "}
      <button
        className="key"
        onClick={() => edit({ ...draft, circuits: [...draft.circuits, newCircuit(draft)] })}
      >
        Add heat by flow × ΔT
      </button>{" "}
      <button
        className="key"
        onClick={() => edit({ ...draft, registers: [...draft.registers, newRegister(draft)] })}
      >
        Add a heat register
      </button>
      <p className="cap" style={{ marginTop: 4 }}>
        This describes meters that are there. Fitting one is work on the mains: for qualified electricians, by
        local codes.
      </p>
    </section>
  );
}

/** What a meter's energy is for, and the figures that it takes part in. */
function Serves({
  setup,
  name,
  serves,
  part,
  put,
}: {
  setup: SetUp;
  name: string;
  serves: string;
  part: string[] | undefined;
  put: (serves: string) => void;
}) {
  return (
    <>
      <select aria-label={`${name} serves`} value={serves} onChange={(event) => put(event.target.value)}>
        {setup.choices.serves?.map((one) => (
          <option key={one.value} value={one.value}>
            {one.words}
          </option>
        ))}
      </select>
      {part && (
        <span className="cap" style={{ display: "block" }}>
          {part.join("; ") || "in no figure"}
        </span>
      )}
    </>
  );
}

function Place({ name, place, put }: { name: string; place: string; put: (place: string) => void }) {
  return (
    <input
      type="text"
      aria-label={`Place of ${name}`}
      value={place}
      placeholder="where it sits"
      onChange={(event) => put(event.target.value)}
      style={{ width: 110 }}
    />
  );
}

function Sources({
  setup,
  includes,
  put,
  name,
}: {
  setup: SetUp;
  includes: string[];
  put: (includes: string[]) => void;
  name: string;
}) {
  return setup.heat_sources.map((one) => (
    <label key={one.value} style={{ marginRight: 10, whiteSpace: "nowrap" }}>
      <input
        type="checkbox"
        aria-label={`${name} holds the heat of the ${one.words}`}
        checked={includes.includes(one.value)}
        onChange={() => put(toggled(includes, one.value))}
      />{" "}
      {one.words}
    </label>
  ));
}
