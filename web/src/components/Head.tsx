/** Above every screen of a system: which one, the period, units; the season ribbon below. */
import type { SystemShown } from "../api/client";
import { useFrame } from "../app/frame";
import { useKeys } from "../app/keys";
import { KINDS, type Period } from "../app/period";
import { useSettings } from "../app/settings";
import { longDay, shortDay, dayYear } from "./numbers";
import { SeasonRibbon } from "./SeasonRibbon";

export function Head({ system, period }: { system: SystemShown; period: Period | null }) {
  const frame = useFrame();
  useKeys({ "[": () => period?.shift(-1), "]": () => period?.shift(1) });
  return (
    <header className="head">
      <div className="line">
        <h1 className="grow" style={{ flex: "0 1 auto" }}>
          <button
            className="figure"
            onClick={frame.find}
            title="Find another installation ( / )"
            style={{ fontWeight: 650 }}
          >
            {system.name} <span aria-hidden>▾</span>
          </button>
        </h1>
        <span className="soft grow">
          {system.unit} · time of the installation, {system.zone}
        </span>
        {period && (
          <>
            <div className="seg" role="group" aria-label="Length of the period">
              {KINDS.map((kind) => (
                <button key={kind} aria-pressed={period.kind === kind} onClick={() => period.setKind(kind)}>
                  {kind}
                </button>
              ))}
            </div>
            <button
              className="key"
              aria-label="Previous"
              title="Previous ( [ )"
              disabled={period.from <= period.first}
              onClick={() => period.shift(-1)}
            >
              ‹
            </button>
            <strong style={{ minWidth: 150, textAlign: "center" }} data-testid="period">
              {periodText(period, system.zone)}
            </strong>
            <button
              className="key"
              aria-label="Next"
              title="Next ( ] )"
              disabled={period.to >= period.last}
              onClick={() => period.shift(1)}
            >
              ›
            </button>
          </>
        )}
        <UnitSwitch />
        <button className="key" aria-label="Keys" onClick={frame.help}>
          ?
        </button>
      </div>
      {period && system.days ? (
        <SeasonRibbon days={system.days} zone={system.zone} period={period} />
      ) : (
        <div style={{ height: 10 }} />
      )}
    </header>
  );
}

export function UnitSwitch() {
  const { units, setUnits } = useSettings();
  return (
    <div className="seg" role="group" aria-label="Units">
      {(["SI", "US"] as const).map((one) => (
        <button key={one} aria-pressed={units === one} onClick={() => setUnits(one)}>
          {one}
        </button>
      ))}
    </div>
  );
}

function periodText(period: Period, zone: string): string {
  const noon = (day: string) => Date.parse(`${day}T12:00:00Z`) / 1000;
  if (period.from === period.to) return longDay(noon(period.from), zone);
  const sameYear = period.from.slice(0, 4) === period.to.slice(0, 4);
  return `${(sameYear ? shortDay : dayYear)(noon(period.from), zone)} – ${dayYear(noon(period.to), zone)}`;
}
