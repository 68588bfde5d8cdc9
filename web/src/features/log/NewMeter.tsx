/** A meter that a file holds and the description does not: described there and then. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Controller } from "react-hook-form";

import { api, got, type Channel, type SystemShown } from "../../api/client";
import { useForget } from "../../api/hooks";
import type { components } from "../../api/schema";
import { refusedAt, useTyped, Words } from "../../components/Form";
import * as look from "../../components/look";
import { useTell } from "../../components/Told";

type Added = components["schemas"]["MeterAdded"];

interface Props {
  system: SystemShown;
  header: string;
  channel: Channel & { meter: NonNullable<Channel["meter"]> };
  added: (channel: string) => void;
  close: () => void;
}

export function NewMeter({ system, header, channel, added, close }: Props) {
  const { words, holds, usual } = channel.meter;
  const form = useTyped<Added>("MeterAdded", {
    channel: channel.channel,
    name: header
      .replace(/[[(].*/, "")
      .trim()
      .slice(0, 40),
    includes: usual,
  });
  const { control, formState } = form;
  const queries = useQueryClient();
  const forget = useForget();
  const tell = useTell();
  const add = useMutation({
    mutationFn: (body: Added) =>
      got(api.POST("/api/v1/systems/{pk}/meters", { params: { path: { pk: system.id } }, body })),
    onSuccess: (now, { name }) => {
      void queries.invalidateQueries({ queryKey: ["channels", system.id] });
      forget(system.id);
      tell(`“${name}” is described. Set up has its class and all else, and the description before.`);
      added(now.channel);
      close();
    },
    onError: (error) => refusedAt(form, error),
  });
  const submit = form.handleSubmit((typed) => add.mutate(typed));
  return (
    <Dialog open onClose={close} aria-labelledby="new-meter">
      <Box component="form" noValidate onSubmit={(event) => void submit(event)}>
        <DialogTitle id="new-meter">Describe {words}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 10, width: 400 }}>
          <Box component="p" sx={look.soft}>
            Read from the column “{header}”. It begins with the usual limits of error of its kind; say its
            class and where it sits in Set up.
          </Box>
          <Words control={control} name="name" label="Name" grows focused />
          {holds.length > 0 && (
            <Controller
              control={control}
              name="includes"
              render={({ field, fieldState: { error } }) => (
                <Box role="group" aria-label="It holds">
                  <Typography variant="caption">It holds</Typography>
                  <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr" }}>
                    {holds.map((one) => (
                      <label key={one}>
                        <Checkbox
                          checked={field.value.includes(one)}
                          onChange={(event) =>
                            field.onChange(
                              event.target.checked
                                ? [...field.value, one]
                                : field.value.filter((other) => other !== one),
                            )
                          }
                        />{" "}
                        {one.replace("_", " ")}
                      </label>
                    ))}
                  </Box>
                  {error && (
                    <Box role="alert" sx={look.ember}>
                      {error.message}
                    </Box>
                  )}
                </Box>
              )}
            />
          )}
          {formState.errors.root && (
            <Alert severity="warning" role="alert">
              {formState.errors.root.message}
            </Alert>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button variant="contained" type="submit" disabled={add.isPending}>
            Add the meter
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
