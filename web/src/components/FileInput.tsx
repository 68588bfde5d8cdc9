/** Files to choose: the library has no control for it, and the browser's stays unseen behind a button. */
import type { ComponentProps } from "react";
import { styled } from "@mui/material/styles";

const Unseen = styled("input")({
  position: "absolute",
  width: 1,
  height: 1,
  overflow: "hidden",
  clipPath: "inset(50%)",
  whiteSpace: "nowrap",
});

export function FileInput(props: Omit<ComponentProps<"input">, "type">) {
  return <Unseen type="file" {...props} />;
}
