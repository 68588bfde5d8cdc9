/** What reading a file did, what was lost first. */
import type { Report } from "../../api/client";
import { cap } from "../../components/Proof";

const ORDER = ["left out", "doubted", "converted", "read"];

export function Notes({ report }: { report: Report }) {
  const groups = ORDER.map(
    (treatment) => [treatment, report.notes.filter((note) => note.treatment === treatment)] as const,
  ).filter(([, notes]) => notes.length > 0);
  return (
    <div style={{ display: "grid", gap: 3 }} data-testid="notes">
      {groups.map(([treatment, notes]) => (
        <p key={treatment}>
          <strong className={treatment === "left out" ? "ember" : ""}>{cap(treatment)}.</strong>{" "}
          {notes.map((note) => note.text).join(" ")}
        </p>
      ))}
      {!groups.length && <p className="soft">Read as it is: nothing converted, doubted or left out.</p>}
      {report.ignored.length > 0 && <p className="soft">Not used: {report.ignored.join(", ")}.</p>}
    </div>
  );
}
