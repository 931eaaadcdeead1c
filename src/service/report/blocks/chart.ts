import { against, bars, overTime, rowsOfColour, type CurveLook } from '$core/figures/forms';
import type { Figure } from '$core/figures/figure';
import { horizontalEnds } from '$core/figures/layout';
import { paintFigure, paintStack } from '$core/figures/paper';
import { paintAxes } from '$core/figures/paper-axes';
import type { Plot } from '$core/figures/vectors';
import type { Sheet } from '$core/pages/sheet';
import { type BlockSettings } from '$contract/report-blocks';
import { AXES, TRACE_NAMES, type CurveSetting } from '$contract/report-chart';
import { usualStrips, type TakeSignal, type TakeView } from '$contract/take';
import { lacking, type BlockPainter, type PageContext } from './block';

const CAPTION = 14;
const NAMES = 13;
/** Points of a curve for each point of paper it is wide. */
const FINE = 2;
/** Places of steps and points: more cannot be told apart. */
const FEW = 400;
/** Size of letters as drawings are made, points. */
const LETTERS = 7.5;

type Settings = BlockSettings<'chart'>;
type Ends = readonly [number, number];

/** Words under a drawing. @returns where the drawing ends */
export function captioned(sheet: Sheet, caption: string): number {
  if (!caption) return sheet.height;
  sheet.fitted(0, sheet.height - 3, caption, { size: 8, colour: sheet.ink.muted }, sheet.width);
  return sheet.height - CAPTION;
}

/** Names of curves in their colours, one after the other. @param large of the letters */
function named(sheet: Sheet, figures: readonly Figure[], large: number): void {
  let x = 0;
  for (const [k, { title, marks }] of figures.entries()) {
    const [mark] = marks;
    const colour = sheet.ink.trace((mark as { colour?: number }).colour ?? k);
    const face = { size: 8.5 * large, bold: true, colour };
    if (x >= sheet.width - 20) return;
    sheet.fitted(x, 8.5 * large, title, face, sheet.width - x);
    x += sheet.measure(title, face) + 14 * large;
  }
}

/** Which channels and which time, or what is to be said instead. */
function meant(sheet: Sheet, settings: Settings, page: PageContext): { take: TakeView; found: TakeSignal[]; ends: Ends; gone: string[] } | string {
  const { take } = page;
  if (!take) return 'No take is chosen.';
  const { found, lacking: gone } = settings.channels.length
    ? page.channels(settings.channels)
    : { found: usualStrips(take.signals).slice(0, 3), lacking: [] };
  const without = `${take.head.name} has no ${gone.map((n) => `“${n}”`).join(', ')}.`;
  if (found.length === 0) return gone.length ? without : `${take.head.name} has no channel that is measured.`;
  if (gone.length) sheet.faults.push(without);
  const from = Number(settings.from);
  const to = settings.to === null ? take.durationS : Number(settings.to);
  if (!(to > from && from < take.durationS)) return `From ${from} to ${to} s nothing of ${take.head.name} lies.`;
  return { take, found, ends: [from, Math.min(to, take.durationS)], gone };
} // prettier-ignore

/** What was said of a curve, as figures take it; nothing where nothing was. */
function lookFor(said: Partial<CurveSetting> | undefined): CurveLook | undefined {
  if (!said) return undefined;
  const colour = TRACE_NAMES.indexOf(said.colour as (typeof TRACE_NAMES)[number]);
  return {
    ...(said.label && { label: said.label }),
    from: said.from,
    to: said.to,
    ...(colour >= 0 && { colour }),
    ...(said.line && said.line !== 'as it comes' && { line: said.line }),
    ...(said.weight && said.weight !== 'usual' && { weight: said.weight }),
  };
}

/** The figures of a chart, one for each curve that has an upright axis, and the ends of the axis that they share. */
function figuresOf(sheet: Sheet, settings: Settings, page: PageContext, found: readonly TakeSignal[], ends: Ends): { figures: Figure[]; across: Ends; label: string } | string {
  const { form, scale, parts, of } = settings;
  const lookOf = (s: TakeSignal) => lookFor(s.channelId === null ? undefined : settings.looks[s.channelId]);
  switch (form) {
    case 'bars': {
      const all = page.parts(found, ...ends, parts, of);
      const stacked = settings.axes === AXES[2];
      return { figures: all.map((p, k) => bars(p, stacked ? 0 : k, stacked ? 1 : all.length, scale, lookOf(found[k]))), across: ends, label: '' }; // prettier-ignore
    }
    case 'rows of colour':
      return { figures: [rowsOfColour(page.parts(found, ...ends, parts, of), found.map(lookOf))], across: ends, label: '' }; // prettier-ignore
    case 'against the first of them': {
      const [first, ...others] = found;
      if (others.length === 0) return `Only ${first.name} is there: choose what it is to be drawn against.`;
      const figures = against(first, page.pairs(first, others, ...ends), scale, others.map(lookOf), lookOf(first)); // prettier-ignore
      const all = figures.map(horizontalEnds);
      const across: Ends = [Math.min(...all.map(([low]) => low)), Math.max(...all.map(([, high]) => high))];
      const { label, unit } = figures[0].x;
      return { figures, across, label: unit && unit !== '1' ? `${label}, ${unit}` : label };
    }
    default: {
      const places = Math.ceil(sheet.width * FINE);
      const curves = page.curves(found, ...ends, form === 'lines' ? places : Math.min(FEW, places));
      return { figures: curves.map((c, k) => overTime(c, form, scale, lookOf(found[k]))), across: ends, label: '' };
    }
  }
} // prettier-ignore

export const chart: BlockPainter<'chart'> = (sheet, settings, page) => {
  const what = meant(sheet, settings, page);
  if (typeof what === 'string') return lacking(sheet, what);
  const { take, found, ends, gone } = what;
  const drawn = figuresOf(sheet, settings, page, found, ends);
  if (typeof drawn === 'string') return lacking(sheet, drawn);
  const { figures, across, label } = drawn;
  const bottom = captioned(sheet, settings.caption);
  // Letters of another size: the drawing is made smaller or larger and put there so much larger or smaller.
  const large = settings.text / LETTERS;
  const [width, height] = [sheet.width / large, bottom / large];
  const thing = { thing: 'figures', top: 0, bottom, figures, ends: across, apart: settings.axes !== AXES[3] } as const; // prettier-ignore
  const plots: Plot[] = [];
  if (settings.form === 'rows of colour') {
    sheet.things.push({ ...thing, ends: null });
    return sheet.place(paintFigure(figures[0], sheet.ink, { width, height: Math.max(60, height) }, { x: across }, plots), 0, 0, large, plots); // prettier-ignore
  }
  const overTimeToo = settings.marks === 'shown' && settings.form !== 'against the first of them';
  const noted = overTimeToo ? take.notes : [];
  const moments = noted.filter((n) => n.untilS === null).map((n) => n.atS);
  const spans = noted.flatMap((n): Ends[] => (n.untilS === null ? [] : [[n.atS, n.untilS]]));
  if (settings.axes === AXES[2] && settings.form !== 'against the first of them') {
    const each = Math.max(30, (height - 18) / figures.length);
    const shown = settings.names === 'left out' ? figures.map(unnamed) : figures;
    sheet.things.push({ ...thing, apart: true });
    return sheet.place(paintStack(shown, sheet.ink, { width, each }, across, moments, spans, plots), 0, 0, large, plots); // prettier-ignore
  }
  const top = settings.names === 'shown' ? NAMES * large : 0;
  const before = sheet.things.length;
  if (top) named(sheet, figures, large);
  if (gone.length) sheet.words(sheet.width, 8.5, `without ${gone.join(', ')}`, { size: 8, colour: sheet.ink.tones.warning }, 'end'); // prettier-ignore
  // As a thing it has its names itself.
  sheet.things.splice(before, Infinity, thing);
  const side = settings.axes === AXES[1] ? 'both' : 'left';
  const look = { side, grid: settings.grid !== 'none', moments, spans, across: label, atLines: settings.names === 'at the lines' } as const; // prettier-ignore
  const together = settings.axes === AXES[3] ? onOneAxis(figures) : figures;
  sheet.place(paintAxes(together, sheet.ink, { width, height: height - top / large }, across, look, plots), 0, top, large, plots); // prettier-ignore
};

/** All curves on one upright axis; its ends are those that any of them asks for. */
function onOneAxis(figures: readonly Figure[]): Figure[] {
  const [first] = figures;
  const ends = (pick: (f: Figure) => number | undefined, of: (...all: number[]) => number) => {
    const said = figures.flatMap((f) => pick(f) ?? []);
    return said.length ? of(...said) : undefined;
  };
  const [min, max] = [ends((f) => f.y.min, Math.min), ends((f) => f.y.max, Math.max)];
  const y = { ...first.y, unit: [...new Set(figures.map((f) => f.y.unit))].join(', '), min, max };
  return [{ ...first, y, marks: figures.flatMap((f) => f.marks) }];
}
const unnamed = (figure: Figure): Figure => ({ ...figure, marks: figure.marks.map((m) => ('name' in m ? { ...m, name: '' } : m)) }); // prettier-ignore
