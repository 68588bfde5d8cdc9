/** The readings behind a figure, cell by cell: what was logged, what was corrected, what came of it. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type Readings as Shown } from "../api/client";
import { clock, number, shortDay } from "./numbers";
import type { Origin } from "./Proof";

export function Readings({ from, meters }: { from: Origin; meters: string[] }) {
  const [meter, setMeter] = useState<string | null>(null);
  return (
    <div style={{ marginTop: 6 }} className="noprint">
      <span className="cap">Readings of </span>
      {meters.map((name) => (
        <button
          key={name}
          className="key"
          aria-expanded={meter === name}
          style={{ marginRight: 6 }}
          onClick={() => setMeter(meter === name ? null : name)}
        >
          {name}
        </button>
      ))}
      {meter && <Table key={meter} from={from} meter={meter} />}
    </div>
  );
}

function Table({ from, meter }: { from: Origin; meter: string }) {
  const [page, setPage] = useState(0);
  const { system, start, stop } = from;
  const found = useQuery({
    queryKey: ["system", system, "behind", start, stop, meter, page],
    queryFn: () =>
      got(
        api.GET("/api/v1/systems/{pk}/behind", {
          params: { path: { pk: system }, query: { start, stop, meter, page } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  if (found.isError) return <p className="notice">{found.error.message}</p>;
  if (!found.data) return <p className="soft">Fetching the readings …</p>;
  const { pages, formula, method } = found.data;
  return (
    <div style={{ marginTop: 6 }}>
      <p className="cap">
        {method}: {formula}.
      </p>
      <div
        style={{ overflow: "auto", maxHeight: 300, border: "1px solid var(--hair)" }}
        tabIndex={0}
        role="region"
        aria-label={`Readings of ${meter}`}
      >
        <Cells found={found.data} zone={from.zone} />
      </div>
      <p style={{ display: "flex", gap: 8, alignItems: "center", marginTop: 4 }}>
        <button className="key" disabled={page === 0} onClick={() => setPage(page - 1)}>
          Earlier
        </button>
        <span className="cap">
          page {number(page + 1, 0)} of {number(pages, 0)}
        </span>
        <button className="key" disabled={page + 1 >= pages} onClick={() => setPage(page + 1)}>
          Later
        </button>
        <button className="key" disabled={page + 1 >= pages} onClick={() => setPage(pages - 1)}>
          Last
        </button>
      </p>
    </div>
  );
}

function Cells({ found, zone }: { found: Shown; zone: string }) {
  const text = (value: number | null | undefined, digits: number) =>
    value === null || value === undefined ? "–" : number(value, digits);
  return (
    <table className="sheet tight" style={{ fontSize: 11 }}>
      <thead>
        <tr>
          <th>time</th>
          {found.channels.map((one) => (
            <th key={one.channel} className="num">
              {one.channel}
              <br />
              {one.unit}
            </th>
          ))}
          <th className="num">
            energy
            <br />
            kWh
          </th>
          <th>state</th>
        </tr>
      </thead>
      <tbody>
        {found.time.map((at, k) => (
          <tr key={at} className={found.reason[k] ? "soft" : undefined} title={found.reason[k] || undefined}>
            <td style={{ whiteSpace: "nowrap" }}>
              {k === 0 || clock(at, zone) === "00:00" ? `${shortDay(at, zone)} ` : ""}
              {clock(at, zone)}
            </td>
            {found.channels.map((one) => {
              const digits = one.unit === "W" ? 0 : 2;
              const logged = one.logged[k];
              const now = one.corrected ? one.corrected[k] : undefined;
              return (
                <td key={one.channel} className="num">
                  {text(logged, digits)}
                  {now !== undefined && now !== logged && (
                    <span className="ember"> → {text(now, digits)}</span>
                  )}
                </td>
              );
            })}
            <td className="num" style={found.reason[k] ? { textDecoration: "line-through" } : undefined}>
              {text(found.energy[k], 4)}
            </td>
            <td>{found.reason[k] ? `left out: ${found.reason[k]}` : found.state[k]}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
