/** The installation, the house, its tank, what was there before, and other units of the property. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { TextInput } from "../../components/TextInput";
import { FigureTable, LineTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { Link } from "react-router";

import { useFleet } from "../../api/hooks";
import { HonestFigure } from "../../components/Proof";
import { number, percent } from "../../components/numbers";
import { toggled, toggleThere, type SetCurve } from "./draft";
import { NumberField, UnitField } from "../../components/NumberField";
import { ChoiceOf, ChoiceRow, Field, type Part, UnitRow } from "./Fields";
import { must } from "../../components/must";

const UNITS = [
  { value: "si", words: "SI" },
  { value: "us", words: "US" },
];

export function Installation({ setup, draft, edit, problems }: Part) {
  const { unit } = draft;
  const put = (change: Partial<typeof unit>) => edit({ ...draft, unit: { ...unit, ...change } });
  const air = unit.kind.startsWith("air_to_air");
  const text = (label: string, where: "name" | "zone" | "property", hint?: string) => (
    <Field label={label} where={where} problems={problems}>
      <TextInput
        sx={{ width: 190 }}
        aria-label={label}
        value={draft[where] ?? ""}
        placeholder={hint}
        onChange={(event) =>
          edit({ ...draft, [where]: where === "property" ? event.target.value || null : event.target.value })
        }
      />
    </Field>
  );
  return (
    <section>
      <Typography variant="h2">Installation</Typography>
      <LineTable aria-label="Installation">
        <TableBody>
          {text("Name", "name")}
          {text("Time zone", "zone")}
          {text("Property", "property", "same for all its units")}
          <ChoiceRow
            label="Shown in"
            where="units"
            problems={problems}
            named="Units"
            value={draft.units}
            choices={UNITS}
            put={(units) => edit({ ...draft, units })}
            none="as each chooses"
          />
          <CarbonField draft={draft} edit={edit} problems={problems} />
          <LocationField draft={draft} edit={edit} problems={problems} />
          <ChoiceRow
            label="Unit"
            where="unit.kind"
            problems={problems}
            named="Kind of unit"
            value={unit.kind}
            choices={setup.choices["unit.kind"] ?? []}
            put={(kind) => put({ kind: must(kind) })}
          />
          <UnitRow
            label="Nominal capacity"
            where="unit.capacity_kw"
            problems={problems}
            unit="watt"
            per={1000}
            value={unit.capacity_kw}
            put={(capacity_kw) => put({ capacity_kw })}
          />
          <UnitRow
            label="Minimum output"
            where="unit.minimum_output_kw"
            problems={problems}
            unit="watt"
            per={1000}
            value={unit.minimum_output_kw}
            put={(minimum_output_kw) => put({ minimum_output_kw })}
          />
          <Field label="Compressor">
            <label>
              <Checkbox
                checked={unit.variable_speed}
                onChange={() => put({ variable_speed: !unit.variable_speed })}
              />{" "}
              variable speed
            </label>
          </Field>
          <UnitRow
            label="Low outdoor limit"
            where="unit.low_outdoor_limit"
            problems={problems}
            unit="degC"
            value={unit.low_outdoor_limit}
            put={(low_outdoor_limit) => put({ low_outdoor_limit })}
          />
          {!air && <FluidField setup={setup} draft={draft} edit={edit} problems={problems} />}
          <UnitRow
            label="Outdoor sensor ±"
            where="outdoor.limit_k"
            problems={problems}
            named="Limit of the outdoor sensor"
            unit="kelvin"
            value={draft.outdoor.limit_k}
            put={(limit) => edit({ ...draft, outdoor: { ...draft.outdoor, limit_k: limit ?? 0 } })}
          />
          <Field label="There is" where="consumers" problems={problems}>
            {setup.consumers.map((one) => (
              <Box component="label" sx={{ display: "block" }} key={one.value}>
                <Checkbox
                  checked={draft.consumers.includes(one.value)}
                  onChange={() => edit(toggleThere(draft, one.value))}
                />{" "}
                {air && one.value === "distribution_pump" ? "indoor fans" : one.words}
                {one.value.endsWith("_heater") && draft.consumers.includes(one.value) && (
                  <Box component="span" sx={{ marginLeft: 10 }}>
                    <Checkbox
                      slotProps={{ input: { "aria-label": `The ${one.words} surely rests` } }}
                      checked={draft.idle.includes(one.value)}
                      onChange={() => edit({ ...draft, idle: toggled(draft.idle, one.value) })}
                    />{" "}
                    surely rests
                  </Box>
                )}
              </Box>
            ))}
          </Field>
        </TableBody>
      </LineTable>
    </section>
  );
}

type Described = Omit<Part, "setup">;

function CarbonField({ draft, edit, problems }: Described) {
  return (
    <Field label="Carbon" where="carbon.kg_per_kwh" problems={problems}>
      {draft.carbon ? (
        <>
          <NumberField
            label="Carbon, kg a kWh"
            value={draft.carbon.kg_per_kwh}
            put={(kg) =>
              edit({ ...draft, carbon: kg === null ? null : { ...must(draft.carbon), kg_per_kwh: kg } })
            }
            width={56}
          />{" "}
          kg CO₂ a kWh, by{" "}
          <TextInput
            sx={{ width: 120 }}
            aria-label="Source of the carbon factor"
            value={draft.carbon.source}
            maxLength={80}
            onChange={(event) =>
              edit({ ...draft, carbon: { ...must(draft.carbon), source: event.target.value } })
            }
          />
        </>
      ) : (
        <Button onClick={() => edit({ ...draft, carbon: { kg_per_kwh: 0.2, source: "the supplier" } })}>
          Give a factor
        </Button>
      )}
    </Field>
  );
}

function LocationField({ draft, edit, problems }: Described) {
  return (
    <Field label="Latitude, longitude" where="location.latitude" problems={problems}>
      <NumberField
        label="Latitude, degrees north"
        value={draft.location?.latitude ?? null}
        put={(latitude) =>
          edit({
            ...draft,
            location: latitude === null ? null : { latitude, longitude: draft.location?.longitude ?? 0 },
          })
        }
        width={64}
      />{" "}
      <NumberField
        label="Longitude, degrees east"
        value={draft.location?.longitude ?? null}
        put={(longitude) =>
          edit({
            ...draft,
            location: longitude === null ? null : { latitude: draft.location?.latitude ?? 0, longitude },
          })
        }
        width={64}
      />
      <Typography variant="caption" component="div">
        For the weather only; a tenth of a degree is enough, and tells nobody the address.
      </Typography>
    </Field>
  );
}

function FluidField({ setup, draft, edit, problems }: Part) {
  const { fluid } = draft;
  return (
    <Field label="Fluid" where="fluid.mass_fraction" problems={problems}>
      <ChoiceOf
        label="Fluid"
        value={fluid.kind}
        choices={setup.choices["fluid.kind"] ?? []}
        put={(kind) =>
          edit({
            ...draft,
            fluid: {
              kind: must(kind),
              mass_fraction: kind === "water" ? 0 : fluid.mass_fraction || 0.25,
            },
          })
        }
      />{" "}
      {fluid.kind !== "water" && (
        <>
          <NumberField
            label="Glycol, % by mass"
            value={Number((fluid.mass_fraction * 100).toFixed(2))}
            put={(share) => edit({ ...draft, fluid: { ...fluid, mass_fraction: (share ?? 0) / 100 } })}
            width={44}
          />{" "}
          % by mass
          <Typography variant="caption" component="div">
            By refractometer. 5–10 % protects only to −2 … −4 °C and thins the inhibitor below what stops
            corrosion. Antifreeze is toxic to some degree.
          </Typography>
        </>
      )}
    </Field>
  );
}

export function House({ setup, draft, edit, problems }: Part) {
  const { house } = draft;
  const put = (change: Partial<typeof house>) => edit({ ...draft, house: { ...house, ...change } });
  return (
    <section>
      <Typography variant="h2">House</Typography>
      <LineTable aria-label="House">
        <TableBody>
          <UnitRow
            label="Heated floor"
            where="house.floor_area_m2"
            problems={problems}
            unit="m2"
            value={house.floor_area_m2}
            put={(floor_area_m2) => put({ floor_area_m2 })}
          />
          <UnitRow
            label="Heat loss"
            where="house.heat_loss_kw"
            problems={problems}
            unit="watt"
            per={1000}
            value={house.heat_loss_kw}
            put={(heat_loss_kw) => put({ heat_loss_kw })}
          />
          <UnitRow
            label="at outdoors"
            where="house.design_outdoor"
            problems={problems}
            named="Design outdoor temperature"
            unit="degC"
            value={house.design_outdoor}
            put={(design_outdoor) => put({ design_outdoor })}
          />
          <UnitRow
            label="and indoors"
            where="house.design_indoor"
            problems={problems}
            named="Design indoor temperature"
            unit="degC"
            value={house.design_indoor}
            put={(indoor) => put({ design_indoor: indoor ?? 20 })}
          />
          <UnitRow
            label="with a flow of"
            where="house.design_flow"
            problems={problems}
            named="Design flow temperature"
            unit="degC"
            value={house.design_flow}
            put={(design_flow) => put({ design_flow })}
          />
          <ChoiceRow
            label="Emitters"
            where="house.emitters"
            problems={problems}
            value={house.emitters}
            choices={setup.choices["house.emitters"] ?? []}
            put={(emitters) => put({ emitters })}
            none="not known"
          />
          <ChoiceRow
            label="Built"
            where="house.built"
            problems={problems}
            value={house.built}
            choices={setup.choices["house.built"] ?? []}
            put={(built) => put({ built })}
            none="not known"
          />
          <Field label="Set curve" where="house.curve" problems={problems}>
            <Curve curve={house.curve} put={(curve) => put({ curve })} />
          </Field>
          <Field label="Airtightness" where="house.airtightness_ach50" problems={problems}>
            <NumberField
              label="Air changes an hour at 50 Pa"
              value={house.airtightness_ach50}
              put={(airtightness_ach50) => put({ airtightness_ach50 })}
              width={56}
            />{" "}
            changes an hour at 50 Pa
          </Field>
        </TableBody>
      </LineTable>
    </section>
  );
}

/** The weather curve as it is set at the controller: by points, or by slope and offset. */
function Curve({ curve, put }: { curve: SetCurve | null; put: (curve: SetCurve | null) => void }) {
  const none = { points: [], slope: null, offset: 0, lowest: null, highest: null };
  const points = {
    ...none,
    points: [
      { outdoor: -10, flow: 45 },
      { outdoor: 15, flow: 28 },
    ],
  };
  if (!curve)
    return (
      <>
        <Button onClick={() => put(points)}>By points</Button>{" "}
        <Button onClick={() => put({ ...none, slope: 0.8 })}>By slope and offset</Button>
      </>
    );
  const change = (more: Partial<SetCurve>) => put({ ...curve, ...more });
  const point = (k: number, more: Partial<SetCurve["points"][number]>) =>
    change({ points: curve.points.map((one, j) => (j === k ? { ...one, ...more } : one)) });
  return (
    <>
      {curve.slope === null ? (
        curve.points.map((one, k) => (
          <div key={k}>
            <UnitField
              label={`Outdoors of point ${k + 1}`}
              unit="degC"
              value={one.outdoor}
              put={(outdoor) => point(k, { outdoor: outdoor ?? 0 })}
            />{" "}
            →{" "}
            <UnitField
              label={`Flow of point ${k + 1}`}
              unit="degC"
              value={one.flow}
              put={(flow) => point(k, { flow: flow ?? 0 })}
            />
            {curve.points.length > 2 && (
              <Button
                variant="text"
                aria-label={`Remove point ${k + 1}`}
                onClick={() => change({ points: curve.points.filter((_, j) => j !== k) })}
              >
                ×
              </Button>
            )}
          </div>
        ))
      ) : (
        <div>
          slope{" "}
          <NumberField
            label="Slope of the curve"
            value={curve.slope}
            put={(slope) => change({ slope: slope ?? 0 })}
            width={48}
          />{" "}
          offset{" "}
          <UnitField
            label="Offset of the curve"
            unit="kelvin"
            value={curve.offset}
            put={(offset) => change({ offset: offset ?? 0 })}
          />
          <Typography variant="caption" component="div">
            flow = room + offset + slope · (room − outdoors)
          </Typography>
        </div>
      )}
      <div>
        {curve.slope === null && (
          <Button onClick={() => change({ points: [...curve.points, { outdoor: 0, flow: 35 }] })}>
            Add a point
          </Button>
        )}{" "}
        <Button variant="text" onClick={() => put(null)}>
          Not known
        </Button>
      </div>
    </>
  );
}

export function Tank({ draft, edit, problems }: Part) {
  const { tank } = draft;
  if (!tank)
    return (
      <section>
        <Typography variant="h2">Hot-water tank</Typography>
        <Box component="p" sx={look.soft}>
          None.
        </Box>
        <Button
          onClick={() => edit({ ...draft, tank: { volume_l: 200, effective_share: 0.85, set_point: null } })}
        >
          Add a tank
        </Button>
      </section>
    );
  const put = (change: Partial<typeof tank>) => edit({ ...draft, tank: { ...tank, ...change } });
  return (
    <section>
      <Typography variant="h2">Hot-water tank</Typography>
      <LineTable aria-label="Hot-water tank">
        <TableBody>
          <UnitRow
            label="Volume"
            where="tank.volume_l"
            problems={problems}
            unit="litre"
            value={tank.volume_l}
            put={(volume) => put({ volume_l: volume ?? 0 })}
          />
          <Field label="of it warmed" where="tank.effective_share" problems={problems}>
            <NumberField
              label="Share warmed, %"
              value={Number((tank.effective_share * 100).toFixed(2))}
              put={(share) => put({ effective_share: (share ?? 0) / 100 })}
              width={44}
            />{" "}
            %
          </Field>
          <UnitRow
            label="Set point"
            where="tank.set_point"
            problems={problems}
            unit="degC"
            value={tank.set_point}
            put={(set_point) => put({ set_point })}
          />
        </TableBody>
      </LineTable>
      <Typography variant="caption" component="p">
        Above 50 °C water scalds: blend at the tap. Below 60 °C legionella can grow: local rules decide before
        a set point is lowered.
      </Typography>
      <Button variant="text" onClick={() => edit({ ...draft, tank: null })}>
        Remove
      </Button>
    </section>
  );
}

export function Heating({ setup, draft, edit, problems }: Part) {
  const { replaced } = draft;
  if (!replaced)
    return (
      <section>
        <Typography variant="h2">Heating before</Typography>
        <Box component="p" sx={look.soft}>
          Not described. Its bills go into the Log, under Bills.
        </Box>
        <Button
          onClick={() => edit({ ...draft, replaced: { fuel: "gas", efficiency: 0.85, hot_water: true } })}
        >
          Describe it
        </Button>
      </section>
    );
  const put = (change: Partial<typeof replaced>) => edit({ ...draft, replaced: { ...replaced, ...change } });
  return (
    <section>
      <Typography variant="h2">Heating before</Typography>
      <LineTable aria-label="Heating before">
        <TableBody>
          <ChoiceRow
            label="Fuel"
            where="replaced.fuel"
            problems={problems}
            value={replaced.fuel}
            choices={setup.choices["replaced.fuel"] ?? []}
            put={(fuel) => put({ fuel: must(fuel) })}
          />
          <Field label="Efficiency" where="replaced.efficiency" problems={problems}>
            <NumberField
              label="Efficiency, %"
              value={Number((replaced.efficiency * 100).toFixed(2))}
              put={(share) => put({ efficiency: (share ?? 0) / 100 })}
              width={44}
            />{" "}
            %
          </Field>
          <Field label="Its bills hold">
            <label>
              <Checkbox
                checked={replaced.hot_water}
                onChange={() => put({ hot_water: !replaced.hot_water })}
              />{" "}
              the hot water too
            </label>
          </Field>
        </TableBody>
      </LineTable>
      <Button variant="text" onClick={() => edit({ ...draft, replaced: null })}>
        Remove
      </Button>
    </section>
  );
}

/** The units of one property side by side. */
export function Siblings({ ids, here, property }: { ids: number[]; here: number; property: string | null }) {
  const fleet = useFleet();
  const rows = (fleet.data?.rows ?? []).filter((row) => ids.includes(row.id));
  if (rows.length < 2) return null;
  return (
    <section>
      <Typography variant="h2">Units of {property}</Typography>
      <FigureTable sx={{ maxWidth: 900 }} aria-label={`Units of ${property}`}>
        <TableHead>
          <TableRow>
            <TableCell>System</TableCell>
            <TableCell>Unit</TableCell>
            <TableCell>SPF</TableCell>
            <TableCell>Boundary, period</TableCell>
            <TableCell align="right">Covered</TableCell>
            <TableCell>If as rated</TableCell>
            <TableCell>Metering</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {rows.map(({ id, system }) => (
            <TableRow key={id}>
              <TableCell>
                {id === here ? (
                  <strong>{system.name}</strong>
                ) : (
                  <Link to={`/systems/${id}/setup`}>{system.name}</Link>
                )}
              </TableCell>
              <TableCell sx={look.soft}>{system.unit}</TableCell>
              <TableCell>
                {system.spf ? (
                  <HonestFigure
                    proof={{ title: `SPF of ${system.name}`, about: system.of ?? "", figure: system.spf }}
                  />
                ) : (
                  <Box component="span" sx={look.soft}>
                    {system.reason?.sentence ?? "no readings"}
                  </Box>
                )}
              </TableCell>
              <TableCell sx={look.soft}>
                {system.level} {system.of && `· ${system.of}`}
              </TableCell>
              <TableCell align="right">{system.coverage === null ? "–" : percent(system.coverage)}</TableCell>
              <TableCell>{system.expected ? number(system.expected.value, 2) : "–"}</TableCell>
              <TableCell sx={system.metering === "sound" ? look.soft : look.ember}>
                {system.metering_words}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
      <Typography variant="caption" component="p">
        Each unit has its own sub-circuit meters; what they share, such as a main meter, stays out of both.
      </Typography>
    </section>
  );
}
