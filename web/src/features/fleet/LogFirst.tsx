/** A system begun from its log: what the readings say by themselves, a first COP, and a few questions. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FileInput } from "../../components/FileInput";
import { TextInput } from "../../components/TextInput";
import { FigureTable } from "../../components/Sheets";
import { Choice } from "../../components/Choice";
import * as look from "../../components/look";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, got, over, send, sendLog, type Job, type Proposal } from "../../api/client";
import { useForget } from "../../api/hooks";
import { figureText, number, plusMinus } from "../../components/numbers";
import { must } from "../../components/must";

interface Props {
  zone: string;
  onDone: () => void;
}

export function LogFirst({ zone, onDone }: Props) {
  const [files, setFiles] = useState<File[]>([]);
  const [found, setFound] = useState<Proposal | null>(null);
  const [name, setName] = useState("");
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState("");
  const [problem, setProblem] = useState("");
  const forget = useForget();
  const go = useNavigate();

  async function lookAt(chosen: File[]) {
    if (!chosen.length) return;
    setFiles(chosen);
    setFound(null);
    setAnswers({});
    setProblem("");
    setBusy(`Reading ${chosen.map((one) => one.name).join(", ")} …`);
    try {
      const job = await over(await send<Job>("/api/v1/proposal", { file: chosen, zone }), (now) =>
        setBusy(`${now.doing} …`),
      );
      setFound(await got(api.GET("/api/v1/jobs/{job}/proposal", { params: { path: { job: job.id } } })));
      setName((before) => before || must(chosen[0]).name.replace(/\.[^.]*(\.gz)?$/, ""));
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy("");
    }
  }

  async function begin() {
    setBusy("Storing it …");
    setProblem("");
    try {
      const made = await got(
        api.POST("/api/v1/proposal/accept", {
          body: { name, description: must(found).description, answers },
        }),
      );
      for (const file of files) {
        const upload = await sendLog(made.id, file, (job) => setBusy(`${job.doing} …`));
        await got(
          api.POST("/api/v1/uploads/{pk}/store", {
            params: { path: { pk: upload.upload } },
            body: { columns: null, guess: true, rule: "fill", remember: null },
          }),
        );
      }
      forget(made.id);
      onDone();
      void go(`/systems/${made.id}/log`);
    } catch (error) {
      setProblem((error as Error).message);
      setBusy("");
    }
  }

  return (
    <Box component="section" sx={{ display: "grid", gap: 8 }} aria-label="From a log">
      <Typography variant="h2">From a log</Typography>
      <label
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          void lookAt([...event.dataTransfer.files]);
        }}
      >
        Drop the log of a system here, or choose it (several files of one system too): what it is of is worked
        out from its readings{" "}
        <Box component="span" sx={look.soft}>
          (nothing is stored before you say so)
        </Box>
        <br />
        <FileInput
          multiple
          aria-label="Log to begin with"
          onChange={(event) => void lookAt([...(event.target.files ?? [])])}
        />
      </label>
      {busy && <p role="status">{busy}</p>}
      {problem && (
        <Alert severity="warning" role="alert">
          {problem}
        </Alert>
      )}
      {found && (
        <Found
          found={found}
          answers={answers}
          answer={(key, value) => setAnswers((before) => ({ ...before, [key]: value }))}
        />
      )}
      {found && (
        <Box
          component="form"
          sx={{ display: "flex", gap: 8, alignItems: "flex-end" }}
          onSubmit={(event) => {
            event.preventDefault();
            void begin();
          }}
        >
          <Typography variant="caption" component="label">
            Name of the system
            <br />
            <TextInput sx={{ width: 190 }} value={name} onChange={(event) => setName(event.target.value)} />
          </Typography>
          <Button variant="contained" type="submit" disabled={!name.trim() || busy !== ""}>
            Begin with it
          </Button>
        </Box>
      )}
    </Box>
  );
}

function Found({
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
      <Box component="p" sx={{ fontSize: 16 }} data-testid="first-cop">
        {found.cop ? (
          <>
            COP <strong>{figureText(found.cop)}</strong> {plusMinus(found.cop)}{" "}
            <Box component="span" sx={look.soft}>
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
