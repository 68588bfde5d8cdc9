/** The line under the chart: which lanes are drawn, and the ways out. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
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
      <Box component="fieldset" sx={{ border: 0, margin: 0, padding: "6px 12px", display: "grid", gap: 3 }}>
        <Typography variant="caption" component="legend">
          Lanes
        </Typography>
        {lanes.map((kind) => (
          <label key={kind.key}>
            <Checkbox
              checked={!choice.hidden.includes(kind.key)}
              onChange={() => choose({ ...choice, hidden: toggle(choice.hidden, kind.key) })}
            />{" "}
            {kind.title}
          </label>
        ))}
        {further.length > 0 && (
          <Typography variant="caption" component="span">
            Further channels
          </Typography>
        )}
        {further.map((channel) => (
          <label key={channel}>
            <Checkbox
              checked={choice.further.includes(channel)}
              onChange={() => choose({ ...choice, further: toggle(choice.further, channel) })}
            />{" "}
            {channelWords(channel)}
          </label>
        ))}
      </Box>
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
      <Box sx={{ padding: "6px 8px", display: "grid", gap: 2, justifyItems: "start" }}>
        <Button variant="text" onClick={png}>
          Picture (PNG)
        </Button>
        <Button variant="text" onClick={svg}>
          Drawing (SVG)
        </Button>
        <Box component="a" sx={{ textDecoration: "none" }} href={csv}>
          Numbers (CSV)
        </Box>
        <Button variant="text" onClick={print}>
          Print
        </Button>
      </Box>
    </Drop>
  );
}

function Drop({ label, children }: { label: string; children: ReactNode }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        variant="text"
        sx={{ ...look.noprint, padding: 0, minHeight: 0 }}
        aria-haspopup="true"
        aria-expanded={anchor !== null}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {label} ▾
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} transitionDuration={0}>
        <div onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}>{children}</div>
      </Menu>
    </>
  );
}
