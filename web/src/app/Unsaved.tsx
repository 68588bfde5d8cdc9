/** Asks before what was typed and not stored is left behind. */
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useCallback, useEffect } from "react";
import { useBlocker, type Location } from "react-router";

/** What of an address says which sheet is open; the period and the like may change under what is typed. */
function sheetOf({ pathname, search }: Pick<Location, "pathname" | "search">): string {
  const query = new URLSearchParams(search);
  return [pathname, query.get("part"), query.get("view")].join(" ");
}

/** when : whether anything is at stake; what : it, as in "3 rows are not stored". */
export function Unsaved({ when, what }: { when: boolean; what: string }) {
  const leaving = useBlocker(
    useCallback(
      ({ currentLocation: from, nextLocation: to }: { currentLocation: Location; nextLocation: Location }) =>
        when && sheetOf(from) !== sheetOf(to),
      [when],
    ),
  );
  useEffect(() => {
    if (!when) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [when]);
  if (leaving.state !== "blocked") return null;
  return (
    <Dialog open onClose={() => leaving.reset()} aria-labelledby="unsaved-title">
      <DialogTitle id="unsaved-title">Leave without storing?</DialogTitle>
      <DialogContent>{what}; what was typed is lost if you leave.</DialogContent>
      <DialogActions>
        <Button onClick={() => leaving.proceed()}>Leave</Button>
        <Button variant="contained" autoFocus onClick={() => leaving.reset()}>
          Stay
        </Button>
      </DialogActions>
    </Dialog>
  );
}
