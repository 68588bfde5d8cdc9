/** What a screen says while there is nothing to show. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import * as look from "./look";
import type { ReactNode } from "react";

export function Waiting({ what }: { what: string }) {
  return (
    <Box component="p" sx={{ ...look.soft, padding: 14 }} role="status">
      Fetching {what} …
    </Box>
  );
}

export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  return (
    <Alert severity="warning" sx={{ margin: 14, maxWidth: 640 }} role="alert">
      <p>{error.message}</p>
      {again && (
        <Button sx={{ marginTop: 6 }} onClick={again}>
          Try again
        </Button>
      )}
    </Alert>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box sx={{ padding: "32px 14px", maxWidth: 520, display: "grid", gap: 8 }}>
      <Typography variant="h1">{title}</Typography>
      {children}
    </Box>
  );
}
