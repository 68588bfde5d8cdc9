/** The installations as rows on common axes; what loses most money first. */
import { useQueryString } from "../../app/query";
import { To } from "../../components/To";
import { HeadOf, Screen } from "../../components/Frame";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Choice } from "../../components/Choice";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { lazy, Suspense, useMemo, useRef, useState } from "react";
import { Link } from "react-router";

import type { FleetRow } from "../../api/client";
import { useFleet, useMe } from "../../api/hooks";
import { useFrame } from "../../app/frame";
import { UnitSwitch } from "../../components/Head";
import { HonestFigure, ProofProvider } from "../../components/Proof";
import { dayYear, figureText, localMinute, percent, plusMinus } from "../../components/numbers";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { useWidth } from "../../components/useWidth";
import { NewsLine } from "./NewsLine";
import { Strip } from "./Strip";
import { must } from "../../components/must";

const doubtful = (row: FleetRow) => ["doubtful", "broken"].includes(row.system.metering);
const FILTERS: [string, string, (row: FleetRow) => boolean][] = [
  ["all", "all", () => true],
  ["action", "action", (row) => row.system.foremost.actions.length > 0],
  [
    "advisory",
    "advisory",
    (row) => row.system.foremost.actions.length === 0 && row.system.foremost.advisories.length > 0,
  ],
  ["doubt", "metering in doubt", doubtful],
  [
    "fine",
    "nothing found",
    (row) => row.made && row.system.foremost.actions.length + row.system.foremost.advisories.length === 0,
  ],
];
const MOST_COMPARED = 6;

/** Every open finding of a row, by code and name. */
const named = (row: FleetRow) => [...row.system.foremost.actions, ...row.system.foremost.advisories];

const Compare = lazy(() => import("./Compare").then((one) => ({ default: one.Compare })));

export default function Fleet() {
  const fleet = useFleet();
  const me = useMe();
  const frame = useFrame();
  const [params, put] = useQueryString();
  const rows = useMemo(() => fleet.data?.rows ?? [], [fleet.data]);
  const filter = params.get("show") ?? "all";
  const kind = params.get("finding") ?? "";
  // The address follows in a transition, too late for a box that is ticked: the ticks are held here, and the address keeps them.
  const [compared, setCompared] = useState(() =>
    (params.get("compare") ?? "").split(",").filter(Boolean).map(Number),
  );
  const kinds = useMemo(
    () => [...new Map(rows.flatMap((row) => named(row).map((one) => [one.code, one.name] as const)))].sort(),
    [rows],
  );
  const chosen = FILTERS.find(([key]) => key === filter) ?? must(FILTERS[0]);
  const found = rows.filter(
    (row) => chosen[2](row) && (!kind || named(row).some((one) => one.code === kind)),
  );
  const comparing = params.get("view") === "compare" && compared.length > 1;
  const shown = comparing ? rows.filter((row) => compared.includes(row.id)) : found;
  const pick = (id: number) => {
    const next = compared.includes(id)
      ? compared.filter((one) => one !== id)
      : [...compared, id].slice(-MOST_COMPARED);
    setCompared(next);
    put({ compare: next.join(",") });
  };
  return (
    <ProofProvider>
      <HeadOf below={10}>
        <Box sx={look.line}>
          <Typography variant="h1">
            {me.data?.place || "Fleet"} · {rows.length === 1 ? "1 system" : `${rows.length} systems`}
          </Typography>
          <Box component="span" sx={{ ...look.soft, ...look.grow }}>
            the latest twelve months of each · sorted by electricity lost
          </Box>
          <Button component={Link} to="/new">
            Add a system
          </Button>
          <UnitSwitch />
          <Button onClick={frame.find}>/ find</Button>
        </Box>
        <Box sx={{ ...look.line, marginTop: 6 }}>
          <ToggleButtonGroup aria-label="Filter">
            {FILTERS.map(([key, name, test]) => (
              <ToggleButton
                value={key}
                key={key}
                selected={filter === key}
                onClick={() => put({ show: key === "all" ? "" : key })}
              >
                {name} {rows.filter(test).length}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <Choice
            aria-label="Finding"
            value={kind}
            onChange={(event) => put({ finding: event.target.value })}
          >
            <option value="">any finding</option>
            {kinds.map(([code, name]) => (
              <option key={code} value={code}>
                {name}
              </option>
            ))}
          </Choice>
          <Box component="span" sx={look.grow} />
          <Typography variant="caption" component="a" href="/api/v1/findings.csv" download>
            findings as CSV
          </Typography>
          {comparing ? (
            <Button onClick={() => put({ view: "" })}>Back to all</Button>
          ) : (
            <Tooltip title={compared.length < 2 ? "Tick two systems or more" : ""}>
              <span>
                <Button disabled={compared.length < 2} onClick={() => put({ view: "compare" })}>
                  Compare {compared.length > 1 ? compared.length : ""}
                </Button>
              </span>
            </Tooltip>
          )}
        </Box>
      </HeadOf>
      <Screen>
        {fleet.isPending && <Waiting what="the fleet" />}
        {fleet.isError && <Trouble error={fleet.error} again={() => void fleet.refetch()} />}
        {fleet.data && !rows.length && (
          <Empty title="No system yet">
            <p>Drop a log of one: what it holds is worked out from its readings, up to a first COP.</p>
            <p>
              <Button variant="contained" component={Link} to="/new">
                Add a system
              </Button>
            </p>
          </Empty>
        )}
        {rows.length > 0 && !shown.length && (
          <Box component="p" sx={look.soft}>
            No system is “{chosen[1]}”{kind && ` with “${kind}”`}.
          </Box>
        )}
        {!comparing && <NewsLine />}
        {shown.length > 0 && <Rows rows={shown} compared={compared} pick={pick} />}
        {comparing && (
          <Suspense fallback={<Waiting what="the comparison" />}>
            <Compare rows={shown} />
          </Suspense>
        )}
      </Screen>
    </ProofProvider>
  );
}

/** The axis of the SPF that all rows share. */
function axisOf(rows: FleetRow[]): { low: number; high: number } {
  const values = rows.flatMap(({ system }) => [
    ...(system.spf ? [system.spf.value - system.spf.U, system.spf.value + system.spf.U] : []),
    ...(system.expected ? [system.expected.value] : []),
  ]);
  const low = Math.floor(Math.min(2, ...values));
  return { low, high: Math.ceil(Math.max(low + 2, ...values)) };
}

function Rows({
  rows,
  compared,
  pick,
}: {
  rows: FleetRow[];
  compared: number[];
  pick: (id: number) => void;
}) {
  const cell = useRef<HTMLTableCellElement>(null);
  const width = Math.max(120, useWidth(cell) - 20);
  const axis = axisOf(rows);
  const ticks = Array.from({ length: axis.high - axis.low + 1 }, (_, k) => axis.low + k);
  const at = (value: number) => ((value - axis.low) / (axis.high - axis.low)) * 100;
  return (
    <FigureTable sx={{ tableLayout: "fixed" }} aria-label="Systems">
      <colgroup>
        <col style={{ width: "17%" }} />
        <col style={{ width: "23%" }} />
        <col style={{ width: "21%" }} />
        <col style={{ width: 84 }} />
        <col style={{ width: 92 }} />
        <col />
      </colgroup>
      <TableHead>
        <TableRow>
          <TableCell>System</TableCell>
          <TableCell ref={cell}>Year, day by day</TableCell>
          <TableCell>SPF, ± U · tick: if as rated</TableCell>
          <TableCell sx={{ paddingLeft: 12 }}>Metering</TableCell>
          <TableCell align="right">money lost</TableCell>
          <TableCell sx={{ paddingLeft: 12 }}>First to know</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {rows.map((row) => (
          <Row
            key={row.id}
            row={row}
            width={width}
            at={at}
            ticks={ticks}
            picked={compared.includes(row.id)}
            pick={() => pick(row.id)}
          />
        ))}
        <TableRow aria-hidden>
          <TableCell sx={{ borderBottom: 0 }} colSpan={2} />
          <TableCell sx={{ borderBottom: 0, padding: 0 }}>
            <Typography variant="caption" component="div" sx={{ position: "relative", height: 14 }}>
              {ticks.map((tick) => (
                <Box
                  component="span"
                  sx={{ position: "absolute", left: `${at(tick)}%`, transform: "translateX(-50%)" }}
                  key={tick}
                >
                  {tick}
                </Box>
              ))}
            </Typography>
          </TableCell>
          <TableCell sx={{ borderBottom: 0 }} colSpan={3} />
        </TableRow>
      </TableBody>
    </FigureTable>
  );
}

function Row({
  row,
  width,
  at,
  ticks,
  picked,
  pick,
}: {
  row: FleetRow;
  width: number;
  at: (value: number) => number;
  ticks: number[];
  picked: boolean;
  pick: () => void;
}) {
  const { system } = row;
  const { foremost } = system;
  const act = foremost.actions.length > 0;
  const doubt = system.metering === "doubtful" || system.metering === "broken";
  const room = row.made ? "running" : "log";
  return (
    <TableRow data-testid={`row-${row.id}`}>
      <TableCell sx={{ paddingTop: 8, paddingBottom: 9 }}>
        <Checkbox
          sx={{ margin: "0 6px 0 0", verticalAlign: "-1px" }}
          slotProps={{ input: { "aria-label": `Compare ${system.name}` } }}
          checked={picked}
          onChange={pick}
        />
        <To to={`/systems/${row.id}/${room}`} sx={{ fontWeight: 650, textDecoration: "none" }}>
          {system.name}
        </To>
        <Typography variant="caption" component="div">
          {system.unit}
        </Typography>
        <Typography variant="caption" component="div">
          {row.working
            ? "being worked out …"
            : row.stale
              ? "figures of earlier readings"
              : system.last
                ? `data to ${dayYear(system.last - 1, system.zone)}`
                : ""}
        </Typography>
      </TableCell>
      <TableCell sx={{ verticalAlign: "middle" }}>
        {system.strip && <Strip strip={system.strip} width={width} height={36} />}
      </TableCell>
      <TableCell sx={{ verticalAlign: "middle", padding: 0 }}>
        <Box sx={{ position: "relative", height: 44 }}>
          {ticks.map((tick) => (
            <Box
              component="i"
              sx={{
                position: "absolute",
                left: `${at(tick)}%`,
                top: -8,
                bottom: -8,
                borderLeft: "1px solid var(--hair)",
              }}
              key={tick}
              aria-hidden
            />
          ))}
          {system.spf && (system.coverage ?? 1) < 0.9 && (
            <Typography variant="caption" component="span" sx={{ position: "absolute", right: 2, top: 30 }}>
              covers {percent(system.coverage ?? 0)}
            </Typography>
          )}
          {system.spf ? <Whisker row={row} at={at} act={act} hollow={doubt} /> : <NoSpf row={row} />}
        </Box>
      </TableCell>
      <TableCell sx={{ ...(doubt ? look.ember : {}), verticalAlign: "middle", paddingLeft: 12 }}>
        {row.made ? (
          <Tooltip title={system.metering_line}>
            <To to={`/systems/${row.id}/trust`} sx={{ textDecoration: "none" }}>
              {system.metering_words}
            </To>
          </Tooltip>
        ) : (
          system.metering_words
        )}
      </TableCell>
      <TableCell align="right" sx={{ verticalAlign: "middle" }}>
        {foremost.money ? (
          <>
            <strong>
              <HonestFigure
                unit={false}
                proof={{
                  title: `Lost ${foremost.a_year ? "a year" : "in the record"}: ${foremost.dearest?.name}`,
                  about: `${system.name} · ${system.of}`,
                  figure: foremost.money,
                  formula: foremost.kwh
                    ? `${figureText(foremost.kwh)} ${plusMinus(foremost.kwh)} kWh at the price paid on average; the dearest finding alone, since two may share a cause`
                    : undefined,
                }}
              />
            </strong>
            <Typography variant="caption" component="div">
              {foremost.money.unit} {foremost.a_year ? "a year" : "in the record"}
            </Typography>
          </>
        ) : (
          "–"
        )}
      </TableCell>
      <TableCell sx={{ ...(act || doubt ? {} : look.soft), verticalAlign: "middle", paddingLeft: 12 }}>
        {foremost.sentence ? (
          <>
            <Tooltip title={foremost.sentence}>
              <To to={`/systems/${row.id}/rating`} sx={{ ...look.clamp, textDecoration: "none" }}>
                {foremost.sentence}
              </To>
            </Tooltip>
            {foremost.actions.length + foremost.advisories.length > 1 && (
              <Tooltip
                title={[...foremost.actions, ...foremost.advisories].map((one) => one.name).join(", ")}
              >
                <Typography variant="caption" component="div">
                  {foremost.actions.length > 1 ? `${foremost.actions.length - 1} more to act on` : ""}
                  {foremost.actions.length > 1 && foremost.advisories.length > 0 ? ", " : ""}
                  {foremost.advisories.length > 0
                    ? `${foremost.advisories.length - (foremost.actions.length ? 0 : 1) || ""} ${foremost.advisories.length - (foremost.actions.length ? 0 : 1) ? "to look at" : ""}`
                    : ""}
                </Typography>
              </Tooltip>
            )}
          </>
        ) : (
          <Box component="span" sx={look.clamp}>
            {system.sentence}
          </Box>
        )}
      </TableCell>
    </TableRow>
  );
}

function Whisker({
  row,
  at,
  act,
  hollow,
}: {
  row: FleetRow;
  at: (value: number) => number;
  act: boolean;
  hollow: boolean;
}) {
  const { system } = row;
  const spf = must(system.spf);
  const local = (instant: number) => localMinute(instant, system.zone);
  const origin =
    system.of_start && system.of_stop
      ? {
          system: row.id,
          zone: system.zone,
          start: local(system.of_start),
          stop: local(system.of_stop),
          level: system.level ?? "",
          what: "SPF",
        }
      : undefined;
  const tone = act ? "var(--ember)" : hollow ? "var(--soft)" : "var(--ink)";
  const [low, high] = [at(spf.value - spf.U), at(spf.value + spf.U)];
  return (
    <>
      <Box
        component="i"
        sx={{
          position: "absolute",
          left: `${low}%`,
          width: `${high - low}%`,
          top: 27,
          borderTop: `2px solid ${tone}`,
        }}
        aria-hidden
      />
      <Box
        component="i"
        sx={{
          position: "absolute",
          left: `calc(${at(spf.value)}% - 5px)`,
          top: 23,
          width: 10,
          height: 10,
          borderRadius: "50%",
          background: hollow ? "var(--ground)" : tone,
          border: `2px solid ${tone}`,
        }}
        aria-hidden
      />
      {system.expected && (
        <Tooltip title={`if as rated: ${figureText(system.expected)}`}>
          <Box
            component="i"
            sx={{
              position: "absolute",
              left: `${at(system.expected.value)}%`,
              top: 18,
              height: 20,
              borderLeft: "2px solid var(--soft)",
            }}
            aria-hidden
          />
        </Tooltip>
      )}
      <Box
        component="span"
        sx={{
          position: "absolute",
          left: `${at(spf.value)}%`,
          top: 1,
          transform: "translateX(-50%)",
          whiteSpace: "nowrap",
          color: tone,
          fontWeight: 650,
        }}
      >
        <HonestFigure
          proof={{
            title:
              system.of === "latest 12 months" || system.of === "year"
                ? `SPF at ${system.level}`
                : `COP at ${system.level}`,
            about: `${system.name} · ${system.of}`,
            figure: spf,
            formula: "Σ heat ÷ Σ electricity over the same time, net of defrosts",
            from: origin,
            notes: [
              `Covers ${percent(system.coverage ?? 0)} of the time.`,
              ...(system.expected
                ? [
                    `If the compared running met the rated table: ${figureText(system.expected)} ${plusMinus(system.expected)}.`,
                  ]
                : []),
              ...(system.compared_at ?? []), // rows kept by an earlier version have none
            ],
          }}
        />
      </Box>
    </>
  );
}

function NoSpf({ row }: { row: FleetRow }) {
  return (
    <Box
      component="span"
      sx={{ ...(row.made ? look.ember : look.soft), position: "absolute", left: 0, top: 12 }}
    >
      {row.made ? "no COP" : "no readings"}
    </Box>
  );
}
