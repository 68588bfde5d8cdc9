/** What both tables of systems side by side share. */
import TableCell from "@mui/material/TableCell";

import type { Figure } from "../../api/client";
import { useMe } from "../../api/hooks";
import { useSettings } from "../../app/settings";
import { inUnit, shownIn } from "../../components/numbers";
import { HonestFigure } from "../../components/Proof";

/** A figure's cell, which opens to its proof. */
export function Cell({
  figure,
  title,
  about,
  formula,
  unit = false,
}: {
  figure: Figure | null;
  title: string;
  about: string;
  formula: string;
  unit?: boolean;
}) {
  return (
    <TableCell align="right">
      {figure ? <HonestFigure unit={unit} proof={{ title, about, figure, formula }} /> : "–"}
    </TableCell>
  );
}

/** How figures by the floor and by the weather are shown, with as many decimals as their U allows. */
export function useByFloor() {
  const { units } = useSettings();
  const pairs = useMe().data?.units ?? [];
  const theirs = (unit: string) => {
    const shown = shownIn(pairs, unit, units);
    const finer = Math.round(Math.log10(shown.of(1) - shown.of(0)));
    const figure = (one: Figure | null): Figure | null =>
      inUnit(one, shown, one?.decimals == null ? undefined : Math.max(0, one.decimals - finer));
    return { symbol: shown.symbol, figure };
  };
  const per = theirs("per_m2");
  const money = (one: Figure | null): Figure | null => {
    const shown = per.figure(one);
    return shown && one ? { ...shown, unit: one.unit.replace("/m²", per.symbol) } : null;
  };
  return {
    temp: shownIn(pairs, "degC", units),
    area: theirs("kWh_per_m2"),
    weather: theirs("Wh_per_m2_K_d"),
    money,
  };
}
