import { useEffect, useRef } from "react";

import type { Strip as StripShown } from "../../api/client";
import { useShade } from "../../app/settings";
import { drawDays, KIND_WORDS, prepare } from "../../components/SeasonRibbon";

/** A year, day by day. */
export function Strip({ strip, width, height }: { strip: StripShown; width: number; height: number }) {
  const shade = useShade();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current && prepare(canvas.current, width, height);
    if (context) drawDays(context, strip.kwh, strip.kinds, width, height, 0.2, shade);
  }, [strip, width, height, shade]);
  return (
    <canvas ref={canvas} role="img" aria-label={words(strip)} style={{ width, height, display: "block" }} />
  );
}

function words(strip: StripShown): string {
  const counts = new Map<string, number>();
  for (const kind of strip.kinds) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  const parts = [...counts]
    .sort((a, b) => b[1] - a[1])
    .map(([kind, count]) => `${count} days ${KIND_WORDS[kind]}`);
  return `Year from ${strip.first}: ${parts.join(", ")}`;
}
