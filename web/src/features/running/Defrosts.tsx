/** Defrosts: what they took, whether the air asked for them, and each of them. */
import type { DefrostsSeen } from "../../api/client";
import { useDefrosts } from "../../api/hooks";
import { useShade } from "../../app/settings";
import { Chart } from "../../components/Chart";
import { Facts } from "../../components/Facts";
import { duration, figureText, number, percent, plusMinus } from "../../components/numbers";
import { cap } from "../../components/Proof";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { Latest, OnItsDay } from "./Latest";
import { hoursOption, type Seen } from "./Runs";

const SHOWN = 60;

export function Defrosts({ system, stretch, temp, show }: Seen) {
  const shade = useShade();
  const defrosts = useDefrosts(system.id, stretch);
  if (defrosts.isError) return <Trouble error={defrosts.error} again={() => void defrosts.refetch()} />;
  if (!defrosts.data) return <Waiting what="the defrosts" />;
  const found = defrosts.data;
  if (found.reason?.sentence)
    return (
      <Empty title="Defrosts cannot be told">
        <p>{cap(found.reason?.sentence)}.</p>
      </Empty>
    );
  if (found.count === 0)
    return (
      <Empty title="No defrost in this period">
        <p>{cap(found.basis)}.</p>
      </Empty>
    );
  const { interval, length } = found;
  return (
    <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <Facts
        facts={[
          {
            name: "defrosts",
            value: number(found.count, 0),
            note:
              found.expected === null
                ? "expected: not learned"
                : `the air asked for ${number(found.expected, 0)}`,
          },
          {
            name: "of running between them",
            value: interval ? `${number(interval.median / 60, 0)} min` : "–",
            note: interval
              ? `half of them ${number(interval.low / 60, 0)} to ${number(interval.high / 60, 0)}`
              : null,
          },
          { name: "length", value: length ? duration(length.median) : "–", note: ended(found) },
          {
            name: "taken back",
            value: found.taken ? `${figureText(found.taken)} kWh` : "–",
            note: found.taken ? plusMinus(found.taken) : null,
          },
          {
            name: `cost at ${found.level}`,
            value: found.cost ? `${figureText(found.cost)} kWh` : "–",
            note: found.cost
              ? `${plusMinus(found.cost)}${found.money ? ` · ${figureText(found.money)} ${found.money.unit}` : ""}${found.share === null ? "" : ` · ${percent(found.share)} of the electricity`}`
              : null,
          },
          { name: "at night, 22 to 6", value: number(found.night, 0), note: percent(found.night_share) },
        ]}
      />
      {found.said.map((one) => (
        <p key={one.code} className="notice">
          <strong>{cap(one.code)}:</strong> {one.words}.
        </p>
      ))}
      {found.said.length === 0 && (
        <p className="soft">Nothing wrong can be seen in when they come and how they end.</p>
      )}
      <div
        style={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1.7fr) minmax(0, 1fr)",
          gap: 22,
          alignItems: "start",
        }}
      >
        <FrostMap found={found} temp={temp} />
        <div style={{ display: "grid", gap: 12 }}>
          <section>
            <h2>By hour of the day</h2>
            <Chart
              option={hoursOption(found.by_hour, "defrost", shade)}
              height={110}
              words={`Defrosts by hour: ${found.by_hour.join(", ")}`}
            />
          </section>
          <Months found={found} />
        </div>
      </div>
      <p className="cap">
        {cap(found.basis)}.{" "}
        {found.approach
          ? `Coil: ${found.approach}.`
          : "Without outdoor temperature and humidity the air's part is not known."}{" "}
        Cost = electricity of the defrost + heat taken back ÷ COP before it
        {found.taken_cost !== null && found.electricity && found.recovery
          ? ` + loss of the recovery = ${number(found.electricity.value, 1)} + ${number(found.taken_cost, 1)} + ${number(found.recovery.value, 1)} kWh`
          : " + loss of the recovery"}
        , each counted once. A white coil, a clunk and vapour at the end are normal. Do not knock ice off; the
        refrigerant circuit is for certified technicians.
      </p>
      <Rows found={found} system={system} temp={temp} show={show} stretch={stretch} />
    </div>
  );
}

function ended(found: DefrostsSeen): string {
  const { temperature = 0, "time limit": limit = 0 } = found.ended;
  if (limit) return `${number(limit, 0)} at a time limit`;
  return temperature ? "ended before a limit" : "how they end is not known";
}

/** Outdoor temperature × humidity; each cell holds the interval that was seen and the one expected. */
function FrostMap({ found, temp }: { found: DefrostsSeen; temp: Seen["temp"] }) {
  const cells = found.map.filter((cell) => cell.hours >= 1 && cell.outdoor < 10 && cell.humidity >= 40);
  if (!cells.length) return <p className="soft">The map needs outdoor temperature and humidity.</p>;
  const columns = [...new Set(cells.map((cell) => cell.outdoor))].sort((a, b) => a - b);
  const rows = [...new Set(cells.map((cell) => cell.humidity))].sort((a, b) => b - a);
  const learned = cells.some((cell) => cell.expected !== null);
  const at = new Map(cells.map((cell) => [`${cell.outdoor} ${cell.humidity}`, cell]));
  return (
    <section>
      <h2>
        Minutes of running between defrosts{" "}
        <span className="cap" style={{ fontWeight: 400 }}>
          {learned && "below: expected by the frosting potential · "}bluer: more often
        </span>
      </h2>
      <table
        aria-label="Map of defrosts"
        style={{ width: "100%", tableLayout: "fixed", borderCollapse: "separate", borderSpacing: 2 }}
      >
        <tbody>
          {rows.map((humidity) => (
            <tr key={humidity}>
              <th scope="row" className="cap num" style={{ width: 54, fontWeight: 400 }}>
                {humidity}–{humidity + 10} %
              </th>
              {columns.map((outdoor) => {
                const cell = at.get(`${outdoor} ${humidity}`);
                if (!cell) return <td key={outdoor} />;
                const often =
                  cell.interval === null ? 0 : Math.min(1, Math.max(0, (170 - cell.interval) / 145));
                return (
                  <td
                    key={outdoor}
                    title={`${number(cell.hours, 0)} h of running, ${cell.defrosts} defrosts, potential ${number(cell.potential, 2)} g/kg`}
                    style={{
                      textAlign: "center",
                      height: 34,
                      lineHeight: "14px",
                      borderRadius: 2,
                      background:
                        cell.interval === null
                          ? "var(--sheet)"
                          : `color-mix(in srgb, var(--defrost) ${15 + 45 * often}%, var(--sheet))`,
                    }}
                  >
                    {cell.interval === null ? (
                      <span className="soft">{cell.defrosts ? cell.defrosts : "none"}</span>
                    ) : (
                      <strong>{number(cell.interval, 0)}</strong>
                    )}
                    {learned && (
                      <>
                        <br />
                        <span
                          style={{ fontSize: 11 }}
                          className={cell.interval === null ? "soft" : undefined}
                        >
                          {cell.expected === null || cell.expected > 999 ? "none" : number(cell.expected, 0)}
                        </span>
                      </>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
          <tr>
            <th className="cap num" style={{ fontWeight: 400 }}>
              {temp.symbol}
            </th>
            {columns.map((outdoor) => (
              <th key={outdoor} scope="col" className="cap" style={{ fontWeight: 400, textAlign: "center" }}>
                {number(temp.of(outdoor), 0)}…{number(temp.of(outdoor + 2), 0)}
              </th>
            ))}
          </tr>
        </tbody>
      </table>
    </section>
  );
}

function Months({ found }: { found: DefrostsSeen }) {
  return (
    <table className="sheet tight" aria-label="Defrosts by month">
      <thead>
        <tr>
          <th>Month</th>
          <th className="num">defrosts</th>
          <th className="num">at night</th>
          <th className="num">cost, kWh</th>
        </tr>
      </thead>
      <tbody>
        {found.months.map((month) => (
          <tr key={month.month}>
            <td>{month.month}</td>
            <td className="num">{number(month.defrosts, 0)}</td>
            <td className="num">{number(month.night, 0)}</td>
            <td className="num">{month.cost === null ? "–" : number(month.cost, 1)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Rows({ found, system, temp, show, stretch }: { found: DefrostsSeen } & Seen) {
  const value = (one: number | null, decimals: number, factor = 1) =>
    one === null ? "–" : number(one * factor, decimals);
  return (
    <section>
      <Latest count={Math.min(SHOWN, found.rows.length)} system={system} stretch={stretch} what="defrosts" />
      <table className="sheet tight" aria-label="Defrosts">
        <thead>
          <tr>
            <th>Begin</th>
            <th className="num">length, min</th>
            <th className="num">after running, min</th>
            <th className="num">electricity, Wh</th>
            <th className="num">taken back, Wh</th>
            <th className="num">cost, Wh</th>
            <th className="num">COP back after, min</th>
            <th className="num">outdoors, {temp.symbol}</th>
            <th className="num">humidity, %</th>
            <th className="num">potential, g/kg</th>
            <th>Marks</th>
          </tr>
        </thead>
        <tbody>
          {found.rows.slice(0, SHOWN).map((row) => (
            <tr key={row.start}>
              <td style={{ whiteSpace: "nowrap" }}>
                <OnItsDay start={row.start} stop={row.start + row.length} zone={system.zone} show={show} />
              </td>
              <td className="num">{number(row.length / 60, 0)}</td>
              <td className="num">{value(row.interval, 0, 1 / 60)}</td>
              <td className="num">{value(row.electricity, 0, 1000)}</td>
              <td className="num">{value(row.taken, 0, 1000)}</td>
              <td className="num">{value(row.cost, 0, 1000)}</td>
              <td className="num">{value(row.back_after, 0, 1 / 60)}</td>
              <td className="num">{row.outdoor === null ? "–" : number(temp.of(row.outdoor), 1)}</td>
              <td className="num">{value(row.humidity, 0)}</td>
              <td className="num">{value(row.potential, 2)}</td>
              <td className="ember">{row.marks.join(", ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
