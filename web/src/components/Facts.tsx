/** The numbers at the head of a screen, each with its name, in one quiet line. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import * as look from "./look";
import type { ReactNode } from "react";

export interface Fact {
  name: string;
  value: ReactNode;
  /** What it stands on, or how it is spread. */
  note?: ReactNode;
  /** Whether it wants attention. */
  ember?: boolean;
}

export function Facts({ facts }: { facts: (Fact | null)[] }) {
  return (
    <Box component="dl" sx={{ display: "flex", flexWrap: "wrap", gap: "6px 26px", margin: 0 }}>
      {facts
        .filter((one): one is Fact => one !== null)
        .map((fact) => (
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
