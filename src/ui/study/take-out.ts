import { paintFigure } from '$core/figures/paper';
import type { Figure } from '$core/figures/figure';
import { columnTitle, rowsOf, type Table } from '$core/figures/table';
import { PAPER_INK } from '$contract/palette';
import { save } from '../files/save';
import Papa from 'papaparse';

/** Of a figure that leaves as a picture, points. */
const SIZE = { width: 560, height: 320 };
/** Pixels a point of a PNG: sharp on paper at that size. */
const SCALE = 3;

/** A figure as it is printed, for a file: with faces that other programs have. */
const svgOf = (figure: Figure): string =>
  paintFigure(figure, { ...PAPER_INK, words: 'Lato, Helvetica, Arial, sans-serif', mono: 'monospace' }, SIZE);

const fileName = (title: string, end: string) =>
  `${title.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '') || 'figure'}.${end}`;

export const saveSvg = (figure: Figure): void =>
  save(new Blob([svgOf(figure)], { type: 'image/svg+xml' }), fileName(figure.title, 'svg'));

/** @throws Error where the browser cannot draw it */
export async function savePng(figure: Figure): Promise<void> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svgOf(figure))}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [SIZE.width * SCALE, SIZE.height * SCALE];
  const context = canvas.getContext('2d')!;
  context.fillStyle = 'white';
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('The browser could not draw the picture.');
  save(blob, fileName(figure.title, 'png'));
}

/** All rows with full numbers. */
export function saveCsv(table: Table): void {
  const fields = table.columns.map(columnTitle);
  const text = Papa.unparse(
    { fields, data: rowsOf(table).map((row) => row.map((c) => c ?? '')) },
    { escapeFormulae: true },
  );
  save(new Blob([`\ufeff${text}\r\n`], { type: 'text/csv' }), fileName(table.title, 'csv'));
}
