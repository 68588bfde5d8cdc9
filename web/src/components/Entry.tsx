/** A row of a list from which one is chosen: a mark, its name, and what is said of it. */
import ButtonBase from "@mui/material/ButtonBase";
import { styled } from "@mui/material/styles";

export const Entry = styled(ButtonBase)({
  display: "grid",
  gridTemplateColumns: "18px minmax(0, 1fr) auto",
  width: "100%",
  gap: 4,
  alignItems: "baseline",
  font: "inherit",
  color: "inherit",
  textAlign: "left",
  borderBottom: "1px solid var(--hair)",
  padding: "3px 6px 3px 4px",
  "&:hover": { background: "var(--chosen)" },
  '&[aria-selected="true"]': { background: "var(--sheet)" },
}) as typeof ButtonBase;
