import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { TextInput } from "../components/TextInput";
import * as look from "../components/look";
import { useQueryClient } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";

import { api, got, type Me } from "../api/client";

export function SignIn({ me }: { me: Me }) {
  const queries = useQueryClient();
  const [name, setName] = useState(me.demo_name ?? "");
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);

  async function enter(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    setProblem("");
    try {
      queries.setQueryData(["me"], await got(api.POST("/api/v1/sign-in", { body: { name, password } })));
    } catch (error) {
      setProblem((error as Error).message);
      setBusy(false);
    }
  }

  return (
    <Box component="main" sx={{ display: "grid", placeItems: "center", height: "100%" }}>
      <Box component="form" sx={{ width: 300, display: "grid", gap: 10 }} onSubmit={enter}>
        <Typography
          variant="h1"
          sx={{ borderBottom: "3px solid var(--ember)", width: "max-content", paddingBottom: 4 }}
        >
          Honest Ember
        </Typography>
        <Box component="p" sx={look.soft}>
          Measured COP of installed heat pumps, with the sum shown.
        </Box>
        <Box component="label" sx={{ display: "grid", gap: 2 }}>
          Name
          <TextInput
            autoComplete="username"
            autoFocus={!me.demo_name}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </Box>
        <Box component="label" sx={{ display: "grid", gap: 2 }}>
          Password
          <TextInput
            type="password"
            autoComplete="current-password"
            autoFocus={!!me.demo_name}
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </Box>
        {problem && (
          <Alert severity="warning" role="alert">
            {problem}
          </Alert>
        )}
        <Button variant="contained" type="submit" disabled={busy || !name || !password}>
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
