/** The installation, described: the metering drawn, and what the sums need to know. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { FileInput } from "../../components/FileInput";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, got, type SystemShown } from "../../api/client";
import { useForget } from "../../api/hooks";
import { Unsaved } from "../../app/Unsaved";
import { dayYear, clock } from "../../components/numbers";
import { FigureButton } from "../../components/FigureButton";
import { useTell } from "../../components/Told";
import { Room } from "../../components/Room";
import { Trouble, Waiting } from "../../components/Said";
import { toggleConsumer, type Draft } from "./draft";
import { toField, type Problem, type SetUp } from "./Fields";
import { HandSheet, Sensors } from "./HandSheet";
import { Heating, House, Installation, Siblings, Tank } from "./House";
import { Further } from "./Further";
import { Meters } from "./Meters";
import { Schematic } from "./Schematic";
import { SupplyPart } from "./Supply";
import { TariffPart } from "./tariff/Tariff";
import { must } from "../../components/must";

type Edit = (next: Draft) => void;
type Told = Pick<SetUp, "levels" | "parts" | "clock">;

/** The edge of what scrolls, which on a wide screen is the sheet with its padding. */
const edge = { xs: 0, sm: "-12px" };
/** Store and Undo stay in sight. */
const head = {
  display: "flex",
  gap: 8,
  alignItems: "baseline",
  position: "sticky",
  top: edge,
  zIndex: 2,
  bgcolor: "background.default",
} as const;
/** What has the focus is not hidden by either. */
const sheet = {
  display: "grid",
  gridTemplateColumns: "minmax(0, 1fr)",
  gap: 16,
  maxWidth: 1180,
  "& :is(input, select, button, a)": { scrollMarginBlock: "48px 120px" },
} as const;
const foot = { position: "sticky", bottom: edge, zIndex: 2, maxHeight: "30vh", overflowY: "auto" } as const;

export default function Setup() {
  return (
    <Room needs={false} panel={false}>
      {(system) => <Fetch key={system.id} system={system} />}
    </Room>
  );
}

function Fetch({ system }: { system: SystemShown }) {
  const setup = useQuery({
    queryKey: ["setup", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/setup", { params: { path: { pk: system.id } } })),
  });
  if (setup.isError) return <Trouble error={setup.error} again={() => void setup.refetch()} />;
  if (!setup.data) return <Waiting what="the description" />;
  return <Inside system={system} setup={setup.data} />;
}

function Inside({ system, setup }: { system: SystemShown; setup: SetUp }) {
  const stored = setup.description as unknown as Draft;
  const [draft, setDraft] = useState<Draft>(stored);
  const [before, setBefore] = useState<Draft[]>([]);
  const [active, setActive] = useState(0);
  const queries = useQueryClient();
  const forget = useForget();
  const tell = useTell();
  const text = useMemo(() => JSON.stringify(draft), [draft]);
  const dirty = text !== JSON.stringify(stored);
  const [shown, setShown] = useState(stored);
  if (shown !== stored) {
    setShown(stored);
    setDraft(stored);
    setBefore([]);
  }

  const checked = useQuery({
    queryKey: ["setup", system.id, "check", text],
    queryFn: () =>
      got(
        api.POST("/api/v1/systems/{pk}/setup/check", {
          params: { path: { pk: system.id } },
          body: { description: draft, based_on: null },
        }),
      ),
    placeholderData: (last) => last,
    enabled: dirty,
  });
  const problems = dirty ? (checked.data?.problems ?? []) : [];
  const broken = problems.length > 0;
  // What was told of the last draft that could be stays, so that a check moves nothing.
  const now = dirty ? checked.data : setup;
  const [told, setTold] = useState<Told>(setup);
  if (now && !broken && told !== now) setTold(now);

  const saved = (next: SetUp) => {
    queries.setQueryData(["setup", system.id], next);
    forget(system.id);
  };
  const save = useMutation({
    mutationFn: () =>
      got(
        api.PUT("/api/v1/systems/{pk}/setup", {
          params: { path: { pk: system.id } },
          body: { description: draft, based_on: setup.history[0]?.id ?? null },
        }),
      ),
    onSuccess: (next) => {
      saved(next);
      const former = setup.history[0]?.id;
      tell(
        "The description is stored; the figures are being worked out anew.",
        former === undefined ? undefined : () => back.mutateAsync(former),
      );
    },
  });
  const back = useMutation({
    mutationFn: (edition: number) =>
      got(
        api.POST("/api/v1/systems/{pk}/setup/{edition}/put-back", {
          params: { path: { pk: system.id, edition } },
        }),
      ),
    onSuccess: saved,
  });
  const edit: Edit = (next) => {
    setBefore([...before, draft]);
    setDraft(next);
  };
  const undo = () => {
    setDraft(must(before.at(-1)));
    setBefore(before.slice(0, -1));
  };

  const part = { setup, draft, edit, problems };
  return (
    <Box sx={sheet}>
      <Box component="header" sx={head}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Set up{" "}
          <Box component="span" sx={{ ...look.soft, fontWeight: 400, fontSize: 13 }}>
            {dirty ? "changed, not stored yet" : "as stored"}
          </Box>
        </Typography>
        <Button disabled={!before.length} onClick={undo}>
          Undo
        </Button>
        <Button
          variant="contained"
          disabled={!dirty || problems.length > 0 || checked.isFetching || save.isPending}
          onClick={() => save.mutate()}
        >
          Store
        </Button>
        <Box
          component="a"
          sx={{ textDecoration: "none" }}
          href={`/api/v1/systems/${system.id}/installation.json`}
          download
        >
          JSON
        </Box>
        <FromFile take={edit} />
      </Box>
      <Unsaved when={dirty} what="The description was changed and is not stored" />
      <section>
        <Typography variant="h2">Metering</Typography>
        <Box component="p" sx={look.soft}>
          Choose a meter, then click what it includes. A level that lights up can be computed once its meters
          are logged.
        </Box>
        <ToggleButtonGroup sx={{ margin: "6px 0", flexWrap: "wrap" }} aria-label="Meter">
          {draft.electricity.map((meter, k) => (
            <ToggleButton value={k} key={k} selected={k === active} onClick={() => setActive(k)}>
              {meter.name}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Schematic
          draft={draft}
          consumers={setup.consumers}
          // A draft that cannot be promises nothing.
          levels={broken ? [] : told.levels}
          active={active}
          toggle={(consumer) => edit(toggleConsumer(draft, active, consumer))}
        />
        <Levels levels={told.levels} />
      </section>
      <Meters {...part} parts={told.parts} />
      <Further {...part} />
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: "repeat(auto-fit, minmax(320px, 1fr))",
          gap: 22,
          alignItems: "start",
        }}
      >
        <Installation {...part} />
        <House {...part} />
        <Box sx={{ display: "grid", gap: 22 }}>
          <Tank {...part} />
          <Heating {...part} />
        </Box>
      </Box>
      <TariffPart clock={told.clock} {...part} />
      <SupplyPart {...part} />
      <Sensors {...part} />
      <HandSheet {...part} />
      <Siblings ids={setup.siblings} here={system.id} property={stored.property} />
      <History setup={setup} zone={system.zone} back={(edition) => back.mutate(edition)} />
      <Problems problems={problems} refused={(save.error ?? back.error)?.message} />
    </Box>
  );
}

/** What can be computed, a line a level. */
function Levels({ levels }: { levels: SetUp["levels"] }) {
  return (
    <Box component="ul" sx={{ ...look.soft, margin: "6px 0 0", paddingLeft: 18 }}>
      {levels.map((level) => (
        <li key={level.level}>
          {level.level}, {level.words}: {level.reason?.sentence ?? "can be computed"}
        </li>
      ))}
    </Box>
  );
}

/** What keeps the draft from being stored, each a way to its field, or why it was refused; at the lower edge, so that it moves
 * nothing that is being typed in. */
function Problems({ problems, refused }: { problems: Problem[]; refused: string | undefined }) {
  if (refused && !problems.length)
    return (
      <Alert severity="warning" role="alert" sx={foot}>
        {refused}
      </Alert>
    );
  if (!problems.length) return null;
  return (
    <Alert severity="warning" role="alert" data-testid="problems" sx={foot}>
      {problems.map((problem) => (
        <p key={problem.where + problem.what}>
          <FigureButton sx={{ fontWeight: 650 }} onClick={() => toField(problem.where)}>
            {problem.where}
          </FigureButton>{" "}
          {problem.what}
        </p>
      ))}
      <Box component="p" sx={look.soft}>
        It cannot be stored like this. Levels and meters show what was told of it before.
      </Box>
    </Alert>
  );
}

function FromFile({ take }: { take: Edit }) {
  const [problem, setProblem] = useState("");
  async function read(file: File | undefined) {
    if (!file) return;
    try {
      take(JSON.parse(await file.text()) as Draft);
      setProblem("");
    } catch {
      setProblem(`${file.name} is no JSON.`);
    }
  }
  return (
    <Box component="label" sx={{ cursor: "pointer" }}>
      From JSON …
      <FileInput accept=".json" onChange={(event) => void read(event.target.files?.[0])} />
      {problem && (
        <Box component="span" sx={look.ember} role="alert">
          {" "}
          {problem}
        </Box>
      )}
    </Box>
  );
}

function History({ setup, zone, back }: { setup: SetUp; zone: string; back: (edition: number) => void }) {
  if (setup.history.length < 2) return null;
  return (
    <section>
      <Typography variant="h2">Earlier descriptions</Typography>
      <FigureTable tight sx={{ maxWidth: 560 }} aria-label="Earlier descriptions">
        <TableBody>
          {setup.history.map((edition) => (
            <TableRow key={edition.id}>
              <TableCell>
                {dayYear(edition.created, zone)} {clock(edition.created, zone)}
              </TableCell>
              <TableCell sx={look.soft}>{edition.user ?? "by a command"}</TableCell>
              <TableCell align="right">
                {edition.current ? (
                  "as it is now"
                ) : (
                  <Button onClick={() => back(edition.id)}>Put back</Button>
                )}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}
