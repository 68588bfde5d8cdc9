/** What was just done, said in passing, with the way back. */
import Button from "@mui/material/Button";
import Snackbar from "@mui/material/Snackbar";
import { createContext, useCallback, useContext, useState, type ReactNode } from "react";

/** Says what was done; undo takes it back, and may fail. */
type Tell = (what: string, undo?: () => Promise<unknown>) => void;

const Context = createContext<Tell>(() => undefined);

export const useTell = () => useContext(Context);

const SHOWN_FOR = 9000; // [ms]

interface Said {
  what: string;
  undo: (() => Promise<unknown>) | null;
  at: number;
}

export function Told({ children }: { children: ReactNode }) {
  const [said, setSaid] = useState<Said | null>(null);
  const tell: Tell = useCallback(
    (what, undo) => setSaid((before) => ({ what, undo: undo ?? null, at: (before?.at ?? 0) + 1 })),
    [],
  );
  const back = (undo: () => Promise<unknown>) => {
    setSaid(null);
    undo().catch((error: unknown) => tell(`Not taken back: ${(error as Error).message}`));
  };
  return (
    <Context value={tell}>
      {children}
      <Snackbar
        key={said?.at ?? 0}
        open={said !== null}
        autoHideDuration={SHOWN_FOR}
        onClose={(_, why) => why !== "clickaway" && setSaid(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
        message={said?.what}
        action={
          said?.undo && (
            <Button variant="text" sx={{ color: "inherit" }} onClick={() => said.undo && back(said.undo)}>
              Undo
            </Button>
          )
        }
      />
    </Context>
  );
}
