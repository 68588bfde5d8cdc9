/** What a log says by itself: a first COP, its columns, and the questions that only a person can answer. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";

import type { Proposal } from "../../api/client";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { figureText, number, plusMinus } from "../../components/numbers";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";

export function Found({
  found,
  answers,
  answer,
}: {
  found: Proposal;
  answers: Record<string, string>;
  answer: (key: string, value: string) => void;
}) {
  return (
    <>
      <Box component="p" sx={{ fontSize: 22 }} data-testid="first-cop">
        {found.cop ? (
          <>
            COP <strong>{figureText(found.cop)}</strong> {plusMinus(found.cop)}{" "}
            <Box component="span" sx={{ ...look.soft, fontSize: 13 }}>
              at {found.level}, over {number(found.days, 0)} days, before any answer
            </Box>
          </>
        ) : (
          <Box component="span" sx={look.ember}>
            No COP: {found.reason?.sentence}.
          </Box>
        )}
      </Box>
      <Typography variant="caption" component="ul" sx={{ margin: 0, paddingLeft: 18 }}>
        {found.found.map((said) => (
          <li key={said}>{said}</li>
        ))}
      </Typography>
      <details>
        <summary>
          {found.columns.length} columns recognised
          {found.open.length > 0 && `, ${found.open.length} left open for the Log`}
        </summary>
        <FigureTable tight aria-label="Columns of the log">
          <TableBody>
            {found.columns.map((column) => (
              <TableRow key={column.header}>
                <TableCell>{column.header}</TableCell>
                <TableCell>{column.channel.replaceAll("_", " ")}</TableCell>
                <TableCell sx={look.soft}>{column.reason}</TableCell>
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
      </details>
      {found.asked
        .filter((asked) => asked.answers.length > 0 || asked.number)
        .map((asked) => (
          <div key={asked.key}>
            <label>
              <strong>{asked.sentence}</strong>{" "}
              {asked.number ? (
                <TextInput
                  sx={{ width: 60 }}
                  inputMode="decimal"
                  aria-label={asked.sentence}
                  value={answers[asked.key] ?? ""}
                  placeholder="W"
                  onChange={(event) => answer(asked.key, event.target.value)}
                />
              ) : (
                <Choice
                  sx={{ maxWidth: 420 }}
                  aria-label={asked.sentence}
                  value={answers[asked.key] ?? ""}
                  onChange={(event) => answer(asked.key, event.target.value)}
                >
                  <option value="">skip it</option>
                  {asked.answers.map((one) => (
                    <option key={one.key} value={one.key}>
                      {one.words}
                      {one.preview && ` (${one.preview})`}
                    </option>
                  ))}
                </Choice>
              )}
            </label>
            <Typography variant="caption" component="p">
              Skipped: {asked.skipped}
            </Typography>
          </div>
        ))}
    </>
  );
}
