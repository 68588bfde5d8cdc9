/** A system begun from its log: what the readings say by themselves, a first COP, and a few questions. */
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

  async function look(chosen: File[]) {
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
    <section aria-label="From a log" style={{ display: "grid", gap: 8 }}>
      <h2>From a log</h2>
      <label
        onDragOver={(event) => event.preventDefault()}
        onDrop={(event) => {
          event.preventDefault();
          void look([...event.dataTransfer.files]);
        }}
      >
        Drop the log of a system here, or choose it (several files of one system too): what it is of is worked
        out from its readings <span className="soft">(nothing is stored before you say so)</span>
        <br />
        <input
          type="file"
          multiple
          aria-label="Log to begin with"
          onChange={(event) => void look([...(event.target.files ?? [])])}
        />
      </label>
      {busy && <p role="status">{busy}</p>}
      {problem && (
        <p role="alert" className="notice">
          {problem}
        </p>
      )}
      {found && (
        <Found
          found={found}
          answers={answers}
          answer={(key, value) => setAnswers((before) => ({ ...before, [key]: value }))}
        />
      )}
      {found && (
        <form
          style={{ display: "flex", gap: 8, alignItems: "flex-end" }}
          onSubmit={(event) => {
            event.preventDefault();
            void begin();
          }}
        >
          <label className="cap">
            Name of the system
            <br />
            <input
              type="text"
              value={name}
              onChange={(event) => setName(event.target.value)}
              style={{ width: 190 }}
            />
          </label>
          <button className="key main" disabled={!name.trim() || busy !== ""}>
            Begin with it
          </button>
        </form>
      )}
    </section>
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
      <p style={{ fontSize: 16 }} data-testid="first-cop">
        {found.cop ? (
          <>
            COP <strong>{figureText(found.cop)}</strong> {plusMinus(found.cop)}{" "}
            <span className="soft">
              at {found.level}, over {number(found.days, 0)} days, before any answer
            </span>
          </>
        ) : (
          <span className="ember">No COP: {found.reason?.sentence}.</span>
        )}
      </p>
      <ul className="cap" style={{ margin: 0, paddingLeft: 18 }}>
        {found.found.map((said) => (
          <li key={said}>{said}</li>
        ))}
      </ul>
      <details>
        <summary>
          {found.columns.length} columns recognised
          {found.open.length > 0 && `, ${found.open.length} left open for the Log`}
        </summary>
        <table className="sheet tight" aria-label="Columns of the log">
          <tbody>
            {found.columns.map((column) => (
              <tr key={column.header}>
                <td>{column.header}</td>
                <td>{column.channel.replaceAll("_", " ")}</td>
                <td className="soft">{column.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
      {found.asked
        .filter((asked) => asked.answers.length > 0 || asked.number)
        .map((asked) => (
          <div key={asked.key}>
            <label>
              <strong>{asked.sentence}</strong>{" "}
              {asked.number ? (
                <input
                  type="text"
                  inputMode="decimal"
                  aria-label={asked.sentence}
                  value={answers[asked.key] ?? ""}
                  placeholder="W"
                  style={{ width: 60 }}
                  onChange={(event) => answer(asked.key, event.target.value)}
                />
              ) : (
                <select
                  aria-label={asked.sentence}
                  value={answers[asked.key] ?? ""}
                  onChange={(event) => answer(asked.key, event.target.value)}
                  style={{ maxWidth: 420 }}
                >
                  <option value="">skip it</option>
                  {asked.answers.map((one) => (
                    <option key={one.key} value={one.key}>
                      {one.words}
                      {one.preview && ` (${one.preview})`}
                    </option>
                  ))}
                </select>
              )}
            </label>
            <p className="cap">Skipped: {asked.skipped}</p>
          </div>
        ))}
    </>
  );
}
