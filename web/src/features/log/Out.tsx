/** Readings, results and the whole installation out, as files that come in again. */
import type { SystemShown } from "../../api/client";
import type { Period } from "../../app/period";
import { must } from "../../components/must";

export function Out({ system, period }: { system: SystemShown; period: Period | null }) {
  const query = (form: string) =>
    new URLSearchParams({ start: must(period).from, stop: must(period).to, form });
  const keys = (address: (form: string) => string, forms: string[]) =>
    forms.map((form) => (
      <a
        key={form}
        className="key"
        style={{ textDecoration: "none", marginRight: 6 }}
        href={address(form)}
        download
      >
        {{ parquet: "Parquet", ember: "Archive" }[form] ?? form.toUpperCase()}
      </a>
    ));
  return (
    <section style={{ display: "grid", gap: 16, maxWidth: 760 }}>
      {period && (
        <>
          <div>
            <h2>
              Readings of {period.from} to {period.to}
            </h2>
            <p style={{ marginTop: 4 }}>
              {keys(
                (form) => `/api/v1/systems/${system.id}/readings?${query(form)}`,
                ["csv", "xlsx", "parquet"],
              )}
            </p>
            <p className="soft">UTC, in °C, W, m³/s and J; imported again they are the same.</p>
          </div>
          <div>
            <h2>Results, day by day and month by month</h2>
            <p style={{ marginTop: 4 }}>
              {keys(
                (form) => `/api/v1/systems/${system.id}/results?form=${form}`,
                ["csv", "xlsx", "parquet"],
              )}
            </p>
            <p className="soft">
              Of the whole record: electricity, heat and COP with U (k = 2), coverage, boundary level, kind of
              day.
            </p>
          </div>
          <div>
            <h2>Everything worked out</h2>
            <p style={{ marginTop: 4 }}>
              {keys(() => `/api/v1/systems/${system.id}/assessment.json`, ["json"])}
            </p>
            <p className="soft">The whole assessment with the description (docs/formats.md).</p>
          </div>
        </>
      )}
      <div>
        <h2>The whole installation</h2>
        <p style={{ marginTop: 4 }}>{keys(() => `/api/v1/systems/${system.id}/archive`, ["ember"])}</p>
        <p className="soft">
          Description and its history, readings of each import as Parquet, readings by hand, notes and bills:
          one zip file that comes in again equal. The Fleet takes it, and gives out all installations as one.
        </p>
      </div>
    </section>
  );
}
