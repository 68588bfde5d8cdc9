/** Defrosts: what they took, whether the air asked for them, and each of them. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import type { GridColDef } from "@mui/x-data-grid";
import { useMemo } from "react";

import type { DefrostsSeen } from "../../api/client";
import { useDefrosts } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { Chart } from "../../components/Chart";
import { Facts } from "../../components/Facts";
import { Grid } from "../../components/Grid";
import { numbers, words } from "../../components/gridLook";
import { duration, figureText, localMinute, number, percent, plusMinus } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { eventsCsv, OnItsDay } from "./Latest";
import { hoursOption, type Seen } from "./Runs";

type DefrostRow = DefrostsSeen["rows"][number];

export function Defrosts({ system, stretch, temp, show }: Seen) {
  const shade = useShade();
  const defrosts = useDefrosts(system.id, stretch);
  if (defrosts.isError) return <Trouble error={defrosts.error} again={() => void defrosts.refetch()} />;
  if (!defrosts.data) return <Waiting what="the defrosts" />;
  const found = defrosts.data;
  if (found.reason?.sentence)
    return (
      <Empty title="Defrosts cannot be told">
        <p>{cap(found.reason?.sentence)}.</p>
      </Empty>
    );
  if (found.count === 0)
    return (
      <Empty title="No defrost in this period">
        <p>{cap(found.basis)}.</p>
      </Empty>
    );
  const { interval, length } = found;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Facts
        facts={[
          {
            name: "defrosts",
            value: number(found.count, 0),
            note:
              found.expected === null
                ? "expected: not learned"
                : `the air asked for ${number(found.expected, 0)}`,
          },
          {
            name: "of running between them",
            value: interval ? `${number(interval.median / 60, 0)} min` : "–",
            note: interval
              ? `half of them ${number(interval.low / 60, 0)} to ${number(interval.high / 60, 0)}`
              : null,
          },
          { name: "length", value: length ? duration(length.median) : "–", note: ended(found) },
          {
            name: "taken back",
            value: found.taken ? `${figureText(found.taken)} kWh` : "–",
            note: found.taken ? plusMinus(found.taken) : null,
          },
          {
            name: `cost at ${found.level}`,
            value: found.cost ? `${figureText(found.cost)} kWh` : "–",
            note: found.cost
              ? `${plusMinus(found.cost)}${found.money ? ` · ${figureText(found.money)} ${found.money.unit}` : ""}${found.share === null ? "" : ` · ${percent(found.share)} of the electricity`}`
              : null,
          },
          { name: "at night, 22 to 6", value: number(found.night, 0), note: percent(found.night_share) },
        ]}
      />
      {found.said.map((one) => (
        <Alert severity="warning" role="note" key={one.code}>
          <strong>{cap(one.code)}:</strong> {one.words}.
        </Alert>
      ))}
      {found.said.length === 0 && (
        <Box component="p" sx={look.soft}>
          Nothing wrong can be seen in when they come and how they end.
        </Box>
      )}
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1.7fr) minmax(0, 1fr)",
          gap: 22,
          alignItems: "start",
        }}
      >
        <FrostMap found={found} temp={temp} />
        <Box sx={{ display: "grid", gap: 12 }}>
          <section>
            <Typography variant="h2">By hour of the day</Typography>
            <Chart
              option={hoursOption(found.by_hour, "defrost", shade)}
              height={110}
              words={`Defrosts by hour: ${found.by_hour.join(", ")}`}
            />
          </section>
          <Months found={found} />
        </Box>
      </Box>
      <Typography variant="caption" component="p">
        {cap(found.basis)}.{" "}
        {found.approach
          ? `Coil: ${found.approach}.`
          : "Without outdoor temperature and humidity the air's part is not known."}{" "}
        Cost = electricity of the defrost + heat taken back ÷ COP before it
        {found.taken_cost !== null && found.electricity && found.recovery
          ? ` + loss of the recovery = ${number(found.electricity.value, 1)} + ${number(found.taken_cost, 1)} + ${number(found.recovery.value, 1)} kWh`
          : " + loss of the recovery"}
        , each counted once. A white coil, a clunk and vapour at the end are normal. Do not knock ice off; the
        refrigerant circuit is for certified technicians.
      </Typography>
      <Rows found={found} system={system} temp={temp} show={show} stretch={stretch} />
    </Box>
  );
}

function ended(found: DefrostsSeen): string {
  const { temperature = 0, "time limit": limit = 0 } = found.ended;
  if (limit) return `${number(limit, 0)} at a time limit`;
  return temperature ? "ended before a limit" : "how they end is not known";
}

/** Outdoor temperature × humidity; each cell holds the interval that was seen and the one expected. */
function FrostMap({ found, temp }: { found: DefrostsSeen; temp: Seen["temp"] }) {
  const cells = found.map.filter((cell) => cell.hours >= 1 && cell.outdoor < 10 && cell.humidity >= 40);
  if (!cells.length)
    return (
      <Box component="p" sx={look.soft}>
        The map needs outdoor temperature and humidity.
      </Box>
    );
  const columns = [...new Set(cells.map((cell) => cell.outdoor))].sort((a, b) => a - b);
  const rows = [...new Set(cells.map((cell) => cell.humidity))].sort((a, b) => b - a);
  const learned = cells.some((cell) => cell.expected !== null);
  const at = new Map(cells.map((cell) => [`${cell.outdoor} ${cell.humidity}`, cell]));
  return (
    <section>
      <Typography variant="h2">
        Minutes of running between defrosts{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          {learned && "below: expected by the frosting potential · "}bluer: more often
        </Typography>
      </Typography>
      <Table
        sx={{ width: "100%", tableLayout: "fixed", borderCollapse: "separate", borderSpacing: 2 }}
        aria-label="Map of defrosts"
      >
        <TableBody>
          {rows.map((humidity) => (
            <TableRow key={humidity}>
              <TableCell
                align="right"
                component="th"
                sx={{ ...look.cap, width: 54, fontWeight: 400 }}
                scope="row"
              >
                {humidity}–{humidity + 10} %
              </TableCell>
              {columns.map((outdoor) => {
                const cell = at.get(`${outdoor} ${humidity}`);
                if (!cell) return <TableCell key={outdoor} />;
                const often =
                  cell.interval === null ? 0 : Math.min(1, Math.max(0, (170 - cell.interval) / 145));
                return (
                  <Tooltip
                    key={outdoor}
                    title={`${number(cell.hours, 0)} h of running, ${cell.defrosts} defrosts, potential ${number(cell.potential, 2)} g/kg`}
                  >
                    <TableCell
                      sx={{
                        textAlign: "center",
                        height: 34,
                        lineHeight: "14px",
                        borderRadius: 2,
                        background:
                          cell.interval === null
                            ? "var(--sheet)"
                            : `color-mix(in srgb, var(--defrost) ${15 + 45 * often}%, var(--sheet))`,
                      }}
                    >
                      {cell.interval === null ? (
                        <Box component="span" sx={look.soft}>
                          {cell.defrosts ? cell.defrosts : "none"}
                        </Box>
                      ) : (
                        <strong>{number(cell.interval, 0)}</strong>
                      )}
                      {learned && (
                        <>
                          <br />
                          <Box
                            component="span"
                            sx={{ ...(cell.interval === null ? look.soft : {}), fontSize: 11 }}
                          >
                            {cell.expected === null || cell.expected > 999
                              ? "none"
                              : number(cell.expected, 0)}
                          </Box>
                        </>
                      )}
                    </TableCell>
                  </Tooltip>
                );
              })}
            </TableRow>
          ))}
          <TableRow>
            <TableCell align="right" component="th" sx={{ ...look.cap, fontWeight: 400 }}>
              {temp.symbol}
            </TableCell>
            {columns.map((outdoor) => (
              <TableCell
                component="th"
                sx={{ ...look.cap, fontWeight: 400, textAlign: "center" }}
                key={outdoor}
                scope="col"
              >
                {number(temp.of(outdoor), 0)}…{number(temp.of(outdoor + 2), 0)}
              </TableCell>
            ))}
          </TableRow>
        </TableBody>
      </Table>
    </section>
  );
}

function Months({ found }: { found: DefrostsSeen }) {
  return (
    <FigureTable tight aria-label="Defrosts by month">
      <TableHead>
        <TableRow>
          <TableCell>Month</TableCell>
          <TableCell align="right">defrosts</TableCell>
          <TableCell align="right">at night</TableCell>
          <TableCell align="right">cost, kWh</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {found.months.map((month) => (
          <TableRow key={month.month}>
            <TableCell>{month.month}</TableCell>
            <TableCell align="right">{number(month.defrosts, 0)}</TableCell>
            <TableCell align="right">{number(month.night, 0)}</TableCell>
            <TableCell align="right">{month.cost === null ? "–" : number(month.cost, 1)}</TableCell>
          </TableRow>
        ))}
      </TableBody>
    </FigureTable>
  );
}

function Rows({ found, system, temp, show, stretch }: { found: DefrostsSeen } & Seen) {
  const columns = useMemo<GridColDef<DefrostRow>[]>(() => {
    const scaled = (of: (row: DefrostRow) => number | null, factor: number) => (row: DefrostRow) => {
      const value = of(row);
      return value === null ? null : value * factor;
    };
    return [
      words("start", "Begin", (row) => localMinute(row.start, system.zone).replace("T", " "), {
        width: 112,
        shown: (row) => (
          <OnItsDay start={row.start} stop={row.start + row.length} zone={system.zone} show={show} />
        ),
      }),
      numbers("length", "length, min", (row) => row.length / 60, 0, { width: 64 }),
      numbers(
        "interval",
        "after running, min",
        scaled((row) => row.interval, 1 / 60),
        0,
        { width: 98 },
      ),
      numbers(
        "electricity",
        "electricity, Wh",
        scaled((row) => row.electricity, 1000),
        0,
        { width: 82 },
      ),
      numbers(
        "taken",
        "taken back, Wh",
        scaled((row) => row.taken, 1000),
        0,
        { width: 82 },
      ),
      numbers(
        "cost",
        "cost, Wh",
        scaled((row) => row.cost, 1000),
        0,
        { width: 54 },
      ),
      numbers(
        "back",
        "COP back after, min",
        scaled((row) => row.back_after, 1 / 60),
        0,
        { width: 104 },
      ),
      numbers(
        "outdoor",
        `outdoors, ${temp.symbol}`,
        (row) => (row.outdoor === null ? null : temp.of(row.outdoor)),
        1,
        { width: 68 },
      ),
      numbers("humidity", "humidity, %", (row) => row.humidity, 0, { width: 66 }),
      numbers("potential", "potential, g/kg", (row) => row.potential, 2, { width: 80 }),
      words("marks", "Marks", (row) => row.marks.join(", "), {
        width: 56,
        flex: 1,
        shown: (row) => (
          <Box component="span" sx={look.ember}>
            {row.marks.join(", ")}
          </Box>
        ),
      }),
    ];
  }, [system.zone, temp, show]);
  return (
    <Grid<DefrostRow>
      label="Defrosts"
      title={found.rows.length < found.count ? `The latest ${number(found.rows.length, 0)}` : "One by one"}
      about="A row shows the defrost on its day."
      csv={eventsCsv(system, stretch, "defrosts")}
      columns={columns}
      rows={found.rows}
      getRowId={(row) => row.start}
    />
  );
}
