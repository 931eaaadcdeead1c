import type { Figure } from '$core/figures/figure';
import { paintFigure, paintStack } from '$core/figures/paper';
import { paintAxes } from '$core/figures/paper-axes';
import type { Sheet } from '$core/pages/sheet';
import { AXES } from '$contract/report-blocks';
import { usualStrips } from '$contract/take';
import { lacking, wanted, type BlockPainter } from './block';

const CAPTION = 14;
const NAMES = 13;
/** Points of a curve for each point of paper it is wide. */
const FINE = 2;

/** Words under a drawing. */
function captioned(sheet: Sheet, caption: string): number {
  if (!caption) return sheet.height;
  sheet.fitted(0, sheet.height - 3, caption, { size: 8, colour: sheet.ink.muted }, sheet.width);
  return sheet.height - CAPTION;
}

/** Names of curves in their colours, one after the other. */
function named(sheet: Sheet, figures: readonly Figure[]): void {
  let x = 0;
  for (const [k, { title, marks }] of figures.entries()) {
    const [mark] = marks;
    const face = {
      size: 8.5,
      bold: true,
      colour: sheet.ink.trace((mark as { colour?: number }).colour ?? k),
    };
    if (x >= sheet.width - 20) return;
    sheet.fitted(x, 8.5, title, face, sheet.width - x);
    x += sheet.measure(title, face) + 14;
  }
}

export const chart: BlockPainter<'chart'> = (sheet, settings, page) => {
  const { take } = page;
  if (!take) return lacking(sheet, 'No take is chosen.');
  const { found, lacking: gone } = settings.channels.length
    ? page.channels(settings.channels)
    : { found: usualStrips(take.signals).slice(0, 3), lacking: [] };
  if (gone.length) sheet.faults.push(`${take.head.name} has no ${gone.map((n) => `“${n}”`).join(', ')}.`);
  if (found.length === 0)
    return lacking(sheet, gone.length ? `${take.head.name} has no ${gone.map((n) => `“${n}”`).join(', ')}.` : `${take.head.name} has no channel that is measured.`); // prettier-ignore
  const from = Number(settings.from);
  const to = settings.to === null ? take.durationS : Number(settings.to);
  if (!(to > from && from < take.durationS))
    return lacking(sheet, `From ${from} to ${to} s nothing of ${take.head.name} lies.`);
  const ends = [from, Math.min(to, take.durationS)] as const;
  const bottom = captioned(sheet, settings.caption);
  const moments = settings.marks === 'shown' ? take.notes.map((n) => n.atS) : [];
  const figures = page
    .curves(found, ...ends, Math.ceil(sheet.width * FINE))
    .map((figure): Figure => ({ ...figure, y: { ...figure.y, scale: settings.scale } }));
  if (settings.axes === AXES[2]) {
    const each = Math.max(30, (bottom - 18) / figures.length);
    const shown = settings.names === 'shown' ? figures : figures.map(unnamed);
    sheet.things.push({ thing: 'figures', top: 0, bottom, figures, ends, apart: true });
    return sheet.place(paintStack(shown, sheet.ink, { width: sheet.width, each }, ends, moments), 0, 0);
  }
  const top = settings.names === 'shown' ? NAMES : 0;
  const before = sheet.things.length;
  if (top) named(sheet, figures);
  if (gone.length) sheet.words(sheet.width, 8.5, `without ${gone.join(', ')}`, { size: 8, colour: sheet.ink.tones.warning }, 'end'); // prettier-ignore
  const size = { width: sheet.width, height: bottom - top };
  const grid = settings.grid !== 'none';
  const drawn =
    settings.axes === AXES[3]
      ? [{ ...figures[0], y: { ...figures[0].y, unit: [...new Set(figures.map((f) => f.y.unit))].join(', ') }, marks: figures.flatMap((f) => f.marks) }] // prettier-ignore
      : figures;
  // As a thing it has its names itself.
  sheet.things.splice(before, Infinity, { thing: 'figures', top: 0, bottom, figures, ends, apart: settings.axes !== AXES[3] }); // prettier-ignore
  const side = settings.axes === AXES[1] ? ('both' as const) : ('left' as const);
  sheet.place(paintAxes(drawn, sheet.ink, size, ends, { side, grid, moments }), 0, top);
};
const unnamed = (figure: Figure): Figure => ({ ...figure, marks: figure.marks.map((m) => ('name' in m ? { ...m, name: '' } : m)) }); // prettier-ignore

export const figure: BlockPainter<'figure'> = (sheet, settings, page) => {
  const study = wanted(sheet, settings.study, page, (r) => r.figures.length > 0);
  if (!study) return;
  const { figures } = study.result;
  const found = settings.figure ? figures.find((f) => f.title === settings.figure) : figures[0];
  if (!found)
    return lacking(sheet, settings.figure ? `${study.view.name} has no figure “${settings.figure}”.` : `${study.view.name} draws nothing.`); // prettier-ignore
  const bottom = captioned(sheet, settings.caption);
  sheet.things.push({ thing: 'figures', top: 0, bottom, figures: [found], ends: null, apart: true });
  sheet.place(paintFigure(found, sheet.ink, { width: sheet.width, height: Math.max(70, bottom) }), 0, 0);
};
