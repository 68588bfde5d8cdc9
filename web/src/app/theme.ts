/** MUI wears the product's own clothes. Every colour is here, and nowhere else. */
import { createTheme, type Theme } from "@mui/material/styles";

export type Mode = "light" | "dark";

/** Every colour, in light and in dark; the states of a unit have their own, the same on screens and in pictures. */
export const TONES = {
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

/** The same as variables of the page. */
export function variables(mode: Mode): Record<string, string> {
  const shade = shadeOf(mode);
  return Object.fromEntries(Object.keys(TONES).map((name) => [`--${name}`, shade(name)]));
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
