import { badInput } from '../errors';
import type { FramePoint } from './wireframe';

/** Cells of pasted or filed text: tabs, semicolons, commas or blanks between them. */
function rowsOf(text: string): string[][] {
  const lines = text.split(/\r?\n/).filter((l) => l.trim() !== '' && !l.trim().startsWith('#'));
  const by = lines.some((l) => l.includes('\t')) ? /\t/ : lines.some((l) => l.includes(';')) ? /;/ : lines.some((l) => /,\s|,[^\d]|\d,\d.*,/.test(l)) ? /,/ : /\s+/; // prettier-ignore
  return lines.map((l) => l.trim().split(by).map((c) => c.trim().replace(/^"(.*)"$/, '$1'))); // prettier-ignore
}
/** A number with a point or a comma. */
function numberOf(cell: string): number {
  const plain = cell.replace('−', '-');
  return plain === '' ? NaN : Number(plain.includes('.') ? plain : plain.replace(',', '.'));
}

/** Points as they are pasted: name, x, y, z and perhaps a part in each row; a first row of words is a heading.
 *  @throws `bad_input` naming the row */
export function pointsFromText(text: string): FramePoint[] {
  const rows = rowsOf(text);
  const heading = rows[0]?.slice(1, 4).some((c) => Number.isNaN(numberOf(c)));
  const points = rows.slice(heading ? 1 : 0).map((cells, k): FramePoint => {
    const at = cells.slice(1, 4).map(numberOf);
    const row = `row ${k + (heading ? 2 : 1)}`;
    if (!cells[0]) throw badInput(row, cells.join(' '), 'It begins with the name of the point.');
    if (at.length < 3 || at.some(Number.isNaN))
      throw badInput(row, cells.join(' '), 'Give a name and three coordinates in m, such as “N1  0.4  0  −1.2”.'); // prettier-ignore
    return { name: cells[0].slice(0, 60), part: (cells[4] ?? '').slice(0, 60), at: [at[0], at[1], at[2]] };
  });
  if (points.length === 0) throw badInput('points', 'nothing', 'Paste rows of a name and three coordinates.');
  return points;
}

/** Lines as they are pasted: the names of two points or more in each row, joined one after the other. @throws `bad_input` naming the row */
export function linesFromText(text: string, known: ReadonlySet<string>): [string, string][] {
  return rowsOf(text).flatMap((cells, k) => {
    const names = cells.filter(Boolean);
    const lost = names.find((n) => !known.has(n));
    if (names.length < 2) throw badInput(`row ${k + 1}`, names.join(' '), 'Give the names of two points or more.'); // prettier-ignore
    if (lost !== undefined) throw badInput(`row ${k + 1}`, lost, 'There is no point of that name.');
    return names.slice(1).map((n, i): [string, string] => [names[i], n]);
  });
}

/** Surfaces as they are pasted: three or four names a row. @throws `bad_input` naming the row */
export function surfacesFromText(text: string, known: ReadonlySet<string>): string[][] {
  return rowsOf(text).map((cells, k) => {
    const names = cells.filter(Boolean);
    const lost = names.find((n) => !known.has(n));
    if (names.length < 3 || names.length > 4)
      throw badInput(`row ${k + 1}`, names.join(' '), 'Give the names of three or four points.');
    if (lost !== undefined) throw badInput(`row ${k + 1}`, lost, 'There is no point of that name.');
    return names;
  });
}
