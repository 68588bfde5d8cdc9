/** SCOP by EN 14825 from the rated table, bin by bin; and the same sum over this site's own weather. */
import { useState } from "react";

import type { ScopShown, SystemShown } from "../../api/client";
import { useRated, useSame, type Stretch } from "../../api/hooks";
import { cap } from "../../components/Proof";
import { number, percent, type Shown } from "../../components/numbers";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { DeclaredForm } from "./DeclaredForm";
import { must } from "../../components/must";

export function Scop({
  system,
  stretch,
  temp,
  power,
}: {
  system: SystemShown;
  stretch: Stretch | null;
  temp: Shown;
  power: Shown;
}) {
  const rated = useRated(system.id);
  const [chosen, setChosen] = useState<string | null>(null);
  if (rated.isError) return <Trouble error={rated.error} again={() => void rated.refetch()} />;
  if (!rated.data) return <Waiting what="the SCOP" />;
  const { scops, scop_reason, kind } = rated.data;
  if (!scops.length)
    return (
      <div style={{ display: "grid", gap: 12 }}>
        <DeclaredForm key={system.id} system={system} rated={rated.data} temp={temp} />
        <Empty title="No estimate from a rated table">
          <p>{cap(scop_reason?.sentence ?? "there is no rated table")}.</p>
        </Empty>
      </div>
    );
  const climates = [...new Set(scops.map((one) => must(one.name.split(" ")[0])))];
  const levels = [...new Set(scops.map((one) => one.name.split(", ")[1] ?? "on room air"))];
  const shown = scops.find((one) => one.name === chosen) ?? must(scops[Math.min(2, scops.length - 1)]);
  return (
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <DeclaredForm key={system.id} system={system} rated={rated.data} temp={temp} />
      <section>
        <h2>
          SCOP estimate from the rated table{" "}
          <span className="cap" style={{ fontWeight: 400 }}>
            the bins of EN 14825 over the table’s surface, not its declared points; the SPF is what was
            measured here
          </span>
        </h2>
        <table className="sheet" aria-label="SCOP by climate and level" style={{ maxWidth: 620 }}>
          <thead>
            <tr>
              <th>Climate</th>
              {levels.map((level) => (
                <th key={level} className="num">
                  {level}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {climates.map((climate) => (
              <tr key={climate}>
                <td>{cap(climate)}</td>
                {levels.map((level) => {
                  const one = scops.find(
                    (s) => s.name.startsWith(climate) && (s.name.split(", ")[1] ?? "on room air") === level,
                  );
                  return (
                    <td key={level} className="num">
                      {one && (
                        <button
                          className="figure"
                          aria-pressed={one === shown}
                          style={{
                            fontWeight: one === shown ? 700 : 400,
                            textDecoration: one === shown ? "underline" : undefined,
                          }}
                          onClick={() => setChosen(one.name)}
                          title={one.reason?.sentence ?? one.notes.join(" ")}
                        >
                          {one.on === null ? "not offered" : number(one.on, 2)}
                          {one.on !== null && one.assumed_share > 0.005 ? "*" : ""}
                        </button>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
        <p className="cap">
          Estimates of the bins alone. * some bins lie outside the table and are assumed.
          {kind === "air" && " HSPF2 is not offered: its constants are not certain here."}
        </p>
      </section>
      <Bins one={shown} temp={temp} power={power} />
      {stretch && <SiteBins system={system} stretch={stretch} temp={temp} power={power} />}
    </div>
  );
}

function Bins({ one, temp, power }: { one: ScopShown; temp: Shown; power: Shown }) {
  const heat = one.bins.reduce((sum, bin) => sum + bin.heat, 0);
  const used = one.bins.reduce((sum, bin) => sum + bin.electricity, 0);
  return (
    <section>
      <h2>{cap(one.name)}</h2>
      <p>
        {one.on === null ? (
          <span className="ember">Not offered: {one.reason?.sentence}.</span>
        ) : (
          <>
            SCOP estimate = {number(heat, 0)} kWh ÷ {number(used, 0)} kWh ={" "}
            <strong>{number(one.on, 2)}</strong>
            {one.scop !== null && `, with auxiliary powers ${number(one.scop, 2)}`}. Load{" "}
            {number(power.of(one.design_load * 1000), 1)} {power.symbol} at the design temperature, capacity
            meets it at {number(temp.of(one.bivalent), 0)} {temp.symbol}.
          </>
        )}
      </p>
      <ul className="cap" style={{ margin: "2px 0 6px", paddingLeft: 18 }}>
        {one.notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
      </ul>
      <BinTable label={`Bins of ${one.name}`} bins={one.bins} temp={temp} power={power} />
    </section>
  );
}

export function BinTable({
  label,
  bins,
  temp,
  power,
}: {
  label: string;
  bins: ScopShown["bins"];
  temp: Shown;
  power: Shown;
}) {
  const kw = (value: number) => number(power.of(value * 1000), 2);
  return (
    <div
      style={{ maxHeight: 330, overflow: "auto" }}
      tabIndex={0}
      role="region"
      aria-label={`${label}, scrolled`}
    >
      <table className="sheet tight" aria-label={label}>
        <thead>
          <tr>
            <th className="num">Outdoors {temp.symbol}</th>
            <th className="num">Hours</th>
            <th className="num">Flow or room {temp.symbol}</th>
            <th className="num">Load {power.symbol}</th>
            <th className="num">Capacity</th>
            <th className="num">Load ÷ least</th>
            <th className="num">COP</th>
            <th className="num">Heater</th>
            <th className="num">Heat kWh</th>
            <th className="num">Electricity kWh</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {bins.map((bin) => (
            <tr key={bin.outdoor}>
              <td className="num">{number(temp.of(bin.outdoor), Number.isInteger(bin.outdoor) ? 0 : 1)}</td>
              <td className="num">{number(bin.hours, 0)}</td>
              <td className="num">{number(temp.of(bin.flow), 1)}</td>
              <td className="num">{kw(bin.load)}</td>
              <td className="num">{kw(bin.capacity)}</td>
              <td className="num">{bin.ratio < 0.995 ? number(bin.ratio, 2) : "–"}</td>
              <td className="num">{bin.cop === null ? "–" : number(bin.cop, 2)}</td>
              <td className="num">{bin.backup > 0.005 ? kw(bin.backup) : "–"}</td>
              <td className="num">{number(bin.heat, 0)}</td>
              <td className="num">{bin.electricity === null ? "–" : number(bin.electricity, 0)}</td>
              <td className="cap ember">{bin.assumed ? "assumed" : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function SiteBins({
  system,
  stretch,
  temp,
  power,
}: {
  system: SystemShown;
  stretch: Stretch;
  temp: Shown;
  power: Shown;
}) {
  const same = useSame(system.id, stretch);
  const site = same.data?.site;
  if (!site) return same.isError ? <Trouble error={same.error} /> : <Waiting what="this site's own bins" />;
  return (
    <section>
      <h2>
        This site{" "}
        <span className="cap" style={{ fontWeight: 400 }}>
          its own weather, curve and load of {must(same.data).local}; heating, hot water apart
        </span>
      </h2>
      {site.reason?.sentence ? (
        <p className="soft">{cap(site.reason?.sentence)}.</p>
      ) : (
        <>
          <p>
            Expected SPF, if as rated: <strong>{number(must(site.spf), 2)}</strong>
            {site.spf_measured !== null && (
              <>
                ; measured in the same hours: <strong>{number(site.spf_measured, 2)}</strong>, starts and
                defrosts in it
              </>
            )}
            .
            {site.assumed_share > 0.005 &&
              ` ${percent(site.assumed_share)} of the heat lies in bins that the table does not reach.`}
          </p>
          <BinTable label="Bins of this site" bins={site.bins} temp={temp} power={power} />
        </>
      )}
    </section>
  );
}
