/** What a person chooses for herself: units, light or dark, how numbers and dates are written. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";

import { api, got } from "../api/client";
import { useMe } from "../api/hooks";
import { Choice } from "../components/Choice";
import type { Written } from "../components/numbers";
import { useSettings } from "./settings";

const NUMBERS: readonly Written["numbers"][] = ["1,234.5", "1.234,5", "1 234,5", "1’234.5"];
const DATES: readonly Written["dates"][] = ["22 Jan 2026", "Jan 22, 2026", "2026-01-22"];

export function Choices({ close }: { close: () => void }) {
  const { units, setUnits, mode, setMode } = useSettings();
  const me = useMe();
  const queries = useQueryClient();
  const keep = useMutation({
    // One after the other: an earlier choice must not arrive last.
    scope: { id: "written" },
    mutationFn: (body: Written) => got(api.PUT("/api/v1/me/written", { body })),
    onSuccess: (next) => queries.setQueryData(["me"], next),
  });
  // What is on its way counts already: a second choice adds to the first.
  const sent = keep.isPending ? keep.variables : undefined;
  const written = sent ?? me.data?.written ?? { numbers: "", dates: "" };
  return (
    <Dialog open onClose={close} aria-labelledby="choices-title">
      <DialogTitle id="choices-title">Settings</DialogTitle>
      <DialogContent>
        <Box
          sx={{ display: "grid", gridTemplateColumns: "auto 1fr", gap: "10px 22px", alignItems: "center" }}
        >
          <Line name="Units">
            <ToggleButtonGroup aria-label="Units" value={units} exclusive>
              <ToggleButton value="SI" onClick={() => setUnits("SI")}>
                SI
              </ToggleButton>
              <ToggleButton value="US" onClick={() => setUnits("US")}>
                US
              </ToggleButton>
            </ToggleButtonGroup>
          </Line>
          <Line name="Screen">
            <ToggleButtonGroup aria-label="Screen" value={mode} exclusive>
              <ToggleButton value="light" onClick={() => setMode("light")}>
                Light
              </ToggleButton>
              <ToggleButton value="dark" onClick={() => setMode("dark")}>
                Dark
              </ToggleButton>
            </ToggleButtonGroup>
          </Line>
          <Line name="Numbers">
            <Choice
              aria-label="Numbers"
              value={written.numbers}
              onChange={(event) =>
                keep.mutate({ ...written, numbers: event.target.value as Written["numbers"] })
              }
            >
              <option value="">as this browser does</option>
              {NUMBERS.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </Choice>
          </Line>
          <Line name="Dates">
            <Choice
              aria-label="Dates"
              value={written.dates}
              onChange={(event) => keep.mutate({ ...written, dates: event.target.value as Written["dates"] })}
            >
              <option value="">22 Jan 2026</option>
              {DATES.slice(1).map((one) => (
                <option key={one}>{one}</option>
              ))}
            </Choice>
          </Line>
        </Box>
        <Typography variant="caption" component="p" sx={{ marginTop: 10, maxWidth: 340 }}>
          Numbers and dates are kept with your name, in every browser; units and screen in this one. In a
          field, comma and point are both taken as decimal signs. Hours are those of the installation, 0 to
          24.
        </Typography>
        {keep.isError && (
          <Alert severity="warning" role="alert">
            {keep.error.message}
          </Alert>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <span>{name}</span>
      <span>{children}</span>
    </>
  );
}
