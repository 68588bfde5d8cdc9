/** The metering, drawn: the four boundary levels as nested outlines, what uses electricity inside. */
import type { KeyboardEvent } from "react";

import type { components } from "../../api/schema";
import type { Draft } from "./draft";
import { must } from "../../components/must";

type Consumer = components["schemas"]["ConsumerShown"];
type Promise = components["schemas"]["LevelPromise"];

interface Props {
  draft: Draft;
  consumers: Consumer[];
  levels: Promise[];
  active: number;
  toggle: (consumer: string) => void;
}

const WIDTH = 566;
const HEIGHT = 232;
const BOX = { width: 114, height: 52 };

/** Each level's outline, the narrowest inside. */
const OUTLINES: Record<string, { x: number; y: number; width: number; height: number }> = {
  H4: { x: 4, y: 4, width: 558, height: 224 },
  H3: { x: 12, y: 28, width: 418, height: 192 },
  H2: { x: 20, y: 52, width: 276, height: 160 },
  H1: { x: 28, y: 76, width: 130, height: 128 },
};

const PLACES: Record<string, { x: number; y: number }> = {
  compressor: { x: 36, y: 114 },
  source: { x: 170, y: 84 },
  controls: { x: 170, y: 148 },
  backup_heater: { x: 306, y: 84 },
  immersion_heater: { x: 306, y: 148 },
  distribution_pump: { x: 439, y: 116 },
};

export function Schematic({ draft, consumers, levels, active, toggle }: Props) {
  const meter = draft.electricity[active];
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      style={{ width: "100%", maxWidth: 760, display: "block" }}
      role="group"
      aria-label="Metering schematic"
    >
      {["H4", "H3", "H2", "H1"].map((name) => {
        const box = must(OUTLINES[name]);
        const level = levels.find((one) => one.level === name);
        const good = level !== undefined && level.reason === null;
        return (
          <g key={name} data-testid={`level-${name}`} data-good={good}>
            <title>
              {level ? `${name}, ${level.words}: ${level.reason?.sentence ?? "can be computed"}` : name}
            </title>
            <rect
              {...box}
              rx={3}
              fill={good ? "var(--teal)" : "none"}
              fillOpacity={0.05}
              stroke={good ? "var(--teal)" : "var(--faint)"}
              strokeWidth={good ? 1.8 : 1}
              strokeDasharray={good ? undefined : "4 3"}
            />
            <text
              x={box.x + 7}
              y={box.y + 15}
              fontSize={11}
              fontWeight={650}
              fill={good ? "var(--teal)" : "var(--soft)"}
            >
              {name} {good ? "✓" : ""}
            </text>
          </g>
        );
      })}
      {consumers.map((consumer) => (
        <Box
          key={consumer.value}
          draft={draft}
          consumer={consumer}
          meterName={meter?.name ?? ""}
          inside={meter?.includes.includes(consumer.value) ?? false}
          toggle={() => toggle(consumer.value)}
        />
      ))}
    </svg>
  );
}

function Box({
  draft,
  consumer,
  meterName,
  inside,
  toggle,
}: {
  draft: Draft;
  consumer: Consumer;
  meterName: string;
  inside: boolean;
  toggle: () => void;
}) {
  const place = PLACES[consumer.value];
  if (!place) return null;
  const there = draft.consumers.includes(consumer.value);
  const meters = draft.electricity
    .filter((one) => one.includes.includes(consumer.value))
    .map((one) => one.name);
  const words =
    draft.unit.kind.startsWith("air_to_air") && consumer.value === "distribution_pump"
      ? "indoor fans"
      : consumer.words;
  const said = !there ? "not there" : meters.length ? meters.join(", ") : "not metered";
  const pressed = (event: KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    toggle();
  };
  return (
    <g
      role="checkbox"
      aria-checked={inside}
      aria-label={`${words}: ${said}. In or out of ${meterName}`}
      tabIndex={0}
      style={{ cursor: "pointer" }}
      onClick={toggle}
      onKeyDown={pressed}
      transform={`translate(${place.x} ${place.y})`}
    >
      <rect
        {...BOX}
        rx={3}
        fill="var(--sheet)"
        stroke={inside ? "var(--ink)" : "var(--line)"}
        strokeWidth={inside ? 2 : 1}
        strokeDasharray={there ? undefined : "3 3"}
      />
      <text x={8} y={20} fontSize={12} fontWeight={600} fill={there ? "var(--ink)" : "var(--soft)"}>
        {words}
      </text>
      <text x={8} y={38} fontSize={11} fill={there && !meters.length ? "var(--ember)" : "var(--soft)"}>
        {said.length > 18 ? `${said.slice(0, 17)}…` : said}
      </text>
      {inside && <rect x={BOX.width - 14} y={6} width={8} height={8} fill="var(--ink)" />}
    </g>
  );
}
