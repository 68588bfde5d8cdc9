/** What is new since this user last looked. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { FigureButton } from "../../components/FigureButton";
import * as look from "../../components/look";
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
  const when = since === null ? "" : `Since you last looked, ${dayYear(since, "UTC")}`;
  if (!lines.length && since === null) return null;
  if (!lines.length)
    return (
      <Box component="p" sx={{ ...look.soft, marginBottom: 6 }}>
        {when}: nothing new.
      </Box>
    );
  const shown = open ? lines : lines.slice(0, FEW);
  return (
    <Box
      component="section"
      sx={{
        borderBottom: "1px solid var(--line)",
        paddingBottom: 6,
        marginBottom: 4,
        display: "flex",
        gap: 12,
        alignItems: "start",
      }}
      aria-label="New since you last looked"
    >
      <Box component="p" sx={{ flex: 1 }}>
        {since === null ? (
          "All that was found stands in the list below. What is new from now on is said here."
        ) : (
          <>
            <strong>{when}:</strong>{" "}
            {lines.length === 1
              ? "1 finding is new"
              : `${lines.length}${lines.length >= 50 ? " and more" : ""} findings are new`}
            .{" "}
            {shown.map((line) => (
              <Box component="span" sx={{ marginRight: 10 }} key={`${line.system} ${line.code}`}>
                <Link
                  to={`/systems/${line.system}/rating?finding=${encodeURIComponent(line.code)}`}
                  title={line.sentence}
                >
                  {line.name}
                </Link>{" "}
                <Box component="span" sx={look.soft}>
                  {line.finding}
                  {line.words.startsWith("came back") ? " (came back)" : ""}
                </Box>
              </Box>
            ))}
          </>
        )}
        {since !== null && lines.length > FEW && (
          <FigureButton sx={{ textDecoration: "underline" }} onClick={() => setOpen(!open)}>
            {open ? "fewer" : `${lines.length - FEW} more`}
          </FigureButton>
        )}
        {seen.isError && (
          <Box component="span" sx={look.ember}>
            {" "}
            {cap(seen.error.message)}
          </Box>
        )}
      </Box>
      <Button disabled={seen.isPending} onClick={() => seen.mutate()}>
        Seen
      </Button>
    </Box>
  );
}
