/** SCOP by EN 14825 from the rated table, bin by bin; and the same sum over this site's own weather. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { FigureButton } from "../../components/FigureButton";
import * as look from "../../components/look";
import { useState } from "react";

import type { ScopShown, SystemShown } from "../../api/client";
import { useRated, useSame, type Stretch } from "../../api/hooks";
import { cap } from "../../components/Proof";
import { number, percent, type Shown } from "../../components/numbers";
import { Empty, Trouble, Waiting } from "../../components/Said";
import { DeclaredForm } from "./DeclaredForm";
import { must } from "../../components/must";

export function Scop({
  system,
  stretch,
  temp,
  power,
}: {
  system: SystemShown;
  stretch: Stretch | null;
  temp: Shown;
  power: Shown;
}) {
  const rated = useRated(system.id);
  const [chosen, setChosen] = useState<string | null>(null);
  if (rated.isError) return <Trouble error={rated.error} again={() => void rated.refetch()} />;
  if (!rated.data) return <Waiting what="the SCOP" />;
  const { scops, scop_reason, kind } = rated.data;
  if (!scops.length)
    return (
      <Box sx={{ display: "grid", gap: 12 }}>
        <DeclaredForm key={system.id} system={system} rated={rated.data} temp={temp} />
        <Empty title="No estimate from a rated table">
          <p>{cap(scop_reason?.sentence ?? "there is no rated table")}.</p>
        </Empty>
      </Box>
    );
  const climates = [...new Set(scops.map((one) => must(one.name.split(" ")[0])))];
  const levels = [...new Set(scops.map((one) => one.name.split(", ")[1] ?? "on room air"))];
  const shown = scops.find((one) => one.name === chosen) ?? must(scops[Math.min(2, scops.length - 1)]);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <DeclaredForm key={system.id} system={system} rated={rated.data} temp={temp} />
      <section>
        <Typography variant="h2">
          SCOP estimate from the rated table{" "}
          <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
            the bins of EN 14825 over the table’s surface, not its declared points; the SPF is what was
            measured here
          </Typography>
        </Typography>
        <FigureTable sx={{ maxWidth: 620 }} aria-label="SCOP by climate and level">
          <TableHead>
            <TableRow>
              <TableCell>Climate</TableCell>
              {levels.map((level) => (
                <TableCell align="right" key={level}>
                  {level}
                </TableCell>
              ))}
            </TableRow>
          </TableHead>
          <TableBody>
            {climates.map((climate) => (
              <TableRow key={climate}>
                <TableCell>{cap(climate)}</TableCell>
                {levels.map((level) => {
                  const one = scops.find(
                    (s) => s.name.startsWith(climate) && (s.name.split(", ")[1] ?? "on room air") === level,
                  );
                  return (
                    <TableCell align="right" key={level}>
                      {one && (
                        <Tooltip title={one.reason?.sentence ?? one.notes.join(" ")}>
                          <FigureButton
                            sx={{
                              fontWeight: one === shown ? 700 : 400,
                              textDecoration: one === shown ? "underline" : undefined,
                            }}
                            aria-pressed={one === shown}
                            onClick={() => setChosen(one.name)}
                          >
                            {one.on === null ? "not offered" : number(one.on, 2)}
                            {one.on !== null && one.assumed_share > 0.005 ? "*" : ""}
                          </FigureButton>
                        </Tooltip>
                      )}
                    </TableCell>
                  );
                })}
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
        <Typography variant="caption" component="p">
          Estimates of the bins alone. * some bins lie outside the table and are assumed.
          {kind === "air" && " HSPF2 is not offered: its constants are not certain here."}
        </Typography>
      </section>
      <Bins one={shown} temp={temp} power={power} />
      {stretch && <SiteBins system={system} stretch={stretch} temp={temp} power={power} />}
    </Box>
  );
}

function Bins({ one, temp, power }: { one: ScopShown; temp: Shown; power: Shown }) {
  const heat = one.bins.reduce((sum, bin) => sum + bin.heat, 0);
  const used = one.bins.reduce((sum, bin) => sum + bin.electricity, 0);
  return (
    <section>
      <Typography variant="h2">{cap(one.name)}</Typography>
      <p>
        {one.on === null ? (
          <Box component="span" sx={look.ember}>
            Not offered: {one.reason?.sentence}.
          </Box>
        ) : (
          <>
            SCOP estimate = {number(heat, 0)} kWh ÷ {number(used, 0)} kWh ={" "}
            <strong>{number(one.on, 2)}</strong>
            {one.scop !== null && `, with auxiliary powers ${number(one.scop, 2)}`}. Load{" "}
            {number(power.of(one.design_load * 1000), 1)} {power.symbol} at the design temperature, capacity
            meets it at {number(temp.of(one.bivalent), 0)} {temp.symbol}.
          </>
        )}
      </p>
      <Typography variant="caption" component="ul" sx={{ margin: "2px 0 6px", paddingLeft: 18 }}>
        {one.notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
      </Typography>
      <BinTable label={`Bins of ${one.name}`} bins={one.bins} temp={temp} power={power} />
    </section>
  );
}

export function BinTable({
  label,
  bins,
  temp,
  power,
}: {
  label: string;
  bins: ScopShown["bins"];
  temp: Shown;
  power: Shown;
}) {
  const kw = (value: number) => number(power.of(value * 1000), 2);
  return (
    <Box
      sx={{ maxHeight: 330, overflow: "auto" }}
      tabIndex={0}
      role="region"
      aria-label={`${label}, scrolled`}
    >
      <FigureTable tight aria-label={label}>
        <TableHead>
          <TableRow>
            <TableCell align="right">Outdoors {temp.symbol}</TableCell>
            <TableCell align="right">Hours</TableCell>
            <TableCell align="right">Flow or room {temp.symbol}</TableCell>
            <TableCell align="right">Load {power.symbol}</TableCell>
            <TableCell align="right">Capacity</TableCell>
            <TableCell align="right">Load ÷ least</TableCell>
            <TableCell align="right">COP</TableCell>
            <TableCell align="right">Heater</TableCell>
            <TableCell align="right">Heat kWh</TableCell>
            <TableCell align="right">Electricity kWh</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {bins.map((bin) => (
            <TableRow key={bin.outdoor}>
              <TableCell align="right">
                {number(temp.of(bin.outdoor), Number.isInteger(bin.outdoor) ? 0 : 1)}
              </TableCell>
              <TableCell align="right">{number(bin.hours, 0)}</TableCell>
              <TableCell align="right">{number(temp.of(bin.flow), 1)}</TableCell>
              <TableCell align="right">{kw(bin.load)}</TableCell>
              <TableCell align="right">{kw(bin.capacity)}</TableCell>
              <TableCell align="right">{bin.ratio < 0.995 ? number(bin.ratio, 2) : "–"}</TableCell>
              <TableCell align="right">{bin.cop === null ? "–" : number(bin.cop, 2)}</TableCell>
              <TableCell align="right">{bin.backup > 0.005 ? kw(bin.backup) : "–"}</TableCell>
              <TableCell align="right">{number(bin.heat, 0)}</TableCell>
              <TableCell align="right">
                {bin.electricity === null ? "–" : number(bin.electricity, 0)}
              </TableCell>
              <TableCell sx={{ ...look.cap, ...look.ember }}>{bin.assumed ? "assumed" : ""}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </Box>
  );
}

function SiteBins({
  system,
  stretch,
  temp,
  power,
}: {
  system: SystemShown;
  stretch: Stretch;
  temp: Shown;
  power: Shown;
}) {
  const same = useSame(system.id, stretch);
  const site = same.data?.site;
  if (!site) return same.isError ? <Trouble error={same.error} /> : <Waiting what="this site's own bins" />;
  return (
    <section>
      <Typography variant="h2">
        This site{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          its own weather, curve and load of {must(same.data).local}; heating, hot water apart
        </Typography>
      </Typography>
      {site.reason?.sentence ? (
        <Box component="p" sx={look.soft}>
          {cap(site.reason?.sentence)}.
        </Box>
      ) : (
        <>
          <p>
            Expected SPF, if as rated: <strong>{site.spf === null ? "–" : number(site.spf, 2)}</strong>
            {site.spf_measured !== null && (
              <>
                ; measured in the same hours: <strong>{number(site.spf_measured, 2)}</strong>, starts and
                defrosts in it
              </>
            )}
            .
            {site.assumed_share > 0.005 &&
              ` ${percent(site.assumed_share)} of the heat lies in bins that the table does not reach.`}
          </p>
          <BinTable label="Bins of this site" bins={site.bins} temp={temp} power={power} />
        </>
      )}
    </section>
  );
}
