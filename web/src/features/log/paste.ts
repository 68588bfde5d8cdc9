/** Rows of the sheet as they are typed, and what a paste from a spreadsheet makes of them. */
import { must } from "../../components/must";

export interface Typed {
  id: number | null;
  time: string;
  cells: Record<string, string>;
  turns: Record<string, "new_meter" | "rollover">;
  note: string;
}

export const blank = (): Typed => ({ id: null, time: "", cells: {}, turns: {}, note: "" });

export const isBlank = (row: Typed) =>
  !row.time.trim() && !row.note.trim() && Object.values(row.cells).every((cell) => !cell.trim());

/** The text of a cell. column : "time", "note" or a series. */
export function cellOf(row: Typed, column: string): string {
  if (column === "time") return row.time;
  if (column === "note") return row.note;
  return row.cells[column] ?? "";
}

export function withCell(row: Typed, column: string, text: string): Typed {
  if (column === "time") return { ...row, time: text };
  if (column === "note") return { ...row, note: text };
  return { ...row, cells: { ...row.cells, [column]: text } };
}

/** Cells of a text from a spreadsheet: tabs between columns, lines between rows, quotes where a cell holds either. */
export function matrix(text: string): string[][] {
  const rows: string[][] = [[]];
  let cell = "";
  let quoted = false;
  for (let k = 0; k < text.length; k++) {
    const sign = text[k];
    if (quoted) {
      if (sign !== '"') cell += sign;
      else if (text[k + 1] === '"') {
        cell += '"';
        k++;
      } else quoted = false;
    } else if (sign === '"' && cell === "") quoted = true;
    else if (sign === "\t") {
      must(rows.at(-1)).push(cell);
      cell = "";
    } else if (sign === "\n") {
      must(rows.at(-1)).push(cell);
      rows.push([]);
      cell = "";
    } else if (sign !== "\r") cell += sign;
  }
  must(rows.at(-1)).push(cell);
  while (rows.length && must(rows.at(-1)).every((one) => !one.trim())) rows.pop();
  return rows.map((row) => row.map((one) => one.trim()));
}

const folded = (text: string) =>
  text
    .toLowerCase()
    .replace(/[[(].*?[\])]/g, " ")
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim();

/** For each pasted column the column of the sheet that its header names, if the first row is a header. */
function headed(first: string[], columns: string[]): (string | null)[] | null {
  const found = first.map(
    (header) =>
      columns.find((column) => folded(column) === folded(header)) ??
      (/^(date|time|day|when|zeit|datum)\b/.test(folded(header)) ? "time" : null),
  );
  const named = found.filter((column) => column !== null).length;
  return named >= 2 || (named === 1 && first.length === 1) ? found : null;
}

/** Headers of a paste that name no column of the sheet, so that what stands under them is left out. */
export function leftOut(columns: string[], text: string): string[] {
  const first = matrix(text)[0] ?? [];
  return (
    headed(first, columns)?.flatMap((column, k) => (column === null && first[k] ? [first[k]] : [])) ?? []
  );
}

/**
 * The rows after a paste. at : row and column where it begins; below the last row new ones are added.
 * A first row that names the columns says which is which; columns without a name of the sheet are left out.
 */
export function pasted(
  rows: Typed[],
  columns: string[],
  at: { row: number; column: string },
  text: string,
): Typed[] {
  const cells = matrix(text);
  if (!cells.length) return rows;
  const heads = headed(must(cells[0]), columns);
  const first = columns.indexOf(at.column);
  const next = [...rows];
  (heads ? cells.slice(1) : cells).forEach((line, k) => {
    let row = next[at.row + k] ?? blank();
    line.forEach((cell, j) => {
      const column = heads ? heads[j] : columns[first + j];
      if (column) row = withCell(row, column, cell);
    });
    next[at.row + k] = row;
  });
  return next;
}
