/** How words and figures look wherever they stand: for `sx`. */
import type { CSSObject } from "@mui/material/styles";

type Look = CSSObject;

export const soft: Look = { color: "var(--soft)" };
export const ember: Look = { color: "var(--ember)" };
export const teal: Look = { color: "var(--teal)" };
export const num: Look = { textAlign: "right", whiteSpace: "nowrap" };
export const cap: Look = { fontSize: 11, color: "var(--soft)" };
export const unseen: Look = {
  position: "absolute",
  width: "1px",
  height: "1px",
  overflow: "hidden",
  clipPath: "inset(50%)",
  whiteSpace: "nowrap",
};
export const clamp: Look = {
  display: "-webkit-box",
  WebkitLineClamp: 3,
  WebkitBoxOrient: "vertical",
  overflow: "hidden",
  overflowWrap: "anywhere",
};
export const line: Look = { display: "flex", alignItems: "center", gap: 10, minHeight: 26 };
export const grow: Look = {
  flex: 1,
  minWidth: 0,
  overflow: "hidden",
  textOverflow: "ellipsis",
  whiteSpace: "nowrap",
};
export const noprint: Look = { "@media print": { display: "none !important" } };
export const unit: Look = { width: 30, paddingLeft: "5px !important", color: "var(--soft)", fontWeight: 400 };
export const total: Look = {
  "& td, & th": { borderTop: "1px solid var(--ink)", borderBottom: 0, fontWeight: 650 },
};
export const sum: Look = {
  "& td, & th": { borderTop: "1px solid var(--ink)", fontWeight: 650, paddingTop: "3px" },
};
export const lacking: Look = { color: "var(--soft)", textDecoration: "line-through" };
export const cop: Look = { fontSize: 30, fontWeight: 700, lineHeight: 1.1, letterSpacing: "-0.01em" };
export const copline: Look = {
  display: "flex",
  alignItems: "baseline",
  gap: 7,
  borderTop: "3px double var(--ink)",
  paddingTop: 5,
  marginTop: 2,
};
