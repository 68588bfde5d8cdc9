/** A description that is being changed: the documented JSON, and small ways to change it. */

export interface Meter {
  name: string;
  channel: string;
  includes: string[];
  accuracy: string;
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
}

export interface Register {
  name: string;
  channel: string;
  includes: string[];
  accuracy_class: 1 | 2 | 3;
  nominal_flow_m3h: number;
  resolution_kwh: number;
  circuit: string | null;
  in_service: boolean;
}

export interface Band {
  name: string;
  price: number;
  start: string;
  end: string;
  weekdays: number[];
}

export interface Tariff {
  price: number;
  currency: string;
  name: string;
  standing_charge: number;
  bands: Band[];
}

export interface Draft {
  name: string;
  zone: string;
  electricity: Meter[];
  circuits: Circuit[];
  registers: Register[];
  consumers: string[];
  unit: { kind: "air_to_water" | "ground_source"; capacity_kw: number | null; variable_speed: boolean };
  fluid: Record<string, unknown>;
  outdoor: { channel: string; limit_k: number };
  tariff: Tariff | null;
  [other: string]: unknown;
}

/** A list with a thing put in, or taken out where it is. */
export function toggled(list: string[], what: string): string[] {
  return list.includes(what) ? list.filter((one) => one !== what) : [...list, what];
}

/** A consumer in or out of a meter; what a meter includes is there. */
export function toggleConsumer(draft: Draft, meter: number, consumer: string): Draft {
  const electricity = draft.electricity.map((one, k) => (k === meter ? { ...one, includes: toggled(one.includes, consumer) } : one));
  const included = electricity[meter]?.includes.includes(consumer);
  const consumers = included && !draft.consumers.includes(consumer) ? [...draft.consumers, consumer] : draft.consumers;
  return { ...draft, electricity, consumers };
}

/** Whether there is a consumer at all; one that goes leaves every meter. */
export function toggleThere(draft: Draft, consumer: string): Draft {
  const consumers = toggled(draft.consumers, consumer);
  const electricity = consumers.includes(consumer)
    ? draft.electricity
    : draft.electricity.map((one) => ({ ...one, includes: one.includes.filter((c) => c !== consumer) }));
  return { ...draft, consumers, electricity };
}

/** The draft with one entry of a list changed. */
export function changed<K extends "electricity" | "circuits" | "registers">(draft: Draft, list: K, at: number, change: Partial<Draft[K][number]>): Draft {
  const entries = draft[list].map((one, k) => (k === at ? { ...one, ...change } : one));
  return { ...draft, [list]: entries };
}

/** A number from a field; an empty one is null, what is none stays as it was. */
export function numberOf(text: string): number | null | undefined {
  if (!text.trim()) return null;
  const value = Number(text.replace(",", "."));
  return Number.isFinite(value) ? value : undefined;
}
