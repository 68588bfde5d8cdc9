/** The tariff: prices by time of day. */
import { cap } from "../../components/Proof";
import { Field, NumberField, type Part } from "./Fields";

export function Prices({ draft, edit, problems }: Part) {
  const { tariff } = draft;
  if (!tariff) {
    return (
      <section>
        <h2>Tariff</h2>
        <p className="soft">None: no cost is shown.</p>
        <button
          className="key"
          onClick={() =>
            edit({
              ...draft,
              tariff: { price: 0.3, currency: "EUR", name: "day", standing_charge: 0, bands: [] },
            })
          }
        >
          Add a tariff
        </button>
      </section>
    );
  }
  const put = (change: Partial<typeof tariff>) => edit({ ...draft, tariff: { ...tariff, ...change } });
  const band = (k: number, change: Partial<(typeof tariff.bands)[number]>) =>
    put({ bands: tariff.bands.map((one, j) => (j === k ? { ...one, ...change } : one)) });
  return (
    <section>
      <h2>Tariff</h2>
      <table className="rows" aria-label="Tariff">
        <tbody>
          <Field label={cap(tariff.name)} where="tariff.price" problems={problems}>
            <NumberField
              label="Price per kWh"
              value={tariff.price}
              put={(price) => put({ price: price ?? 0 })}
            />{" "}
            <input
              type="text"
              aria-label="Currency"
              value={tariff.currency}
              onChange={(event) => put({ currency: event.target.value })}
              style={{ width: 52 }}
            />{" "}
            a kWh
          </Field>
          <Field label="Standing charge" where="tariff.standing_charge" problems={problems}>
            <NumberField
              label="Standing charge a day"
              value={tariff.standing_charge}
              put={(standing) => put({ standing_charge: standing ?? 0 })}
            />{" "}
            a day
          </Field>
          {tariff.bands.map((one, k) => (
            <Field key={k} label={cap(one.name)} where={`tariff.bands.${k}.start`} problems={problems}>
              <NumberField
                label={`Price of ${one.name}`}
                value={one.price}
                put={(price) => band(k, { price: price ?? 0 })}
              />{" "}
              from{" "}
              <input
                type="time"
                aria-label={`${one.name} begins`}
                value={one.start.slice(0, 5)}
                onChange={(event) => band(k, { start: `${event.target.value}:00` })}
              />{" "}
              to{" "}
              <input
                type="time"
                aria-label={`${one.name} ends`}
                value={one.end.slice(0, 5)}
                onChange={(event) => band(k, { end: `${event.target.value}:00` })}
              />
              , share{" "}
              <NumberField
                label={`Share of the electricity in ${one.name}`}
                value={one.share}
                put={(share) => band(k, { share })}
              />{" "}
              <span className="soft">0 to 1, from a bill; used where readings do not tell the hours</span>{" "}
              <button
                className="key quiet"
                onClick={() => put({ bands: tariff.bands.filter((_, j) => j !== k) })}
              >
                Remove
              </button>
            </Field>
          ))}
        </tbody>
      </table>
      <button
        className="key"
        onClick={() =>
          put({
            bands: [
              ...tariff.bands,
              {
                name: `band ${tariff.bands.length + 1}`,
                price: tariff.price,
                start: "23:00:00",
                end: "07:00:00",
                weekdays: [0, 1, 2, 3, 4, 5, 6],
                share: null,
              },
            ],
          })
        }
      >
        Add a band
      </button>
    </section>
  );
}
