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
    <main style={{ display: "grid", placeItems: "center", height: "100%" }}>
      <form onSubmit={enter} style={{ width: 300, display: "grid", gap: 10 }}>
        <h1 style={{ borderBottom: "3px solid var(--ember)", width: "max-content", paddingBottom: 4 }}>
          Honest Ember
        </h1>
        <p className="soft">Measured COP of installed heat pumps, with the sum shown.</p>
        <label style={{ display: "grid", gap: 2 }}>
          Name
          <input
            type="text"
            autoComplete="username"
            autoFocus={!me.demo_name}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <label style={{ display: "grid", gap: 2 }}>
          Password
          <input
            type="password"
            autoComplete="current-password"
            autoFocus={!!me.demo_name}
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
        </label>
        {problem && (
          <p role="alert" className="notice">
            {problem}
          </p>
        )}
        <button className="key main" disabled={busy || !name || !password}>
          Sign in
        </button>
        {me.demo && (
          <p className="cap">
            This is a demo. The terminal in which it was started shows an address that signs you in, and the
            password of {me.demo_name}.
          </p>
        )}
      </form>
    </main>
  );
}
