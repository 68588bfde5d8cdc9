/** A pinned figure: as it was when the link was made, and whether anything has changed since. */
import { Screen } from "../../components/Frame";
import Alert from "@mui/material/Alert";
import Breadcrumbs from "@mui/material/Breadcrumbs";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";

import { api, got, type ProofShown, type SpanFigures } from "../../api/client";
import { copFormula, Inputs, ProofProvider, WhereFrom, cap } from "../../components/Proof";
import {
  clock,
  dayYear,
  duration,
  figureText,
  localMinute,
  number,
  plusMinus,
} from "../../components/numbers";
import { To } from "../../components/To";
import { Trouble, Waiting } from "../../components/Said";
import { must } from "../../components/must";

export default function ProofPage() {
  const key = useParams().key ?? "";
  const found = useQuery({
    queryKey: ["proof", key],
    queryFn: () => got(api.GET("/api/v1/proofs/{key}", { params: { path: { key } } })),
  });
  if (found.isError) return <Trouble error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Waiting what="the proof" />;
  return (
    <ProofProvider>
      <Sheet proof={found.data} />
    </ProofProvider>
  );
}

const at = (span: SpanFigures, level: string, what: string) =>
  (what === "EER" ? span.cooling : span.levels.find((one) => one.level === level)?.reckoning) ?? null;

function Sheet({ proof }: { proof: ProofShown }) {
  const { then, now, level, zone } = proof;
  const reckoning = at(then, level, proof.what);
  const figure = reckoning?.cop ?? null;
  const later = now ? at(now, level, proof.what) : null;
  const query = new URLSearchParams({
    from: localMinute(then.start, zone).slice(0, 10),
    to: localMinute(then.stop - 1, zone).slice(0, 10),
    level,
  });
  return (
    <Screen paper>
      <Box sx={{ display: "grid", gap: 14, maxWidth: 640 }}>
        <header>
          <Breadcrumbs aria-label="Where this is" sx={{ ...look.cap, marginBottom: 4 }}>
            <To to="/fleet">Fleet</To>
            <To to={`/systems/${proof.system}/running`}>{proof.name}</To>
            <To to={`/systems/${proof.system}/running?${query}`}>{then.local}</To>
            <span>{cap(proof.what)}</span>
          </Breadcrumbs>
          <Typography variant="h1">
            {proof.name}:{" "}
            {reckoning?.cop ? `${proof.what === "EER" ? "EER" : "COP"} at ${level}` : cap(proof.what)}
          </Typography>
          <Box component="p" sx={look.soft}>
            {then.local}, local time. Pinned {dayYear(proof.made, zone)} {clock(proof.made, zone)}
            {proof.user && ` by ${proof.user}`}.
          </Box>
        </header>
        {figure ? (
          <p>
            <Box component="span" sx={look.cop} data-testid="cop">
              {figureText(figure)}
            </Box>{" "}
            {plusMinus(figure)}{" "}
            <Box component="span" sx={look.soft}>
              k = 2
            </Box>
          </p>
        ) : (
          <Box component="p" sx={look.ember}>
            None: {reckoning?.reason?.sentence ?? "it could not be stated"}.
          </Box>
        )}
        {proof.changed ? (
          <Alert severity="warning" role="status">
            <p>
              <strong>Something has changed since:</strong> readings, description, corrections or the program.
            </p>
            <p>
              {later?.cop ? (
                <>
                  The same period gives {figureText(later.cop)} {plusMinus(later.cop)} now
                  {now?.stale ? ", being worked out anew" : ""}. Heat {figureText(must(later.heat))} kWh,
                  electricity {figureText(later.electricity)} kWh.
                </>
              ) : (
                `The same period gives no COP now${later?.reason?.sentence ? `: ${later.reason?.sentence}` : ""}.`
              )}
            </p>
          </Alert>
        ) : (
          <Box component="p" sx={look.teal} role="status">
            Nothing has changed since: readings, description and program are the same.
          </Box>
        )}
        {reckoning && (
          <>
            <section>
              <Typography variant="h3">Formula</Typography>
              <p>{copFormula(reckoning)}</p>
            </section>
            <Inputs
              reckoning={reckoning}
              from={
                proof.changed
                  ? undefined
                  : {
                      system: proof.system,
                      zone,
                      start: localMinute(then.start, zone),
                      stop: localMinute(then.stop, zone),
                      level,
                      what: proof.what,
                    }
              }
            />
          </>
        )}
        {figure && <WhereFrom figure={figure} />}
        <section>
          <Typography variant="h3">Corrected and left out</Typography>
          {then.corrections.length === 0 && reckoning?.left_out.length === 0 && <p>Nothing.</p>}
          {then.corrections.map((said) => (
            <p key={said}>{said}</p>
          ))}
          {reckoning?.left_out.map((left) => (
            <p key={left.reason.sentence}>
              Left out: {left.reason.sentence}, {duration(left.seconds)}
            </p>
          ))}
          <Box component="p" sx={look.soft}>
            Metering: {then.trust.words}.
          </Box>
        </section>
        <Box component="p" sx={{ ...look.noprint, display: "flex", gap: 10 }}>
          <Button onClick={() => window.print()}>Print</Button>
          <Link to={`/systems/${proof.system}/running?${query}`}>Look at the period as it is now</Link>
          <Box component="span" sx={look.soft}>
            {number((then.stop - then.start) / 86_400, 1)} days
          </Box>
        </Box>
      </Box>
    </Screen>
  );
}
