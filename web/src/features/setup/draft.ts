/** A description that is being changed: the documented JSON, and small ways to change it. */

export interface Meter {
  name: string;
  channel: string;
  includes: string[];
  accuracy: string;
  place: string;
  serves: string;
  resolution_kwh: number | null;
}

export interface Circuit {
  name: string;
  flow_rate: string;
  flow_temp: string;
  return_temp: string;
  meter_in: "flow" | "return";
  includes: string[];
  flow_class: 1 | 2 | 3 | null;
  nominal_flow_m3h: number;
  flow_limit: number;
  probes: string;
  in_service: boolean;
  place: string;
  serves: string;
}

export interface Register {
  name: string;
  channel: string;
  includes: string[];
  accuracy_class: 1 | 2 | 3;
  nominal_flow_m3h: number;
  resolution_kwh: number;
  circuit: string | null;
  set_for_water: boolean;
  in_service: boolean;
  place: string;
  serves: string;
}

export interface Reported {
  name: string;
  channel: string;
  includes: string[];
  place: string;
  serves: string;
  resolution_kwh: number | null;
}

export interface SourceYield {
  name: string;
  channel: string;
  limit: number;
  lost: number;
  place: string;
  serves: string;
  resolution_kwh: number | null;
}

export interface Air {
  name: string;
  supply_temp: string;
  return_temp: string;
  airflow: string | null;
  fan_speed: string | null;
  fan: { speed: number; m3h: number }[];
  nominal_m3h: number | null;
  airflow_limit: number;
  supply_humidity: string | null;
  return_humidity: string | null;
  includes: string[];
  probe_limit_k: number;
  altitude_m: number;
  place: string;
}

export interface Refrigerant {
  refrigerant: string;
  [other: string]: unknown;
}

export interface Fixed {
  name: string;
  includes: string[];
  watts: number;
  runs_with: string;
  limit: number;
  serves: string;
}

export interface Unit {
  kind: string;
  capacity_kw: number | null;
  minimum_output_kw: number | null;
  low_outdoor_limit: number | null;
  variable_speed: boolean;
}

export interface House {
  floor_area_m2: number | null;
  heat_loss_kw: number | null;
  design_outdoor: number | null;
  design_indoor: number;
  design_flow: number | null;
  emitters: string | null;
  built: string | null;
  airtightness_ach50: number | null;
  curve: SetCurve | null;
}

/** The weather curve as the controller is set: by points, or by slope and offset. */
export interface SetCurve {
  points: { outdoor: number; flow: number }[];
  slope: number | null;
  offset: number;
  lowest: number | null;
  highest: number | null;
}

export interface Tank {
  volume_l: number;
  effective_share: number;
  set_point: number | null;
}

export interface Replaced {
  fuel: string;
  efficiency: number;
  hot_water: boolean;
}

export interface Sensor {
  channel: string;
  limit_k: number | null;
  place: string;
  probe: string | null;
}

export interface HandSeries {
  name: string;
  kind: string;
  unit: string;
  meter: string | null;
  channel: string | null;
  keeps: string;
  resolution: number;
  digits: number | null;
}

export interface Band {
  name: string;
  price: number;
  start: string;
  end: string;
  weekdays: number[];
  months: number[];
  share: number | null;
}

export interface Tier {
  above_kwh: number;
  price_more: number;
}

/** What holds at a time; of a change with the local day from which it does. */
export interface Prices {
  price: number;
  name: string;
  standing_charge: number;
  standing_per: string;
  vat: number;
  bands: Band[];
  tiers: Tier[];
  by_the_hour: { add: number } | null;
  export_price: number;
}

export interface PricesFrom extends Prices {
  start: string;
}

export interface Tariff extends Prices {
  currency: string;
  changes: PricesFrom[];
  other_uses_kwh: number;
}

/** Channels of the house's supply. */
export interface SupplyChannels {
  grid_import: string | null;
  grid_export: string | null;
  solar: string | null;
  battery_charge: string | null;
  battery_discharge: string | null;
  house_load: string | null;
}

export interface Supply extends SupplyChannels {
  solar_worth: string;
  sharing: string;
}

export interface Draft {
  name: string;
  zone: string;
  electricity: Meter[];
  circuits: Circuit[];
  registers: Register[];
  air: Air[];
  reported: Reported[];
  yields: SourceYield[];
  fixed: Fixed[];
  refrigerant: Refrigerant | null;
  consumers: string[];
  idle: string[];
  unit: Unit;
  fluid: { kind: string; mass_fraction: number };
  property: string | null;
  location: { latitude: number; longitude: number } | null;
  house: House;
  tank: Tank | null;
  replaced: Replaced | null;
  sensors: Sensor[];
  by_hand: HandSeries[];
  outdoor: { channel: string; limit_k: number };
  tariff: Tariff | null;
  supply: Supply | null;
  carbon: { kg_per_kwh: number; source: string } | null;
  units: string | null;
  [other: string]: unknown;
}

/** A list with a thing put in, or taken out where it is. */
export function toggled(list: string[], what: string): string[] {
  return list.includes(what) ? list.filter((one) => one !== what) : [...list, what];
}

/** A consumer in or out of a meter; what a meter includes is there. */
export function toggleConsumer(draft: Draft, meter: number, consumer: string): Draft {
  const electricity = draft.electricity.map((one, k) =>
    k === meter ? { ...one, includes: toggled(one.includes, consumer) } : one,
  );
  const included = electricity[meter]?.includes.includes(consumer);
  const consumers =
    included && !draft.consumers.includes(consumer) ? [...draft.consumers, consumer] : draft.consumers;
  return { ...draft, electricity, consumers };
}

/** Whether there is a consumer at all; one that goes leaves every meter. */
export function toggleThere(draft: Draft, consumer: string): Draft {
  const consumers = toggled(draft.consumers, consumer);
  const electricity = consumers.includes(consumer)
    ? draft.electricity
    : draft.electricity.map((one) => ({ ...one, includes: one.includes.filter((c) => c !== consumer) }));
  return { ...draft, consumers, electricity, idle: draft.idle.filter((one) => consumers.includes(one)) };
}

/** The draft with one entry of a list changed. */
export function changed<K extends List>(
  draft: Draft,
  list: K,
  at: number,
  change: Partial<Draft[K][number]>,
): Draft {
  const entries = draft[list].map((one, k) => (k === at ? { ...one, ...change } : one));
  return { ...draft, [list]: entries };
}

export type List =
  "electricity" | "circuits" | "registers" | "air" | "reported" | "yields" | "fixed" | "sensors" | "by_hand";

// The fields of an entry that name a channel of its own.
const CHANNELS: Partial<Record<List, readonly string[]>> = {
  electricity: ["channel"],
  circuits: ["flow_rate", "flow_temp", "return_temp"],
  registers: ["channel"],
  air: ["supply_temp", "return_temp"],
  reported: ["channel"],
  yields: ["channel"],
};

/** The description with a new entry in a list: what the core begins one with, under a name and channels that are
 * not taken yet. */
export function added<K extends List>(draft: Draft, list: K, fresh: Record<string, unknown>): Draft {
  const nth = draft[list].length + 1;
  const entry: Record<string, unknown> = { ...fresh };
  if (typeof entry.name === "string" && nth > 1) entry.name = `${entry.name} ${nth}`;
  for (const field of CHANNELS[list] ?? []) {
    const channel = String(entry[field]);
    if (channel.includes(":")) entry[field] = `${channel}${nth}`;
    else if (nth > 1) entry[field] = `${channel}:${nth}`;
  }
  if (list === "fixed")
    entry.includes = (entry.includes as string[]).filter((one) => draft.consumers.includes(one));
  return { ...draft, [list]: [...draft[list], entry] };
}
