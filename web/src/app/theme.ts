/** MUI wears the product's own clothes. Every colour is here, and nowhere else. */
import { createTheme, type CSSObject } from "@mui/material/styles";

export type Mode = "light" | "dark";

/** Every colour, in light and in dark; the states of a unit have their own, the same on screens and in pictures. */
export const TONES = {
  accent: ["#d4622f", "#d4622f"],
  "rail-line": ["#45403a", "#45403a"],
  ground: ["#f4f1ec", "#1d1a17"],
  sheet: ["#fbfaf7", "#24211d"],
  line: ["#dad4c9", "#45403a"],
  hair: ["#e7e2d9", "#35312b"],
  ink: ["#26221d", "#ece6dc"],
  soft: ["#6b655c", "#b3aa9d"],
  faint: ["#9a9388", "#857d72"],
  rail: ["#2a2621", "#141210"],
  "rail-ink": ["#cfc8bc", "#c4bcb0"],
  "rail-here": ["#3a342c", "#2d2924"],
  ember: ["#b5431a", "#ee8a5c"],
  "ember-wash": ["#f7e9e2", "#3a2920"],
  teal: ["#2c7672", "#7cc4bb"],
  heating: ["#de9a5b", "#c9884d"],
  "hot-water": ["#8a5a94", "#a679b0"],
  defrost: ["#4f97b8", "#5fa8c9"],
  "start-up": ["#c9a227", "#c9a227"],
  standby: ["#cfc9bd", "#6e685e"],
  backup: ["#3a342c", "#d8cfc2"],
  cooling: ["#2e7f7a", "#58a49e"],
  off: ["#e9e5dd", "#38342e"],
  overrun: ["#b9c2b4", "#6f7a6b"],
  running: ["#d9bd93", "#8a744e"],
  flow: ["#b5431a", "#ee8a5c"],
  return: ["#3c6e9e", "#7fb0de"],
  outdoor: ["#6f8447", "#9db36f"],
  power: ["#3a342c", "#ece6dc"],
  heat: ["#e6c19c", "#6d4f35"],
  tank: ["#8a5a94", "#c39bcc"],
  "water-flow": ["#5b6b66", "#a3b5af"],
  band: ["#cfc6b8", "#57503f"],
  "day-below": ["#b5431a", "#ee8a5c"],
  "day-watch": ["#d08a5f", "#b27450"],
  "day-rated": ["#c9c6b8", "#7d786c"],
  "day-better": ["#7fa9a2", "#7cc4bb"],
  "day-plain": ["#ddd8cc", "#544f47"],
  chosen: ["rgba(58, 52, 44, 0.09)", "rgba(236, 230, 220, 0.1)"],
} as const satisfies Record<string, readonly [string, string]>;

export type Tone = keyof typeof TONES;

/** A colour by its name; what is not one is given back, a colour itself. */
export type Shade = (name: string) => string;

export function shadeOf(mode: Mode): Shade {
  return (name) => (name in TONES ? TONES[name as Tone][mode === "dark" ? 1 : 0] : name);
}

/** The same as variables of the page: `var(--ink)`. */
function variables(mode: Mode): CSSObject {
  const shade = shadeOf(mode);
  return Object.fromEntries(Object.keys(TONES).map((name) => [`--${name}`, shade(name)]));
}

const FONT = '"Source Sans 3 Variable", "Source Sans 3", sans-serif';

function palette(mode: Mode) {
  const shade = shadeOf(mode);
  return {
    primary: { main: shade("ink"), contrastText: shade("sheet") },
    secondary: { main: shade("teal") },
    error: { main: shade("ember") },
    warning: { main: shade("ember") },
    info: { main: shade("soft") },
    success: { main: shade("teal") },
    background: { default: shade("ground"), paper: shade("sheet") },
    text: { primary: shade("ink"), secondary: shade("soft"), disabled: shade("faint") },
    divider: shade("line"),
  };
}

/** A plain key, of which all buttons are made. */
const KEY: CSSObject = {
  font: "inherit",
  letterSpacing: "inherit",
  textTransform: "none",
  color: "var(--ink)",
  background: "var(--sheet)",
  border: "1px solid var(--line)",
  borderRadius: 3,
  padding: "1px 9px",
  minHeight: 24,
  minWidth: 0,
  whiteSpace: "nowrap",
  "&:hover": { background: "var(--sheet)", borderColor: "var(--soft)" },
  "&.Mui-disabled": { color: "var(--faint)", borderColor: "var(--hair)" },
};

const SEEN: CSSObject = { outline: "2px solid var(--ember)", outlineOffset: 1, borderRadius: 2 };

export const theme = createTheme({
  cssVariables: { cssVarPrefix: "ember", colorSchemeSelector: "data-theme" },
  colorSchemes: { light: { palette: palette("light") }, dark: { palette: palette("dark") } },
  spacing: 1, // a unit of spacing is a pixel
  shape: { borderRadius: 3 },
  breakpoints: { values: { xs: 0, sm: 800, md: 1100, lg: 1280, xl: 1800 } },
  transitions: { create: () => "none" },
  typography: {
    fontFamily: FONT,
    fontSize: 13,
    body1: { fontSize: 13, lineHeight: 1.45 },
    body2: { fontSize: 13, lineHeight: 1.45 },
    h1: { fontSize: 16, fontWeight: 650, lineHeight: 1.3 },
    h2: { fontSize: 13, fontWeight: 650, lineHeight: 1.45 },
    h3: {
      fontSize: 11,
      fontWeight: 650,
      lineHeight: 1.45,
      letterSpacing: "0.06em",
      textTransform: "uppercase",
    },
    caption: { fontSize: 11, lineHeight: 1.45 },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        ":root": variables("light"),
        '[data-theme="dark"]': variables("dark"),
        "html, body, #root": { height: "100%", margin: 0 },
        body: {
          background: "var(--ground)",
          color: "var(--ink)",
          fontVariantNumeric: "tabular-nums",
          WebkitFontSmoothing: "antialiased",
        },
        p: { margin: 0 },
        a: { color: "inherit" },
        kbd: {
          font: "inherit",
          fontSize: 11,
          border: "1px solid var(--line)",
          borderRadius: 3,
          padding: "0 4px",
          background: "var(--ground)",
        },
        ":focus-visible": SEEN,
        // Panels of the grid, which stand outside it.
        ".MuiDataGrid-paper.MuiPaper-root": { boxShadow: "none" },
        ".MuiDataGrid-filterForm": { padding: "16px 10px 10px", gap: 6 },
        // On paper: the sheet alone.
        "@media print": {
          ".MuiBackdrop-root": { display: "none !important" },
          ".MuiDrawer-root, .MuiDrawer-paper": {
            position: "static !important",
            width: "auto !important",
            maxWidth: "none !important",
            height: "auto !important",
          },
          "html, body, #root": { height: "auto !important", background: "#fff" },
        },
      },
    },
    MuiTypography: {
      styleOverrides: { h3: { color: "var(--soft)" }, caption: { color: "var(--soft)" } },
    },
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      styleOverrides: { root: { "&.Mui-focusVisible": SEEN } },
    },
    MuiButton: {
      defaultProps: { variant: "outlined", size: "small", disableElevation: true },
      styleOverrides: {
        root: {
          ...KEY,
          "&.MuiButton-contained": {
            background: "var(--ink)",
            color: "var(--sheet)",
            borderColor: "var(--ink)",
            fontWeight: 600,
            // As pale as any other that cannot be pressed now.
            "&.Mui-disabled": { background: "none", borderColor: "var(--line)", color: "var(--faint)" },
          },
          "&.MuiButton-text": { borderColor: "transparent", background: "none" },
        },
      },
    },
    MuiIconButton: { defaultProps: { size: "small" }, styleOverrides: { root: { ...KEY, padding: 2 } } },
    MuiToggleButtonGroup: { defaultProps: { size: "small" } },
    MuiToggleButton: {
      styleOverrides: {
        root: {
          ...KEY,
          "&&.MuiToggleButton-root:not(:first-of-type)": { borderLeft: "1px solid var(--line)" },
          "&.Mui-selected, &.Mui-selected:hover": {
            background: "var(--ink)",
            color: "var(--sheet)",
            borderColor: "var(--ink)",
          },
        },
      },
    },
    MuiTable: { styleOverrides: { root: { borderCollapse: "collapse" } } },
    MuiTableCell: {
      styleOverrides: {
        root: {
          font: "inherit",
          letterSpacing: "inherit",
          color: "inherit",
          padding: "4px 10px 4px 0",
          borderBottom: "1px solid var(--hair)",
          verticalAlign: "top",
          "&:last-of-type": { paddingRight: 0 },
        },
        head: {
          fontSize: 11,
          color: "var(--soft)",
          borderBottomColor: "var(--line)",
          verticalAlign: "bottom",
          whiteSpace: "nowrap",
        },
        alignRight: { whiteSpace: "nowrap", flexDirection: "row" },
      },
    },
    MuiOutlinedInput: {
      styleOverrides: {
        root: {
          font: "inherit",
          letterSpacing: "inherit",
          borderRadius: 3,
          minHeight: 24,
          background: "var(--sheet)",
          "&:hover .MuiOutlinedInput-notchedOutline": { borderColor: "var(--soft)" },
          "&.Mui-focused .MuiOutlinedInput-notchedOutline": { borderColor: "var(--ember)", borderWidth: 2 },
          "&.Mui-error .MuiOutlinedInput-notchedOutline": { borderColor: "var(--ember)" },
        },
        input: {
          font: "inherit",
          padding: "2px 6px",
          height: "auto",
          minHeight: 20,
          boxSizing: "content-box",
          "&:focus-visible": { outline: "none" },
        },
        multiline: { padding: 0 },
        notchedOutline: { borderColor: "var(--line)" },
      },
    },
    MuiSelect: {
      styleOverrides: {
        select: { "&&": { padding: "2px 20px 2px 6px", minHeight: 19, height: "auto", minWidth: 12 } },
        icon: { right: 1, fontSize: 18, color: "var(--soft)" },
      },
    },
    MuiCheckbox: {
      defaultProps: { size: "small" },
      styleOverrides: { root: { padding: 1, color: "var(--soft)", "& svg": { fontSize: 17 } } },
    },
    MuiRadio: {
      defaultProps: { size: "small" },
      styleOverrides: { root: { padding: 1, color: "var(--soft)", "& svg": { fontSize: 17 } } },
    },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: {
        root: { backgroundImage: "none", border: "1px solid var(--line)", boxShadow: "none" },
      },
    },
    MuiAlert: {
      defaultProps: { icon: false },
      styleOverrides: {
        root: {
          font: "inherit",
          color: "inherit",
          border: 0,
          borderLeft: "3px solid var(--ember)",
          borderRadius: 0,
          background: "var(--ember-wash)",
          padding: "6px 9px",
          "&.MuiAlert-colorInfo": {
            border: "1px solid var(--line)",
            borderLeft: "3px solid var(--soft)",
            background: "none",
          },
        },
        message: { padding: 0, overflow: "visible", flex: 1, minWidth: 0 },
        action: { padding: 0, margin: 0 },
      },
    },
    MuiTabs: {
      styleOverrides: {
        root: { minHeight: 0, borderBottom: "1px solid var(--line)" },
        list: { gap: 18 },
        indicator: { background: "var(--ink)" },
      },
    },
    MuiTab: {
      styleOverrides: {
        root: {
          font: "inherit",
          letterSpacing: "inherit",
          textTransform: "none",
          minHeight: 0,
          minWidth: 0,
          padding: "1px 0 4px",
          color: "var(--soft)",
          "&:hover": { color: "var(--ink)" },
          "&.Mui-selected": { color: "var(--ink)", fontWeight: 650 },
        },
      },
    },
    MuiMenuItem: {
      styleOverrides: { root: { fontSize: 13, minHeight: 28, paddingTop: 3, paddingBottom: 3 } },
    },
    MuiDialog: { defaultProps: { transitionDuration: 0 } },
    MuiDrawer: { defaultProps: { transitionDuration: 0 } },
    MuiTooltip: {
      defaultProps: { enterDelay: 400, describeChild: true },
      styleOverrides: { tooltip: { fontSize: 12, fontWeight: 400, background: "#2a2621", maxWidth: 320 } },
    },
    MuiDialogTitle: { styleOverrides: { root: { fontSize: 16, fontWeight: 650, padding: "14px 18px 6px" } } },
    MuiDialogContent: { styleOverrides: { root: { padding: "6px 18px 16px" } } },
    MuiStepLabel: {
      styleOverrides: {
        label: { fontSize: 13, "&.Mui-active": { fontWeight: 650 }, "&.Mui-completed": { fontWeight: 400 } },
        iconContainer: { paddingRight: 6, "& svg": { fontSize: 20 } },
      },
    },
    MuiAutocomplete: {
      styleOverrides: {
        inputRoot: { "&.MuiOutlinedInput-root": { padding: "0 30px 0 2px" } },
        input: { "&&": { padding: "2px 4px" } },
        option: { fontSize: 13, minHeight: "26px !important" },
        listbox: { fontSize: 13 },
      },
    },
    MuiTextField: { defaultProps: { size: "small" } },
    MuiLinearProgress: {
      styleOverrides: {
        root: { height: 3, background: "var(--hair)", borderRadius: 0 },
        bar: { background: "var(--ink)" },
      },
    },
    MuiSkeleton: {
      defaultProps: { variant: "rectangular", animation: false },
      styleOverrides: { root: { background: "var(--hair)", borderRadius: 3 } },
    },
    MuiSnackbarContent: {
      styleOverrides: {
        root: {
          background: "var(--ink)",
          color: "var(--sheet)",
          border: 0,
          padding: "2px 14px",
          fontSize: 13,
        },
        action: { "& .MuiButton-root.MuiButton-text": { borderColor: "currentColor" } },
      },
    },
  },
});
