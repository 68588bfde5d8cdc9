/** What a screen says while there is nothing to show. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Skeleton from "@mui/material/Skeleton";
import Typography from "@mui/material/Typography";
import * as look from "./look";
import type { ReactNode } from "react";

/** What most screens are: a line, a picture, some rows. */
const SHAPE: [string, number][] = [
  ["38%", 14],
  ["100%", 150],
  ["100%", 14],
  ["92%", 14],
  ["96%", 14],
];

export function Waiting({ what }: { what: string }) {
  return (
    <Box sx={{ display: "grid", gap: 10, padding: 14, maxWidth: 900 }}>
      <Box component="p" sx={look.soft} role="status">
        Fetching {what} …
      </Box>
      {SHAPE.map(([width, height], k) => (
        <Skeleton key={k} width={width} height={height} />
      ))}
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
