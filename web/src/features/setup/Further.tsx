/** Heat measured otherwise than in water, and consumers without a meter. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { TextInput } from "../../components/TextInput";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import type { ReactNode } from "react";

import { changed, toggled, type Draft, added } from "./draft";
import { NumberField } from "../../components/NumberField";
import { ChoiceOf, type Part, RemoveCell, Wrongs } from "./Fields";
import { numberIn } from "../../components/numbers";
import { must } from "../../components/must";

type List = "air" | "reported" | "yields" | "fixed";

type Fan = Draft["air"][number]["fan"];

const fanText = (fan: Fan) => fan.map((one) => `${one.speed} = ${one.m3h}`).join("; ");

/** "1 = 320; 2 = 450" as points; what is not yet a number is left out. */
export function fanOf(text: string): Fan {
  return text
    .split(";")
    .map((part) => part.split("=").map((one) => numberIn(one) ?? NaN))
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
  const add = <K extends List>(list: K) => edit(added(draft, list, must(setup.fresh[list])));
  const row = <K extends List>(list: K, k: number, what: string, cells: ReactNode) => {
    const entry = must(draft[list][k]);
    return (
      <TableRow key={`${list}${k}`}>
        <TableCell>
          <TextInput
            sx={{ width: 130 }}
            aria-label={`Name of ${what} ${k + 1}`}
            value={entry.name}
            onChange={(event) =>
              edit(changed(draft, list, k, { name: event.target.value } as Partial<Draft[K][number]>))
            }
          />
        </TableCell>
        <TableCell sx={look.soft}>{what}</TableCell>
        <TableCell>
          {cells}
          <Wrongs problems={problems} where={`${list}.${k}`} />
        </TableCell>
        <RemoveCell remove={() => edit({ ...draft, [list]: draft[list].filter((_, j) => j !== k) })} />
      </TableRow>
    );
  };
  const put =
    <K extends List>(list: K, k: number) =>
    (change: Partial<Draft[K][number]>) =>
      edit(changed(draft, list, k, change));
  return (
    <section>
      <Typography variant="h2">Measured otherwise, or not at all</Typography>
      {draft.air.length +
        draft.reported.length +
        draft.yields.length +
        draft.fixed.length +
        (draft.refrigerant ? 1 : 0) >
        0 && (
        <FigureTable tight aria-label="Measured otherwise">
          <TableBody>
            {draft.air.map((one, k) => row("air", k, "air side", <Air air={one} put={put("air", k)} />))}
            {draft.reported.map((one, k) =>
              row(
                "reported",
                k,
                "reported by the controller",
                <>
                  <Channel
                    label="channel"
                    value={one.channel}
                    put={(value) => put("reported", k)({ channel: value })}
                  />{" "}
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
                  <Channel
                    label="channel"
                    value={one.channel}
                    put={(value) => put("yields", k)({ channel: value })}
                  />{" "}
                  the electricity is added; an upper bound
                </>,
              ),
            )}
            {draft.fixed.map((one, k) =>
              row("fixed", k, "fixed power", <Fixed setup={setup} one={one} put={put("fixed", k)} />),
            )}
            {draft.refrigerant && (
              <TableRow>
                <TableCell>refrigerant side</TableCell>
                <TableCell sx={look.soft}>enthalpies</TableCell>
                <TableCell>
                  <ChoiceOf
                    label="Refrigerant"
                    value={draft.refrigerant.refrigerant}
                    choices={REFRIGERANTS}
                    put={(value) =>
                      edit({ ...draft, refrigerant: { ...draft.refrigerant, refrigerant: value ?? "R290" } })
                    }
                  />{" "}
                  from logged pressures and temperatures; shown beside the others, no COP rests on it
                  <Wrongs problems={problems} where="refrigerant" />
                </TableCell>
                <RemoveCell remove={() => edit({ ...draft, refrigerant: null })} />
              </TableRow>
            )}
          </TableBody>
        </FigureTable>
      )}
      {!draft.refrigerant && (
        <Button
          sx={{ margin: "6px 6px 0 0" }}
          onClick={() => edit({ ...draft, refrigerant: { refrigerant: "R290" } })}
        >
          Add the refrigerant side
        </Button>
      )}
      {(Object.keys(ADD) as List[]).map((list) => (
        <Button sx={{ margin: "6px 6px 0 0" }} key={list} onClick={() => add(list)}>
          {ADD[list]}
        </Button>
      ))}
    </section>
  );
}

interface ChannelProps {
  label: string;
  value: string | null;
  put: (value: string) => void;
}

function Channel({ label, value, put }: ChannelProps) {
  return (
    <Typography
      variant="caption"
      component="label"
      sx={{ marginRight: 10, display: "inline-block", whiteSpace: "nowrap" }}
    >
      {label}{" "}
      <TextInput
        sx={{ width: 128 }}
        value={value ?? ""}
        list="channels"
        onChange={(event) => put(event.target.value)}
      />
    </Typography>
  );
}

interface AirProps {
  air: Draft["air"][number];
  put: (change: Partial<Draft["air"][number]>) => void;
}

function Air({ air, put }: AirProps) {
  return (
    <>
      <Channel label="supply" value={air.supply_temp} put={(value) => put({ supply_temp: value })} />
      <Channel label="return" value={air.return_temp} put={(value) => put({ return_temp: value })} />
      <Channel label="airflow" value={air.airflow} put={(value) => put({ airflow: value || null })} />
      <Channel
        label="or fan speed"
        value={air.fan_speed}
        put={(value) => put({ fan_speed: value || null })}
      />
      {air.fan_speed !== null && (
        <Tooltip title="Each speed of the fan as it is logged, and its airflow in m³/h">
          <Typography variant="caption" component="label">
            airflow by speed{" "}
            <TextInput
              sx={{ width: 150 }}
              aria-label={`Airflow by fan speed of ${air.name}`}
              placeholder="1 = 320; 2 = 450"
              defaultValue={fanText(air.fan)}
              onChange={(event) => put({ fan: fanOf(event.target.value) })}
            />
          </Typography>
        </Tooltip>
      )}
      <Typography variant="caption" component="label">
        nominal{" "}
        <NumberField
          label={`Nominal airflow of ${air.name}, m³/h`}
          value={air.nominal_m3h}
          put={(value) => put({ nominal_m3h: value })}
          width={56}
        />{" "}
        m³/h ±{" "}
        <NumberField
          label={`Limit of the airflow of ${air.name}, %`}
          value={Math.round(air.airflow_limit * 100)}
          put={(value) => put({ airflow_limit: (value ?? 20) / 100 })}
          width={36}
        />{" "}
        %
      </Typography>{" "}
      <Channel
        label="humidity, return"
        value={air.return_humidity}
        put={(value) => put({ return_humidity: value || null })}
      />
      <Channel
        label="humidity, supply"
        value={air.supply_humidity}
        put={(value) => put({ supply_humidity: value || null })}
      />
      <Typography variant="caption" component="label">
        altitude{" "}
        <NumberField
          label={`Altitude of ${air.name}, m`}
          value={air.altitude_m}
          put={(value) => put({ altitude_m: value ?? 0 })}
          width={48}
        />{" "}
        m
      </Typography>
    </>
  );
}

interface FixedProps {
  setup: Part["setup"];
  one: Draft["fixed"][number];
  put: (change: Partial<Draft["fixed"][number]>) => void;
}

function Fixed({ setup, one, put }: FixedProps) {
  return (
    <>
      <NumberField
        label={`Power of ${one.name}, W`}
        value={one.watts}
        put={(value) => put({ watts: value ?? 0 })}
        width={56}
      />{" "}
      W ±{" "}
      <NumberField
        label={`Limit of the power of ${one.name}, %`}
        value={Math.round(one.limit * 100)}
        put={(value) => put({ limit: (value ?? 30) / 100 })}
        width={36}
      />{" "}
      %{" "}
      <ChoiceOf
        label={`${one.name} runs`}
        value={one.runs_with}
        choices={RUNS}
        put={(value) => put({ runs_with: value ?? "pump" })}
      />{" "}
      {setup.consumers.map((consumer) => (
        <Box component="label" sx={{ marginRight: 8, whiteSpace: "nowrap" }} key={consumer.value}>
          <Checkbox
            checked={one.includes.includes(consumer.value)}
            onChange={() => put({ includes: toggled(one.includes, consumer.value) })}
          />{" "}
          {consumer.words}
        </Box>
      ))}
    </>
  );
}
