import type { LineWish } from '$contract/radio';
import type { HeardBand } from '$contract/radio';

const time = (ms: number) => new Date(ms).toTimeString().slice(0, 8);

/** What a line shows, in words. @param all of which a difference names two @param heard what is known of each */
export function lineName(line: LineWish, all: readonly LineWish[], heard: HeardBand | null): string {
  const own = heard?.lines.find((l) => l.id === line.id);
  switch (line.shows) {
    case 'now':
      return 'now';
    case 'highest':
    case 'lowest':
      return own && own.pictures > 0 ? `the ${line.shows} since ${time(own.sinceMs)}` : `the ${line.shows}`;
    case 'average':
      return `the average of ${line.of}${line.on === 'level' ? ' in dB' : ''}`;
    case 'kept':
      return `kept from ${time(line.atMs)}`;
    case 'difference': {
      const name = (id: string) => {
        const other = all.find((l) => l.id === id);
        return other ? lineName(other, all, null) : 'a line that is gone';
      };
      return `${name(line.from)} minus ${name(line.minus)}`;
    }
  }
}

/** Places of the trace colours that lines take, in their order: plum for the first, then those that stay apart best. */
export const LINE_COLOURS = [0, 2, 3, 1, 4, 5] as const;

/** Rows of numbers from text: one a line, between tabs, semicolons or blanks; commas may be decimal signs. A head without numbers is passed over.
 *  @param says what each number is @param least numbers of a row that have to be there @returns the rows, or what is wrong with which line */
export function readRows(
  text: string,
  says: string,
  least: number,
  most: number,
): number[][] | { fault: string } {
  const rows: number[][] = [];
  for (const [k, line] of text.split(/\r?\n/).entries()) {
    if (!line.trim()) continue;
    // With points as decimal signs commas part the columns, as in CSV.
    const parted = line.includes('.') ? line.replaceAll(',', ' ') : line;
    const row = parted
      .trim()
      .split(/[\t;]+|\s+/)
      .filter(Boolean)
      .map((p) => Number(p.replace(',', '.').replace('−', '-')));
    if (row.length < least || row.length > most || row.some((v) => !Number.isFinite(v)) || row[0] < 0) {
      if (rows.length === 0 && k === 0) continue;
      return { fault: `Line ${k + 1}: give ${says}.` };
    }
    rows.push(row);
  }
  return rows;
}

/** Points of a limit from text: frequency in MHz and level in dBm on each line. @returns them in rising order, or what is wrong with which line */
export function readLimit(text: string): { points: { hz: number; level: number }[] } | { fault: string } {
  const rows = readRows(text, 'a frequency in MHz and a level in dBm', 2, 2);
  if (!Array.isArray(rows)) return rows;
  if (rows.length < 2) return { fault: 'Give two points or more, one a line.' };
  const points = rows.map(([mhz, level]) => ({ hz: mhz * 1e6, level }));
  return { points: points.sort((a, b) => a.hz - b.hz) };
}
