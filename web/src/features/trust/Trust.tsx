/** Trust: can the metering be believed, what was corrected, and in which ways heat was measured. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import type { SystemShown, TrustShown } from "../../api/client";
import { useTrust } from "../../api/hooks";
import type { Period } from "../../app/period";
import { Room } from "../../components/Room";
import { Trouble, Waiting } from "../../components/Said";
import { Checks } from "./Checks";
import { Corrections } from "./Corrections";
import { Missing, Methods } from "./Methods";

export default function Trust() {
  return <Room>{(system, period) => period && <Inside system={system} period={period} />}</Room>;
}

function Inside({ system, period }: { system: SystemShown; period: Period }) {
  const trust = useTrust(system.id, period.stretch);
  if (trust.isError) return <Trouble error={trust.error} again={() => void trust.refetch()} />;
  if (!trust.data) return <Waiting what="the checks" />;
  const found = trust.data;
  return (
    <Box sx={{ display: "grid", gap: 16 }}>
      <State found={found} />
      <Checks system={system} found={found} />
      <Corrections system={system} found={found} />
      <Methods found={found} />
      <Missing found={found} />
    </Box>
  );
}

const TITLE: Record<string, string> = {
  sound: "The metering can be believed",
  "wide limits": "The metering can be believed, within wide limits",
  doubtful: "The metering is in doubt",
  "counts only": "No COP from this metering",
  "electricity only": "No COP from this metering",
  nothing: "Nothing can be claimed from this metering",
};

function State({ found }: { found: TrustShown }) {
  const ill = found.kind !== "sound" && found.kind !== "wide limits";
  return (
    <section aria-label="What can be claimed">
      <Typography variant="h1" sx={ill ? look.ember : {}}>
        {TITLE[found.kind] ?? found.kind}
      </Typography>
      <Box component="p" sx={{ display: "flex", flexWrap: "wrap", gap: "0 18px", marginTop: 2 }}>
        {found.claims.map((claim) => (
          <span key={claim.what}>
            {claim.what}{" "}
            <Box component="strong" sx={claim.may ? {} : look.ember}>
              {claim.words}
            </Box>
          </span>
        ))}
      </Box>
      {found.addition && (
        <Box component="p" sx={{ ...look.soft, marginTop: 2 }}>
          What would allow more: {found.addition}
        </Box>
      )}
    </section>
  );
}
