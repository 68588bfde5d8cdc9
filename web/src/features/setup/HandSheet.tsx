/** What is read by hand, and further sensors that are logged. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { FigureTable } from "../../components/Sheets";
import { TextInput } from "../../components/TextInput";
import * as look from "../../components/look";
import { added, changed } from "./draft";
import { NumberField } from "../../components/NumberField";
import { ChoiceOf, type Part, RemoveCell, Wrongs } from "./Fields";
import { must } from "../../components/must";

const PROBES = ["AA", "A", "B"].map((value) => ({ value, words: `class ${value}` }));

export function Sensors({ setup, draft, edit, problems }: Part) {
  const channels = setup.choices["channels"] ?? [];
  return (
    <section>
      <Typography variant="h2">Further sensors</Typography>
      {draft.sensors.length > 0 && (
        <FigureTable tight sx={{ maxWidth: 720 }} aria-label="Further sensors">
          <TableHead>
            <TableRow>
              <TableCell>What</TableCell>
              <TableCell>Channel</TableCell>
              <TableCell>Class</TableCell>
              <TableCell>Limit ±</TableCell>
              <TableCell>Place</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {draft.sensors.map((sensor, k) => (
              <TableRow key={k}>
                <TableCell>
                  <ChoiceOf
                    label={`Sensor ${k + 1} measures`}
                    value={sensor.channel.split(":")[0] ?? null}
                    choices={channels}
                    put={(channel) =>
                      edit(changed(draft, "sensors", k, { channel: must(channel), probe: null }))
                    }
                  />
                </TableCell>
                <TableCell>
                  <TextInput
                    sx={{ width: 150 }}
                    aria-label={`Channel of sensor ${k + 1}`}
                    value={sensor.channel}
                    onChange={(event) => edit(changed(draft, "sensors", k, { channel: event.target.value }))}
                  />
                  <Wrongs problems={problems} where={`sensors.${k}`} />
                </TableCell>
                <TableCell>
                  {/temp$/.test(sensor.channel.split(":")[0] ?? "") && (
                    <ChoiceOf
                      label={`Class of sensor ${k + 1}`}
                      value={sensor.probe}
                      choices={PROBES}
                      put={(probe) => edit(changed(draft, "sensors", k, { probe }))}
                      none="not known"
                    />
                  )}
                </TableCell>
                <TableCell>
                  <NumberField
                    label={`Limit of sensor ${k + 1}`}
                    value={sensor.limit_k}
                    put={(limit_k) => edit(changed(draft, "sensors", k, { limit_k }))}
                    width={50}
                  />{" "}
                  {setup.choices[`units of ${sensor.channel.split(":")[0]}`]?.[0]?.words ?? ""}
                </TableCell>
                <TableCell>
                  <TextInput
                    sx={{ width: 140 }}
                    aria-label={`Place of sensor ${k + 1}`}
                    value={sensor.place}
                    onChange={(event) => edit(changed(draft, "sensors", k, { place: event.target.value }))}
                  />
                </TableCell>
                <RemoveCell
                  remove={() => edit({ ...draft, sensors: draft.sensors.filter((_, j) => j !== k) })}
                />
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
      )}
      <Button sx={{ marginTop: 4 }} onClick={() => edit(added(draft, "sensors", must(setup.fresh.sensors)))}>
        Add a sensor
      </Button>
    </section>
  );
}

export function HandSheet({ setup, draft, edit, problems }: Part) {
  const electric = draft.electricity.map((one) => one.name);
  const heat = [...draft.registers.map((one) => one.name), ...draft.circuits.map((one) => one.name)];
  const named = (names: string[]) => names.map((name) => ({ value: name, words: name }));
  return (
    <section>
      <Typography variant="h2">Readings by hand</Typography>
      <Box component="p" sx={look.soft}>
        The columns of the sheet in the Log. A display that shows only environmental yield is of its own kind:
        it is never taken for heat.
      </Box>
      {draft.by_hand.length > 0 && (
        <FigureTable tight aria-label="Columns of the sheet">
          <TableHead>
            <TableRow>
              <TableCell>Column</TableCell>
              <TableCell>Is</TableCell>
              <TableCell>Of</TableCell>
              <TableCell>Unit</TableCell>
              <TableCell>Keeps</TableCell>
              <TableCell>Last digit</TableCell>
              <TableCell>Digits</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {draft.by_hand.map((series, k) => {
              const other = series.kind === "other";
              const put = (change: Partial<typeof series>) => edit(changed(draft, "by_hand", k, change));
              return (
                <TableRow key={k}>
                  <TableCell>
                    <TextInput
                      sx={{ width: 130 }}
                      aria-label={`Column ${k + 1}`}
                      value={series.name}
                      onChange={(event) => put({ name: event.target.value })}
                    />
                    <Wrongs problems={problems} where={`by_hand.${k}`} />
                  </TableCell>
                  <TableCell>
                    <ChoiceOf
                      label={`Kind of ${series.name}`}
                      value={series.kind}
                      choices={setup.choices["by_hand.kind"] ?? []}
                      put={(kind) =>
                        put({
                          kind: must(kind),
                          meter:
                            kind === "electricity"
                              ? (electric[0] ?? null)
                              : kind === "heat"
                                ? (heat[0] ?? null)
                                : null,
                          channel: kind === "other" ? "outdoor_temp" : null,
                          unit: kind === "other" ? "degC" : "kWh",
                          keeps: "register",
                        })
                      }
                    />
                  </TableCell>
                  <TableCell>
                    {other ? (
                      <ChoiceOf
                        label={`What ${series.name} is`}
                        value={series.channel}
                        choices={setup.choices["channels"] ?? []}
                        put={(channel) =>
                          put({
                            channel,
                            unit: setup.choices[`units of ${channel}`]?.[0]?.value ?? series.unit,
                          })
                        }
                      />
                    ) : series.kind === "environmental_yield" ? (
                      <Box component="span" sx={look.soft}>
                        the source
                      </Box>
                    ) : (
                      <ChoiceOf
                        label={`Meter of ${series.name}`}
                        value={series.meter}
                        choices={named(series.kind === "heat" ? heat : electric)}
                        put={(meter) => put({ meter })}
                        none="choose"
                      />
                    )}
                  </TableCell>
                  <TableCell>
                    <ChoiceOf
                      label={`Unit of ${series.name}`}
                      value={series.unit}
                      choices={setup.choices[other ? `units of ${series.channel}` : "units.joule"] ?? []}
                      put={(unit) => put({ unit: must(unit) })}
                    />
                  </TableCell>
                  <TableCell>
                    {!other && (
                      <ChoiceOf
                        label={`${series.name} keeps`}
                        value={series.keeps}
                        choices={(setup.choices["by_hand.keeps"] ?? []).map((one) => ({
                          ...one,
                          words: one.value === "register" ? "a register" : `the ${one.words}’s total`,
                        }))}
                        put={(keeps) => put({ keeps: must(keeps) })}
                      />
                    )}
                  </TableCell>
                  <TableCell>
                    <NumberField
                      label={`Last digit of ${series.name}`}
                      value={series.resolution}
                      put={(resolution) => put({ resolution: resolution ?? 0 })}
                      width={50}
                    />
                  </TableCell>
                  <TableCell>
                    {!other && series.keeps === "register" && (
                      <NumberField
                        label={`Digits of ${series.name}`}
                        value={series.digits}
                        put={(digits) => put({ digits })}
                        width={40}
                      />
                    )}
                  </TableCell>
                  <RemoveCell
                    remove={() => edit({ ...draft, by_hand: draft.by_hand.filter((_, j) => j !== k) })}
                  />
                </TableRow>
              );
            })}
          </TableBody>
        </FigureTable>
      )}
      <Button
        sx={{ marginTop: 4 }}
        onClick={() =>
          edit(added(draft, "by_hand", { ...must(setup.fresh.by_hand), meter: electric[0] ?? null }))
        }
      >
        Add a column
      </Button>
    </section>
  );
}
