import { imageSize } from 'image-size';
import type { Cell, Column } from '$core/figures/table';
import { drawTable } from '$core/pages/table';
import type { SeriesStatistics } from '$core/statistics/series';
import { lacking, trailAnchor, wanted, type BlockPainter } from './block';

const CAPTION = 14;
/** Below so many dots an inch a picture looks coarse on paper. */
const COARSE_DPI = 150;
const POINTS_AN_INCH = 72;

/** A picture as large as its box allows, its sides in their proportion. One that prints coarse is said to. */
export const picture: BlockPainter<'picture'> = (sheet, { picture: id, caption }, page) => {
  if (id === null) return lacking(sheet, 'No picture is chosen.');
  const found = page.picture(id);
  if (!found) return lacking(sheet, 'The picture is gone.');
  if (found.type === 'image/webp')
    return lacking(sheet, 'Papers take PNG and JPEG pictures: save it as one of these.');
  const { width, height } = imageSize(found.content);
  const room = sheet.height - (caption ? CAPTION : 0);
  const scale = Math.min(sheet.width / width, room / height);
  const [w, h] = [width * scale, height * scale];
  sheet.picture(`data:${found.type};base64,${Buffer.from(found.content).toString('base64')}`, Math.max(0, sheet.width - w) / 2, Math.max(0, room - h) / 2, w, h); // prettier-ignore
  if (caption) sheet.fitted(0, sheet.height - 3, caption, { size: 8, colour: sheet.ink.muted }, sheet.width);
  const dpi = POINTS_AN_INCH / scale;
  const mm = (points: number) => Math.round((points / POINTS_AN_INCH) * 25.4);
  if (dpi < COARSE_DPI)
    sheet.faults.push(`It prints ${mm(w)} × ${mm(h)} mm with ${Math.round(dpi)} dots an inch, which looks coarse: ${COARSE_DPI} or more are good.`); // prettier-ignore
};

/** Takes as rows, as the series says; under them the statistics of those that count. */
export const series: BlockPainter<'series'> = (sheet, settings, page) => {
  const found = page.series(settings.series);
  if (found === null)
    return lacking(sheet, settings.series ? `There is no series “${settings.series}”.` : 'There is no series yet.'); // prettier-ignore
  const columns: Column[] = [
    { label: 'Take', numeric: false },
    ...found.columns.map(({ title, unit, statistics }) => ({ label: title, unit: unit && unit !== '1' ? unit : undefined, numeric: statistics !== null })), // prettier-ignore
  ];
  const out = found.rows.some((r) => !r.counts);
  const rows = found.rows
    .slice(0, settings.most)
    .map((r): Cell[] => [r.counts ? r.name : `${r.name} (does not count)`, ...r.cells.map((c) => c.value)]);
  const of = (label: string, pick: (s: SeriesStatistics) => number): Cell[] => [
    label,
    ...found.columns.map(({ statistics }) => {
      const value = statistics ? pick(statistics) : NaN;
      return Number.isFinite(value) ? value : null;
    }),
  ]; // prettier-ignore
  const statistics =
    settings.statistics === 'shown'
      ? [
          of(out ? 'n, of those that count' : 'n', (s) => s.n),
          of('mean', (s) => s.mean),
          of('standard deviation', (s) => s.standardDeviation),
          of('lowest', (s) => s.lowest),
          of('highest', (s) => s.highest),
        ]
      : [];
  drawTable(sheet, columns, [...rows, ...statistics], { size: 7.5 });
};

/** Step by step: what, and below it what is known of it. */
export const trail: BlockPainter<'trail'> = (sheet, settings, page) => {
  const study = wanted(sheet, settings.study, page);
  if (!study) return;
  sheet.anchors.push(trailAnchor(study.view.id));
  let top = 0;
  const steps = page.trail(study.view.id);
  for (const [k, { what, says }] of steps.entries()) {
    const head = sheet.flow(0, top, [{ text: what, face: { size: 8.5, bold: true } }], sheet.width);
    const body = sheet.flow(10, head.bottom, [{ text: says, face: { size: 8, colour: sheet.ink.muted } }], sheet.width - 10); // prettier-ignore
    if (head.left + body.left > 0) {
      sheet.faults.push(`${steps.length - k} of ${steps.length} steps do not fit: make it higher.`);
      return;
    }
    top = body.bottom + 3;
  }
};
