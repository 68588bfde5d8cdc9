/** Above every screen of a system: which one, the period, units; the season ribbon below. */
import { HeadOf } from "./Frame";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureButton } from "./FigureButton";
import * as look from "./look";
import type { SystemShown } from "../api/client";
import { useFrame } from "../app/frame";
import { useKeys } from "../app/keys";
import { KINDS, type Period } from "../app/period";
import { useSettings } from "../app/settings";
import { longDay, shortDay, dayYear } from "./numbers";
import { SeasonRibbon } from "./SeasonRibbon";

export function Head({ system, period }: { system: SystemShown; period: Period | null }) {
  const frame = useFrame();
  useKeys({ "[": () => period?.shift(-1), "]": () => period?.shift(1) });
  return (
    <HeadOf>
      <Box sx={{ ...look.line, "@media (max-width: 800px)": { flexWrap: "wrap" } }}>
        <Typography variant="h1" sx={{ ...look.grow, flex: "0 1 auto" }}>
          <Tooltip title="Find another installation ( / )">
            <FigureButton sx={{ fontWeight: 650 }} onClick={frame.find}>
              {system.name} <span aria-hidden>▾</span>
            </FigureButton>
          </Tooltip>
        </Typography>
        <Box component="span" sx={{ ...look.soft, ...look.grow }}>
          {system.unit} · time of the installation, {system.zone}
        </Box>
        {period && (
          <>
            <ToggleButtonGroup aria-label="Length of the period">
              {KINDS.map((kind) => (
                <ToggleButton
                  value={kind}
                  key={kind}
                  selected={period.kind === kind}
                  onClick={() => period.setKind(kind)}
                >
                  {kind}
                </ToggleButton>
              ))}
            </ToggleButtonGroup>
            <Tooltip title="Previous ( [ )">
              <span>
                <Button
                  aria-label="Previous"
                  disabled={period.from <= period.first}
                  onClick={() => period.shift(-1)}
                >
                  ‹
                </Button>
              </span>
            </Tooltip>
            <Box component="strong" sx={{ minWidth: 150, textAlign: "center" }} data-testid="period">
              {periodText(period, system.zone)}
            </Box>
            <Tooltip title="Next ( ] )">
              <span>
                <Button aria-label="Next" disabled={period.to >= period.last} onClick={() => period.shift(1)}>
                  ›
                </Button>
              </span>
            </Tooltip>
          </>
        )}
        <UnitSwitch />
        <Button aria-label="Keys" onClick={frame.help}>
          ?
        </Button>
      </Box>
      {period && system.days ? (
        <SeasonRibbon days={system.days} zone={system.zone} period={period} />
      ) : (
        <Box sx={{ height: 10 }} />
      )}
    </HeadOf>
  );
}

export function UnitSwitch() {
  const { units, setUnits } = useSettings();
  return (
    <ToggleButtonGroup aria-label="Units">
      {(["SI", "US"] as const).map((one) => (
        <ToggleButton value={one} key={one} selected={units === one} onClick={() => setUnits(one)}>
          {one}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

function periodText(period: Period, zone: string): string {
  const noon = (day: string) => Date.parse(`${day}T12:00:00Z`) / 1000;
  if (period.from === period.to) return longDay(noon(period.from), zone);
  const sameYear = period.from.slice(0, 4) === period.to.slice(0, 4);
  return `${(sameYear ? shortDay : dayYear)(noon(period.from), zone)} – ${dayYear(noon(period.to), zone)}`;
}
