/** What a logger's names are read as. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";

import { api, got, type Channel, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useChannels } from "../../api/hooks";
import { Choice } from "../../components/Choice";
import { Waiting } from "../../components/Said";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { must } from "../../components/must";
import { number } from "../../components/numbers";
import type { Logger, Loggers } from "./Live";

type NameChoice = components["schemas"]["NameChoice"];

export function LoggerNames({
  system,
  logger,
  took,
}: {
  system: SystemShown;
  logger: Logger;
  took: (next: Loggers) => void;
}) {
  const channels = useChannels(system.id);
  const keep = useMutation({
    mutationFn: (columns: NameChoice[]) =>
      got(
        api.PUT("/api/v1/loggers/{key}/names", { params: { path: { key: logger.id } }, body: { columns } }),
      ),
    onSuccess: took,
  });
  if (!channels.data) return <Waiting what="the channels" />;
  const now: NameChoice[] = logger.names
    .filter((one) => one.channel)
    .map((one) => ({ header: one.name, channel: must(one.channel), unit: one.unit }));
  const put = (name: string, channel: string, unit: string | null) =>
    keep.mutate([
      ...now.filter((one) => one.header !== name),
      ...(channel ? [{ header: name, channel, unit }] : []),
    ]);
  const unitsOf = (channel: string | null): Channel["units"] =>
    channels.data.find((one) => one.channel === channel)?.units ?? [];
  if (!logger.names.length)
    return (
      <Box component="p" sx={look.soft}>
        No names yet; they are listed once it has sent.
      </Box>
    );
  return (
    <>
      {keep.isError && (
        <Alert severity="warning" role="alert">
          {keep.error.message}
        </Alert>
      )}
      <FigureTable tight sx={{ maxWidth: 640, marginTop: 6 }} aria-label={`Names of ${logger.name}`}>
        <TableHead>
          <TableRow>
            <TableCell>Sent as</TableCell>
            <TableCell align="right">Latest</TableCell>
            <TableCell>Is</TableCell>
            <TableCell>In</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {logger.names.map((one) => (
            <TableRow key={one.name}>
              <TableCell>{one.name}</TableCell>
              <TableCell align="right">{short(one.value)}</TableCell>
              <TableCell>
                <Choice
                  aria-label={`${one.name} is`}
                  value={one.channel ?? ""}
                  onChange={(event) =>
                    put(one.name, event.target.value, unitsOf(event.target.value)[0]?.unit ?? null)
                  }
                >
                  <option value="">not used</option>
                  {one.channel && !channels.data.some((channel) => channel.channel === one.channel) && (
                    <option value={one.channel}>{one.channel}</option>
                  )}
                  {channels.data.map((channel) => (
                    <option key={channel.channel} value={channel.channel}>
                      {channel.channel}
                      {channel.needed ? " *" : ""}
                    </option>
                  ))}
                </Choice>
              </TableCell>
              <TableCell>
                <Choice
                  aria-label={`Unit of ${one.name}`}
                  value={one.unit ?? ""}
                  disabled={!one.channel}
                  onChange={(event) => put(one.name, must(one.channel), event.target.value)}
                >
                  {unitsOf(one.channel).map((unit) => (
                    <option key={unit.unit} value={unit.unit}>
                      {unit.symbol}
                    </option>
                  ))}
                </Choice>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
      <Typography variant="caption" component="p">
        * read by the description. A change counts from now on, and for the last hour.
      </Typography>
    </>
  );
}

/** A value of any size, in few digits. */
function short(value: number): string {
  const size = Math.abs(value);
  return size !== 0 && (size < 0.01 || size >= 1e7)
    ? value.toExponential(3)
    : number(value, size < 100 ? 2 : 0);
}
