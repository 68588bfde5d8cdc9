/** An owner's bills: periods of unequal length, some of them estimated. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useForget } from "../../api/hooks";
import { number } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import { useRemove } from "./remove";

type Bill = components["schemas"]["BillShown"];
type Typed = components["schemas"]["BillTyped"];

interface Fields {
  id: number | null;
  first: string;
  last: string;
  carrier: string;
  amount: string;
  unit: string;
  kwh: string;
  cost: string;
  estimated: boolean;
  before: boolean;
  note: string;
  meter: string | null;
}

const empty: Fields = {
  id: null,
  first: "",
  last: "",
  carrier: "electricity",
  amount: "",
  unit: "kWh",
  kwh: "1",
  cost: "",
  estimated: false,
  before: false,
  note: "",
  meter: null,
};

const asFields = (bill: Bill): Fields => ({
  ...bill,
  amount: String(bill.amount),
  kwh: String(bill.kwh_per_unit),
  cost: bill.cost === null ? "" : String(bill.cost),
});

const value = (text: string) => Number(text.replace(/\s/g, "").replace(",", "."));

function asTyped(fields: Fields): Typed | string {
  const [amount, kwh, cost] = [fields.amount, fields.kwh, fields.cost].map(value) as [number, number, number];
  if (!fields.amount.trim() || !Number.isFinite(amount)) return `Amount: '${fields.amount}' is no number.`;
  if (!Number.isFinite(kwh) || kwh <= 0)
    return `kWh a ${fields.unit}: '${fields.kwh}' is no number above zero.`;
  if (!Number.isFinite(cost)) return `Cost: '${fields.cost}' is no number.`;
  const { id, first, last, carrier, unit, estimated, before, note, meter } = fields;
  return {
    id,
    first,
    last,
    carrier,
    amount,
    unit,
    kwh_per_unit: kwh,
    cost: fields.cost.trim() ? cost : null,
    estimated,
    before,
    note,
    meter: carrier.trim().toLowerCase() === "electricity" && !before ? meter : null,
  };
}

export function Bills({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const bills = useQuery({
    queryKey: ["bills", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/bills", params)),
  });
  const queries = useQueryClient();
  const forget = useForget();
  const [fields, setFields] = useState<Fields>(empty);
  const [wrong, setWrong] = useState("");
  const remove = useRemove(system.id, "bills");
  const keep = useMutation({
    mutationFn: (bill: Typed) => got(api.POST("/api/v1/systems/{pk}/bills", { ...params, body: bill })),
    onSuccess: (next) => {
      queries.setQueryData(["bills", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
      setFields({
        ...empty,
        carrier: fields.carrier,
        unit: fields.unit,
        kwh: fields.kwh,
        before: fields.before,
        meter: fields.meter,
      });
      if (next.rows.some((one) => one.meter)) forget(system.id);
    },
  });
  if (bills.isError) return <Trouble error={bills.error} again={() => void bills.refetch()} />;
  if (!bills.data) return <Waiting what="the bills" />;
  const { rows, stretches, currency, meters } = bills.data;
  const put = (change: Partial<Fields>) => setFields({ ...fields, ...change });
  const text = (
    label: string,
    name: "first" | "last" | "carrier" | "amount" | "unit" | "kwh" | "cost" | "note",
    width: number,
    hint?: string,
  ) => (
    <label className="cap">
      {label}
      <br />
      <input
        type="text"
        value={fields[name]}
        placeholder={hint}
        onChange={(event) => put({ [name]: event.target.value })}
        style={{ width }}
      />
    </label>
  );
  function submit(event: FormEvent) {
    event.preventDefault();
    const made = asTyped(fields);
    setWrong(typeof made === "string" ? made : "");
    if (typeof made !== "string") keep.mutate(made);
  }
  return (
    <section style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <form
        aria-label="A bill"
        onSubmit={submit}
        style={{ display: "flex", gap: 6, flexWrap: "wrap", alignItems: "end" }}
      >
        {text("First day", "first", 92, "2026-01-14")}
        {text("Last day", "last", 92, "2026-03-12")}
        {text("Of", "carrier", 90)}
        {text("Amount", "amount", 76)}
        {text("Unit", "unit", 52)}
        {text("kWh in one", "kwh", 60)}
        {text(`Cost${currency ? `, ${currency}` : ""}`, "cost", 70)}
        <label className="cap">
          <input
            type="checkbox"
            checked={fields.estimated}
            onChange={(event) => put({ estimated: event.target.checked })}
          />{" "}
          estimated
        </label>
        <label className="cap">
          <input
            type="checkbox"
            checked={fields.before}
            onChange={(event) => put({ before: event.target.checked })}
          />{" "}
          of the heating before
        </label>
        {fields.carrier.trim().toLowerCase() === "electricity" && !fields.before && (
          <label
            className="cap"
            title="A bill of the unit's own meter stands in its sums; one of the whole house says nothing of the unit"
          >
            Counts
            <br />
            <select
              value={fields.meter ?? ""}
              onChange={(event) => put({ meter: event.target.value || null })}
            >
              <option value="">the whole house</option>
              {meters.map((name) => (
                <option key={name} value={name}>
                  {name} alone
                </option>
              ))}
            </select>
          </label>
        )}
        {text("Note", "note", 120)}
        <button className="key main" disabled={keep.isPending} style={{ alignSelf: "flex-end" }}>
          {fields.id === null ? "Add" : "Change"}
        </button>
        {fields.id !== null && (
          <button type="button" className="key" onClick={() => setFields(empty)}>
            Leave it
          </button>
        )}
      </form>
      {(wrong || keep.isError || remove.isError) && (
        <p role="alert" className="notice">
          {wrong || (keep.error ?? remove.error)?.message}
        </p>
      )}
      {!rows.length && (
        <p className="soft">
          No bills yet. Periods may be of any length; an estimated one is settled by the next that was read.
        </p>
      )}
      {rows.length > 0 && (
        <div
          style={{
            display: "grid",
            gridTemplateColumns: "repeat(auto-fit, minmax(480px, 1fr))",
            gap: 22,
            alignItems: "start",
          }}
        >
          <table className="sheet" aria-label="Bills">
            <thead>
              <tr>
                <th>First day</th>
                <th>Last day</th>
                <th>Of</th>
                <th className="num">Amount</th>
                <th className="num">Cost</th>
                <th />
                <th />
              </tr>
            </thead>
            <tbody>
              {rows.map((bill) => (
                <tr key={bill.id} title={bill.note}>
                  <td>{bill.first}</td>
                  <td>{bill.last}</td>
                  <td>
                    {cap(bill.carrier)}
                    {bill.meter && <span className="soft"> of {bill.meter}</span>}
                    {bill.before && <span className="soft"> before</span>}
                  </td>
                  <td className="num">
                    {number(bill.amount, 0)} {bill.unit}
                  </td>
                  <td className="num">{bill.cost === null ? "–" : number(bill.cost, 2)}</td>
                  <td className={bill.overlap ? "ember" : "soft"}>
                    {bill.overlap ? "holds days of another" : bill.estimated ? "estimated" : ""}
                  </td>
                  <td className="num">
                    <button className="key" onClick={() => setFields(asFields(bill))}>
                      Edit
                    </button>{" "}
                    <button
                      className="key quiet"
                      aria-label={`Take the bill of ${bill.first} out`}
                      onClick={() => remove.mutate(bill.id)}
                    >
                      ×
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <table className="sheet" aria-label="What the bills say">
            <thead>
              <tr>
                <th>From reading to reading</th>
                <th className="num">Days</th>
                <th className="num">kWh</th>
                <th className="num">kWh a day</th>
                <th className="num">Mean power, W</th>
                <th className="num">Paid a kWh</th>
              </tr>
            </thead>
            <tbody>
              {stretches.map((one) => (
                <tr key={`${one.carrier}${one.before}${one.first}`}>
                  <td>
                    {one.first} – {one.last}
                    <div className="soft">
                      {one.carrier}
                      {one.before && ", before"}
                      {!one.sure && <span className="ember"> · an end was not read</span>}
                    </div>
                  </td>
                  <td className="num">{number(one.days, 0)}</td>
                  <td className="num">{number(one.kwh, 0)}</td>
                  <td className="num">{number(one.kwh_a_day, 1)}</td>
                  <td className="num">{number(one.watts, 0)}</td>
                  <td className="num">{one.price === null ? "–" : number(one.price, 3)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
