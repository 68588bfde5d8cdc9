/** Tables of figures: the library's table in our two forms. */
import Table, { type TableProps } from "@mui/material/Table";
import { styled } from "@mui/material/styles";

const bare = { shouldForwardProp: (name: string) => name !== "tight" && name !== "dotted" };

/** A table over the width of the sheet. tight : its rows hold controls. */
export const FigureTable = styled(
  Table,
  bare,
)<TableProps & { tight?: boolean }>(({ tight }) =>
  tight
    ? {
        "& tbody .MuiTableCell-root": {
          paddingTop: 1,
          paddingBottom: 1,
          height: 24,
          verticalAlign: "middle",
        },
        "& .MuiInputBase-root.choice": {
          background: "none",
          borderColor: "transparent",
          "&:hover, &.Mui-focused": { background: "var(--sheet)", borderColor: "var(--line)" },
          "& select.MuiInputBase-input": { paddingLeft: 2 },
        },
      }
    : {},
);

/** Lines of a sum or of facts, without rules between them. */
export const LineTable = styled(
  Table,
  bare,
)<TableProps & { dotted?: boolean }>(({ dotted }) => ({
  "& .MuiTableCell-root": {
    padding: dotted ? "3px 0" : "2px 0",
    height: 24, // so that each figure can be hit (WCAG 2.2, 2.5.8)
    verticalAlign: "baseline",
    borderBottom: dotted ? "1px dotted var(--line)" : 0,
  },
  "& .MuiTableCell-root:first-of-type": { paddingRight: 8 },
}));
