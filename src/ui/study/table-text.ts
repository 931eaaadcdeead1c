import { readingText } from '$core/readings';
import type { ResultTable } from '$core/studies/study';

export const columnTitle = (column: ResultTable['columns'][number]) =>
  column.unit ? `${column.label}, ${column.unit}` : column.label;

/** A table as tab-separated text with full numbers, for a spreadsheet. */
export const tableText = (table: ResultTable) =>
  [
    table.columns.map(columnTitle),
    ...table.rows.map((row) => row.map((cell) => (cell === null ? '' : String(cell)))),
  ]
    .map((cells) => cells.join('\t'))
    .join('\n');

/** One cell as it is shown. */
export const cellText = (cell: string | number | null, numeric: boolean) =>
  cell === null
    ? '–'
    : !numeric
      ? String(cell)
      : Number.isInteger(cell)
        ? String(cell)
        : readingText(cell as number);
