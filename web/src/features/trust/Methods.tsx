/** All ways in which heat was measured, side by side, and the levels that lack a meter. */
import Box from "@mui/material/Box";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import type { TrustShown } from "../../api/client";
import { figureText, number, plusMinus } from "../../components/numbers";
import { HonestFigure } from "../../components/Proof";

export function Methods({ found }: { found: TrustShown }) {
  if (found.methods.length === 0)
    return (
      <section>
        <Typography variant="h2">Methods of measuring heat</Typography>
        <Box component="p" sx={look.soft}>
          None can be stated for this period.
        </Box>
      </section>
    );
  return (
    <section>
      <Typography variant="h2">Methods of measuring heat</Typography>
      <FigureTable aria-label="Methods of measuring heat">
        <TableHead>
          <TableRow>
            <TableCell>Meter</TableCell>
            <TableCell>Method</TableCell>
            <TableCell align="right">heat, kWh</TableCell>
            <TableCell align="right">the used one, same time</TableCell>
            <TableCell align="right">ratio</TableCell>
            <TableCell>Reconciled</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {found.methods.map((method) => (
            <TableRow key={method.name}>
              <TableCell>
                {method.name}{" "}
                {method.used && (
                  <Box component="strong" sx={look.teal}>
                    used
                  </Box>
                )}
              </TableCell>
              <TableCell sx={look.soft}>
                {method.method} · {number(method.hours, 0)} h
              </TableCell>
              <TableCell align="right">
                {figureText(method.heat)}{" "}
                <Box component="span" sx={look.soft}>
                  {plusMinus(method.heat)}
                </Box>
              </TableCell>
              <TableCell align="right">{method.used ? "" : figureText(method.other)}</TableCell>
              <TableCell align="right">
                {method.ratio ? (
                  <>
                    {figureText(method.ratio)}{" "}
                    <Box component="span" sx={look.soft}>
                      {plusMinus(method.ratio)}
                    </Box>
                  </>
                ) : (
                  ""
                )}
              </TableCell>
              <TableCell>
                {method.agrees === null ? (
                  method.used ? (
                    ""
                  ) : (
                    "sensors before correction"
                  )
                ) : method.agrees ? (
                  method.one_sided ? (
                    "not above it; what is drawn meanwhile is missing"
                  ) : (
                    "within their U"
                  )
                ) : (
                  <Box component="span" sx={look.ember}>
                    they disagree
                  </Box>
                )}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
      {found.reported.length > 1 && <Reported found={found} />}
      <Typography variant="caption" component="p">
        Each over the time in which both are known. What two ways share, as one flow sensor, cancels in the
        ratio.
      </Typography>
    </section>
  );
}

/** Month by month what the controller reports beside what the meter measures. */
function Reported({ found }: { found: TrustShown }) {
  return (
    <>
      <Typography variant="h2" sx={{ marginTop: 10 }}>
        As the controller reports, month by month{" "}
        <Typography variant="caption" component="span" sx={{ fontWeight: 400 }}>
          an estimate of its own, against the meter over the same time
        </Typography>
      </Typography>
      <FigureTable tight sx={{ maxWidth: 620 }} aria-label="Reported heat by month">
        <TableHead>
          <TableRow>
            <TableCell>Month</TableCell>
            <TableCell>Reported by</TableCell>
            <TableCell align="right">reported, kWh</TableCell>
            <TableCell align="right">measured, kWh</TableCell>
            <TableCell align="right">ratio</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {found.reported.map(({ name, month, method }) => {
            const about = `${name} · ${month}`;
            return (
              <TableRow key={about}>
                <TableCell>{month}</TableCell>
                <TableCell>{name}</TableCell>
                <TableCell align="right">
                  <HonestFigure
                    unit={false}
                    proof={{
                      title: "Heat as reported",
                      about,
                      figure: method.heat,
                      formula: "as the controller gives it",
                    }}
                  />
                </TableCell>
                <TableCell align="right">
                  <HonestFigure
                    unit={false}
                    proof={{
                      title: "Heat as measured",
                      about,
                      figure: method.other,
                      formula: `over the ${number(method.hours, 0)} h in which both are known`,
                    }}
                  />
                </TableCell>
                <TableCell align="right">
                  <HonestFigure
                    proof={{
                      title: "Reported ÷ measured",
                      about,
                      figure: method.ratio,
                      formula: `${figureText(method.heat)} kWh ÷ ${figureText(method.other)} kWh`,
                    }}
                  />
                </TableCell>
                <TableCell>
                  {method.agrees === false && (
                    <Box component="span" sx={look.ember}>
                      they disagree
                    </Box>
                  )}
                </TableCell>
              </TableRow>
            );
          })}
        </TableBody>
      </FigureTable>
    </>
  );
}

export function Missing({ found }: { found: TrustShown }) {
  const silent = Object.entries(found.silent);
  if (found.missing.length === 0 && silent.length === 0) return null;
  return (
    <section>
      <Typography variant="h2">What is missing</Typography>
      <FigureTable aria-label="Levels that cannot be computed">
        <TableBody>
          {found.missing.map((one) => (
            <TableRow key={one.level}>
              <TableCell sx={{ width: 40 }}>{one.level}</TableCell>
              <TableCell>{one.reason.sentence}</TableCell>
              <TableCell align="right">
                {one.between && (
                  <>
                    COP {figureText(one.between.low)} to {figureText(one.between.high)}{" "}
                    <Box component="span" sx={look.soft}>
                      {one.between.words}
                    </Box>
                  </>
                )}
              </TableCell>
            </TableRow>
          ))}
          {silent.map(([name, why]) => (
            <TableRow key={name}>
              <TableCell colSpan={3}>
                {name}:{" "}
                <Box component="span" sx={look.soft}>
                  {why.sentence}
                </Box>
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </FigureTable>
    </section>
  );
}
