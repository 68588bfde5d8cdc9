/** What is new since this user last looked. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, got } from "../../api/client";
import { useNews } from "../../api/hooks";
import { dayYear } from "../../components/numbers";
import { cap } from "../../components/Proof";

const FEW = 3;

export function NewsLine() {
  const news = useNews();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const seen = useMutation({
    mutationFn: () => got(api.PUT("/api/v1/news/seen")),
    onSuccess: (found) => queries.setQueryData(["news"], found),
  });
  if (!news.data) return null;
  const { lines, since } = news.data;
  const when =
    since === null ? "You have not looked before" : `Since you last looked, ${dayYear(since, "UTC")}`;
  if (!lines.length)
    return since === null ? null : (
      <p className="soft" style={{ marginBottom: 6 }}>
        {when}: nothing new.
      </p>
    );
  const shown = open ? lines : lines.slice(0, FEW);
  return (
    <section
      aria-label="New since you last looked"
      style={{
        borderBottom: "1px solid var(--line)",
        paddingBottom: 6,
        marginBottom: 4,
        display: "flex",
        gap: 12,
        alignItems: "start",
      }}
    >
      <p style={{ flex: 1 }}>
        <strong>{when}:</strong>{" "}
        {lines.length === 1
          ? "1 finding is new"
          : `${lines.length}${lines.length >= 50 ? " and more" : ""} findings are new`}
        .{" "}
        {shown.map((line) => (
          <span key={`${line.system} ${line.code}`} style={{ marginRight: 10 }}>
            <Link
              to={`/systems/${line.system}/rating?finding=${encodeURIComponent(line.code)}`}
              title={line.sentence}
            >
              {line.name}
            </Link>{" "}
            <span className="soft">
              {line.finding}
              {line.words.startsWith("came back") ? " (came back)" : ""}
            </span>
          </span>
        ))}
        {lines.length > FEW && (
          <button className="figure" style={{ textDecoration: "underline" }} onClick={() => setOpen(!open)}>
            {open ? "fewer" : `${lines.length - FEW} more`}
          </button>
        )}
        {seen.isError && <span className="ember"> {cap(seen.error.message)}</span>}
      </p>
      <button className="key" disabled={seen.isPending} onClick={() => seen.mutate()}>
        Seen
      </button>
    </section>
  );
}
