/** What can be claimed from the metering, and what undermines the sum. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";
import { To } from "../To";
import type { SpanFigures, SystemShown } from "../../api/client";
import { useFleet, useRenew } from "../../api/hooks";
import { figureText, localMinute, plusMinus } from "../numbers";
import * as look from "../look";

/** What can be claimed from this metering, at every figure. */
export function Trusted({ system, span }: { system: SystemShown; span: SpanFigures }) {
  const sound = span.trust.kind === "sound" || span.trust.kind === "wide limits";
  return (
    <Typography variant="caption" component="p" sx={{ margin: "0 0 8px" }} data-testid="trust">
      <To to={`/systems/${system.id}/trust?${trustQuery(span, system.zone)}`} sx={sound ? {} : look.ember}>
        Metering {span.trust.kind}
      </To>
      : {span.trust.words}.
    </Typography>
  );
}

function trustQuery(span: SpanFigures, zone: string, check?: string): string {
  const query = new URLSearchParams({
    from: localMinute(span.start, zone).slice(0, 10),
    to: localMinute(span.stop - 1, zone).slice(0, 10),
  });
  if (check) query.set("check", check);
  return query.toString();
}

/** What undermines the sum stands right below it. */
export function Doubts({ system, span }: { system: SystemShown; span: SpanFigures }) {
  return span.doubts.map((check) => (
    <Alert severity="warning" role="note" sx={{ marginBottom: 8 }} key={check.code}>
      <details>
        <Box component="summary" sx={{ cursor: "pointer" }}>
          <strong>Metering {check.soundness}:</strong> {check.name}
        </Box>
        <p>{check.sentence}</p>
        <p>
          <Link to={`/systems/${system.id}/trust?${trustQuery(span, system.zone, check.code)}`}>
            Evidence and remedy in Trust
          </Link>
          {check.effect?.cop_then &&
            `: COP over the record ${figureText(check.effect.cop_then)} ${plusMinus(check.effect.cop_then)} if accepted`}
        </p>
      </details>
    </Alert>
  ));
}

/** Never stale without saying so. */
export function Stale({ system }: { system: SystemShown }) {
  const fleet = useFleet();
  const renew = useRenew();
  const working = fleet.data?.rows.find((row) => row.id === system.id)?.working || renew.isPending;
  return (
    <Alert severity="warning" role="note">
      <p>These figures are of other readings, or were made by an earlier version of the program.</p>
      {working ? (
        <p role="status">They are being worked out anew …</p>
      ) : (
        <Button sx={{ marginTop: 4 }} onClick={() => renew.mutate(system.id)}>
          Work them out anew
        </Button>
      )}
    </Alert>
  );
}
