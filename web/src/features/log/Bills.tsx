/** An owner's bills: periods of unequal length, some of them estimated. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useWatch } from "react-hook-form";
import type { GridColDef } from "@mui/x-data-grid";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useForget } from "../../api/hooks";
import { CellButton } from "../../components/CellButton";
import { Unsaved } from "../../app/Unsaved";
import { Figure, OneOf, refusedAt, Tick, useTyped, Words } from "../../components/Form";
import { Grid } from "../../components/Grid";
import { numbers, words } from "../../components/gridLook";
import { number } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import { useRemove } from "./remove";

type Bill = components["schemas"]["BillShown"];
type Typed = components["schemas"]["BillTyped"];

const EMPTY: Typed = {
  id: null,
  first: "",
  last: "",
  carrier: "electricity",
  amount: null as unknown as number,
  unit: "kWh",
  kwh_per_unit: 1,
  cost: null,
  estimated: false,
  before: false,
  note: "",
  meter: null,
};

/** Whether a bill can be of the unit's own meter. */
const ofMeter = ({ carrier, before }: Pick<Typed, "carrier" | "before">) =>
  carrier.trim().toLowerCase() === "electricity" && !before;

const asTyped = ({ overlap: _, ...bill }: Bill): Typed => bill;

export function Bills({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const bills = useQuery({
    queryKey: ["bills", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/bills", params)),
  });
  const queries = useQueryClient();
  const forget = useForget();
  const form = useTyped<Typed>("BillTyped", EMPTY);
  const { control, formState } = form;
  const [id, carrier, before] = useWatch({ control, name: ["id", "carrier", "before"] });
  const remove = useRemove(system.id, "bills");
  const keep = useMutation({
    mutationFn: (bill: Typed) => got(api.POST("/api/v1/systems/{pk}/bills", { ...params, body: bill })),
    onSuccess: (next, sent) => {
      queries.setQueryData(["bills", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
      const { carrier, unit, kwh_per_unit, before, meter } = sent;
      form.reset({ ...EMPTY, carrier, unit, kwh_per_unit, before, meter });
      if (next.rows.some((one) => one.meter)) forget(system.id);
    },
    onError: (error) => refusedAt(form, error),
  });
  if (bills.isError) return <Trouble error={bills.error} again={() => void bills.refetch()} />;
  if (!bills.data) return <Waiting what="the bills" />;
  const { rows, stretches, currency, meters } = bills.data;
  const submit = form.handleSubmit((bill) =>
    keep.mutate({ ...bill, meter: ofMeter(bill) ? bill.meter : null }),
  );
  return (
    <Box component="section" sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Box
        component="form"
        sx={{ display: "flex", gap: 6, flexWrap: "wrap", alignItems: "flex-start" }}
        aria-label="A bill"
        noValidate
        onSubmit={(event) => void submit(event)}
      >
        <Unsaved when={formState.isDirty && !keep.isPending} what="A bill was typed and is not stored" />
        <Words control={control} name="first" label="First day" width={92} hint="2026-01-14" />
        <Words control={control} name="last" label="Last day" width={92} hint="2026-03-12" />
        <Words control={control} name="carrier" label="Of" width={90} />
        <Figure control={control} name="amount" label="Amount" width={76} />
        <Words control={control} name="unit" label="Unit" width={52} />
        <Figure control={control} name="kwh_per_unit" label="kWh in one" width={60} />
        <Figure control={control} name="cost" label={`Cost${currency ? `, ${currency}` : ""}`} />
        <Tick control={control} name="estimated" label="estimated" />
        <Tick control={control} name="before" label="of the heating before" />
        {ofMeter({ carrier, before }) && (
          <Tooltip title="A bill of the unit's own meter stands in its sums; one of the whole house says nothing of the unit">
            <span>
              <OneOf
                control={control}
                name="meter"
                label="Counts"
                none="the whole house"
                of={meters.map((name) => [name, `${name} alone`] as const)}
              />
            </span>
          </Tooltip>
        )}
        <Words control={control} name="note" label="Note" width={120} />
        <Button variant="contained" type="submit" sx={{ marginTop: 16 }} disabled={keep.isPending}>
          {id === null ? "Add" : "Change"}
        </Button>
        {id !== null && (
          <Button sx={{ marginTop: 16 }} onClick={() => form.reset(EMPTY)}>
            Leave it
          </Button>
        )}
      </Box>
      {(formState.errors.root ?? remove.error) && (
        <Alert severity="warning" role="alert">
          {(formState.errors.root ?? remove.error)?.message}
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
          <Grid<Bill>
            label="Bills"
            title={rows.length === 1 ? "1 bill" : `${number(rows.length, 0)} bills`}
            columns={columnsOf(
              (bill) => form.reset(asTyped(bill)),
              (bill) => remove.mutate(bill.id),
            )}
            rows={rows}
          />
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

function columnsOf(edit: (bill: Bill) => void, remove: (bill: Bill) => void): GridColDef<Bill>[] {
  const of = (bill: Bill) =>
    `${cap(bill.carrier)}${bill.meter ? ` of ${bill.meter}` : ""}${bill.before ? " before" : ""}`;
  const mark = (bill: Bill) => (bill.overlap ? "holds days of another" : bill.estimated ? "estimated" : "");
  return [
    words("first", "First day", (bill) => bill.first, { width: 78 }),
    words("last", "Last day", (bill) => bill.last, { width: 78 }),
    words("carrier", "Of", of, {
      width: 80,
      flex: 1,
      shown: (bill) => (
        <Tooltip title={bill.note}>
          <span>{of(bill)}</span>
        </Tooltip>
      ),
    }),
    numbers("amount", "Amount", (bill) => bill.amount, 0, {
      width: 76,
      shown: (bill) => `${number(bill.amount, 0)} ${bill.unit}`,
    }),
    numbers("cost", "Cost", (bill) => bill.cost, 2, { width: 64 }),
    words("mark", "Marks", mark, {
      width: 70,
      shown: (bill) => (
        <Box component="span" sx={bill.overlap ? look.ember : look.soft}>
          {mark(bill)}
        </Box>
      ),
    }),
    words("acts", "Change", () => "", {
      width: 78,
      sortable: false,
      filterable: false,
      shown: (bill) => (
        <>
          <CellButton onClick={() => edit(bill)}>Edit</CellButton>
          <CellButton
            variant="text"
            aria-label={`Take the bill of ${bill.first} out`}
            onClick={() => remove(bill)}
          >
            ×
          </CellButton>
        </>
      ),
    }),
  ];
}
