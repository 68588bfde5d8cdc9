/** A question before something is done: what it does, why it is done, and the way back. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import Typography from "@mui/material/Typography";
import { useId, type ReactNode } from "react";
import type { FieldValues, UseFormReturn } from "react-hook-form";

import * as look from "./look";

interface AskDialogProps<Typed extends FieldValues> {
  title: string;
  about: string;
  button: string;
  form: UseFormReturn<Typed>;
  send: (typed: Typed) => void;
  pending: boolean;
  close: () => void;
  /** Its fields. */
  children: ReactNode;
}

export function AskDialog<Typed extends FieldValues>({
  title,
  about,
  button,
  form,
  send,
  pending,
  close,
  children,
}: AskDialogProps<Typed>) {
  const id = useId();
  const submit = form.handleSubmit(send);
  const problem = form.formState.errors.root?.message;
  return (
    <Dialog open onClose={close} aria-labelledby={id}>
      <Box
        component="form"
        noValidate
        sx={{ padding: 16, width: 420, display: "grid", gap: 10 }}
        onSubmit={(event) => void submit(event)}
      >
        <Typography variant="h1" id={id}>
          {title}
        </Typography>
        <Box component="p" sx={look.soft}>
          {about}
        </Box>
        {children}
        {problem && (
          <Alert severity="warning" role="alert">
            {problem}
          </Alert>
        )}
        <Box sx={{ display: "flex", gap: 8 }}>
          <Button variant="contained" type="submit" disabled={pending}>
            {button}
          </Button>
          <Button onClick={close}>Cancel</Button>
        </Box>
      </Box>
    </Dialog>
  );
}
