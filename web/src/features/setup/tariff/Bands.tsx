/** The bands of a tariff, a row each; the hours that none names come first. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { Boxed } from "../../../components/Boxed";
import * as look from "../../../components/look";
import { must } from "../../../components/must";
import { NumberField } from "../../../components/NumberField";
import { FigureTable } from "../../../components/Sheets";
import { TextInput } from "../../../components/TextInput";
import { type Part, type Problem } from "../Fields";
import type { Band, Prices } from "../draft";
import { DAYS, letterOf, MONTHS, seasonOf, shadeOf } from "./shades";

interface Props extends Part {
  one: Prices;
  putOne: (change: Partial<Prices>) => void;
  where: string;
  ranks: number[] | undefined;
}

export function Bands({ setup, one, putOne, where, problems, ranks }: Props) {
  const put = (k: number, change: Partial<Band>) =>
    putOne({ bands: one.bands.map((band, j) => (j === k ? { ...band, ...change } : band)) });
  const add = () =>
    putOne({
      bands: [
        ...one.bands,
        {
          ...(must(setup.fresh["tariff.bands"]) as unknown as Band),
          name: one.bands.length ? `band ${one.bands.length + 1}` : "night",
        },
      ],
    });
  const wrong = [...problems.filter((p) => p.where === where), ...inBands(problems, where)];
  return (
    <Box sx={{ marginTop: 8 }}>
      <FigureTable tight aria-label="Bands">
        <TableHead>
          <TableRow>
            <TableCell aria-label="Letter" />
            <TableCell>Band</TableCell>
            <TableCell>Price a kWh</TableCell>
            <TableCell>From</TableCell>
            <TableCell>To</TableCell>
            <TableCell>Begins on</TableCell>
            <TableCell>In</TableCell>
            <TableCell>Share</TableCell>
            <TableCell aria-label="Remove" />
          </TableRow>
        </TableHead>
        <TableBody>
          <TableRow data-where={`${where}.price`}>
            <Letter k={-1} name={one.name} rank={ranks?.[0]} />
            <TableCell>
              <TextInput
                sx={{ width: 96 }}
                aria-label="Name of all other hours"
                value={one.name}
                onChange={(event) => putOne({ name: event.target.value })}
              />
            </TableCell>
            <TableCell>
              <NumberField
                label="Price per kWh"
                value={one.price}
                put={(price) => putOne({ price: price ?? 0 })}
              />
            </TableCell>
            <TableCell colSpan={6} sx={look.soft}>
              {one.bands.length ? "all other hours" : "all hours"}
            </TableCell>
          </TableRow>
          {one.bands.map((band, k) => (
            <Row
              key={k}
              band={band}
              k={k}
              where={`${where}.bands.${k}`}
              rank={ranks?.[k + 1]}
              put={(change) => put(k, change)}
              remove={() => putOne({ bands: one.bands.filter((_, j) => j !== k) })}
            />
          ))}
        </TableBody>
      </FigureTable>
      {wrong.map((p) => (
        <Box sx={look.ember} key={p.where + p.what} role="alert">
          {p.what}
        </Box>
      ))}
      <Box sx={{ display: "flex", gap: 10, alignItems: "baseline", marginTop: 4 }}>
        <Button onClick={add}>Add a band</Button>
        <Box component="span" sx={look.soft}>
          A band that ends before it begins runs past midnight; one that ends when it begins is the whole day.
          Share: 0 to 1, from a bill, used where readings do not tell the hours.
        </Box>
      </Box>
    </Box>
  );
}

/** What is wrong with a band; said below the table, where there is room. */
const inBands = (problems: Problem[], where: string) =>
  problems.filter((p) => p.where.startsWith(`${where}.bands`) || p.where === `${where}.price`);

function Letter({ k, name, rank }: { k: number; name: string; rank: number | undefined }) {
  return (
    <TableCell>
      <Box
        aria-hidden
        sx={{
          ...shadeOf(rank),
          width: 20,
          height: 18,
          textAlign: "center",
          lineHeight: "18px",
          fontSize: 11,
        }}
      >
        {letterOf(k, name)}
      </Box>
    </TableCell>
  );
}

function Row({
  band,
  k,
  where,
  rank,
  put,
  remove,
}: {
  band: Band;
  k: number;
  where: string;
  rank: number | undefined;
  put: (change: Partial<Band>) => void;
  remove: () => void;
}) {
  const clock = (value: string) => (value ? `${value}:00` : value);
  return (
    <TableRow data-where={where}>
      <Letter k={k} name={band.name} rank={rank} />
      <TableCell>
        <TextInput
          sx={{ width: 96 }}
          aria-label={`Name of band ${k + 1}`}
          value={band.name}
          onChange={(event) => put({ name: event.target.value })}
        />
      </TableCell>
      <TableCell>
        <NumberField
          label={`Price of ${band.name}`}
          value={band.price}
          put={(price) => put({ price: price ?? 0 })}
        />
      </TableCell>
      <TableCell>
        <TextInput
          type="time"
          aria-label={`${band.name} begins`}
          value={band.start.slice(0, 5)}
          onChange={(event) => put({ start: clock(event.target.value) })}
        />
      </TableCell>
      <TableCell>
        <TextInput
          type="time"
          aria-label={`${band.name} ends`}
          value={band.end.slice(0, 5)}
          onChange={(event) => put({ end: clock(event.target.value) })}
        />
      </TableCell>
      <TableCell>
        <ToggleButtonGroup
          aria-label={`${band.name} begins on`}
          value={band.weekdays}
          onChange={(_, weekdays: number[]) => weekdays.length && put({ weekdays: [...weekdays].sort() })}
        >
          {DAYS.map((day, d) => (
            <ToggleButton key={day} value={d} aria-label={day} sx={{ minWidth: 24, padding: "0 4px" }}>
              {day[0]}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </TableCell>
      <TableCell>
        <Select
          multiple
          value={band.months}
          input={<Boxed />}
          inputProps={{ "aria-label": `Months of ${band.name}` }}
          renderValue={seasonOf}
          onChange={(event) => {
            const months = event.target.value as number[];
            if (months.length) put({ months: [...months].sort((a, b) => a - b) });
          }}
          sx={{ width: 112 }}
        >
          {MONTHS.map((month, m) => (
            <MenuItem key={month} value={m + 1}>
              {month}
            </MenuItem>
          ))}
        </Select>
      </TableCell>
      <TableCell>
        <NumberField
          label={`Share of the electricity in ${band.name}`}
          value={band.share}
          put={(share) => put({ share })}
          width={52}
        />
      </TableCell>
      <TableCell>
        <Button variant="text" aria-label={`Remove ${band.name}`} onClick={remove}>
          Remove
        </Button>
      </TableCell>
    </TableRow>
  );
}
