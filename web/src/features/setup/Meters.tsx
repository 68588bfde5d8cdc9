/** The meters: what each is called, logs, includes, and how good it is. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { added, changed, toggled } from "./draft";
import { NumberField } from "../../components/NumberField";
import { Wrongs, type Part, type SetUp } from "./Fields";

export function Meters({ setup, draft, edit, problems, parts }: Part & { parts: Record<string, string[]> }) {
  return (
    <section>
      <Typography variant="h2">Meters</Typography>
      <FigureTable tight aria-label="Meters">
        <TableHead>
          <TableRow>
            <TableCell>Meter</TableCell>
            <TableCell>Channel</TableCell>
            <TableCell>Includes</TableCell>
            <TableCell>Serves</TableCell>
            <TableCell>Class</TableCell>
            <TableCell>Place</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {draft.electricity.map((meter, k) => (
            <TableRow key={k}>
              <TableCell>
                <TextInput
                  sx={{ width: 130 }}
                  aria-label={`Name of meter ${k + 1}`}
                  value={meter.name}
                  onChange={(event) => edit(changed(draft, "electricity", k, { name: event.target.value }))}
                />
              </TableCell>
              <TableCell>
                <TextInput
                  sx={{ width: 130 }}
                  aria-label={`Channel of ${meter.name}`}
                  value={meter.channel}
                  onChange={(event) =>
                    edit(changed(draft, "electricity", k, { channel: event.target.value }))
                  }
                  list="channels"
                />
              </TableCell>
              <TableCell sx={look.soft}>
                {meter.includes.map((c) => c.replace("_", " ")).join(", ") || "nothing yet"}
                <Wrongs problems={problems} where={`electricity.${k}`} />
              </TableCell>
              <TableCell>
                <Serves
                  setup={setup}
                  name={meter.name}
                  serves={meter.serves}
                  part={parts[meter.name]}
                  put={(serves) => edit(changed(draft, "electricity", k, { serves }))}
                />
              </TableCell>
              <TableCell>
                <Choice
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
                </Choice>
              </TableCell>
              <TableCell>
                <Place
                  name={meter.name}
                  place={meter.place}
                  put={(place) => edit(changed(draft, "electricity", k, { place }))}
                />
              </TableCell>
              <TableCell align="right">
                <Button
                  variant="text"
                  disabled={draft.electricity.length === 1}
                  onClick={() => edit({ ...draft, electricity: draft.electricity.filter((_, j) => j !== k) })}
                >
                  Remove
                </Button>
              </TableCell>
            </TableRow>
          ))}
          {draft.circuits.map((circuit, k) => (
            <TableRow key={`circuit${k}`}>
              <TableCell>
                <TextInput
                  sx={{ width: 130 }}
                  aria-label={`Name of circuit ${k + 1}`}
                  value={circuit.name}
                  onChange={(event) => edit(changed(draft, "circuits", k, { name: event.target.value }))}
                />
              </TableCell>
              <TableCell>
                {(["flow_rate", "flow_temp", "return_temp"] as const).map((what) => (
                  <TextInput
                    sx={{
                      width: 130,
                      display: "flex",
                      marginBottom: 2,
                      "& .MuiInputBase-input": { minHeight: 22 },
                    }}
                    key={what}
                    aria-label={`${what} of ${circuit.name}`}
                    value={circuit[what]}
                    onChange={(event) => edit(changed(draft, "circuits", k, { [what]: event.target.value }))}
                    list="channels"
                  />
                ))}
                <Wrongs problems={problems} where={`circuits.${k}`} />
              </TableCell>
              <TableCell>
                <Sources
                  setup={setup}
                  includes={circuit.includes}
                  put={(includes) => edit(changed(draft, "circuits", k, { includes }))}
                  name={circuit.name}
                />
              </TableCell>
              <TableCell>
                <Serves
                  setup={setup}
                  name={circuit.name}
                  serves={circuit.serves}
                  part={parts[circuit.name]}
                  put={(serves) => edit(changed(draft, "circuits", k, { serves }))}
                />
              </TableCell>
              <TableCell>
                <Choice
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
                </Choice>{" "}
                <Choice
                  aria-label={`Probes of ${circuit.name}`}
                  value={circuit.probes}
                  onChange={(event) => edit(changed(draft, "circuits", k, { probes: event.target.value }))}
                >
                  {setup.probes.map((one) => (
                    <option key={one.value} value={one.value}>
                      {one.words}
                    </option>
                  ))}
                </Choice>{" "}
                <Choice
                  aria-label={`Flow sensor of ${circuit.name} in`}
                  value={circuit.meter_in}
                  onChange={(event) =>
                    edit(changed(draft, "circuits", k, { meter_in: event.target.value as "flow" | "return" }))
                  }
                >
                  <option value="return">in the return</option>
                  <option value="flow">in the flow</option>
                </Choice>
              </TableCell>
              <TableCell>
                <Place
                  name={circuit.name}
                  place={circuit.place}
                  put={(place) => edit(changed(draft, "circuits", k, { place }))}
                />
              </TableCell>
              <TableCell align="right">
                <Button
                  variant="text"
                  onClick={() => edit({ ...draft, circuits: draft.circuits.filter((_, j) => j !== k) })}
                >
                  Remove
                </Button>
              </TableCell>
            </TableRow>
          ))}
          {draft.registers.map((register, k) => (
            <TableRow key={`register${k}`}>
              <TableCell>
                <TextInput
                  sx={{ width: 130 }}
                  aria-label={`Name of register ${k + 1}`}
                  value={register.name}
                  onChange={(event) => edit(changed(draft, "registers", k, { name: event.target.value }))}
                />
              </TableCell>
              <TableCell>
                <TextInput
                  sx={{ width: 130 }}
                  aria-label={`Channel of ${register.name}`}
                  value={register.channel}
                  onChange={(event) => edit(changed(draft, "registers", k, { channel: event.target.value }))}
                  list="channels"
                />
                <Wrongs problems={problems} where={`registers.${k}`} />
              </TableCell>
              <TableCell>
                <Sources
                  setup={setup}
                  includes={register.includes}
                  put={(includes) => edit(changed(draft, "registers", k, { includes }))}
                  name={register.name}
                />
              </TableCell>
              <TableCell>
                <Serves
                  setup={setup}
                  name={register.name}
                  serves={register.serves}
                  part={parts[register.name]}
                  put={(serves) => edit(changed(draft, "registers", k, { serves }))}
                />
              </TableCell>
              <TableCell>
                <Choice
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
                </Choice>{" "}
                <Typography variant="caption" component="label">
                  step{" "}
                  <NumberField
                    label={`Step of ${register.name}, kWh`}
                    value={register.resolution_kwh}
                    put={(kwh) => edit(changed(draft, "registers", k, { resolution_kwh: kwh ?? 0 }))}
                    width={44}
                  />{" "}
                  kWh
                </Typography>{" "}
                {draft.fluid.kind !== "water" && (
                  <Typography variant="caption" component="label">
                    <Checkbox
                      checked={register.set_for_water}
                      onChange={() =>
                        edit(changed(draft, "registers", k, { set_for_water: !register.set_for_water }))
                      }
                    />{" "}
                    set for water
                  </Typography>
                )}
              </TableCell>
              <TableCell>
                <Place
                  name={register.name}
                  place={register.place}
                  put={(place) => edit(changed(draft, "registers", k, { place }))}
                />
              </TableCell>
              <TableCell align="right">
                <Button
                  variant="text"
                  onClick={() => edit({ ...draft, registers: draft.registers.filter((_, j) => j !== k) })}
                >
                  Remove
                </Button>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
      <datalist id="channels">
        {["power:unit", "power:pump", "power:backup", "energy:unit", "energy:pump", ...setup.logged].map(
          (one) => (
            <option key={one} value={one} />
          ),
        )}
      </datalist>
      <Button
        sx={{ marginTop: 6 }}
        onClick={() => edit(added(draft, "electricity", must(setup.fresh.electricity)))}
      >
        Add an electricity meter
      </Button>{" "}
      <Button onClick={() => edit(added(draft, "circuits", must(setup.fresh.circuits)))}>
        Add heat by flow × ΔT
      </Button>{" "}
      <Button onClick={() => edit(added(draft, "registers", must(setup.fresh.registers)))}>
        Add a heat register
      </Button>
      <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
        This describes meters that are there. Fitting one is work on the mains: for qualified electricians, by
        local codes.
      </Typography>
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
      <Choice aria-label={`${name} serves`} value={serves} onChange={(event) => put(event.target.value)}>
        {setup.choices.serves?.map((one) => (
          <option key={one.value} value={one.value}>
            {one.words}
          </option>
        ))}
      </Choice>
      {part && (
        <Typography variant="caption" component="span" sx={{ display: "block" }}>
          {part.join("; ") || "in no figure"}
        </Typography>
      )}
    </>
  );
}

function Place({ name, place, put }: { name: string; place: string; put: (place: string) => void }) {
  return (
    <TextInput
      sx={{ width: 110 }}
      aria-label={`Place of ${name}`}
      value={place}
      placeholder="where it sits"
      onChange={(event) => put(event.target.value)}
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
    <Box component="label" sx={{ marginRight: 10, whiteSpace: "nowrap" }} key={one.value}>
      <Checkbox
        slotProps={{ input: { "aria-label": `${name} holds the heat of the ${one.words}` } }}
        checked={includes.includes(one.value)}
        onChange={() => put(toggled(includes, one.value))}
      />{" "}
      {one.words}
    </Box>
  ));
}
