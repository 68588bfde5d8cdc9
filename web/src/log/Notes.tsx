/** What reading a file did, what was lost first. */
import type { Report } from "../api/client";
import { cap } from "../parts/Proof";

const ORDER = ["left out", "doubted", "converted", "read"];

export function Notes({ report }: { report: Report }) {
  const notes = [...report.notes].sort((a, b) => ORDER.indexOf(a.treatment) - ORDER.indexOf(b.treatment));
  return (
    <div style={{ display: "grid", gap: 3 }} data-testid="notes">
      {notes.map((note) => (
        <p key={note.treatment + note.text}>
          <strong className={note.treatment === "left out" ? "ember" : ""}>{cap(note.treatment)}.</strong> {note.text}
        </p>
      ))}
      {!notes.length && <p className="soft">Read as it is: nothing converted, doubted or left out.</p>}
      {report.ignored.length > 0 && <p className="soft">Not used: {report.ignored.join(", ")}.</p>}
    </div>
  );
}
