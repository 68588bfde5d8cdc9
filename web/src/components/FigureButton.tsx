/** A figure that opens: it looks like the text it stands in. */
import ButtonBase from "@mui/material/ButtonBase";
import { styled } from "@mui/material/styles";

export const FigureButton = styled(ButtonBase)({
  font: "inherit",
  color: "inherit",
  textAlign: "inherit",
  letterSpacing: "inherit",
  verticalAlign: "baseline",
  display: "inline",
  borderBottom: "1px dotted transparent",
  "&:hover": { borderBottomColor: "var(--soft)" },
}) as typeof ButtonBase;
