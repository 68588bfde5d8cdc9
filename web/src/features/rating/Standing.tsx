/** Where a finding stands: accepted, dismissed, fixed, open again; and its history. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableRow from "@mui/material/TableRow";
import { useState } from "react";
import { useForm } from "react-hook-form";

import type { Finding, FindingStatus, SystemShown } from "../../api/client";
import { useFindingStatus } from "../../api/hooks";
import { AskDialog } from "../../components/AskDialog";
import { NEEDED, refusedAt, Words } from "../../components/Form";
import { cap } from "../../components/Proof";
import { LineTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { localMinute } from "../../components/numbers";

export const CLOSED = ["dismissed", "fixed"];

export function Standing({
  system,
  finding,
  status,
  keep,
}: {
  system: SystemShown;
  finding: Finding;
  status: FindingStatus | undefined;
  keep: () => void;
}) {
  const put = useFindingStatus(system.id);
  const [asking, setAsking] = useState<Closing["state"] | null>(null);
  const state = status?.state ?? "new";
  const send = (next: string) => {
    keep(); // what moves in the list stays in sight
    put.mutate({ code: finding.code, state: next, reason: "", fixed_on: null });
  };
  return (
    <Box
      component="section"
      sx={{ borderTop: "1px solid var(--line)", paddingTop: 8 }}
      aria-label="Where it stands"
    >
      <Box sx={{ ...look.noprint, display: "flex", gap: 6, alignItems: "center", flexWrap: "wrap" }}>
        <span>
          {cap(state)}
          {status?.fixed_on ? ` on ${status.fixed_on}` : ""}
          {status?.reason ? `: ${status.reason}` : ""}
        </span>
        <Box component="span" sx={{ flex: 1 }} />
        {state === "new" && (
          <Button variant="contained" disabled={put.isPending} onClick={() => send("accepted")}>
            Accept
          </Button>
        )}
        {state !== "new" && (
          <Button disabled={put.isPending} onClick={() => send("new")}>
            Open again
          </Button>
        )}
        {!CLOSED.includes(state) && (
          <>
            <Button onClick={() => setAsking("fixed")}>Fixed …</Button>
            <Button onClick={() => setAsking("dismissed")}>Dismiss …</Button>
          </>
        )}
      </Box>
      {put.isError && !asking && (
        <Alert severity="warning" role="alert">
          {put.error.message}
        </Alert>
      )}
      {status && <History status={status} zone={system.zone} />}
      {asking && (
        <Ask what={asking} put={put} keep={keep} code={finding.code} close={() => setAsking(null)} />
      )}
    </Box>
  );
}

export function History({ status, zone }: { status: FindingStatus; zone: string }) {
  return (
    <LineTable dotted sx={{ marginTop: 4 }} aria-label={`History of ${status.name}`}>
      <TableBody>
        {status.events.map((event) => (
          <TableRow key={event.at}>
            <TableCell sx={{ ...look.cap, width: 120 }}>
              {localMinute(event.at, zone).replace("T", " ")}
            </TableCell>
            <TableCell>{cap(event.words)}</TableCell>
            <TableCell align="right" sx={look.cap}>
              {event.by ?? "by the evidence"}
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </LineTable>
  );
}

interface Closing {
  state: "dismissed" | "fixed";
  reason: string;
  fixed_on: string | null;
}

interface AskProps {
  what: Closing["state"];
  put: ReturnType<typeof useFindingStatus>;
  /** Keeps it in sight while it moves in the list. */
  keep: () => void;
  code: string;
  close: () => void;
}

/** What is asked before a finding is dismissed or marked as fixed. */
function Ask({ what, put, keep, code, close }: AskProps) {
  const fixed = what === "fixed";
  const form = useForm<Closing>({ defaultValues: { state: what, reason: "", fixed_on: null } });
  return (
    <AskDialog
      title={fixed ? "When was it fixed?" : "Why is it none?"}
      about={
        fixed
          ? "It leaves the fleet\u2019s list. From two weeks after this day the readings since are looked at alone; if it shows in them, it comes back."
          : "It leaves the fleet\u2019s list. If the evidence grows by more than its uncertainty, it comes back."
      }
      button={fixed ? "Mark as fixed" : "Dismiss"}
      form={form}
      send={(typed) => {
        keep();
        put.mutate(
          { code, ...typed, reason: typed.reason.trim() },
          { onSuccess: close, onError: (error) => refusedAt(form, error) },
        );
      }}
      pending={put.isPending}
      close={close}
    >
      {fixed && (
        <Words
          control={form.control}
          name="fixed_on"
          label="on which day"
          type="date"
          rules={NEEDED}
          focused
        />
      )}
      <Words
        control={form.control}
        name="reason"
        label={fixed ? "what was done" : "reason"}
        rules={fixed ? {} : NEEDED}
        grows
        focused={!fixed}
      />
    </AskDialog>
  );
}
