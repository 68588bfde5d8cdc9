/** Changes: what was changed when, and what it was worth in the same weather. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { GridColDef } from "@mui/x-data-grid";
import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { useQueryString } from "../../app/query";
import { CellButton } from "../../components/CellButton";
import { Choice } from "../../components/Choice";
import { Grid } from "../../components/Grid";
import { acts, numbers, words } from "../../components/gridLook";
import { Room } from "../../components/Room";
import { Trouble, Waiting } from "../../components/Said";
import { TextInput } from "../../components/TextInput";
import { To } from "../../components/To";
import * as look from "../../components/look";
import { Trials } from "./Trials";
import { Worth } from "./Worth";

type Intervention = components["schemas"]["Intervention"];

const DAYS = [30, 60, 90, 180, 365];
const SKIP = [0, 3, 7, 14];

export default function Changes() {
  return <Room>{(system) => <Inside system={system} />}</Room>;
}

function Inside({ system }: { system: SystemShown }) {
  const [params, put] = useQueryString();
  const at = params.get("change") ?? "";
  const days = Number(params.get("days") ?? 180);
  const skip = Number(params.get("skip") ?? 0);
  const noted = useQuery({
    queryKey: ["observations", system.id, "changes"],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/changes", { params: { path: { pk: system.id } } })),
  });
  const found = useQuery({
    queryKey: ["system", system.id, "change", at, days, skip],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/change", {
          params: { path: { pk: system.id }, query: { at, days, skip } },
        }),
      ),
    enabled: at !== "",
    placeholderData: keepPreviousData,
  });
  if (noted.isError) return <Trouble error={noted.error} again={() => void noted.refetch()} />;
  if (!noted.data) return <Waiting what="the changes" />;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 14 }}>
      <Box component="header" sx={{ display: "flex", alignItems: "baseline", gap: 12 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Changes{" "}
          <Box component="span" sx={{ ...look.soft, fontWeight: 400, fontSize: 13 }}>
            what one was worth, in the same weather
          </Box>
        </Typography>
        {noted.data.rows.length > 0 && (
          <Box
            component="a"
            sx={{ textDecoration: "none" }}
            href={`/api/v1/systems/${system.id}/changes.csv`}
            download
          >
            CSV
          </Box>
        )}
      </Box>
      <Noted
        system={system}
        rows={noted.data.rows}
        currency={noted.data.currency}
        at={at}
        choose={(day) => put({ change: day })}
      />
      <Box
        component="form"
        aria-label="The change"
        sx={{ display: "flex", flexWrap: "wrap", gap: "6px 14px", alignItems: "end" }}
        onSubmit={(event) => event.preventDefault()}
      >
        <Typography variant="caption" component="label">
          Day of the change
          <br />
          <TextInput
            type="date"
            value={at}
            onChange={(event) => put({ change: event.target.value || null })}
          />
        </Typography>
        <Typography variant="caption" component="label">
          Days on either side, at most
          <br />
          <Choice value={days} onChange={(event) => put({ days: event.target.value })}>
            {DAYS.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Choice>
        </Typography>
        <Typography variant="caption" component="label">
          Days left out after it
          <br />
          <Choice value={skip} onChange={(event) => put({ skip: event.target.value })}>
            {SKIP.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </Choice>
        </Typography>
      </Box>
      {at === "" && (
        <Box component="p" sx={look.soft}>
          Choose a change of the list, or the day of one.
        </Box>
      )}
      {at !== "" && found.isError && <Trouble error={found.error} />}
      {at !== "" && !found.isError && !found.data && <Waiting what="the days before and after" />}
      {at !== "" && !found.isError && found.data && <Worth system={system} found={found.data} />}
      <Trials system={system} />
    </Box>
  );
}

interface NotedProps {
  system: SystemShown;
  rows: Intervention[];
  currency: string | null;
  at: string;
  choose: (day: string) => void;
}

function Noted({ system, rows, currency, at, choose }: NotedProps) {
  if (!rows.length)
    return (
      <Box component="p" sx={look.soft}>
        No change is noted. <To to={`/systems/${system.id}/log?part=noted`}>Note one in the Log</To>, as
        ‘setting changed’ or ‘work done’, with what it was and cost: it stands here with what it was worth.
      </Box>
    );
  const columns: GridColDef<Intervention>[] = [
    words<Intervention>("local", "When", ({ local }) => local, { width: 136 }),
    words<Intervention>("words", "What", (one) => one.words, { width: 130 }),
    words<Intervention>("note", "Note", ({ note }) => note, { width: 240, flex: 1 }),
    words<Intervention>("done_by", "Done by", (one) => one.done_by, { width: 110 }),
    numbers<Intervention>("cost", `Cost${currency ? `, ${currency}` : ""}`, ({ cost }) => cost, 2, {
      width: 90,
    }),
    words<Intervention>("user", "Noted by", ({ user }) => user, { width: 90 }),
    acts<Intervention>("Look at it", 110, ({ row }) => (
      <CellButton
        aria-pressed={row.local.startsWith(at) && at !== ""}
        onClick={() => choose(row.local.slice(0, 10))}
      >
        Look at it
      </CellButton>
    )),
  ];
  return <Grid<Intervention> label="Changes" rows={rows} columns={columns} high={6} />;
}
