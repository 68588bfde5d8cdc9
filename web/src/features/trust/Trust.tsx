/** Trust: can the metering be believed, what was corrected, and in which ways heat was measured. */
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
    <div style={{ display: "grid", gap: 16 }}>
      <State found={found} />
      <Checks system={system} found={found} />
      <Corrections system={system} found={found} />
      <Methods found={found} />
      <Missing found={found} />
    </div>
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
      <h1 className={ill ? "ember" : undefined}>{TITLE[found.kind] ?? found.kind}</h1>
      <p style={{ display: "flex", flexWrap: "wrap", gap: "0 18px", marginTop: 2 }}>
        {found.claims.map((claim) => (
          <span key={claim.what}>
            {claim.what} <strong className={claim.may ? undefined : "ember"}>{claim.words}</strong>
          </span>
        ))}
      </p>
      {found.addition && (
        <p className="soft" style={{ marginTop: 2 }}>
          What would allow more: {found.addition}
        </p>
      )}
    </section>
  );
}
