/** What the maker declares by EN 14825, typed from the data sheet: the only thing called SCOP. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { Choice } from "../../components/Choice";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type Declared, type RatedShown, type SystemShown } from "../../api/client";
import { number, numberIn, type Shown } from "../../components/numbers";
import { must } from "../../components/must";

const AUX = [
  ["thermostat_off", "thermostat off"],
  ["standby", "standby"],
  ["crankcase", "crankcase"],
  ["off", "off"],
] as const;

const plain = (text: string): number | null => numberIn(text) ?? null;

const two = (value: number | null) => (value === null ? "–" : number(value, 2));

export function DeclaredForm({
  system,
  rated,
  temp,
}: {
  system: SystemShown;
  rated: RatedShown;
  temp: Shown;
}) {
  const queries = useQueryClient();
  const [form, setForm] = useState<Declared>(rated.declared ?? must(rated.blanks[0]));
  const [open, setOpen] = useState(rated.declared !== null);
  const save = useMutation({
    mutationFn: () =>
      got(api.PUT("/api/v1/systems/{pk}/declared", { params: { path: { pk: system.id } }, body: form })),
    onSuccess: (found) => {
      queries.setQueryData(["system", system.id, "rated"], found);
    },
  });
  const scop = rated.declared_scop;
  const set = (change: Partial<Declared>) => setForm({ ...form, ...change });
  const frame = (climate: string, level: number) => {
    const blank = must(rated.blanks.find((one) => one.climate === climate && one.level === level));
    set({
      climate: blank.climate,
      level: blank.level,
      points: blank.points.map((point) => ({
        ...point,
        ...pick(form.points.find((one) => one.name === point.name)),
      })),
    });
  };
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
        <Box
          component="form"
          sx={{ display: "grid", gap: 8, maxWidth: 640 }}
          aria-label="Declared points"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
        >
          <Box sx={{ display: "flex", gap: 10, flexWrap: "wrap" }}>
            <Typography variant="caption" component="label">
              Climate
              <br />
              <Choice value={form.climate} onChange={(event) => frame(event.target.value, form.level)}>
                {[...new Set(rated.blanks.map((one) => one.climate))].map((climate) => (
                  <option key={climate}>{climate}</option>
                ))}
              </Choice>
            </Typography>
            <Typography variant="caption" component="label">
              Application
              <br />
              <Choice
                value={form.level}
                onChange={(event) => frame(form.climate, Number(event.target.value))}
              >
                {[...new Set(rated.blanks.map((one) => one.level))].map((level) => (
                  <option key={level} value={level}>
                    {level} °C
                  </option>
                ))}
              </Choice>
            </Typography>
            <Typography variant="caption" component="label">
              Outlet
              <br />
              <Choice
                value={form.variable ? "variable" : "fixed"}
                onChange={(event) =>
                  set({
                    variable: event.target.value === "variable",
                    points:
                      event.target.value === "variable"
                        ? form.points
                        : form.points.map((point) => ({ ...point, flow: form.level })),
                  })
                }
              >
                <option>variable</option>
                <option>fixed</option>
              </Choice>
            </Typography>
            <Field
              label="Design load kW"
              value={form.design_load_kw}
              put={(design_load_kw) => set({ design_load_kw })}
            />
            <Field label="Bivalent °C" value={form.bivalent} put={(bivalent) => set({ bivalent })} />
            <Field
              label="Low limit (TOL) °C"
              value={form.low_limit}
              put={(low_limit) => set({ low_limit })}
            />
          </Box>
          <FigureTable tight aria-label="Points">
            <TableHead>
              <TableRow>
                <TableCell>Point</TableCell>
                <TableCell align="right">Outdoors °C</TableCell>
                <TableCell align="right">Flow °C</TableCell>
                <TableCell align="right">Capacity kW</TableCell>
                <TableCell align="right">COP</TableCell>
                <TableCell align="right">Cc</TableCell>
              </TableRow>
            </TableHead>
            <TableBody>
              {form.points.map((point, k) => {
                const put = (change: Partial<(typeof form.points)[number]>) =>
                  set({ points: form.points.map((one, j) => (j === k ? { ...one, ...change } : one)) });
                return (
                  <TableRow key={point.name}>
                    <TableCell>{point.name}</TableCell>
                    <Num
                      label={`${point.name} outdoors`}
                      value={point.outdoor}
                      put={(value) => put({ outdoor: value ?? point.outdoor })}
                    />
                    <Num
                      label={`${point.name} flow`}
                      value={point.flow}
                      put={(value) => put({ flow: value ?? point.flow })}
                    />
                    <Num
                      label={`${point.name} capacity`}
                      value={point.capacity_kw}
                      put={(capacity_kw) => put({ capacity_kw })}
                    />
                    <Num label={`${point.name} COP`} value={point.cop} put={(cop) => put({ cop })} />
                    <Num label={`${point.name} Cc`} value={point.cc} put={(cc) => put({ cc })} />
                  </TableRow>
                );
              })}
            </TableBody>
          </FigureTable>
          <Box sx={{ display: "flex", gap: 10, flexWrap: "wrap" }}>
            {AUX.map(([key, words]) => (
              <Field
                key={key}
                label={`${words} W`}
                value={form[key]}
                put={(value) => set({ [key]: value })}
              />
            ))}
          </Box>
          {save.isError && (
            <Alert severity="warning" role="alert">
              {save.error.message}
            </Alert>
          )}
          <p>
            <Button
              variant="contained"
              type="submit"
              disabled={save.isPending || form.design_load_kw === null}
            >
              Save
            </Button>{" "}
            <Typography variant="caption" component="span">
              A point without capacity and COP is left out. Cc 0.9 where none is given.
            </Typography>
          </p>
        </Box>
      )}
    </section>
  );
}

function pick(point: Declared["points"][number] | undefined) {
  return point ? { capacity_kw: point.capacity_kw, cop: point.cop, cc: point.cc } : {};
}

function Field({
  label,
  value,
  put,
}: {
  label: string;
  value: number | null;
  put: (value: number | null) => void;
}) {
  const [text, setText] = useState(value === null ? "" : String(value));
  return (
    <Typography variant="caption" component="label">
      {label}
      <br />
      <TextInput
        sx={{ width: 74 }}
        inputMode="decimal"
        aria-label={label}
        value={text}
        onChange={(event) => (setText(event.target.value), put(plain(event.target.value)))}
      />
    </Typography>
  );
}

function Num({
  label,
  value,
  put,
}: {
  label: string;
  value: number | null;
  put: (value: number | null) => void;
}) {
  const [text, setText] = useState(value === null ? "" : String(value));
  return (
    <TableCell align="right">
      <TextInput
        sx={{ width: 58, textAlign: "right", minHeight: 20 }}
        inputMode="decimal"
        aria-label={label}
        value={text}
        onChange={(event) => (setText(event.target.value), put(plain(event.target.value)))}
      />
    </TableCell>
  );
}
