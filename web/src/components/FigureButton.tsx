/** A figure that opens: it looks like the text it stands in. */
import ButtonBase, { type ButtonBaseProps } from "@mui/material/ButtonBase";
import { styled } from "@mui/material/styles";
import { createContext, useContext } from "react";

/** Whether this stands in a cell of a grid, where the arrows move and Enter presses. */
export const InCell = createContext(false);

const Looks = styled(ButtonBase)({
  font: "inherit",
  color: "inherit",
  textAlign: "inherit",
  letterSpacing: "inherit",
  verticalAlign: "baseline",
  display: "inline",
  borderBottom: "1px dotted transparent",
  "&:hover": { borderBottomColor: "var(--soft)" },
}) as typeof ButtonBase;

export const FigureButton = function FigureButton(props: ButtonBaseProps) {
  const inCell = useContext(InCell);
  return <Looks {...(inCell ? { tabIndex: -1 } : {})} {...props} />;
} as typeof ButtonBase;
