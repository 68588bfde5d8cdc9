import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, got, type Me } from "../api/client";
import { refusedAt, useTyped, Words } from "../components/Form";
import * as look from "../components/look";

export function SignIn({ me }: { me: Me }) {
  const queries = useQueryClient();
  const form = useTyped<{ name: string; password: string }>("SignIn", {
    name: me.demo_name ?? "",
    password: "",
  });
  const enter = useMutation({
    mutationFn: (body: { name: string; password: string }) => got(api.POST("/api/v1/sign-in", { body })),
    onSuccess: (found) => queries.setQueryData(["me"], found),
    onError: (error) => refusedAt(form, error),
  });
  const submit = form.handleSubmit((typed) => enter.mutate(typed));
  const problem = form.formState.errors.root?.message;
  return (
    <Box component="main" sx={{ display: "grid", placeItems: "center", height: "100%" }}>
      <Box
        component="form"
        noValidate
        sx={{ width: 300, display: "grid", gap: 10 }}
        onSubmit={(event) => void submit(event)}
      >
        <Typography
          variant="h1"
          sx={{ borderBottom: "3px solid var(--ember)", width: "max-content", paddingBottom: 4 }}
        >
          Honest Ember
        </Typography>
        <Box component="p" sx={look.soft}>
          Measured COP of installed heat pumps, with the sum shown.
        </Box>
        <Words
          control={form.control}
          name="name"
          label="Name"
          autoComplete="username"
          grows
          focused={!me.demo_name}
        />
        <Words
          control={form.control}
          name="password"
          label="Password"
          type="password"
          autoComplete="current-password"
          grows
          focused={!!me.demo_name}
        />
        {problem && (
          <Alert severity="warning" role="alert">
            {problem}
          </Alert>
        )}
        <Button variant="contained" type="submit" disabled={enter.isPending}>
          Sign in
        </Button>
        {me.demo && (
          <Typography variant="caption" component="p">
            This is a demo. The terminal in which it was started shows an address that signs you in, and the
            password of {me.demo_name}.
          </Typography>
        )}
      </Box>
    </Box>
  );
}
