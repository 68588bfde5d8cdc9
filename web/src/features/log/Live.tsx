/** Loggers that send by themselves: their token, when they were last heard of, what each name is read as. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { refusedAt, useTyped, Words } from "../../components/Form";
import { clock, dayYear, duration } from "../../components/numbers";
import { Trouble, Waiting } from "../../components/Said";
import { LoggerNames } from "./LoggerNames";
import { LoggersGrid, lookOf } from "./LoggersGrid";

export type Loggers = components["schemas"]["Loggers"];
export type Logger = components["schemas"]["LoggerShown"];

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
  const [open, setOpen] = useState<number | null>(null);
  const form = useTyped<{ name: string }>("LoggerNamed", { name: "" });
  const took = (next: Loggers) => {
    queries.setQueryData(key, { ...next, token: null });
    if (next.token && next.token_of) {
      setToken({ of: next.token_of, is: next.token });
      setOpen(next.token_of);
    }
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
  const opened = loggers.data.rows.find((one) => one.id === open);
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
      {loggers.data.rows.length > 0 && (
        <LoggersGrid
          system={system}
          loggers={loggers.data.rows}
          open={opened?.id ?? null}
          setOpen={setOpen}
        />
      )}
      {opened && (
        <One
          system={system}
          logger={opened}
          act={(what) => act.mutate({ logger: opened.id, what })}
          took={took}
        />
      )}
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

interface OneProps {
  system: SystemShown;
  logger: Logger;
  act: (what: "token" | "revoke") => void;
  took: (next: Loggers) => void;
}

/** One logger: what was refused, its gaps, what its names are read as. */
function One({ system, logger, act, took }: OneProps) {
  return (
    <Box component="section" aria-label={`Logger ${logger.name}`} sx={{ display: "grid", gap: 6 }}>
      <Box sx={{ display: "flex", gap: 10, alignItems: "baseline" }}>
        <Typography variant="h2">{logger.name}</Typography>
        <Box component="span" sx={{ ...lookOf(logger), flex: 1 }}>
          {logger.said}
        </Box>
        <Button onClick={() => act("token")}>New token</Button>
        {logger.state !== "revoked" && <Button onClick={() => act("revoke")}>Revoke</Button>}
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
      <LoggerNames system={system} logger={logger} took={took} />
    </Box>
  );
}
