/** The boundary levels, those that can be computed to choose. */
import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import type { Level } from "../../api/client";
import { figureText } from "../numbers";
import * as look from "../look";

export function Stepper({
  levels,
  level,
  setLevel,
}: {
  levels: Level[];
  level: string | null;
  setLevel: (level: string) => void;
}) {
  const chosen = levels.find((one) => one.level === level);
  const lacking = levels.filter((one) => !one.reckoning);
  return (
    <section>
      <Box sx={{ display: "flex", alignItems: "center", gap: 8 }}>
        <ToggleButtonGroup aria-label="Boundary level">
          {levels.map((one) => (
            <Tooltip key={one.level} title={one.reason?.sentence ?? `${one.level}: ${one.words}`}>
              <ToggleButton
                value={one.level}
                sx={one.reckoning ? {} : look.lacking}
                selected={one.level === level}
                disabled={!one.reckoning}
                onClick={() => setLevel(one.level)}
              >
                {one.level}
              </ToggleButton>
            </Tooltip>
          ))}
        </ToggleButtonGroup>
        <Typography variant="caption" component="span">
          {chosen?.words}
        </Typography>
      </Box>
      {lacking.map((one) => (
        <Typography variant="caption" component="p" sx={{ marginTop: 3 }} key={one.level}>
          {one.level}: {one.reason?.sentence}
          {one.between &&
            `. Between ${figureText(one.between.low)} and ${figureText(one.between.high)} ${one.between.words}`}
        </Typography>
      ))}
    </section>
  );
}
