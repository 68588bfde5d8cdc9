/** A button in a cell of a grid: no taller than its row, and no stop of its own for Tab; Enter on the cell
 * presses it. */
import Button, { type ButtonProps } from "@mui/material/Button";

export function CellButton(props: ButtonProps) {
  return <Button tabIndex={-1} sx={{ minHeight: 20, lineHeight: "18px" }} {...props} />;
}
