/** Findings: what is wrong, with proof, and what to do; and where each stands. */
import { useQueryString } from "../../app/query";
import { To } from "../../components/To";
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Entry } from "../../components/Entry";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { FigureButton } from "../../components/FigureButton";
import * as look from "../../components/look";

import type { Finding, FindingsShown, FindingStatus, SystemShown } from "../../api/client";
import { useFindings, useRenew } from "../../api/hooks";
import { cap, HonestFigure } from "../../components/Proof";
import { dayYear, figureText, localMinute, number, plusMinus } from "../../components/numbers";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { Gauge } from "./Gauge";
import { CLOSED, History, Standing } from "./Standing";
import { must } from "../../components/must";

export function Findings({ system, go }: { system: SystemShown; go: () => void }) {
  const findings = useFindings(system.id);
  const renew = useRenew();
  if (findings.isError) return <Trouble error={findings.error} again={() => void findings.refetch()} />;
  if (!findings.data) return <Waiting what="the findings" />;
  const found = findings.data;
  if (!found.made)
    return (
      <Empty title="No findings are worked out yet">
        <p>They come with the figures of the record.</p>
        <p>
          <Button variant="contained" onClick={() => renew.mutate(system.id)}>
            Work them out
          </Button>
        </p>
      </Empty>
    );
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      {found.stale && (
        <Alert severity="info" role="status">
          These findings are of earlier readings, another description or other thresholds; they are being
          worked out anew.
        </Alert>
      )}
      <List system={system} found={found} />
      <NotJudged found={found} go={go} />
      <Past system={system} found={found} />
    </Box>
  );
}

function statusOf(found: FindingsShown, code: string): FindingStatus | undefined {
  return found.statuses.find((status) => status.code === code);
}

function List({ system, found }: { system: SystemShown; found: FindingsShown }) {
  const [params, put] = useQueryString();
  const closed = (finding: Finding) => CLOSED.includes(statusOf(found, finding.code)?.state ?? "new");
  const rows = [...found.findings.filter((one) => !closed(one)), ...found.findings.filter(closed)];
  const shown = rows.find((one) => one.code === params.get("finding")) ?? rows[0];
  const show = (code: string) => put({ finding: code });
  if (!shown)
    return (
      <Empty title="Nothing found">
        <p>
          Every rule that these readings allow was looked at, and none of them spoke. What could not be judged
          is listed below{found.not_judged.length ? "" : "; today that is nothing"}.
        </p>
      </Empty>
    );
  return (
    <Box
      component="section"
      sx={{
        display: "grid",
        gridTemplateColumns: "minmax(220px, 0.56fr) minmax(0, 1fr)",
        gap: 20,
        alignItems: "start",
      }}
      aria-label="Findings"
    >
      <Box
        sx={{ borderTop: "1px solid var(--line)" }}
        role="listbox"
        aria-label="Findings, the first to look at first"
      >
        {rows.map((one) => {
          const status = statusOf(found, one.code);
          const over = closed(one);
          const money = one.money_a_year ?? one.money_lost;
          return (
            <Entry key={one.code} role="option" aria-selected={one === shown} onClick={() => show(one.code)}>
              <Box
                component="span"
                sx={one.weight === "action" && !over ? look.ember : look.soft}
                aria-hidden
              >
                {over ? "○" : one.weight === "action" ? "■" : "◇"}
              </Box>
              <Box
                component="span"
                sx={{ ...(over ? look.soft : {}), fontWeight: one === shown ? 650 : 400 }}
              >
                {cap(one.name)}
                <Typography variant="caption" component="span" sx={{ display: "block", fontWeight: 400 }}>
                  {over ? must(status).state : one.weight}
                  {status?.came_back ? " · came back" : status?.state === "accepted" ? " · accepted" : ""}
                </Typography>
              </Box>
              <Box component="span" sx={look.num}>
                {money ? `${figureText(money)} ${money.unit}` : ""}
              </Box>
            </Entry>
          );
        })}
      </Box>
      <Sheet
        key={shown.code}
        system={system}
        finding={shown}
        status={statusOf(found, shown.code)}
        keep={() => show(shown.code)}
      />
    </Box>
  );
}

/** A span of a day and less is shown whole, a longer one from its beginning. */
function linkTo(system: SystemShown, view: string, start: number, stop: number): string {
  const local = (instant: number) => localMinute(instant, system.zone);
  const [room, table] = view.split("/");
  const query = new URLSearchParams();
  if (room === "running" && table) query.set("view", table);
  if (room === "rating") query.set("view", "weather");
  if (room !== "trust" && room !== "setup") {
    query.set("from", local(start).slice(0, 10));
    query.set("to", local(stop - 1).slice(0, 10));
  }
  if (room === "running" && !table && stop - start < 172_800)
    query.set("sel", `${local(start)}_${local(stop)}`);
  return `/systems/${system.id}/${room}?${query}`;
}

function Sheet({
  system,
  finding,
  status,
  keep,
}: {
  system: SystemShown;
  finding: Finding;
  status: FindingStatus | undefined;
  keep: () => void;
}) {
  return (
    <Box component="article" sx={{ display: "grid", gap: 10 }} aria-label={cap(finding.name)}>
      <header>
        <Typography variant="h1" sx={finding.weight === "action" ? look.ember : {}}>
          {finding.sentence}
        </Typography>
        <Typography variant="caption" component="p">
          {finding.weight === "action" ? "Asks for action" : "Worth a look"} ·{" "}
          {dayYear(finding.period.start, system.zone)} to {dayYear(finding.period.stop - 1, system.zone)}
          {finding.metering && " · a fault of the metering: no other verdict rests on it"}
        </Typography>
      </header>
      <Cost system={system} finding={finding} />
      <section>
        <Typography variant="h3">Evidence</Typography>
        {finding.evidence.map((one) => (
          <Box
            sx={{
              display: "grid",
              gridTemplateColumns: "minmax(0, 1fr) 190px",
              gap: 12,
              alignItems: "center",
              borderBottom: "1px solid var(--hair)",
              padding: "3px 0",
            }}
            key={one.words}
          >
            <span>
              {cap(one.words)}:{" "}
              <strong>
                <HonestFigure
                  proof={{
                    title: cap(one.words),
                    about: `${system.name} · ${cap(finding.name)}`,
                    figure: one.measured,
                    formula: `against a threshold of ${number(one.threshold, 2)}; the fault lies ${one.above ? "above" : "below"} it`,
                  }}
                />
              </strong>{" "}
              <Box component="span" sx={look.soft}>
                against {number(one.threshold, decimals(one.threshold))}
              </Box>{" "}
              <To to={linkTo(system, one.view, one.start, one.stop)} sx={{ ...look.cap, ...look.noprint }}>
                show
              </To>
            </span>
            <Gauge
              value={one.measured.value}
              U={one.measured.U}
              threshold={one.threshold}
              above={one.above}
            />
          </Box>
        ))}
      </section>
      <section>
        <Typography variant="h3">Likely causes, the likeliest first</Typography>
        <Box component="ol" sx={{ margin: 0, paddingLeft: 18 }}>
          {finding.causes.map((cause) => (
            <li key={cause.name}>
              {cause.name}
              {cause.speaks_for.map((words) => (
                <Box component="span" sx={{ ...look.teal, display: "block" }} key={words}>
                  + {words}
                </Box>
              ))}
              {cause.speaks_against.map((words) => (
                <Box component="span" sx={{ ...look.soft, display: "block" }} key={words}>
                  − {words}
                </Box>
              ))}
            </li>
          ))}
        </Box>
      </section>
      <section>
        <Typography variant="h3">Next</Typography>
        <p>{finding.next_check}</p>
        <p>
          <strong>Who: </strong>
          {finding.who}
        </p>
        <Alert severity="warning" role="note" sx={{ marginTop: 4 }}>
          <strong>Caution: </strong>
          {finding.caution}
        </Alert>
        <Box component="p" sx={{ ...look.soft, marginTop: 4 }}>
          Clears when: {finding.clears}
        </Box>
      </section>
      <Standing system={system} finding={finding} status={status} keep={keep} />
    </Box>
  );
}

const decimals = (value: number) => (Math.abs(value) < 10 && !Number.isInteger(value) ? 2 : 0);

function Cost({ system, finding }: { system: SystemShown; finding: Finding }) {
  const money = finding.money_a_year ?? finding.money_lost;
  const energy = finding.kwh_a_year ?? finding.lost;
  const when = finding.kwh_a_year ? "a year" : "in these days";
  if (!energy)
    return (
      <Box component="p" sx={look.soft}>
        {cap(finding.cost_basis)}.
      </Box>
    );
  return (
    <p>
      <strong>
        <HonestFigure
          proof={{
            title: `Lost ${when}`,
            about: `${system.name} · ${cap(finding.name)}`,
            figure: money ?? energy,
            formula: finding.cost_basis,
          }}
        />{" "}
        {when}
      </strong>
      {money && (
        <>
          , {figureText(energy)} {plusMinus(energy)} kWh
        </>
      )}
      .{" "}
      <Box component="span" sx={look.soft}>
        {finding.cost_basis}.
      </Box>
    </p>
  );
}

/** Verdicts that are not made, by what forbids them. */
function NotJudged({ found, go }: { found: FindingsShown; go: () => void }) {
  const by = new Map<string, string[]>();
  for (const one of found.not_judged)
    by.set(one.reason.sentence, [...(by.get(one.reason.sentence) ?? []), one.name]);
  return (
    <section aria-label="Not judged">
      {[...by].map(([because, names]) => (
        <Box component="p" sx={look.soft} key={because}>
          <strong>Not judged</strong>, {because}: {names.join(", ")}.
        </Box>
      ))}
      <Typography variant="caption" component="p">
        Every rule has a threshold.{" "}
        <FigureButton sx={{ textDecoration: "underline" }} onClick={go}>
          See and change them
        </FigureButton>
        {found.siblings.length > 0 &&
          `. The same rated table: ${found.siblings.map((one) => `${one.name} ${number(one.ratio, 2)} ± ${number(one.U, 2)}`).join(", ")}.`}
      </Typography>
    </section>
  );
}

/** What was found before and is not any more. */
function Past({ system, found }: { system: SystemShown; found: FindingsShown }) {
  const now = new Set<string>(found.findings.map((one) => one.code));
  const past = found.statuses.filter((status) => !now.has(status.code));
  if (!past.length) return null;
  return (
    <section aria-label="Found before">
      <Typography variant="h2">Found before</Typography>
      <FigureTable>
        <TableBody>
          {past.map((status) => (
            <TableRow key={status.code}>
              <TableCell sx={{ width: 170 }}>{cap(status.name)}</TableCell>
              <TableCell sx={{ ...look.soft, width: 90 }}>
                {status.state === "gone" ? "no longer found" : status.state}
              </TableCell>
              <TableCell>
                {status.sentence}
                <History status={status} zone={system.zone} />
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}
