/** The library's input in a plain box: without the outline that leaves room for a label of its own. */
import InputBase from "@mui/material/InputBase";
import { styled } from "@mui/material/styles";

export const Boxed = styled(InputBase)({
  font: "inherit",
  letterSpacing: "inherit",
  color: "inherit",
  border: "1px solid var(--line)",
  borderRadius: 3,
  minHeight: 24,
  background: "var(--sheet)",
  "&:hover": { borderColor: "var(--soft)" },
  "&.Mui-focused": { borderColor: "var(--ember)", boxShadow: "0 0 0 1px var(--ember)" },
  "&.Mui-error": { borderColor: "var(--ember)" },
  "& .MuiInputBase-input": {
    font: "inherit",
    padding: "1px 6px",
    height: "auto",
    minHeight: 19,
    textAlign: "inherit",
    "&:focus-visible": { outline: "none" },
  },
  "& .MuiNativeSelect-select.MuiInputBase-input, & .MuiSelect-select.MuiInputBase-input": {
    padding: "1px 20px 1px 6px",
    minWidth: 12,
  },
  "&.MuiInputBase-multiline": { padding: 0 },
});
