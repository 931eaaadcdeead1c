import type { Cell, Column } from '../figures/table';
import { columnTitle } from '../figures/table';
import { plainReading } from '../readings';
import type { Sheet } from './sheet';
import type { Face } from './text';

const SIZE = 8;
/** Height of a row in the size of its words. */
const ROW = 1.75;
const BETWEEN = 8;
/** The least that is left of a column of words. */
const LEAST = 34;

/** Draws a table from the top of a sheet: heads with units, numbers at the right, a hairline under each row. Rows that do not fit are counted at its foot; columns
 *  of words give way first, then the last columns. @param most rows at most */
export function drawTable(
  sheet: Sheet,
  columns: readonly Column[],
  rows: readonly (readonly Cell[])[],
  { top = 0, size = SIZE, most = Infinity }: { top?: number; size?: number; most?: number } = {},
): void {
  const head: Face = { size, bold: true, colour: sheet.ink.muted };
  const face = (column: Column): Face => ({ size, mono: column.numeric });
  const text = (cell: Cell) => (cell === null ? '–' : typeof cell === 'number' ? plainReading(cell) : cell);
  const height = size * ROW;
  const room = Math.max(0, Math.floor((sheet.height - top - height + 1) / height));
  const all = Math.min(rows.length, most);
  const shown = all <= room ? all : Math.max(0, room - 1);
  const natural = columns.map((column, k) =>
    Math.max(
      sheet.measure(columnTitle(column), head),
      ...rows.slice(0, shown).map((row) => sheet.measure(text(row[k] ?? null), face(column))),
    ),
  );
  const widths = [...natural];
  const spare = () => sheet.width - widths.reduce((a, b) => a + b, 0) - BETWEEN * (widths.length - 1);
  // Words can be cut, numbers cannot: the widest columns of words give way until all stand.
  for (let lacking = -spare(); lacking > 0.01;) {
    const able = widths.map((w, k) => (columns[k].numeric ? -1 : w)).map((w) => (w > LEAST ? w : -1));
    const widest = able.indexOf(Math.max(...able));
    if (widest < 0 || able[widest] < 0) break;
    const second = Math.max(LEAST, ...able.filter((w, k) => k !== widest && w < widths[widest]));
    const cut = Math.min(lacking, Math.max(0.5, widths[widest] - second));
    widths[widest] -= cut;
    lacking -= cut;
  }
  let columnsShown = widths.length;
  while (columnsShown > 1 && spare() < -0.5) {
    widths.pop();
    columnsShown--;
  }
  if (columnsShown < columns.length)
    sheet.faults.push(
      `${columns.length - columnsShown} of ${columns.length} columns do not fit: make it wider.`,
    );
  // What is left goes to the first column, so that the numbers stand at the right edge.
  widths[0] += Math.max(0, spare());
  // As a thing it stands for the words that follow.
  const before = sheet.things.length;
  const xs = widths.map((_, k) => widths.slice(0, k).reduce((a, b) => a + b + BETWEEN, 0));
  const row = (y: number, cells: readonly string[], faceOf: (k: number) => Face) => {
    const foot = y + height - size * 0.55;
    for (let k = 0; k < columnsShown; k++) {
      const end = columns[k].numeric;
      sheet.fitted(end ? xs[k] + widths[k] : xs[k], foot, cells[k], faceOf(k), widths[k] + 0.1, end ? 'end' : 'start'); // prettier-ignore
    }
  };
  row(top, columns.map(columnTitle), () => head);
  sheet.rule(0, top + height, sheet.width, top + height);
  for (let r = 0; r < shown; r++) {
    const y = top + height * (r + 1);
    row(y, columns.map((_, k) => text(rows[r][k] ?? null)), (k) => face(columns[k])); // prettier-ignore
    sheet.rule(0, y + height, sheet.width, y + height);
  }
  sheet.things.splice(before, Infinity, { thing: 'table', top, columns: columns.slice(0, columnsShown), rows: rows.slice(0, shown).map((r) => r.slice(0, columnsShown)), size }); // prettier-ignore
  if (shown < rows.length) {
    const left = rows.length - shown;
    const y = top + height * (shown + 1) + height - size * 0.55;
    if (y <= sheet.height + 1) sheet.words(0, y, `and ${left} more`, { size, colour: sheet.ink.muted });
    if (shown < all) sheet.faults.push(`${all - shown} of ${all} rows do not fit: make it higher.`);
  }
}
