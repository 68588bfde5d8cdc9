/** The numbers at the head of a screen, each with its name, in one or two even lines. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useRef, type ReactNode } from "react";

import * as look from "./look";
import { useWidth } from "./useWidth";

export interface Fact {
  name: string;
  value: ReactNode;
  /** What it stands on, or how it is spread. */
  note?: ReactNode;
  /** Whether it wants attention. */
  ember?: boolean;
}

const LEAST = 122; // a fact's width [px]

export function Facts({ facts }: { facts: (Fact | null)[] }) {
  const box = useRef<HTMLDListElement>(null);
  const width = useWidth(box);
  const shown = facts.filter((one): one is Fact => one !== null);
  // As many lines as it takes, and on each as many as on the others: none stands alone.
  const lines = Math.ceil(shown.length / Math.max(1, Math.floor(width / LEAST)));
  const columns = Math.max(1, Math.ceil(shown.length / Math.max(1, lines)));
  return (
    <Box
      component="dl"
      ref={box}
      sx={{
        display: "grid",
        gridTemplateColumns: `repeat(${columns}, minmax(0, auto))`,
        justifyContent: "space-between",
        gap: "6px 20px",
        margin: 0,
      }}
    >
      {shown.map((fact) => (
        <div key={fact.name}>
          <Typography variant="caption" component="dt">
            {fact.name}
          </Typography>
          <Box component="dd" sx={{ ...(fact.ember ? look.ember : {}), margin: 0 }}>
            <strong>{fact.value}</strong>{" "}
            {fact.note && (
              <Box component="span" sx={look.soft}>
                {fact.note}
              </Box>
            )}
          </Box>
        </div>
      ))}
    </Box>
  );
}
