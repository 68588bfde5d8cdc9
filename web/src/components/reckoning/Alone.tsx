/** What stands beside a COP or in its place: electricity alone, cooling. */
import Box from "@mui/material/Box";
import { Row } from "./Row";
import type { Figure, Reckoning, SpanFigures, SystemShown } from "../../api/client";
import { copFormula, HonestFigure, originOf } from "../Proof";
import { number } from "../numbers";
import * as look from "../look";

/** What the electricity alone says, where no COP can be stated. */
export function PowerAlone({ power, about }: { power: NonNullable<SpanFigures["power"]>; about: string }) {
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

/** Cooling is no part of the COP: what was taken out of the house, for how much, and the EER. */
export function Cooling({
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
