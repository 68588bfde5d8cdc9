/** The line under the chart: which lanes are drawn, and the ways out. */
import Menu from "@mui/material/Menu";
import { useState, type ReactNode } from "react";

import { channelWords, KINDS } from "./lanes";

export interface Choice {
  hidden: string[];
  further: string[];
}

export function LanesMenu({
  present,
  further,
  choice,
  choose,
}: {
  present: { key: string; title: string }[];
  further: string[];
  choice: Choice;
  choose: (next: Choice) => void;
}) {
  const toggle = (list: string[], one: string) =>
    list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
  const lanes = KINDS.filter(
    (kind) => present.some((row) => row.key === kind.key) || choice.hidden.includes(kind.key),
  );
  return (
    <Drop label="Lanes">
      <fieldset style={{ border: 0, margin: 0, padding: "6px 12px", display: "grid", gap: 3 }}>
        <legend className="cap">Lanes</legend>
        {lanes.map((kind) => (
          <label key={kind.key}>
            <input
              type="checkbox"
              checked={!choice.hidden.includes(kind.key)}
              onChange={() => choose({ ...choice, hidden: toggle(choice.hidden, kind.key) })}
            />{" "}
            {kind.title}
          </label>
        ))}
        {further.length > 0 && <span className="cap">Further channels</span>}
        {further.map((channel) => (
          <label key={channel}>
            <input
              type="checkbox"
              checked={choice.further.includes(channel)}
              onChange={() => choose({ ...choice, further: toggle(choice.further, channel) })}
            />{" "}
            {channelWords(channel)}
          </label>
        ))}
      </fieldset>
    </Drop>
  );
}

export function SaveMenu({
  csv,
  svg,
  png,
  print,
}: {
  csv: string;
  svg: () => void;
  png: () => void;
  print: () => void;
}) {
  return (
    <Drop label="Save as">
      <div style={{ padding: "6px 8px", display: "grid", gap: 2, justifyItems: "start" }}>
        <button className="key quiet" onClick={png}>
          Picture (PNG)
        </button>
        <button className="key quiet" onClick={svg}>
          Drawing (SVG)
        </button>
        <a className="key quiet" style={{ textDecoration: "none" }} href={csv}>
          Numbers (CSV)
        </a>
        <button className="key quiet" onClick={print}>
          Print
        </button>
      </div>
    </Drop>
  );
}

function Drop({ label, children }: { label: string; children: ReactNode }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <button
        className="key quiet noprint"
        style={{ padding: 0, minHeight: 0 }}
        aria-haspopup="true"
        aria-expanded={anchor !== null}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {label} ▾
      </button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} transitionDuration={0}>
        <div onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}>{children}</div>
      </Menu>
    </>
  );
}
