import pptxgen from 'pptxgenjs';
import { classLabel, placesOf, roundEnds } from '$core/figures/slide-data';
import type { Figure } from '$core/figures/figure';
import { isNamed } from '$core/figures/figure';
import type { Cell, Column } from '$core/figures/table';
import { columnTitle } from '$core/figures/table';
import { plainReading } from '$core/readings';
import type { Ink } from '$core/figures/vectors';
import type { Thing } from '$core/pages/sheet';
import { PAPER } from '$contract/palette';
import { cancelled } from '$core/errors';
import { pageMm, type ReportView } from '$contract/report';
import type { App } from '../../app';
import { contextFor, seriesFor } from '../context';
import { settingOf, sheetOf } from '../pages';
import { houseStyle } from '../style';
import type { DrawAsk } from './drawn';
import { SLIDE_MARK } from './slide-mark';

const MM_AN_INCH = 25.4;
const POINTS_AN_INCH = 72;
/** Points of a curve on a slide: its data are kept in a table that is opened with it. */
const POINTS_MOST = 500;
const FACE = { words: 'Calibri', mono: 'Consolas' };

const hex = (colour: string) => colour.replace('#', '').slice(0, 6).toUpperCase();

/** Writes a report over some takes as slides (PresentationML, ISO/IEC 29500), a page each: charts and tables as such, which can be edited there, and
 *  words as words. Heat pictures are left to the papers, which is said. @param first number of the first page @throws `not_found`, `cancelled` */
export async function slidesOf(
  app: App,
  report: ReportView,
  { takes, first = 1, all }: Pick<DrawAsk, 'takes' | 'first' | 'all'>,
  by: string,
  { progress, signal }: { progress: (share: number) => void; signal: { readonly aborted: boolean } },
): Promise<{ pptx: Uint8Array; says: string[] }> {
  const [width, height] = pageMm(report.paper).map((mm) => mm / MM_AN_INCH);
  const deck = new pptxgen();
  deck.defineLayout({ name: 'paper', width, height });
  deck.layout = 'paper';
  Object.assign(deck, { title: report.name, author: by, company: 'Farrier', subject: report.about });
  const says = new Set<string>();
  const series = await seriesFor(app, report.pages);
  const setting = settingOf(houseStyle(app));
  const over: (string | null)[] = takes.length ? [...takes] : [null];
  const count = over.length * report.pages.length;
  for (const [n, takeId] of over.entries()) {
    const context = contextFor(app, report, takeId, report.now, series);
    for (const [k, page] of report.pages.entries()) {
      await new Promise((turn) => setImmediate(turn));
      if (signal.aborted) throw cancelled(report.name);
      const slide = deck.addSlide();
      // Its mark: nothing that is seen.
      slide.addText('', { x: 0, y: 0, w: 0.01, h: 0.01, objectName: `${SLIDE_MARK} ${report.id}` });
      for (const block of page.blocks) {
        const sheet = sheetOf(block, { ...context, page: first + n * report.pages.length + k, pages: all ?? count }, setting); // prettier-ignore
        const at = { x: block.x / MM_AN_INCH, y: block.y / MM_AN_INCH, w: block.w / MM_AN_INCH, h: block.h / MM_AN_INCH }; // prettier-ignore
        if (block.kind === 'rule') slide.addShape('rect', { ...at, h: Math.max(0.01, Number(block.settings.weight) / POINTS_AN_INCH), fill: { color: hex(block.settings.colour === 'plum' ? PAPER.plum : PAPER.line) } }); // prettier-ignore
        for (const thing of sheet.things) put(slide, thing, at, says, setting.ink);
      }
      progress(((n * report.pages.length + k + 1) / count) * 0.9);
    }
  }
  return { pptx: (await deck.write({ outputType: 'nodebuffer' })) as Buffer, says: [...says] };
}

interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}

function put(slide: pptxgen.Slide, thing: Thing, at: Box, says: Set<string>, ink: Ink): void {
  const inch = (points: number) => points / POINTS_AN_INCH;
  switch (thing.thing) {
    case 'text': {
      const { text, face, x, foot, width } = thing;
      // A little wider than it measures here: faces differ from program to program.
      slide.addText(text, { x: at.x + inch(x), y: at.y + inch(foot - face.size * 1.05), w: inch(width * 1.15 + 6), h: inch(face.size * 1.4), margin: 0, fontSize: face.size, bold: face.bold ?? false, color: hex(face.colour ?? PAPER.ink), fontFace: face.mono ? FACE.mono : FACE.words, valign: 'middle', wrap: false, superscript: face.raised === 'above', subscript: face.raised === 'below' }); // prettier-ignore
      return;
    }
    case 'picture':
      slide.addImage({ data: thing.href.replace(/^data:/, ''), x: at.x + inch(thing.x), y: at.y + inch(thing.y), w: inch(thing.width), h: inch(thing.height) }); // prettier-ignore
      return;
    case 'table':
      return putTable(slide, thing.columns, thing.rows, thing.size, { ...at, y: at.y + inch(thing.top) });
    case 'figures': {
      const groups = thing.apart ? thing.figures.map((f) => [f]) : [[...thing.figures]];
      const high = (inch(thing.bottom) - inch(thing.top)) / groups.length;
      groups.forEach((group, k) =>
        putChart(
          slide,
          group,
          thing.ends,
          { ...at, y: at.y + inch(thing.top) + k * high, h: high },
          says,
          ink,
        ),
      );
    }
  }
}

function putTable(
  slide: pptxgen.Slide,
  columns: readonly Column[],
  rows: readonly (readonly Cell[])[],
  size: number,
  at: Box,
): void {
  const line = { type: 'solid' as const, pt: 0.5, color: hex(PAPER.line) };
  const none = { type: 'none' as const };
  const border = [none, none, line, none] as [pptxgen.BorderProps, pptxgen.BorderProps, pptxgen.BorderProps, pptxgen.BorderProps]; // prettier-ignore
  const cell = (text: string, { numeric }: Column, bold = false): pptxgen.TableCell => ({ text, options: { bold, align: numeric ? 'right' : 'left', color: hex(bold ? PAPER.muted : PAPER.ink), fontFace: numeric && !bold ? FACE.mono : FACE.words, fontSize: size, border, margin: 0.02 } }); // prettier-ignore
  const shown = (value: Cell) =>
    value === null ? '–' : typeof value === 'number' ? plainReading(value) : value;
  slide.addTable(
    [columns.map((c) => cell(columnTitle(c), c, true)), ...rows.map((r) => columns.map((c, k) => cell(shown(r[k] ?? null), c)))],
    { x: at.x, y: at.y, w: at.w },
  ); // prettier-ignore
}

function putChart(slide: pptxgen.Slide, figures: readonly Figure[], ends: readonly [number, number] | null, at: Box, says: Set<string>, ink: Ink): void {
  const marks = figures.flatMap((f) => f.marks.filter(isNamed));
  const [first] = figures;
  const drawn = marks.filter((m) => m.mark !== 'heat');
  if (drawn.length < marks.length) says.add(`${first.title} is a heat picture: slides leave it out, the PDF has it.`); // prettier-ignore
  if (drawn.length === 0) return;
  const axis = ({ label, unit }: Figure['x']) => (unit && unit !== '1' ? `${label}, ${unit}` : label);
  const colours = drawn.map((m, k) => hex(ink.trace(m.colour ?? k)));
  const options: pptxgen.IChartOpts = { ...at, chartColors: colours, showLegend: drawn.length > 1, legendPos: 't', legendFontSize: 8, showValAxisTitle: true, valAxisTitle: axis(first.y), valAxisTitleFontSize: 8, showCatAxisTitle: true, catAxisTitle: axis(first.x), catAxisTitleFontSize: 8, catAxisLabelFontSize: 8, valAxisLabelFontSize: 8, valGridLine: { color: hex(PAPER.line), size: 0.5 }, catGridLine: { style: 'none' }, showTitle: drawn.length === 1, title: drawn[0].name || first.title, titleFontSize: 9, ...(first.y.scale === 'logarithmic' && { valAxisLogScaleBase: 10 }) }; // prettier-ignore
  if (drawn.every((m) => m.mark === 'bar')) {
    const labels = placesOf(drawn[0], POINTS_MOST).x.map((x) => classLabel(first, x));
    slide.addChart('bar', drawn.map((m) => ({ name: m.name, labels, values: placesOf(m, POINTS_MOST).y.map((v) => v ?? 0) })), { ...options, barGapWidthPct: 20 }); // prettier-ignore
    return;
  }
  // One column of places for all curves of a scatter chart: those of the first; the others are read there.
  const { x } = placesOf(drawn[0], POINTS_MOST);
  const values = drawn.map((m) => ({ name: m.name || first.title, values: readAt(placesOf(m, POINTS_MOST), x) as number[] })); // prettier-ignore
  slide.addChart('scatter', [{ name: axis(first.x), values: x }, ...values], { ...options, lineSize: drawn.some((m) => m.mark === 'points') ? 0 : 1, lineDataSymbol: drawn.some((m) => m.mark === 'points') ? 'circle' : 'none', ...(ends && endsOf(ends)) }); // prettier-ignore
} // prettier-ignore

const endsOf = (ends: readonly [number, number]) => {
  const [catAxisMinVal, catAxisMaxVal] = roundEnds(ends);
  return { catAxisMinVal, catAxisMaxVal };
};

/** Of a curve the value nearest to each place; null beyond its ends. */
function readAt(curve: ReturnType<typeof placesOf>, at: readonly number[]): (number | null)[] {
  if (curve.x.length === at.length && curve.x.every((x, i) => x === at[i])) return curve.y;
  let k = 0;
  return at.map((x) => {
    while (k + 1 < curve.x.length && Math.abs(curve.x[k + 1] - x) <= Math.abs(curve.x[k] - x)) k++;
    return x < curve.x[0] || x > curve.x[curve.x.length - 1] ? null : curve.y[k];
  });
}
