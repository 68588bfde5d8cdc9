/** What stands beside the sum: compared with rated, covered, temperatures, cost. */
import { costProof } from "../costProof";
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import Typography from "@mui/material/Typography";
import { LineTable } from "../Sheets";
import { useSettings } from "../../app/settings";
import { Row } from "./Row";
import { Cooling, PowerAlone } from "./Alone";
import type { Reckoning, SpanFigures, SystemShown } from "../../api/client";
import { useMe } from "../../api/hooks";
import { copFormula, HonestFigure, originOf } from "../Proof";
import { clock, duration, figureText, inUnit, number, shownIn } from "../numbers";
import * as look from "../look";

export function Beside({
  system,
  span,
  reckoning,
}: {
  system: SystemShown;
  span: SpanFigures;
  reckoning: Reckoning | null;
}) {
  const { comparison } = span;
  const about = `${system.name} · ${span.local}`;
  return (
    <section>
      <LineTable dotted>
        <TableBody>
          {span.comparison && (
            <Compared system={system} span={span} comparison={span.comparison} about={about} />
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
          <Services system={system} span={span} about={about} />
          {span.cooling && (
            <Cooling cooling={span.cooling} name={span.eer_name} about={about} system={system} />
          )}
          <Temperatures system={system} span={span} about={about} />
          <Heads span={span} about={about} />
          <Row name="Starts · defrosts">
            {span.runs === null && span.defrosts === null
              ? "not known"
              : [span.runs, span.defrosts].map((n) => (n === null ? "not known" : number(n, 0))).join(" · ")}
          </Row>
          {span.cost && <CostLine cost={span.cost} about={about} />}
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

interface LineProps {
  system: SystemShown;
  span: SpanFigures;
  about: string;
}

function Compared({
  system,
  span,
  comparison,
  about,
}: LineProps & { comparison: NonNullable<SpanFigures["comparison"]> }) {
  const below = span.verdict.kind === "below rated" || span.verdict.kind === "too good";
  return (
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
  );
}

/** As the controller reports it, and each service apart. */
function Services({ system, span, about }: LineProps) {
  return (
    <>
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
    </>
  );
}

function Temperatures({ system, span, about }: LineProps) {
  const { units } = useSettings();
  const me = useMe();
  const temp = shownIn(me.data?.units ?? [], "degC", units);
  return (
    <>
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
    </>
  );
}

/** Each head of one outdoor unit. */
function Heads({ span, about }: { span: SpanFigures; about: string }) {
  return (
    <>
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
    </>
  );
}

function CostLine({ cost, about }: { cost: NonNullable<SpanFigures["cost"]>; about: string }) {
  return (
    <Row name="Cost">
      <HonestFigure proof={costProof(cost, about)} />
    </Row>
  );
}

/** Where the readings end within a day, that it is not over. */
function unfinished(system: SystemShown, span: SpanFigures): string {
  const days = (span.stop - span.start) / 86_400;
  if (system.stop === null || days > 2 || Math.abs(span.stop - system.stop) > 60) return "";
  const end = clock(system.stop, system.zone);
  return end === "00:00" ? "" : `; the readings end at ${end}`;
}
