/** What each column of a file is: guessed with the reason, set by hand, or asked. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Channel, ColumnChoice, Mode, Preview, Question, SystemShown } from "../../api/client";
import { useChannels } from "../../api/hooks";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { numberIn, percent } from "../../components/numbers";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import { NewMeter } from "./NewMeter";

export function Mapping({
  system,
  preview,
  columns,
  choose,
  waiting,
}: {
  system: SystemShown;
  preview: Preview;
  columns: ColumnChoice[] | null;
  choose: (columns: ColumnChoice[] | null) => void;
  waiting: boolean;
}) {
  const channels = useChannels(system.id);
  const { report } = preview;
  const guessed = new Map((report?.columns ?? []).map((column) => [column.header, column]));
  const set =
    columns ??
    (report?.columns ?? []).map((column): ColumnChoice => ({
      header: column.header,
      channel: column.channel,
      unit: column.unit || null,
      counts: null,
      each_row: false,
      modes: column.modes,
    }));
  const mine = (header: string) => set.find((column) => column.header === header);

  function put(header: string, channel: string, unit: string | null, more: Partial<ColumnChoice> = {}) {
    const others = set.filter((column) => column.header !== header && column.channel !== channel);
    const modes = channel === "mode" ? (mine(header)?.modes ?? guessed.get(header)?.modes ?? []) : [];
    choose(
      channel
        ? [...others, { header, channel, unit, counts: null, each_row: false, modes, ...more }]
        : others,
    );
  }

  const [adding, setAdding] = useState<{ header: string; channel: Channel } | null>(null);

  // Once a column is set by hand nothing is guessed any more: what was asked before stays open.
  const [asked, setAsked] = useState<Question[]>([]);
  const [answered, setAnswered] = useState<string[]>([]);
  const open = (columns === null ? (report?.questions ?? []) : asked).filter(
    (one) => !mine(one.header) && !answered.includes(one.header),
  );

  function answer(header: string, channel: string) {
    if (columns === null) setAsked(report?.questions ?? []);
    setAnswered([...answered, header]);
    put(header, channel, null);
  }

  return (
    <Box sx={{ overflowX: "auto", display: "grid", gap: 8 }}>
      {preview.given.length > 0 && (
        <Alert severity="info" role="note">
          Of the same file, given to another unit already, and so to none here:{" "}
          {preview.given.map((one) => `${one.header} (${one.system})`).join(", ")}.
        </Alert>
      )}
      {adding?.channel.meter && (
        <NewMeter
          system={system}
          header={adding.header}
          channel={{ ...adding.channel, meter: adding.channel.meter }}
          added={(channel) => put(adding.header, channel, mine(adding.header)?.unit ?? null)}
          close={() => setAdding(null)}
        />
      )}
      {open.length > 0 && <Asked questions={open} answer={answer} />}
      <FigureTable tight aria-label="Columns" aria-busy={waiting}>
        <TableHead>
          <TableRow>
            <TableCell>Column of the file</TableCell>
            <TableCell>First readings</TableCell>
            <TableCell>Is</TableCell>
            <TableCell>In</TableCell>
            <TableCell>Why</TableCell>
            <TableCell align="right">Known</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {preview.headers.map((header, k) => {
            const column = guessed.get(header);
            const choice = mine(header);
            const channel = channels.data?.find((one) => one.channel === choice?.channel);
            const isClock =
              report !== null && columns === null && !column && !report.ignored.includes(header);
            const byHand = columns !== null && choice !== undefined;
            return (
              <TableRow key={`${header}${k}`}>
                <TableCell sx={{ fontWeight: column ? 600 : 400 }}>{header}</TableCell>
                <TableCell sx={{ ...look.soft, whiteSpace: "nowrap" }}>
                  {preview.sample.map((row) => row[k] ?? "").join(" · ")}
                </TableCell>
                <TableCell>
                  {isClock ? (
                    <strong>the clock</strong>
                  ) : (
                    <Choice
                      sx={{ maxWidth: 210 }}
                      aria-label={`${header} is`}
                      value={choice?.channel ?? ""}
                      onChange={(event) => put(header, event.target.value, null)}
                    >
                      <option value="">not used</option>
                      {channels.data?.map((one) => (
                        <option key={one.channel} value={one.channel}>
                          {one.meaning}
                          {one.needed ? " *" : ""}
                        </option>
                      ))}
                    </Choice>
                  )}
                  {channel?.meter && (
                    <Typography variant="caption" component="div" sx={look.ember}>
                      Not described: no figure is made of it.{" "}
                      <Button sx={{ minHeight: 20 }} onClick={() => setAdding({ header, channel })}>
                        Describe it …
                      </Button>
                    </Typography>
                  )}
                </TableCell>
                <TableCell>
                  {channel && channel.units.length > 0 && (
                    <Choice
                      aria-label={`Unit of ${header}`}
                      value={choice?.unit ?? ""}
                      onChange={(event) => put(header, channel.channel, event.target.value || null)}
                    >
                      <option value="">{column ? column.symbol : "as the header says"}</option>
                      {channel.units.map((one) => (
                        <option key={one.unit} value={one.unit}>
                          {one.symbol}
                        </option>
                      ))}
                    </Choice>
                  )}
                  {choice?.channel === "mode" && (
                    <Modes
                      header={header}
                      modes={choice.modes ?? []}
                      put={(modes) => put(header, "mode", null, { modes })}
                    />
                  )}
                  {channel?.counter && choice && (
                    <Counter
                      header={header}
                      choice={choice}
                      put={(change) =>
                        put(header, choice.channel, choice.unit ?? (change.counts ? "Wh" : null), {
                          counts: choice.counts,
                          each_row: choice.each_row,
                          ...change,
                        })
                      }
                    />
                  )}
                </TableCell>
                <TableCell sx={look.soft}>
                  {column
                    ? byHand
                      ? "set by hand"
                      : preview.recipe
                        ? `as remembered in “${preview.recipe}”`
                        : preview.given.length
                          ? "by its header; others have the rest"
                          : column.reason
                    : isClock
                      ? report.clock
                      : ""}
                </TableCell>
                <TableCell align="right">
                  {column && report ? percent(column.valid / report.cells) : ""}
                </TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
      <Typography variant="caption" component="p" sx={{ marginTop: 4 }}>
        * the description reads it.{" "}
        {(columns !== null || preview.recipe !== null) && (
          <Button
            onClick={() => {
              setAnswered([]);
              choose(null);
            }}
          >
            Guess again
          </Button>
        )}
      </Typography>
    </Box>
  );
}

const STATES = [
  ["off", "off"],
  ["heating", "heating"],
  ["hot_water", "hot water"],
  ["defrost", "defrost"],
  ["cooling", "cooling"],
] as const;

/** A column of modes: what each of its words means, to be confirmed. */
function Modes({ header, modes, put }: { header: string; modes: Mode[]; put: (modes: Mode[]) => void }) {
  return (
    <Typography variant="caption" component="span" sx={{ display: "grid", gap: 2, minWidth: 150 }}>
      {modes.map((mode, k) => (
        <Box
          component="label"
          sx={{ display: "flex", justifyContent: "space-between", gap: 6 }}
          key={mode.word}
        >
          {mode.word}{" "}
          <Choice
            aria-label={`${mode.word} of ${header} means`}
            value={mode.state}
            onChange={(event) =>
              put(modes.map((one, j) => (j === k ? { ...one, state: event.target.value } : one)))
            }
          >
            {STATES.map(([state, words]) => (
              <option key={state} value={state}>
                {words}
              </option>
            ))}
          </Choice>
        </Box>
      ))}
    </Typography>
  );
}

/** What only a person can say of a column, with what each answer would give. */
function Asked({
  questions,
  answer,
}: {
  questions: Question[];
  answer: (header: string, channel: string) => void;
}) {
  return (
    <Alert severity="info" role="region" aria-label="Open columns">
      {questions.map((question) => (
        <Box key={question.header} sx={{ marginBottom: 8 }}>
          <p>
            <strong>{question.sentence}</strong>
          </p>
          <Box component="p" sx={{ display: "flex", gap: 8, flexWrap: "wrap", marginTop: 4 }}>
            {question.choices.map((choice) => (
              <Button key={choice.channel} onClick={() => answer(question.header, choice.channel)}>
                {choice.words}{" "}
                <Typography variant="caption" component="span">
                  {choice.preview}
                </Typography>
              </Button>
            ))}
          </Box>
        </Box>
      ))}
    </Alert>
  );
}

/** A column of a register: pulses with what one is worth, or the amount of each row. */
function Counter({
  header,
  choice,
  put,
}: {
  header: string;
  choice: ColumnChoice;
  put: (change: Partial<ColumnChoice>) => void;
}) {
  const [pulse, setPulse] = useState(choice.counts === null ? "" : String(choice.counts));
  return (
    <Typography variant="caption" component="span" sx={{ display: "block", width: 96 }}>
      <Tooltip title="Each row holds what passed since the row before, not a register">
        <Box component="label" sx={{ display: "block" }}>
          <Checkbox
            slotProps={{ input: { "aria-label": `${header} holds the amount of each row` } }}
            checked={choice.each_row}
            onChange={() => put({ each_row: !choice.each_row })}
          />{" "}
          of each row
        </Box>
      </Tooltip>
      <Tooltip title="The column counts pulses: what one is worth, in this unit">
        <Box component="label" sx={{ display: "block" }}>
          a pulse{" "}
          <TextInput
            sx={{ width: 48 }}
            inputMode="decimal"
            aria-label={`A pulse of ${header} is`}
            value={pulse}
            onChange={(event) => setPulse(event.target.value)}
            onBlur={() => {
              const value = numberIn(pulse) ?? 0;
              const counts = value > 0 ? value : null;
              if (counts !== choice.counts) put({ counts });
            }}
          />
        </Box>
      </Tooltip>
    </Typography>
  );
}
