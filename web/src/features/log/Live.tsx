/** Loggers that send by themselves: their token, when they were last heard of, what each name is read as. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type Channel, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useChannels } from "../../api/hooks";
import { refusedAt, useTyped, Words } from "../../components/Form";
import { clock, dayYear, duration, number } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { must } from "../../components/must";

type Loggers = components["schemas"]["Loggers"];
type Logger = components["schemas"]["LoggerShown"];
type Choice = components["schemas"]["NameChoice"];

export function Live({ system }: { system: SystemShown }) {
  const key = ["loggers", system.id];
  const params = { params: { path: { pk: system.id } } };
  const queries = useQueryClient();
  const loggers = useQuery({
    queryKey: key,
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/loggers", params)),
    refetchInterval: 5000,
  });
  const [token, setToken] = useState<{ of: number; is: string } | null>(null);
  const form = useTyped<{ name: string }>("LoggerNamed", { name: "" });
  const took = (next: Loggers) => {
    queries.setQueryData(key, { ...next, token: null });
    if (next.token && next.token_of) setToken({ of: next.token_of, is: next.token });
  };
  const add = useMutation({
    mutationFn: (body: { name: string }) =>
      got(api.POST("/api/v1/systems/{pk}/loggers", { ...params, body })),
    onSuccess: (next) => {
      took(next);
      form.reset();
    },
    onError: (error) => refusedAt(form, error),
  });
  const act = useMutation({
    mutationFn: ({ logger, what }: { logger: number; what: "token" | "revoke" }) => {
      const path = { params: { path: { key: logger } } };
      return got(
        what === "token"
          ? api.PUT("/api/v1/loggers/{key}/token", path)
          : api.DELETE("/api/v1/loggers/{key}", path),
      );
    },
    onSuccess: took,
  });
  const submit = form.handleSubmit((typed) => add.mutate(typed));
  if (loggers.isError) return <Trouble error={loggers.error} again={() => void loggers.refetch()} />;
  if (!loggers.data) return <Waiting what="the loggers" />;
  const shown = loggers.data.rows.find((one) => one.id === token?.of);
  return (
    <Box component="section" sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Box
        component="form"
        noValidate
        sx={{ display: "flex", gap: 8, alignItems: "flex-start" }}
        onSubmit={(event) => void submit(event)}
      >
        <Box component="p" sx={{ ...look.soft, flex: 1, paddingTop: 16 }}>
          A logger sends to <code>{window.location.origin}/api/ingest</code>, or over MQTT, with a token of
          its own; late and repeated batches do no harm.
        </Box>
        <Words
          control={form.control}
          name="name"
          label="Name of a new logger"
          width={150}
          hint="boiler room"
        />
        <Button variant="contained" type="submit" sx={{ marginTop: 16 }} disabled={add.isPending}>
          Add a logger
        </Button>
      </Box>
      {(form.formState.errors.root ?? act.error) && (
        <Alert severity="warning" role="alert">
          {(form.formState.errors.root ?? act.error)?.message}
        </Alert>
      )}
      {token && shown && <Token name={shown.name} token={token.is} close={() => setToken(null)} />}
      {!loggers.data.rows.length && (
        <Box component="p" sx={look.soft}>
          No logger yet. Give one a name; its token is shown once.
        </Box>
      )}
      {loggers.data.lacking.length > 0 && (
        <Alert severity="info" role="note">
          No logger sends {loggers.data.lacking.join(", ")}, which the description reads.
        </Alert>
      )}
      {loggers.data.rows.map((logger) => (
        <One
          key={logger.id}
          system={system}
          logger={logger}
          act={(what) => act.mutate({ logger: logger.id, what })}
          took={took}
        />
      ))}
    </Box>
  );
}

function Token({ name, token, close }: { name: string; token: string; close: () => void }) {
  const example = `curl -X POST ${window.location.origin}/api/ingest \\\n  -H "Authorization: Bearer ${token}" -H "Content-Type: text/plain" \\\n  --data "$(date -u +%FT%TZ) flow_temp 35.2"`;
  return (
    <Alert severity="warning" role="note" data-testid="token">
      <p>
        The token of <strong>{name}</strong>, shown this once: <code>{token}</code>{" "}
        <Button onClick={close}>I have it</Button>
      </p>
      <Box component="pre" sx={{ font: "11px/1.4 monospace", margin: "6px 0 0", overflowX: "auto" }}>
        {example}
      </Box>
    </Alert>
  );
}

function One({
  system,
  logger,
  act,
  took,
}: {
  system: SystemShown;
  logger: Logger;
  act: (what: "token" | "revoke") => void;
  took: (next: Loggers) => void;
}) {
  const [open, setOpen] = useState(false);
  const when = (instant: number | null) =>
    instant === null ? "–" : `${dayYear(instant, system.zone)} ${clock(instant, system.zone)}`;
  const well = logger.state === "sending" && logger.said === "All well.";
  return (
    <Box
      component="section"
      sx={{
        border: "1px solid var(--line)",
        background: "var(--sheet)",
        padding: "10px 14px",
        borderRadius: 3,
      }}
      aria-label={`Logger ${logger.name}`}
    >
      <Box sx={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        <Typography variant="h2">{logger.name}</Typography>
        <Box
          component="span"
          sx={{
            ...(well ? look.teal : logger.state === "waiting" ? look.soft : look.ember),
            fontWeight: 600,
          }}
        >
          {logger.state}
        </Box>
        <Box component="span" sx={{ ...look.soft, flex: 1 }}>
          {logger.said}
        </Box>
        <Button aria-expanded={open} onClick={() => setOpen(!open)}>
          Names
        </Button>
        <Button onClick={() => act("token")}>New token</Button>
        {logger.state !== "revoked" && <Button onClick={() => act("revoke")}>Revoke</Button>}
      </Box>
      <Box component="p" sx={{ display: "flex", gap: 22, flexWrap: "wrap", marginTop: 4 }}>
        <span>
          <Box component="span" sx={look.soft}>
            Last heard of
          </Box>{" "}
          {when(logger.seen)}
        </span>
        <span>
          <Box component="span" sx={look.soft}>
            Newest reading
          </Box>{" "}
          {when(logger.latest)}
        </span>
        <span>
          <Box component="span" sx={look.soft}>
            Readings
          </Box>{" "}
          {number(logger.readings, 0)}
          {logger.waiting > 0 && (
            <Box component="span" sx={look.soft}>
              {" "}
              · {number(logger.waiting, 0)} batches on their way into the charts
            </Box>
          )}
        </span>
        <span>
          <Box component="span" sx={look.soft}>
            Clock
          </Box>{" "}
          {logger.drift === null
            ? "not told"
            : Math.abs(logger.drift) < 2
              ? "right"
              : `${number(Math.abs(logger.drift), 0)} s ${logger.drift > 0 ? "ahead" : "behind"}`}
        </span>
        <span>
          <Box component="span" sx={look.soft}>
            Number, for MQTT
          </Box>{" "}
          {logger.id}
        </span>
      </Box>
      {logger.problem && (
        <Box component="p" sx={look.ember}>
          Last refused: {logger.problem}
        </Box>
      )}
      {logger.gaps.length > 0 && (
        <Box component="p" sx={look.soft}>
          Gaps of the last week:{" "}
          {logger.gaps
            .map(
              (gap) =>
                `${dayYear(gap.start, system.zone)} ${clock(gap.start, system.zone)}, ${duration(gap.stop - gap.start)}`,
            )
            .join("; ")}
          .
        </Box>
      )}
      {open && <Names system={system} logger={logger} took={took} />}
    </Box>
  );
}

function Names({
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
    mutationFn: (columns: Choice[]) =>
      got(
        api.PUT("/api/v1/loggers/{key}/names", { params: { path: { key: logger.id } }, body: { columns } }),
      ),
    onSuccess: took,
  });
  if (!channels.data) return <Waiting what="the channels" />;
  const now: Choice[] = logger.names
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
