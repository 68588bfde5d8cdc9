/** Trials: two settings alternated by days, planned by how many show a difference, told in one sentence. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import type { components } from "../../api/schema";
import { HonestFigure } from "../../components/Proof";
import { Trouble, Waiting } from "../../components/Said";
import * as look from "../../components/look";
import { number } from "../../components/numbers";
import { useRemove } from "../log/remove";
import { PlanTrial } from "./PlanTrial";

type Trial = components["schemas"]["TrialShown"];

export function Trials({ system }: { system: SystemShown }) {
  const found = useQuery({
    queryKey: ["trials", system.id],
    queryFn: () => got(api.GET("/api/v1/systems/{pk}/trials", { params: { path: { pk: system.id } } })),
  });
  const remove = useRemove(system.id, "trials");
  if (found.isError) return <Trouble error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Waiting what="the trials" />;
  return (
    <Box component="section" aria-label="Trials" sx={{ display: "grid", gap: 8 }}>
      <Typography variant="h2">
        Trials{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400 }}>
          two settings, alternated by days: what looking back cannot tell apart
        </Box>
      </Typography>
      {found.data.rows.map((trial) => (
        <One key={trial.id} system={system} trial={trial} remove={() => remove.mutate(trial.id)} />
      ))}
      <PlanTrial system={system} />
    </Box>
  );
}

function One({ system, trial, remove }: { system: SystemShown; trial: Trial; remove: () => void }) {
  const { result } = trial;
  const about = `${system.name} · ${trial.a} and ${trial.b}, from ${trial.first}`;
  return (
    <Box sx={{ borderTop: "1px solid var(--hair)", paddingTop: 6 }} data-testid="trial">
      <Box sx={{ display: "flex", gap: 12, alignItems: "baseline", flexWrap: "wrap" }}>
        <strong>
          A {trial.a} · B {trial.b}
        </strong>
        <Box component="span" sx={{ ...look.soft, flex: 1 }}>
          {trial.first} to {trial.last}, {number(trial.block, 0)} days each in turn, the first{" "}
          {number(trial.carry, 0)} not counted
        </Box>
        <Box
          component="a"
          sx={{ textDecoration: "none" }}
          href={`/api/v1/systems/${system.id}/trials/${trial.id}.ics`}
          download
        >
          Calendar
        </Box>
        <Button variant="text" aria-label={`Remove the trial from ${trial.first}`} onClick={remove}>
          Remove
        </Button>
      </Box>
      <Strip trial={trial} />
      {trial.today && (
        <p>
          Today: <strong>{trial.today}</strong>, {trial.today === "A" ? trial.a : trial.b}
          {trial.next_change ? `; change it on ${trial.next_change}.` : "; the last block."}
        </p>
      )}
      {result ? (
        <p>
          <Box component="span" sx={result.worth === "saved" ? look.teal : {}}>
            {result.sentence}
          </Box>{" "}
          <HonestFigure
            proof={{
              title: "Electricity that B takes less than A",
              about,
              figure: result.less,
              formula: "effect of the setting on the day’s electricity, beside base and slope of all days",
              notes: [
                `${number(result.days[0] ?? 0, 0)} days of A, ${number(result.days[1] ?? 0, 0)} of B; errors after Newey and West.`,
                ...(result.heat_less
                  ? [
                      `Heat: ${number(result.heat_less.value, 2)} ± ${number(result.heat_less.U, 2)} kWh a day less with B. A lower need is no better unit.`,
                    ]
                  : []),
              ],
            }}
          />
        </p>
      ) : (
        <Box component="p" sx={look.soft}>
          {trial.reason ? `Cannot be told yet: ${trial.reason.sentence}.` : "No day of it is logged yet."}
        </Box>
      )}
    </Box>
  );
}

/** The schedule as a strip: a mark a day, A light and B dark, what is not counted hatched. */
function Strip({ trial }: { trial: Trial }) {
  const begins = trial.schedule.filter((day) => day.begins);
  return (
    <Box
      role="img"
      aria-label={`Schedule: ${begins.map((day) => `${day.setting} from ${day.day}`).join(", ")}`}
      sx={{ display: "flex", height: 16, margin: "4px 0", border: "1px solid var(--line)" }}
    >
      {trial.schedule.map((day) => (
        <Box
          key={day.day}
          sx={{
            flex: 1,
            minWidth: 0,
            overflow: "hidden",
            fontSize: 10,
            lineHeight: "14px",
            background: day.setting === "A" ? "var(--sheet)" : "var(--soft)",
            color: day.setting === "A" ? "var(--ink)" : "var(--sheet)",
            backgroundImage: day.counts
              ? "none"
              : "repeating-linear-gradient(135deg, var(--line) 0 2px, transparent 2px 5px)",
          }}
        >
          {day.begins && trial.schedule.length <= 120 ? day.setting : ""}
        </Box>
      ))}
    </Box>
  );
}
