/** What if: other settings, a store, a tariff or a unit on this house's own data; each by itself, and all together. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";

import { api, got, type SystemShown } from "../../api/client";
import { useMe, type Stretch } from "../../api/hooks";
import type { components } from "../../api/schema";
import { useSettings } from "../../app/settings";
import { Waiting } from "../../components/Said";
import { HonestFigure } from "../../components/Proof";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { number, shownIn } from "../../components/numbers";
import { download } from "../../components/download";
import { useDraft } from "../../components/useDraft";
import { asTyped, BLANK, type Lines, WhatIfForm } from "./WhatIfForm";

export type WhatIfShown = components["schemas"]["WhatIfShown"];
type Effect = components["schemas"]["WhatIfEffectShown"];

interface WhatIfProps {
  system: SystemShown;
  stretch: Stretch;
}

export function WhatIf({ system, stretch }: WhatIfProps) {
  const { units } = useSettings();
  const me = useMe();
  const kelvin = shownIn(me.data?.units ?? [], "kelvin", units);
  const form = useDraft<Lines>(`what-if ${system.id} ${units}`, BLANK);
  const ask = useMutation({
    mutationFn: (lines: Lines) =>
      got(
        api.POST("/api/v1/systems/{pk}/what-if", {
          params: { path: { pk: system.id }, query: stretch },
          body: asTyped(lines, kelvin),
        }),
      ),
  });
  const submit = form.handleSubmit((lines) => ask.mutate(lines));
  return (
    <Box component="section" aria-label="What if" sx={{ display: "grid", gap: 12 }}>
      <Typography variant="h1">
        What if{" "}
        <Box component="span" sx={{ ...look.soft, fontWeight: 400, fontSize: 13 }}>
          on this house&apos;s own readings of the period; nothing is stored
        </Box>
      </Typography>
      <Box component="form" noValidate aria-label="What is asked" onSubmit={(event) => void submit(event)}>
        <WhatIfForm control={form.control} kelvin={kelvin} />
        <Box sx={{ display: "flex", gap: 8, marginTop: 8 }}>
          <Button type="submit" variant="contained" disabled={ask.isPending}>
            Work it out
          </Button>
          <Button onClick={() => form.reset(BLANK)}>Clear</Button>
        </Box>
      </Box>
      {ask.isPending && <Waiting what="what that would have done" />}
      {ask.isError && (
        <Alert severity="warning" role="alert">
          {ask.error.message}
        </Alert>
      )}
      {ask.data && !ask.isPending && <Answer system={system} found={ask.data} />}
    </Box>
  );
}

function Answer({ system, found }: { system: SystemShown; found: WhatIfShown }) {
  if (!found.effects.length)
    return (
      <Box component="p" sx={look.soft}>
        Nothing is asked yet: fill in one line or several.
      </Box>
    );
  const money = found.currency;
  return (
    <>
      <FigureTable tight aria-label="What it would have saved">
        <TableHead>
          <TableRow>
            <TableCell>What</TableCell>
            <TableCell align="right">Saved kWh, ± U</TableCell>
            {money && <TableCell align="right">Saved {money}, ± U</TableCell>}
            <TableCell>On what that rests, and what the house would feel</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {[...found.effects, ...(found.together ? [found.together] : [])].map((effect) => (
            <Line
              key={effect.code}
              about={`${system.name} · ${found.local}`}
              effect={effect}
              money={money !== null}
            />
          ))}
        </TableBody>
      </FigureTable>
      <Box component="p" sx={look.soft}>
        Electricity of the period:{" "}
        {found.parts.map((one) => `${one.name} ${number(one.electricity.value, 0)} kWh`).join(" · ")}. Each
        line by itself acts on the period as it was.{" "}
        <Button
          variant="text"
          onClick={() => download(new Blob([found.csv], { type: "text/csv" }), `${system.name} what if.csv`)}
        >
          CSV
        </Button>
      </Box>
    </>
  );
}

const CAPITAL = { "&::first-letter": { textTransform: "uppercase" } };

function Line({ about, effect, money }: { about: string; effect: Effect; money: boolean }) {
  const all = effect.code === "together";
  const notes = [...effect.assumptions, ...effect.comfort];
  const cell = (figure: Effect["electricity"], what: string) =>
    figure ? (
      <HonestFigure
        unit={false}
        proof={{ title: `${effect.name}, ${what}`, about, figure, formula: effect.formula, notes }}
      />
    ) : (
      "–"
    );
  return (
    <TableRow sx={all ? look.total : {}}>
      <TableCell sx={{ verticalAlign: "top", maxWidth: 220 }}>{effect.name}</TableCell>
      <TableCell align="right" sx={{ verticalAlign: "top" }}>
        {cell(effect.electricity, "electricity")}
      </TableCell>
      {money && (
        <TableCell align="right" sx={{ verticalAlign: "top" }}>
          {cell(effect.money, "money")}
        </TableCell>
      )}
      <TableCell sx={{ ...look.soft, whiteSpace: "normal" }}>
        {effect.reason ? (
          <>Not told: {effect.reason.sentence}.</>
        ) : (
          <>
            <Box component="div" sx={CAPITAL}>
              {effect.assumptions.join("; ")}.
            </Box>
            {effect.comfort.map((one) => (
              <Box key={one} component="div" sx={{ ...CAPITAL, color: "var(--ink)" }}>
                {one}.
              </Box>
            ))}
          </>
        )}
      </TableCell>
    </TableRow>
  );
}
