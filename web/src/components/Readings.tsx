/** The readings behind a figure, cell by cell: what was logged, what was corrected, what came of it. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureTable } from "./Sheets";
import * as look from "./look";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type Readings as Shown } from "../api/client";
import { clock, number, shortDay } from "./numbers";
import type { Origin } from "./Proof";

export function Readings({ from, meters }: { from: Origin; meters: string[] }) {
  const [meter, setMeter] = useState<string | null>(null);
  return (
    <Box sx={{ ...look.noprint, marginTop: 6 }}>
      <Typography variant="caption" component="span">
        Readings of{" "}
      </Typography>
      {meters.map((name) => (
        <Button
          sx={{ marginRight: 6 }}
          key={name}
          aria-expanded={meter === name}
          onClick={() => setMeter(meter === name ? null : name)}
        >
          {name}
        </Button>
      ))}
      {meter && <Table key={meter} from={from} meter={meter} />}
    </Box>
  );
}

function Table({ from, meter }: { from: Origin; meter: string }) {
  const [page, setPage] = useState(0);
  const { system, start, stop } = from;
  const found = useQuery({
    queryKey: ["system", system, "behind", start, stop, meter, page],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/behind", {
          params: { path: { pk: system }, query: { start, stop, meter, page } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  if (found.isError)
    return (
      <Alert severity="warning" role="note">
        {found.error.message}
      </Alert>
    );
  if (!found.data)
    return (
      <Box component="p" sx={look.soft}>
        Fetching the readings …
      </Box>
    );
  const { pages, formula, method } = found.data;
  return (
    <Box sx={{ marginTop: 6 }}>
      <Typography variant="caption" component="p">
        {method}: {formula}.
      </Typography>
      <Box
        sx={{ overflow: "auto", maxHeight: 300, border: "1px solid var(--hair)" }}
        tabIndex={0}
        role="region"
        aria-label={`Readings of ${meter}`}
      >
        <Cells found={found.data} zone={from.zone} />
      </Box>
      <Box component="p" sx={{ display: "flex", gap: 8, alignItems: "center", marginTop: 4 }}>
        <Button disabled={page === 0} onClick={() => setPage(page - 1)}>
          Earlier
        </Button>
        <Typography variant="caption" component="span">
          page {number(page + 1, 0)} of {number(pages, 0)}
        </Typography>
        <Button disabled={page + 1 >= pages} onClick={() => setPage(page + 1)}>
          Later
        </Button>
        <Button disabled={page + 1 >= pages} onClick={() => setPage(pages - 1)}>
          Last
        </Button>
      </Box>
    </Box>
  );
}

function Cells({ found, zone }: { found: Shown; zone: string }) {
  const text = (value: number | null | undefined, digits: number) =>
    value === null || value === undefined ? "–" : number(value, digits);
  return (
    <FigureTable tight sx={{ fontSize: 11 }}>
      <TableHead>
        <TableRow>
          <TableCell>time</TableCell>
          {found.channels.map((one) => (
            <TableCell align="right" key={one.channel}>
              {one.channel}
              <br />
              {one.unit}
            </TableCell>
          ))}
          <TableCell align="right">
            energy
            <br />
            kWh
          </TableCell>
          <TableCell>state</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {found.time.map((at, k) => (
          <Tooltip key={at} title={found.reason[k] || undefined}>
            <TableRow sx={found.reason[k] ? look.soft : {}}>
              <TableCell sx={{ whiteSpace: "nowrap" }}>
                {k === 0 || clock(at, zone) === "00:00" ? `${shortDay(at, zone)} ` : ""}
                {clock(at, zone)}
              </TableCell>
              {found.channels.map((one) => {
                const digits = one.unit === "W" ? 0 : 2;
                const logged = one.logged[k];
                const now = one.corrected ? one.corrected[k] : undefined;
                return (
                  <TableCell align="right" key={one.channel}>
                    {text(logged, digits)}
                    {now !== undefined && now !== logged && (
                      <Box component="span" sx={look.ember}>
                        {" "}
                        → {text(now, digits)}
                      </Box>
                    )}
                  </TableCell>
                );
              })}
              <TableCell align="right" sx={found.reason[k] ? { textDecoration: "line-through" } : undefined}>
                {text(found.energy[k], 4)}
              </TableCell>
              <TableCell>{found.reason[k] ? `left out: ${found.reason[k]}` : found.state[k]}</TableCell>
            </TableRow>
          </Tooltip>
        ))}
      </TableBody>
    </FigureTable>
  );
}
