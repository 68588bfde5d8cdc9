/** MUI wears the product's own clothes; colours are those of base.css. */
import { createTheme, type Theme } from "@mui/material/styles";

export type Mode = "light" | "dark";

/** A colour of base.css as it is now. */
export function colour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
}

export function themeOf(mode: Mode): Theme {
  const dark = mode === "dark";
  const font = '"Source Sans 3 Variable", "Source Sans 3", sans-serif';
  return createTheme({
    palette: {
      mode,
      primary: { main: dark ? "#ece6dc" : "#26221d" },
      error: { main: dark ? "#ee8a5c" : "#b5431a" },
      background: { default: dark ? "#1d1a17" : "#f4f1ec", paper: dark ? "#24211d" : "#fbfaf7" },
      text: { primary: dark ? "#ece6dc" : "#26221d", secondary: dark ? "#b3aa9d" : "#6b655c" },
      divider: dark ? "#45403a" : "#dad4c9",
    },
    typography: { fontFamily: font, body1: { fontFamily: font, fontSize: 13, lineHeight: 1.45 } },
    shape: { borderRadius: 3 },
    components: {
      MuiPaper: {
        defaultProps: { elevation: 0 },
        styleOverrides: {
          root: { backgroundImage: "none", border: "1px solid var(--line)", boxShadow: "none" },
        },
      },
      MuiMenuItem: {
        styleOverrides: { root: { fontSize: 13, minHeight: 28, paddingTop: 3, paddingBottom: 3 } },
      },
      MuiDialog: { defaultProps: { transitionDuration: 0 } },
      MuiDrawer: { defaultProps: { transitionDuration: 0 } },
      MuiTooltip: {
        defaultProps: { enterDelay: 400 },
        styleOverrides: { tooltip: { fontSize: 12, fontWeight: 400, background: "#2a2621", maxWidth: 320 } },
      },
      MuiDialogTitle: {
        styleOverrides: { root: { fontSize: 16, fontWeight: 650, padding: "14px 18px 6px" } },
      },
      MuiDialogContent: { styleOverrides: { root: { padding: "6px 18px 16px" } } },
    },
  });
}
