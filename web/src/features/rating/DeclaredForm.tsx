/** What the maker declares by EN 14825, typed from the data sheet: the only thing called SCOP. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useWatch, type UseFormReturn } from "react-hook-form";

import { api, got, type Declared, type RatedShown, type SystemShown } from "../../api/client";
import { Choice } from "../../components/Choice";
import { Figure, refusedAt, useTyped } from "../../components/Form";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { number, type Shown } from "../../components/numbers";

const AUX = [
  ["thermostat_off", "thermostat off"],
  ["standby", "standby"],
  ["crankcase", "crankcase"],
  ["off", "off"],
] as const;

const COLUMNS = [
  ["outdoor", "outdoors", "Outdoors °C"],
  ["flow", "flow", "Flow °C"],
  ["capacity_kw", "capacity", "Capacity kW"],
  ["cop", "COP", "COP"],
  ["cc", "Cc", "Cc"],
] as const;

const two = (value: number | null) => (value === null ? "–" : number(value, 2));

interface DeclaredFormProps {
  system: SystemShown;
  rated: RatedShown;
  temp: Shown;
}

export function DeclaredForm({ system, rated, temp }: DeclaredFormProps) {
  const [open, setOpen] = useState(rated.declared !== null);
  const scop = rated.declared_scop;
  return (
    <section>
      <Typography variant="h2">
        SCOP from the declared points{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          EN 14825; from the maker’s data sheet
        </Typography>
      </Typography>
      {scop && (
        <p>
          SCOP <strong>{two(scop.scop ?? scop.on)}</strong>{" "}
          <Box component="span" sx={look.soft}>
            {scop.scop === null
              ? "of the bins (SCOPon); "
              : `with auxiliary powers, ${two(scop.on)} of the bins alone; `}
            {scop.name}, bivalent at {number(temp.of(scop.bivalent), 0)} {temp.symbol}. {scop.notes.join(" ")}
          </Box>
        </p>
      )}
      {!open ? (
        <p>
          {!scop && "None is given. "}
          <Button onClick={() => setOpen(true)}>Type the declared points</Button>
        </p>
      ) : (
        <Points system={system} rated={rated} />
      )}
    </section>
  );
}

function Points({ system, rated }: { system: SystemShown; rated: RatedShown }) {
  const queries = useQueryClient();
  const form = useTyped<Declared>("DeclaredShown", rated.declared ?? must(rated.blanks[0]));
  const { control } = form;
  const points = useWatch({ control, name: "points" });
  const save = useMutation({
    mutationFn: (body: Declared) =>
      got(api.PUT("/api/v1/systems/{pk}/declared", { params: { path: { pk: system.id } }, body })),
    onSuccess: (found) => queries.setQueryData(["system", system.id, "rated"], found),
    onError: (error) => refusedAt(form, error),
  });
  const submit = form.handleSubmit((typed) => save.mutate(typed));
  return (
    <Box
      component="form"
      noValidate
      sx={{ display: "grid", gap: 8, maxWidth: 640 }}
      aria-label="Declared points"
      onSubmit={(event) => void submit(event)}
    >
      <Box sx={{ display: "flex", gap: 10, flexWrap: "wrap" }}>
        <Framing form={form} rated={rated} />
        <Figure control={control} name="design_load_kw" label="Design load kW" width={74} />
        <Figure control={control} name="bivalent" label="Bivalent °C" width={74} />
        <Figure control={control} name="low_limit" label="Low limit (TOL) °C" width={74} />
      </Box>
      <FigureTable tight aria-label="Points">
        <TableHead>
          <TableRow>
            <TableCell>Point</TableCell>
            {COLUMNS.map(([name, , head]) => (
              <TableCell align="right" key={name}>
                {head}
              </TableCell>
            ))}
          </TableRow>
        </TableHead>
        <TableBody>
          {points.map((point, k) => (
            <TableRow key={point.name}>
              <TableCell>{point.name}</TableCell>
              {COLUMNS.map(([name, words]) => (
                <TableCell align="right" key={name}>
                  <Figure
                    bare
                    control={control}
                    name={`points.${k}.${name}`}
                    label={`${point.name} ${words}`}
                    width={58}
                  />
                </TableCell>
              ))}
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
      <Box sx={{ display: "flex", gap: 10, flexWrap: "wrap" }}>
        {AUX.map(([name, words]) => (
          <Figure key={name} control={control} name={name} label={`${words} W`} width={74} />
        ))}
      </Box>
      {form.formState.errors.root && (
        <Alert severity="warning" role="alert">
          {form.formState.errors.root.message}
        </Alert>
      )}
      <p>
        <Button variant="contained" type="submit" disabled={save.isPending}>
          Save
        </Button>{" "}
        <Typography variant="caption" component="span">
          A point without capacity and COP is left out. Cc 0.9 where none is given.
        </Typography>
      </p>
    </Box>
  );
}

/** Climate, application and outlet: they say at which temperatures the points are. */
function Framing({ form, rated }: { form: UseFormReturn<Declared>; rated: RatedShown }) {
  const [climate, level, variable] = useWatch({
    control: form.control,
    name: ["climate", "level", "variable"],
  });
  const frame = (nextClimate: string, nextLevel: number) => {
    const blank = must(rated.blanks.find((one) => one.climate === nextClimate && one.level === nextLevel));
    const typed = form.getValues("points");
    form.setValue("climate", blank.climate);
    form.setValue("level", blank.level);
    form.setValue(
      "points",
      blank.points.map((point) => ({
        ...point,
        ...pick(typed.find((one) => one.name === point.name)),
        flow: variable ? point.flow : nextLevel,
      })),
    );
  };
  const outlet = (next: boolean) => {
    form.setValue("variable", next);
    const blank = rated.blanks.find((one) => one.climate === climate && one.level === level);
    const flows = new Map(blank?.points.map((point) => [point.name, point.flow]));
    form.setValue(
      "points",
      form.getValues("points").map((point) => ({
        ...point,
        flow: next ? (flows.get(point.name) ?? point.flow) : level,
      })),
    );
  };
  return (
    <>
      <Typography variant="caption" component="label">
        Climate
        <br />
        <Choice value={climate} onChange={(event) => frame(event.target.value, level)}>
          {[...new Set(rated.blanks.map((one) => one.climate))].map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Choice>
      </Typography>
      <Typography variant="caption" component="label">
        Application
        <br />
        <Choice value={level} onChange={(event) => frame(climate, Number(event.target.value))}>
          {[...new Set(rated.blanks.map((one) => one.level))].map((one) => (
            <option key={one} value={one}>
              {one} °C
            </option>
          ))}
        </Choice>
      </Typography>
      <Typography variant="caption" component="label">
        Outlet
        <br />
        <Choice
          value={variable ? "variable" : "fixed"}
          onChange={(event) => outlet(event.target.value === "variable")}
        >
          <option>variable</option>
          <option>fixed</option>
        </Choice>
      </Typography>
    </>
  );
}

function pick(point: Declared["points"][number] | undefined) {
  return point ? { capacity_kw: point.capacity_kw, cop: point.cop, cc: point.cc } : {};
}
