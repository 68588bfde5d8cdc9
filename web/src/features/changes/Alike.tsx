/** Days before and after that had the same weather, side by side. */
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useMe } from "../../api/hooks";
import type { components } from "../../api/schema";
import { useSettings } from "../../app/settings";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { number, shownIn } from "../../components/numbers";

type Pair = components["schemas"]["PairShown"];

export function Alike({ found }: { found: components["schemas"]["ChangeFound"] }) {
  const { units } = useSettings();
  const me = useMe();
  const temp = shownIn(me.data?.units ?? [], "degC", units);
  if (!found.alike.length) return null;
  const two = (values: (number | null)[], decimals: number) =>
    [values[0], values[1]].map((value, k) => (
      <TableCell key={k} align="right" sx={k ? {} : look.soft}>
        {value == null ? "–" : number(value, decimals)}
      </TableCell>
    ));
  return (
    <section>
      <Typography variant="h2">Days of the same weather</Typography>
      <FigureTable tight aria-label="Days of the same weather">
        <TableHead>
          <TableRow>
            <TableCell>Before</TableCell>
            <TableCell>After</TableCell>
            <TableCell align="right" colSpan={2}>
              Outdoors {temp.symbol}
            </TableCell>
            <TableCell align="right" colSpan={2}>
              Heat kWh
            </TableCell>
            <TableCell align="right" colSpan={2}>
              Electricity kWh
            </TableCell>
            <TableCell align="right" colSpan={2}>
              COP
            </TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.alike.map((pair: Pair) => (
            <TableRow key={pair.days.join()}>
              <TableCell sx={look.soft}>{must(pair.days[0])}</TableCell>
              <TableCell>{must(pair.days[1])}</TableCell>
              {two(pair.outdoor.map(temp.of), 1)}
              {two(pair.heat, 1)}
              {two(pair.electricity, 1)}
              {two(pair.cop, 2)}
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
      <Typography variant="caption" component="p">
        Whole days within half a kelvin of each other, the likest first, each in one pair; single days hold
        more than weather: who was at home, how much hot water was drawn.
      </Typography>
    </section>
  );
}
