/** All ways in which heat was measured, side by side, and the levels that lack a meter. */
import type { TrustShown } from "../../api/client";
import { figureText, number, plusMinus } from "../../components/numbers";
import { HonestFigure } from "../../components/Proof";

export function Methods({ found }: { found: TrustShown }) {
  if (found.methods.length === 0)
    return (
      <section>
        <h2>Methods of measuring heat</h2>
        <p className="soft">None can be stated for this period.</p>
      </section>
    );
  return (
    <section>
      <h2>Methods of measuring heat</h2>
      <table className="sheet" aria-label="Methods of measuring heat">
        <thead>
          <tr>
            <th>Meter</th>
            <th>Method</th>
            <th className="num">heat, kWh</th>
            <th className="num">the used one, same time</th>
            <th className="num">ratio</th>
            <th>Reconciled</th>
          </tr>
        </thead>
        <tbody>
          {found.methods.map((method) => (
            <tr key={method.name}>
              <td>
                {method.name} {method.used && <strong className="teal">used</strong>}
              </td>
              <td className="soft">
                {method.method} · {number(method.hours, 0)} h
              </td>
              <td className="num">
                {figureText(method.heat)} <span className="soft">{plusMinus(method.heat)}</span>
              </td>
              <td className="num">{method.used ? "" : figureText(method.other)}</td>
              <td className="num">
                {method.ratio ? (
                  <>
                    {figureText(method.ratio)} <span className="soft">{plusMinus(method.ratio)}</span>
                  </>
                ) : (
                  ""
                )}
              </td>
              <td>
                {method.agrees === null ? (
                  method.used ? (
                    ""
                  ) : (
                    "sensors before correction"
                  )
                ) : method.agrees ? (
                  method.one_sided ? (
                    "not above it; what is drawn meanwhile is missing"
                  ) : (
                    "within their U"
                  )
                ) : (
                  <span className="ember">they disagree</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.reported.length > 1 && <Reported found={found} />}
      <p className="cap">
        Each over the time in which both are known. What two ways share, as one flow sensor, cancels in the
        ratio.
      </p>
    </section>
  );
}

/** Month by month what the controller reports beside what the meter measures. */
function Reported({ found }: { found: TrustShown }) {
  return (
    <>
      <h2 style={{ marginTop: 10 }}>
        As the controller reports, month by month{" "}
        <span className="cap" style={{ fontWeight: 400 }}>
          an estimate of its own, against the meter over the same time
        </span>
      </h2>
      <table className="sheet tight" aria-label="Reported heat by month" style={{ maxWidth: 620 }}>
        <thead>
          <tr>
            <th>Month</th>
            <th>Reported by</th>
            <th className="num">reported, kWh</th>
            <th className="num">measured, kWh</th>
            <th className="num">ratio</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {found.reported.map(({ name, month, method }) => {
            const about = `${name} · ${month}`;
            return (
              <tr key={about}>
                <td>{month}</td>
                <td>{name}</td>
                <td className="num">
                  <HonestFigure
                    unit={false}
                    proof={{
                      title: "Heat as reported",
                      about,
                      figure: method.heat,
                      formula: "as the controller gives it",
                    }}
                  />
                </td>
                <td className="num">
                  <HonestFigure
                    unit={false}
                    proof={{
                      title: "Heat as measured",
                      about,
                      figure: method.other,
                      formula: `over the ${number(method.hours, 0)} h in which both are known`,
                    }}
                  />
                </td>
                <td className="num">
                  <HonestFigure
                    proof={{
                      title: "Reported ÷ measured",
                      about,
                      figure: method.ratio,
                      formula: `${figureText(method.heat)} kWh ÷ ${figureText(method.other)} kWh`,
                    }}
                  />
                </td>
                <td>{method.agrees === false && <span className="ember">they disagree</span>}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

export function Missing({ found }: { found: TrustShown }) {
  const silent = Object.entries(found.silent);
  if (found.missing.length === 0 && silent.length === 0) return null;
  return (
    <section>
      <h2>What is missing</h2>
      <table className="sheet" aria-label="Levels that cannot be computed">
        <tbody>
          {found.missing.map((one) => (
            <tr key={one.level}>
              <td style={{ width: 40 }}>{one.level}</td>
              <td>{one.reason.sentence}</td>
              <td className="num">
                {one.between && (
                  <>
                    COP {figureText(one.between.low)} to {figureText(one.between.high)}{" "}
                    <span className="soft">{one.between.words}</span>
                  </>
                )}
              </td>
            </tr>
          ))}
          {silent.map(([name, why]) => (
            <tr key={name}>
              <td colSpan={3}>
                {name}: <span className="soft">{why.sentence}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
