/** What was seen and done at the unit, by one tap with the time, or written down later. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import Typography from "@mui/material/Typography";
import { Choice } from "../../components/Choice";
import { TextInput } from "../../components/TextInput";
import { FigureTable } from "../../components/Sheets";
import * as look from "../../components/look";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, got, type SystemShown } from "../../api/client";
import { useObservations } from "../../api/hooks";
import { useKeys } from "../../app/keys";
import { localMinute } from "../../components/numbers";
import { useNow } from "../../components/useNow";
import { Trouble, Waiting } from "../../components/Said";
import { useRemove } from "./remove";

export function Noted({ system }: { system: SystemShown }) {
  const params = { params: { path: { pk: system.id } } };
  const noted = useObservations(system.id);
  const queries = useQueryClient();
  const [time, setTime] = useState("");
  const [kind, setKind] = useState("note");
  const [note, setNote] = useState("");
  const [photo, setPhoto] = useState("");
  const now = useNow();
  const remove = useRemove(system.id, "observations");
  const keep = useMutation({
    mutationFn: (one: { kind: string; time: string; note: string; photo: string }) =>
      got(api.POST("/api/v1/systems/{pk}/observations", { ...params, body: { id: null, ...one } })),
    onSuccess: (next) => {
      queries.setQueryData(["observations", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
    },
  });
  const written = () =>
    keep.mutate(
      { kind, time, note, photo },
      {
        onSuccess: () => {
          setNote("");
          setPhoto("");
          setTime("");
        },
      },
    );
  useKeys({ n: () => document.getElementById("note")?.focus() });
  if (noted.isError) return <Trouble error={noted.error} again={() => void noted.refetch()} />;
  if (!noted.data) return <Waiting what="what was noted" />;
  return (
    <Box
      component="section"
      sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12, maxWidth: 900 }}
    >
      <div>
        <Typography variant="h2">Now</Typography>
        <Box component="p" sx={{ display: "flex", gap: 6, flexWrap: "wrap", marginTop: 4 }}>
          {noted.data.kinds
            .filter((one) => one.tap && one.kind !== "note")
            .map((one) => (
              <Button
                sx={{ minHeight: 34, padding: "4px 14px" }}
                key={one.kind}
                disabled={keep.isPending}
                onClick={() => keep.mutate({ kind: one.kind, time: "", note: "", photo: "" })}
              >
                {one.words}
              </Button>
            ))}
        </Box>
        <Typography variant="caption" component="p">
          Keep clear of the fan: it starts by itself. Meltwater freezes on paths; ice is not knocked off a
          coil.
        </Typography>
      </div>
      <Box
        component="form"
        sx={{ display: "flex", gap: 6, flexWrap: "wrap", alignItems: "end" }}
        onSubmit={(event) => {
          event.preventDefault();
          written();
        }}
      >
        <Typography variant="caption" component="label">
          What
          <br />
          <Choice value={kind} onChange={(event) => setKind(event.target.value)}>
            {noted.data.kinds.map((one) => (
              <option key={one.kind} value={one.kind}>
                {one.words}
              </option>
            ))}
          </Choice>
        </Typography>
        <Typography variant="caption" component="label">
          When, empty for now
          <br />
          <TextInput
            sx={{ width: 140 }}
            value={time}
            placeholder={localMinute(now, system.zone).replace("T", " ")}
            onChange={(event) => setTime(event.target.value)}
          />
        </Typography>
        <Typography variant="caption" component="label" sx={{ flex: 1, minWidth: 220 }}>
          Note
          <br />
          <TextInput
            sx={{ width: "100%" }}
            id="note"
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </Typography>
        <Typography variant="caption" component="label">
          Photo, its name
          <br />
          <TextInput sx={{ width: 130 }} value={photo} onChange={(event) => setPhoto(event.target.value)} />
        </Typography>
        <Button variant="contained" type="submit" sx={{ alignSelf: "flex-end" }} disabled={keep.isPending}>
          Write down
        </Button>
      </Box>
      {(keep.isError || remove.isError) && (
        <Alert severity="warning" role="alert">
          {(keep.error ?? remove.error)?.message}
        </Alert>
      )}
      {noted.data.rows.length === 0 ? (
        <Box component="p" sx={look.soft}>
          Nothing noted yet. A defrost that is watched, ice that is left after it, a setting that was changed:
          one tap keeps the time.
        </Box>
      ) : (
        <FigureTable aria-label="Noted">
          <TableHead>
            <TableRow>
              <TableCell>Time</TableCell>
              <TableCell>What</TableCell>
              <TableCell>Note</TableCell>
              <TableCell>Photo</TableCell>
              <TableCell>By</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {noted.data.rows.map((one) => (
              <TableRow key={one.id}>
                <TableCell sx={{ whiteSpace: "nowrap" }}>{one.local}</TableCell>
                <TableCell sx={{ whiteSpace: "nowrap" }}>{one.words}</TableCell>
                <TableCell>{one.note}</TableCell>
                <TableCell sx={look.soft}>{one.photo}</TableCell>
                <TableCell sx={look.soft}>{one.user ?? ""}</TableCell>
                <TableCell align="right">
                  <Button
                    variant="text"
                    aria-label={`Take ${one.words}, ${one.local}, out`}
                    onClick={() => remove.mutate(one.id)}
                  >
                    ×
                  </Button>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </FigureTable>
      )}
    </Box>
  );
}
