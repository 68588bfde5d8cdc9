/** An owner's bills: periods of unequal length, some of them estimated. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { TextInput } from "../../components/TextInput";
import { Choice } from "../../components/Choice";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
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
    <Typography variant="caption" component="label">
      {label}
      <br />
      <TextInput
        sx={{ width }}
        value={fields[name]}
        placeholder={hint}
        onChange={(event) => put({ [name]: event.target.value })}
      />
    </Typography>
  );
  function submit(event: FormEvent) {
    event.preventDefault();
    const made = asTyped(fields);
    setWrong(typeof made === "string" ? made : "");
    if (typeof made !== "string") keep.mutate(made);
  }
  return (
    <Box component="section" sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Box
        component="form"
        sx={{ display: "flex", gap: 6, flexWrap: "wrap", alignItems: "end" }}
        aria-label="A bill"
        onSubmit={submit}
      >
        {text("First day", "first", 92, "2026-01-14")}
        {text("Last day", "last", 92, "2026-03-12")}
        {text("Of", "carrier", 90)}
        {text("Amount", "amount", 76)}
        {text("Unit", "unit", 52)}
        {text("kWh in one", "kwh", 60)}
        {text(`Cost${currency ? `, ${currency}` : ""}`, "cost", 70)}
        <Typography variant="caption" component="label">
          <Checkbox
            checked={fields.estimated}
            onChange={(event) => put({ estimated: event.target.checked })}
          />{" "}
          estimated
        </Typography>
        <Typography variant="caption" component="label">
          <Checkbox checked={fields.before} onChange={(event) => put({ before: event.target.checked })} /> of
          the heating before
        </Typography>
        {fields.carrier.trim().toLowerCase() === "electricity" && !fields.before && (
          <Tooltip title="A bill of the unit's own meter stands in its sums; one of the whole house says nothing of the unit">
            <Typography variant="caption" component="label">
              Counts
              <br />
              <Choice
                value={fields.meter ?? ""}
                onChange={(event) => put({ meter: event.target.value || null })}
              >
                <option value="">the whole house</option>
                {meters.map((name) => (
                  <option key={name} value={name}>
                    {name} alone
                  </option>
                ))}
              </Choice>
            </Typography>
          </Tooltip>
        )}
        {text("Note", "note", 120)}
        <Button variant="contained" type="submit" sx={{ alignSelf: "flex-end" }} disabled={keep.isPending}>
          {fields.id === null ? "Add" : "Change"}
        </Button>
        {fields.id !== null && <Button onClick={() => setFields(empty)}>Leave it</Button>}
      </Box>
      {(wrong || keep.isError || remove.isError) && (
        <Alert severity="warning" role="alert">
          {wrong || (keep.error ?? remove.error)?.message}
        </Alert>
      )}
      {!rows.length && (
        <Box component="p" sx={look.soft}>
          No bills yet. Periods may be of any length; an estimated one is settled by the next that was read.
        </Box>
      )}
      {rows.length > 0 && (
        <Box
          sx={{
            display: "grid",
            gridTemplateColumns: "repeat(auto-fit, minmax(480px, 1fr))",
            gap: 22,
            alignItems: "start",
          }}
        >
          <FigureTable aria-label="Bills">
            <TableHead>
              <TableRow>
                <TableCell>First day</TableCell>
                <TableCell>Last day</TableCell>
                <TableCell>Of</TableCell>
                <TableCell align="right">Amount</TableCell>
                <TableCell align="right">Cost</TableCell>
                <TableCell />
                <TableCell />
              </TableRow>
            </TableHead>
            <TableBody>
              {rows.map((bill) => (
                <Tooltip key={bill.id} title={bill.note}>
                  <TableRow>
                    <TableCell>{bill.first}</TableCell>
                    <TableCell>{bill.last}</TableCell>
                    <TableCell>
                      {cap(bill.carrier)}
                      {bill.meter && (
                        <Box component="span" sx={look.soft}>
                          {" "}
                          of {bill.meter}
                        </Box>
                      )}
                      {bill.before && (
                        <Box component="span" sx={look.soft}>
                          {" "}
                          before
                        </Box>
                      )}
                    </TableCell>
                    <TableCell align="right">
                      {number(bill.amount, 0)} {bill.unit}
                    </TableCell>
                    <TableCell align="right">{bill.cost === null ? "–" : number(bill.cost, 2)}</TableCell>
                    <TableCell sx={bill.overlap ? look.ember : look.soft}>
                      {bill.overlap ? "holds days of another" : bill.estimated ? "estimated" : ""}
                    </TableCell>
                    <TableCell align="right">
                      <Button onClick={() => setFields(asFields(bill))}>Edit</Button>{" "}
                      <Button
                        variant="text"
                        aria-label={`Take the bill of ${bill.first} out`}
                        onClick={() => remove.mutate(bill.id)}
                      >
                        ×
                      </Button>
                    </TableCell>
                  </TableRow>
                </Tooltip>
              ))}
            </TableBody>
          </FigureTable>
          <FigureTable aria-label="What the bills say">
            <TableHead>
              <TableRow>
                <TableCell>From reading to reading</TableCell>
                <TableCell align="right">Days</TableCell>
                <TableCell align="right">kWh</TableCell>
                <TableCell align="right">kWh a day</TableCell>
                <TableCell align="right">Mean power, W</TableCell>
                <TableCell align="right">Paid a kWh</TableCell>
              </TableRow>
            </TableHead>
            <TableBody>
              {stretches.map((one) => (
                <TableRow key={`${one.carrier}${one.before}${one.first}`}>
                  <TableCell>
                    {one.first} – {one.last}
                    <Box sx={look.soft}>
                      {one.carrier}
                      {one.before && ", before"}
                      {!one.sure && (
                        <Box component="span" sx={look.ember}>
                          {" "}
                          · an end was not read
                        </Box>
                      )}
                    </Box>
                  </TableCell>
                  <TableCell align="right">{number(one.days, 0)}</TableCell>
                  <TableCell align="right">{number(one.kwh, 0)}</TableCell>
                  <TableCell align="right">{number(one.kwh_a_day, 1)}</TableCell>
                  <TableCell align="right">{number(one.watts, 0)}</TableCell>
                  <TableCell align="right">{one.price === null ? "–" : number(one.price, 3)}</TableCell>
                </TableRow>
              ))}
            </TableBody>
          </FigureTable>
        </Box>
      )}
    </Box>
  );
}
