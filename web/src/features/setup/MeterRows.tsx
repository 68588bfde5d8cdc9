/** One meter of the description a row: electricity, heat by flow × ΔT, heat by a register. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";

import { Choice } from "../../components/Choice";
import { NumberField } from "../../components/NumberField";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { toggled, type Draft } from "./draft";
import { Wrongs, type Part, type SetUp } from "./Fields";

type Lists = "electricity" | "circuits" | "registers";

export interface RowProps<List extends Lists> {
  /** Its place in its list. */
  k: number;
  one: Draft[List][number];
  setup: SetUp;
  problems: Part["problems"];
  /** The figures that it takes part in. */
  part: string[] | undefined;
  put: (change: Partial<Draft[List][number]>) => void;
  /** Takes it out; null where it has to stay. */
  remove: (() => void) | null;
}

export function ElectricityRow({
  k,
  one: meter,
  setup,
  problems,
  part,
  put,
  remove,
}: RowProps<"electricity">) {
  return (
    <TableRow>
      <Name of={`meter ${k + 1}`} name={meter.name} put={(name) => put({ name })} />
      <TableCell>
        <TextInput
          sx={{ width: 130 }}
          aria-label={`Channel of ${meter.name}`}
          value={meter.channel}
          onChange={(event) => put({ channel: event.target.value })}
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
          part={part}
          put={(serves) => put({ serves })}
        />
      </TableCell>
      <TableCell>
        <Choice
          aria-label={`Class of ${meter.name}`}
          value={meter.accuracy}
          onChange={(event) => put({ accuracy: event.target.value })}
        >
          {setup.accuracies.map((one) => (
            <option key={one.value} value={one.value}>
              {one.words}
            </option>
          ))}
        </Choice>
      </TableCell>
      <End name={meter.name} place={meter.place} put={(place) => put({ place })} remove={remove} />
    </TableRow>
  );
}

export function CircuitRow({ k, one: circuit, setup, problems, part, put, remove }: RowProps<"circuits">) {
  return (
    <TableRow>
      <Name of={`circuit ${k + 1}`} name={circuit.name} put={(name) => put({ name })} />
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
            onChange={(event) => put({ [what]: event.target.value })}
            list="channels"
          />
        ))}
        <Wrongs problems={problems} where={`circuits.${k}`} />
      </TableCell>
      <TableCell>
        <Sources
          setup={setup}
          includes={circuit.includes}
          put={(includes) => put({ includes })}
          name={circuit.name}
        />
      </TableCell>
      <TableCell>
        <Serves
          setup={setup}
          name={circuit.name}
          serves={circuit.serves}
          part={part}
          put={(serves) => put({ serves })}
        />
      </TableCell>
      <TableCell>
        <Choice
          aria-label={`Flow class of ${circuit.name}`}
          value={circuit.flow_class ?? ""}
          onChange={(event) =>
            put({
              flow_class: event.target.value ? (Number(event.target.value) as 1 | 2 | 3) : null,
            })
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
          onChange={(event) => put({ probes: event.target.value })}
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
          onChange={(event) => put({ meter_in: event.target.value as "flow" | "return" })}
        >
          <option value="return">in the return</option>
          <option value="flow">in the flow</option>
        </Choice>
      </TableCell>
      <End name={circuit.name} place={circuit.place} put={(place) => put({ place })} remove={remove} />
    </TableRow>
  );
}

export function RegisterRow({
  k,
  one: register,
  setup,
  problems,
  part,
  put,
  remove,
  glycol,
}: RowProps<"registers"> & { glycol: boolean }) {
  return (
    <TableRow>
      <Name of={`register ${k + 1}`} name={register.name} put={(name) => put({ name })} />
      <TableCell>
        <TextInput
          sx={{ width: 130 }}
          aria-label={`Channel of ${register.name}`}
          value={register.channel}
          onChange={(event) => put({ channel: event.target.value })}
          list="channels"
        />
        <Wrongs problems={problems} where={`registers.${k}`} />
      </TableCell>
      <TableCell>
        <Sources
          setup={setup}
          includes={register.includes}
          put={(includes) => put({ includes })}
          name={register.name}
        />
      </TableCell>
      <TableCell>
        <Serves
          setup={setup}
          name={register.name}
          serves={register.serves}
          part={part}
          put={(serves) => put({ serves })}
        />
      </TableCell>
      <TableCell>
        <Choice
          aria-label={`Class of ${register.name}`}
          value={register.accuracy_class}
          onChange={(event) =>
            put({
              accuracy_class: Number(event.target.value) as 1 | 2 | 3,
            })
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
            put={(kwh) => put({ resolution_kwh: kwh ?? 0 })}
            width={44}
          />{" "}
          kWh
        </Typography>{" "}
        {glycol && (
          <Typography variant="caption" component="label">
            <Checkbox
              checked={register.set_for_water}
              onChange={() => put({ set_for_water: !register.set_for_water })}
            />{" "}
            set for water
          </Typography>
        )}
      </TableCell>
      <End name={register.name} place={register.place} put={(place) => put({ place })} remove={remove} />
    </TableRow>
  );
}

function Name({ of, name, put }: { of: string; name: string; put: (name: string) => void }) {
  return (
    <TableCell>
      <TextInput
        sx={{ width: 130 }}
        aria-label={`Name of ${of}`}
        value={name}
        onChange={(event) => put(event.target.value)}
      />
    </TableCell>
  );
}

interface EndProps {
  name: string;
  place: string;
  put: (place: string) => void;
  remove: (() => void) | null;
}

/** Where it sits, and the way to take it out. */
function End({ name, place, put, remove }: EndProps) {
  return (
    <>
      <TableCell>
        <TextInput
          sx={{ width: 110 }}
          aria-label={`Place of ${name}`}
          value={place}
          placeholder="where it sits"
          onChange={(event) => put(event.target.value)}
        />
      </TableCell>
      <TableCell align="right">
        <Button variant="text" disabled={remove === null} onClick={() => remove?.()}>
          Remove
        </Button>
      </TableCell>
    </>
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
