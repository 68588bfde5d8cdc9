/** The parts of every screen: head, sheet, and the panel beside it. */
import Box from "@mui/material/Box";
import type { Theme } from "@mui/material/styles";
import useMediaQuery from "@mui/material/useMediaQuery";
import type { ReactNode } from "react";

/** The line above a screen. */
export function HeadOf({ children, below = 0 }: { children: ReactNode; below?: number }) {
  return (
    <Box
      component="header"
      sx={{
        background: "var(--sheet)",
        borderBottom: "1px solid var(--line)",
        padding: `10px 14px ${below}px`,
        minWidth: 0,
      }}
    >
      {children}
    </Box>
  );
}

/** The sheet itself. paper : it is what is printed. */
export function Screen({ paper = false, children }: { paper?: boolean; children: ReactNode }) {
  return (
    <Box
      component="main"
      {...(paper ? { "data-paper": "" } : {})}
      sx={{ overflow: "auto", padding: "12px 14px", minWidth: 0, position: "relative" }}
    >
      {children}
    </Box>
  );
}

/** A screen and, where there is one, the panel on its right. */
export function Work({ panel, children }: { panel: boolean; children: ReactNode }) {
  const narrow = useMediaQuery((theme: Theme) => theme.breakpoints.down("sm"));
  return (
    <Box
      // What scrolls is reached by key, also while there is nothing in it yet.
      {...(narrow ? { tabIndex: 0 } : {})}
      sx={{
        display: "grid",
        gridTemplateColumns: panel ? { xs: "minmax(0, 1fr)", sm: "minmax(0, 1fr) 268px" } : "minmax(0, 1fr)",
        minHeight: 0,
        height: "100%",
        overflow: { xs: "auto", sm: "visible" },
        // Below one another they scroll together.
        "& > main, & > aside": { overflow: { xs: "visible", sm: "auto" } },
      }}
    >
      {children}
    </Box>
  );
}

export function Panel({ children, label, busy }: { children: ReactNode; label: string; busy: boolean }) {
  return (
    <Box
      component="aside"
      aria-label={label}
      aria-busy={busy}
      data-testid="panel"
      sx={{
        background: "var(--sheet)",
        borderLeft: "1px solid var(--line)",
        padding: "10px 14px 16px",
        overflowY: "auto",
        "& section": { marginBottom: 12 },
      }}
    >
      {children}
    </Box>
  );
}
