import { columnTitle, rowsOf, type Cell, type Table } from '$core/figures/table';
import { readingText } from '$core/readings';

/** A table as tab-separated text with full numbers, for a spreadsheet. */
export const tableText = (table: Table) =>
  [
    table.columns.map(columnTitle),
    ...rowsOf(table).map((row) => row.map((cell) => (cell === null ? '' : String(cell)))),
  ]
    .map((cells) => cells.join('\t'))
    .join('\n');

/** One cell as it is shown. */
export const cellText = (cell: Cell, numeric: boolean) =>
  cell === null
    ? '–'
    : !numeric
      ? String(cell)
      : Number.isInteger(cell)
        ? String(cell)
        : readingText(cell as number);
