/** The sum, always beside the screen: heat over electricity, written out. */
import { useQueryString } from "../app/query";
import { To } from "./To";
import { Panel } from "./Frame";
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { LineTable } from "./Sheets";
import { FigureButton } from "./FigureButton";
import * as look from "./look";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";

import type { Figure, Level, Reckoning, SpanFigures, SystemShown } from "../api/client";
import { useFleet, useMe, useRenew, useSpan, type Stretch } from "../api/hooks";
import { useKeys } from "../app/keys";
import { useSettings } from "../app/settings";
import { cap, copFormula, Copy, HonestFigure, originOf, textOf, useProof, type Proof } from "./Proof";
import {
  clock,
  dayYear,
  duration,
  figureText,
  inUnit,
  localMinute,
  number,
  percent,
  plusMinus,
  shownIn,
} from "./numbers";

/** The level of the URL, else the widest that can be computed. */
export function useLevel(levels: Level[] | undefined): [string | null, (level: string) => void] {
  const [params, put] = useQueryString();
  const asked = params.get("level");
  const possible = (levels ?? []).filter((level) => level.reckoning);
  const chosen = possible.find((level) => level.level === asked) ?? possible.at(-1) ?? null;
  const set = (level: string) => put({ level });
  return [chosen?.level ?? null, set];
}

export function ReckoningPanel({
  system,
  stretch,
  selected,
  children,
}: {
  system: SystemShown;
  stretch: Stretch | null;
  selected: boolean;
  children?: ReactNode;
}) {
  const span = useSpan(system.id, stretch);
  const [level, setLevel] = useLevel(span.data?.levels);
  const keys = Object.fromEntries(
    (span.data?.levels ?? [])
      .filter((l) => l.reckoning)
      .map((l) => [l.level.slice(1), () => setLevel(l.level)]),
  );
  useKeys(keys);
  return (
    <Panel label="Reckoning" busy={span.isFetching}>
      <Typography variant="h3" data-testid="reckoning-title">
        Reckoning{span.data ? ` · ${titleOf(span.data, system.zone)}` : ""}
        {selected ? " · selection" : ""}
      </Typography>
      {span.isError && (
        <Alert severity="warning" sx={{ marginTop: 8 }} role="alert">
          {span.error.message}
        </Alert>
      )}
      {!span.data && span.isPending && (
        <Box component="p" sx={look.soft}>
          Adding up …
        </Box>
      )}
      {span.data && <Sum system={system} span={span.data} level={level} setLevel={setLevel} />}
      {children}
    </Panel>
  );
}

export function titleOf(span: { start: number; stop: number }, zone: string): string {
  const length = span.stop - span.start;
  if (length < 23 * 3600 + 60) return `${clock(span.start, zone)} – ${clock(span.stop, zone)}`;
  const [first, last] = [dayYear(span.start, zone), dayYear(span.stop - 1, zone)];
  return first === last ? first : `${first} – ${last}`;
}

function Sum({
  system,
  span,
  level,
  setLevel,
}: {
  system: SystemShown;
  span: SpanFigures;
  level: string | null;
  setLevel: (level: string) => void;
}) {
  const chosen = span.levels.find((one) => one.level === level);
  const reckoning = chosen?.reckoning ?? null;
  return (
    <>
      {(span.stale || span.corrections.length > 0) && (
        <Box sx={{ margin: "6px 0" }}>
          {span.stale && <Stale system={system} />}
          {span.corrections.map((said) => (
            <Typography variant="caption" component="p" key={said}>
              Corrected: {said}
            </Typography>
          ))}
        </Box>
      )}
      {reckoning ? (
        <Fraction
          system={system}
          span={span}
          reckoning={reckoning}
          words={chosen?.words ?? ""}
          whole={chosen?.whole ?? null}
        />
      ) : (
        <Alert severity="warning" role="note" sx={{ margin: "8px 0" }}>
          No sum: no boundary level can be computed from these meters: {span.no_sum?.sentence}
        </Alert>
      )}
      {span.doubts.length > 0 ? (
        <Doubts system={system} span={span} />
      ) : (
        <Trusted system={system} span={span} />
      )}
      <Stepper levels={span.levels} level={level} setLevel={setLevel} />
      <Beside system={system} span={span} reckoning={reckoning} />
      <Text system={system} span={span} />
    </>
  );
}

function Fraction({
  system,
  span,
  reckoning,
  words,
  whole,
}: {
  system: SystemShown;
  span: SpanFigures;
  reckoning: Reckoning;
  words: string;
  whole: Figure | null;
}) {
  const { units } = useSettings();
  const me = useMe();
  const heatIn = shownIn(me.data?.units ?? [], "kWh", units);
  const about = `${system.name} · ${span.local} · ${reckoning.level}, ${words}`;
  const notes = [
    ...span.corrections.map((said) => `Corrected: ${said}`),
    ...reckoning.left_out.map((l) => `Left out: ${l.reason}, ${duration(l.seconds)}`),
  ];
  const from = (what: string) => originOf(system, reckoning, what);
  const base = { about, reckoning, notes: [...notes, `Metering: ${span.trust.words}.`], from: from("sum") };
  const both = [...reckoning.heat_lines, ...reckoning.electricity_lines].map((line) => line.energy);
  const decimals = Math.max(
    0,
    ...[reckoning.heat, reckoning.electricity].flatMap((figure) => (figure ? [figure.decimals ?? 2] : [])),
  );
  const value = (amount: number) => number(amount, both.length ? decimals : 2);
  const line = (title: string, proof: Proof, amount: number, sum = false) => (
    <TableRow sx={sum ? look.sum : {}} key={title}>
      <TableCell>{cap(title)}</TableCell>
      <TableCell align="right">
        <Amount proof={proof}>{value(amount)}</Amount>
      </TableCell>
      <TableCell sx={look.unit}>{sum ? "kWh" : ""}</TableCell>
    </TableRow>
  );
  return (
    <Box component="section" sx={{ marginTop: 6 }}>
      <LineTable aria-label="The sum">
        <TableBody>
          {reckoning.heat_lines.map((item) =>
            line(
              item.name,
              {
                ...base,
                title: cap(item.name),
                figure: item.energy,
                formula: `Σ ${reckoning.method} while ${item.name}`,
              },
              item.energy.value,
            ),
          )}
          {reckoning.heat &&
            line("Heat", { ...base, title: "Heat", figure: reckoning.heat }, reckoning.heat.value, true)}
          {!reckoning.heat && (
            <TableRow sx={look.sum}>
              <TableCell>Heat</TableCell>
              <TableCell align="right" sx={look.ember}>
                none
              </TableCell>
              <TableCell sx={look.unit} />
            </TableRow>
          )}
        </TableBody>
      </LineTable>
      <LineTable sx={{ borderTop: "2px solid var(--ink)", marginTop: 3 }} aria-label="Electricity">
        <TableBody>
          {reckoning.electricity_lines.map((item) =>
            line(
              item.name,
              {
                ...base,
                title: cap(item.name),
                figure: item.energy,
                formula: `Σ of the meter, which holds ${item.loads}`,
              },
              item.energy.value,
            ),
          )}
          {line(
            "Electricity",
            { ...base, title: "Electricity", figure: reckoning.electricity },
            reckoning.electricity.value,
            true,
          )}
        </TableBody>
      </LineTable>
      <Box sx={look.copline}>
        {reckoning.cop ? (
          <>
            <Amount
              proof={{
                ...base,
                notes: whole
                  ? [
                      ...base.notes,
                      `Taken for the whole period, with what the gaps may hide: ${figureText(whole)} ${plusMinus(whole)}.`,
                    ]
                  : base.notes,
                title: `COP at ${reckoning.level}`,
                figure: reckoning.cop,
                formula: copFormula(reckoning),
                from: from("COP"),
              }}
            >
              <Box
                component="span"
                sx={span.trust.kind === "doubtful" ? { ...look.cop, ...look.soft } : look.cop}
                data-testid="cop"
              >
                {figureText(reckoning.cop)}
              </Box>
            </Amount>
            <Box component="span" sx={look.soft} data-testid="cop-u">
              {plusMinus(reckoning.cop)} COP · k = 2
            </Box>
          </>
        ) : (
          <Box component="span" sx={look.ember} data-testid="cop">
            No COP: {reckoning.reason?.sentence}.
          </Box>
        )}
      </Box>
      {units === "US" && reckoning.heat && (
        <Typography variant="caption" component="p" sx={{ marginTop: 2 }}>
          Heat is {number(heatIn.of(reckoning.heat.value), reckoning.heat.value < 30 ? 1 : 0)} {heatIn.symbol}
          ; the sum stays in kWh on both sides.
        </Typography>
      )}
    </Box>
  );
}

function Amount({ proof, children }: { proof: Proof; children: ReactNode }) {
  const open = useProof();
  return (
    <FigureButton onClick={() => open(proof)}>
      {children}
      <Box component="span" sx={look.unseen}>
        , {proof.title}: show what it stands on
      </Box>
    </FigureButton>
  );
}

function Stepper({
  levels,
  level,
  setLevel,
}: {
  levels: Level[];
  level: string | null;
  setLevel: (level: string) => void;
}) {
  const chosen = levels.find((one) => one.level === level);
  const lacking = levels.filter((one) => !one.reckoning);
  return (
    <section>
      <Box sx={{ display: "flex", alignItems: "center", gap: 8 }}>
        <ToggleButtonGroup aria-label="Boundary level">
          {levels.map((one) => (
            <Tooltip key={one.level} title={one.reason?.sentence ?? `${one.level}: ${one.words}`}>
              <ToggleButton
                value={one.level}
                sx={one.reckoning ? {} : look.lacking}
                selected={one.level === level}
                disabled={!one.reckoning}
                onClick={() => setLevel(one.level)}
              >
                {one.level}
              </ToggleButton>
            </Tooltip>
          ))}
        </ToggleButtonGroup>
        <Typography variant="caption" component="span">
          {chosen?.words}
        </Typography>
      </Box>
      {lacking.map((one) => (
        <Typography variant="caption" component="p" sx={{ marginTop: 3 }} key={one.level}>
          {one.level}: {one.reason?.sentence}
          {one.between &&
            `. Between ${figureText(one.between.low)} and ${figureText(one.between.high)} ${one.between.words}`}
        </Typography>
      ))}
    </section>
  );
}

function Beside({
  system,
  span,
  reckoning,
}: {
  system: SystemShown;
  span: SpanFigures;
  reckoning: Reckoning | null;
}) {
  const { units } = useSettings();
  const me = useMe();
  const temp = shownIn(me.data?.units ?? [], "degC", units);
  const { comparison, cost } = span;
  const about = `${system.name} · ${span.local}`;
  const below = span.verdict.kind === "below rated" || span.verdict.kind === "too good";
  return (
    <section>
      <LineTable dotted>
        <TableBody>
          {comparison && (
            <>
              <Row name={`Rated, at ${comparison.measured.level}`}>
                <HonestFigure
                  proof={{
                    title: "Rated COP at the same conditions",
                    about,
                    figure: comparison.rated_cop,
                    formula:
                      "Σ heat ÷ Σ(heat ÷ rated COP at that moment's outdoor and flow temperature + power of what the level holds besides)",
                    notes: [
                      `Compared: ${comparison.span}, ${number(comparison.hours, 1)} h`,
                      ...comparison.stands_at,
                    ],
                  }}
                />
              </Row>
              <Row name={`Measured, at ${comparison.measured.level}`}>
                <HonestFigure
                  proof={{
                    title: "Measured COP of the compared running",
                    about: `${about} · ${comparison.span}`,
                    figure: comparison.measured.cop,
                    formula: copFormula(comparison.measured),
                    reckoning: comparison.measured,
                    from: originOf(system, comparison.measured, "compared running"),
                  }}
                />
              </Row>
              <Row name="Performance ratio">
                <Box component="strong" sx={below ? look.ember : {}}>
                  <HonestFigure
                    proof={{
                      title: "Performance ratio",
                      about: `${about} · ${comparison.span}`,
                      figure: comparison.ratio,
                      formula: `Σ expected ÷ Σ measured electricity = measured ÷ rated = ${comparison.measured.cop ? figureText(comparison.measured.cop) : "–"} ÷ ${figureText(comparison.rated_cop)}`,
                      reckoning: comparison.measured,
                      from: originOf(system, comparison.measured, "performance ratio"),
                      notes: [span.verdict.sentence, ...comparison.stands_at],
                    }}
                  />
                </Box>
                {span.verdict.doubted && (
                  <Typography variant="caption" component="span" sx={look.ember}>
                    {" "}
                    doubted
                  </Typography>
                )}
              </Row>
            </>
          )}
          {reckoning && (
            <>
              <Row name="Covered">
                {reckoning.covered === reckoning.seconds
                  ? `all of ${duration(reckoning.seconds)}${unfinished(system, span)}`
                  : `${duration(reckoning.covered)} of ${duration(reckoning.seconds)}`}
              </Row>
              {reckoning.left_out.map((left) => (
                <Row key={left.reason.sentence} name="Left out">
                  {duration(left.seconds)}, {left.reason.sentence}
                </Row>
              ))}
              <Row name="Heat by">{reckoning.method}</Row>
            </>
          )}
          {span.power && <PowerAlone power={span.power} about={about} />}
          {span.reported && (
            <Row name={`COP at ${span.reported.level} as reported`}>
              <HonestFigure
                proof={{
                  title: "COP as the controller reports it",
                  about,
                  figure: span.reported.cop,
                  formula: copFormula(span.reported),
                  reckoning: span.reported,
                  from: originOf(system, span.reported, "as reported"),
                  why: span.reported.reason?.sentence,
                  notes: [
                    "Reported by the unit's own controller, not measured: no verdict and no rank in the fleet rests on it. A heat meter borrowed for a week or two gives a transfer factor.",
                  ],
                }}
                none="none"
              />
            </Row>
          )}
          {span.services.map((one) => (
            <Row key={one.service} name={one.what}>
              {one.reckoning?.cop ? (
                <HonestFigure
                  proof={{
                    title: one.what,
                    about,
                    figure: one.reckoning.cop,
                    formula: copFormula(one.reckoning),
                    reckoning: one.reckoning,
                    from: originOf(system, one.reckoning, one.what),
                  }}
                />
              ) : (
                <Box component="span" sx={look.soft}>
                  none: {one.reason?.sentence}
                </Box>
              )}
            </Row>
          ))}
          {span.cooling && (
            <Cooling cooling={span.cooling} name={span.eer_name} about={about} system={system} />
          )}
          <Row name="Outdoors">
            <HonestFigure
              proof={{
                title: "Mean outdoor temperature",
                about,
                figure: inUnit(span.outdoor, temp),
                formula: "mean over the time in which it is known",
              }}
            />
          </Row>
          {span.flow && (
            <Row name={system.by_air ? "Room air, while heating" : "Flow, while heating"}>
              <HonestFigure
                proof={{
                  title: system.by_air ? "Mean temperature of the room's air" : "Mean flow temperature",
                  about,
                  figure: inUnit(span.flow, temp),
                  formula: "mean over start-up, heating and hot water",
                }}
              />
            </Row>
          )}
          {span.supply && (
            <Row name="Supply air, while heating">
              <HonestFigure
                proof={{
                  title: "Mean supply air temperature",
                  about,
                  figure: inUnit(span.supply, temp),
                  formula: "mean of the heads over start-up and heating",
                }}
              />
            </Row>
          )}
          {span.heads.map((head) => (
            <Row key={head.name} name={head.name}>
              <HonestFigure
                proof={{
                  title: `Heat of ${head.name}`,
                  about,
                  figure: head.heat,
                  formula: "Σ airflow × ρ × Δh over the time in the sum",
                }}
              />
              {head.cooling && (
                <>
                  {" · cooling "}
                  <HonestFigure
                    proof={{
                      title: `Cooling of ${head.name}`,
                      about,
                      figure: head.cooling,
                      formula: "Σ airflow × ρ × Δh while it cools, moisture where it is logged",
                    }}
                  />
                </>
              )}
            </Row>
          ))}
          <Row name="Starts · defrosts">
            {span.runs === null && span.defrosts === null
              ? "not known"
              : [span.runs, span.defrosts].map((n) => (n === null ? "not known" : number(n, 0))).join(" · ")}
          </Row>
          {cost && (
            <Row name="Cost">
              <HonestFigure
                proof={{
                  title: "Cost",
                  about,
                  figure: cost.total,
                  formula: [
                    ...cost.bands.map(
                      (band) => `${figureText(band.electricity, 1)} kWh × ${band.price} (${band.band})`,
                    ),
                    `${number(cost.standing, 2)} standing charge`,
                  ].join(" + "),
                  notes: [`${percent(cost.covered)} of the time is metered.`],
                }}
              />
            </Row>
          )}
        </TableBody>
      </LineTable>
      {comparison && (
        <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
          Rated and measured: {number(comparison.hours, comparison.hours < 10 ? 1 : 0)} h, {comparison.span}.
        </Typography>
      )}
      {!comparison && span.comparison_reason?.sentence && (
        <Typography variant="caption" component="p" sx={{ marginTop: 5 }}>
          {span.comparison_reason?.sentence}
        </Typography>
      )}
    </section>
  );
}

/** Where the readings end within a day, that it is not over. */
function unfinished(system: SystemShown, span: SpanFigures): string {
  const days = (span.stop - span.start) / 86_400;
  if (system.stop === null || days > 2 || Math.abs(span.stop - system.stop) > 60) return "";
  const end = clock(system.stop, system.zone);
  return end === "00:00" ? "" : `; the readings end at ${end}`;
}

function Row({ name, children }: { name: string; children: ReactNode }) {
  return (
    <TableRow>
      <TableCell sx={look.soft}>{name}</TableCell>
      <TableCell align="right" sx={{ whiteSpace: "normal" }}>
        {children}
      </TableCell>
    </TableRow>
  );
}

/** What can be claimed from this metering, at every figure. */
function Trusted({ system, span }: { system: SystemShown; span: SpanFigures }) {
  const sound = span.trust.kind === "sound" || span.trust.kind === "wide limits";
  return (
    <Typography variant="caption" component="p" sx={{ margin: "0 0 8px" }} data-testid="trust">
      <To to={`/systems/${system.id}/trust?${trustQuery(span, system.zone)}`} sx={sound ? {} : look.ember}>
        Metering {span.trust.kind}
      </To>
      : {span.trust.words}.
    </Typography>
  );
}

function trustQuery(span: SpanFigures, zone: string, check?: string): string {
  const query = new URLSearchParams({
    from: localMinute(span.start, zone).slice(0, 10),
    to: localMinute(span.stop - 1, zone).slice(0, 10),
  });
  if (check) query.set("check", check);
  return query.toString();
}

/** What undermines the sum stands right below it. */
function Doubts({ system, span }: { system: SystemShown; span: SpanFigures }) {
  return span.doubts.map((check) => (
    <Alert severity="warning" role="note" sx={{ marginBottom: 8 }} key={check.code}>
      <details>
        <Box component="summary" sx={{ cursor: "pointer" }}>
          <strong>Metering {check.soundness}:</strong> {check.name}
        </Box>
        <p>{check.sentence}</p>
        <p>
          <Link to={`/systems/${system.id}/trust?${trustQuery(span, system.zone, check.code)}`}>
            Evidence and remedy in Trust
          </Link>
          {check.effect?.cop_then &&
            `: COP over the record ${figureText(check.effect.cop_then)} ${plusMinus(check.effect.cop_then)} if accepted`}
        </p>
      </details>
    </Alert>
  ));
}

/** Never stale without saying so. */
function Stale({ system }: { system: SystemShown }) {
  const fleet = useFleet();
  const renew = useRenew();
  const working = fleet.data?.rows.find((row) => row.id === system.id)?.working || renew.isPending;
  return (
    <Alert severity="warning" role="note">
      <p>These figures are of other readings, or were made by an earlier version of the program.</p>
      {working ? (
        <p role="status">They are being worked out anew …</p>
      ) : (
        <Button sx={{ marginTop: 4 }} onClick={() => renew.mutate(system.id)}>
          Work them out anew
        </Button>
      )}
    </Alert>
  );
}

function Text({ system, span }: { system: SystemShown; span: SpanFigures }) {
  const [open, setOpen] = useState(false);
  return (
    <section>
      <Button
        variant="text"
        sx={{ ...look.soft, padding: 0 }}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {open ? "▾" : "▸"} The sum as text
      </Button>
      {open && (
        <Copy
          address={textOf({
            system: system.id,
            start: localMinute(span.start, system.zone),
            stop: localMinute(span.stop, system.zone),
          })}
        />
      )}
    </section>
  );
}

/** Cooling is no part of the COP: what was taken out of the house, for how much, and the EER. */
/** What the electricity alone says, where no COP can be stated. */
function PowerAlone({ power, about }: { power: NonNullable<SpanFigures["power"]>; about: string }) {
  const rows: [string, Figure | null, string][] = [
    ["Electricity, all metered", power.electricity, "Σ of the meters, whatever the heat does"],
    ["A day", power.a_day, "electricity ÷ days in which it is known"],
    ["A degree-day below 15 °C", power.per_degree_day, "electricity ÷ Σ(15 °C − outdoor temperature) · days"],
    ["While it runs", power.watts, "electricity while the compressor runs ÷ that time"],
  ];
  return (
    <>
      {rows.map(
        ([name, found, formula]) =>
          found && (
            <Row key={name} name={name}>
              <HonestFigure proof={{ title: name, about, figure: found, formula }} />
            </Row>
          ),
      )}
      {power.hours !== null && <Row name="Hours of running">{number(power.hours, 0)}</Row>}
      {power.by_table && (
        <Row name="Rated table would need">
          <HonestFigure
            proof={{
              title: "What the rated table would need for heating",
              about,
              figure: power.by_table,
              formula: "Σ over this weather: need of the house ÷ rated COP; hot water is not in it",
              notes: power.taken,
            }}
          />
        </Row>
      )}
      {!power.by_table && power.table_reason?.sentence && (
        <Row name="Rated table would need">
          <Box component="span" sx={{ ...look.soft, whiteSpace: "normal" }}>
            not told: {power.table_reason?.sentence}
          </Box>
        </Row>
      )}
    </>
  );
}

function Cooling({
  cooling,
  name,
  about,
  system,
}: {
  cooling: Reckoning;
  name: string;
  about: string;
  system: SystemShown;
}) {
  const { cop } = cooling;
  return (
    <Row name={`Cooling, ${name} at ${cooling.level}`}>
      {cop ? (
        <HonestFigure
          proof={{
            title: name,
            about: `${about} · cooling alone`,
            figure: cop,
            formula: copFormula(cooling),
            reckoning: cooling,
            from: originOf(system, cooling, "EER"),
          }}
        />
      ) : (
        "none"
      )}
    </Row>
  );
}
