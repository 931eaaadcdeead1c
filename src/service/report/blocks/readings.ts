import type { Cell, Column } from '$core/figures/table';
import { clockText, readingText } from '$core/readings';
import { drawTable } from '$core/pages/table';
import { usualStrips, type TakeView } from '$contract/take';
import { lacking, type BlockPainter } from './block';

const NOTED = 60;

/** When readings are wanted: instants with what is said of each, or what is wrong with the times that were written. */
function instants(take: TakeView, when: string, times: string): { atS: number; says: string }[] | string {
  if (when === 'at each mark') {
    const marks = take.notes.filter((n) => n.kind !== 'armed');
    return marks.length ? marks.map(({ atS, says }) => ({ atS, says })) : `${take.head.name} has no marks.`;
  }
  const parts = times.split(';').map((t) => t.trim()).filter(Boolean); // prettier-ignore
  if (parts.length === 0) return 'No time is chosen.';
  const found: { atS: number; says: string }[] = [];
  for (const part of parts) {
    const atS = Number(part.replace(',', '.'));
    if (!Number.isFinite(atS))
      return `“${part.slice(0, 40)}” is no time: write seconds, parted by semicolons.`;
    if (atS < 0 || atS > take.durationS) return `At ${part} s nothing of ${take.head.name} lies.`;
    found.push({ atS, says: '' });
  }
  return found;
}

export const readings: BlockPainter<'readings'> = (sheet, settings, page) => {
  const { take } = page;
  if (!take) return lacking(sheet, 'No take is chosen.');
  const { found, lacking: gone } = settings.channels.length
    ? page.channels(settings.channels)
    : { found: usualStrips(take.signals).slice(0, 3), lacking: [] };
  const without = `${take.head.name} has no ${gone.map((n) => `“${n}”`).join(', ')}.`;
  if (found.length === 0) return lacking(sheet, gone.length ? without : `${take.head.name} has no channel that is measured.`); // prettier-ignore
  if (gone.length) sheet.faults.push(without);
  const when = instants(take, settings.when, settings.times);
  if (typeof when === 'string') return lacking(sheet, when);
  const noted = when.some((w) => w.says);
  const columns: Column[] = [
    { label: 'Time', numeric: false },
    ...(noted ? [{ label: 'Mark', numeric: false }] : []),
    ...found.map(({ name, unit }) => ({ label: name, unit: unit && unit !== '1' ? unit : undefined, numeric: false })), // prettier-ignore
  ];
  const rows = when.slice(0, settings.most).map(({ atS, says }): Cell[] => [
    clockText(atS),
    ...(noted ? [says.length > NOTED ? `${says.slice(0, NOTED - 1)}…` : says] : []),
    ...page.readings(found, atS).map(({ value, uncertainty }) => {
      if (value === null) return '–';
      return uncertainty === null ? readingText(value, { digits: 4 }) : `${readingText(value, { uncertainty })} ± ${readingText(uncertainty, { digits: 2 })}`; // prettier-ignore
    }),
  ]);
  drawTable(sheet, columns, rows, { size: 8, most: settings.most });
  if (when.length > settings.most) sheet.faults.push(`${when.length - settings.most} of ${when.length} are left out: at most ${settings.most} rows are wanted.`); // prettier-ignore
};
