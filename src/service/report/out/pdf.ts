import { createReadStream, createWriteStream, rmSync } from 'node:fs';
import { once } from 'node:events';
import { createInterface } from 'node:readline';
import { finished } from 'node:stream/promises';
import PDFDocument from 'pdfkit';
import SVGtoPDF from 'svg-to-pdfkit';
import { asFarrierError, cancelled, type ErrorText } from '$core/errors';
import { svgOf } from '$core/pages/sheet';
import type { Watched } from '../../watched';
import { OTHER_LETTERS, TYPEFACE_FILES } from '../letters';
import type { Typeface } from '$contract/report';
import type { DrawnPage } from './drawn-page';

/** What a thread needs to set a PDF. */
export interface PdfTask {
  /** A file with a page to a line, as JSON: however many there are, one is held. */
  pages: string;
  count: number;
  to: string;
  title: string;
  author: string;
  subject: string;
  /** Of the report: which pages of a file are its own. */
  report: string;
  /** Names that links can lead to. */
  anchors: string[];
  madeMs: number;
  face: Typeface;
}
/** Under this name pages say to whom they belong (ISO 32000-1, 14.5). */
export const PIECE = 'Farrier';

/** Faces by the names that drawings call them. */
const fontFor = (family: string, bold: boolean): string => {
  const faces: Record<string, [string, string]> = { Mono: ['Mono', 'Mono'], [OTHER_LETTERS]: [OTHER_LETTERS, OTHER_LETTERS] }; // prettier-ignore
  const [plain, heavy] = faces[family] ?? ['Words', 'Words bold'];
  return bold ? heavy : plain;
};

/** Sets pages as PDF (ISO 32000-1, PDF/A-2b): vectors with embedded fonts, a bookmark for each page, drawings tagged with what they are in words, links
 *  from findings to where they come from. Done in a worker thread; of a file that is not whole nothing stays. */
export async function writePdf(
  { pages, count, to, title, author, subject, report, anchors, madeMs, face }: PdfTask,
  { progress, signal }: Watched,
): Promise<{ says: string[] } | { fault: ErrorText }> {
  const made = new Date(madeMs);
  const known = new Set(anchors);
  const fonts = TYPEFACE_FILES[face];
  const out = createWriteStream(to);
  try {
    const failed = finished(out);
    failed.catch(() => undefined);
    const doc = new PDFDocument({
      autoFirstPage: false,
      font: fonts.words,
      pdfVersion: '1.7',
      subset: 'PDF/A-2b',
      tagged: true,
      lang: 'en',
      displayTitle: true,
      info: {
        Title: title,
        Author: author,
        Subject: subject,
        Creator: 'Farrier',
        Producer: 'Farrier',
        CreationDate: made,
        Keywords: `made ${made.toISOString().slice(0, 16).replace('T', ', ')} UTC`,
      },
    } as PDFKit.PDFDocumentOptions);
    doc.registerFont('Words', fonts.words).registerFont('Words bold', fonts.bold).registerFont('Mono', fonts.mono).registerFont(OTHER_LETTERS, fonts.others); // prettier-ignore
    doc.pipe(out);
    const root = doc.struct('Document');
    doc.addStructure(root);
    let done = 0;
    for await (const line of createInterface({ input: createReadStream(pages) })) {
      if (signal.aborted) throw cancelled(title);
      setPage(doc, root, JSON.parse(line) as DrawnPage, { report, made, known });
      if (out.writableNeedDrain) await Promise.race([once(out, 'drain'), failed]);
      progress(++done / count);
    }
    root.end();
    doc.end();
    await failed;
    return { says: [] };
  } catch (error) {
    out.destroy();
    rmSync(to, { force: true });
    return { fault: asFarrierError(error, title).text };
  }
}

function setPage(
  doc: PDFKit.PDFDocument,
  root: PDFKit.PDFStructureElement,
  { title, width, height, frame, blocks }: DrawnPage,
  { report, made, known }: { report: string; made: Date; known: Set<string> },
): void {
  doc.addPage({ size: [width, height], margin: 0 });
  Object.assign(doc.page.dictionary.data, { PieceInfo: { [PIECE]: { LastModified: made, Private: { Report: new String(report) } } } }); // prettier-ignore
  doc.outline.addItem(title);
  const draw = (content: string, x: number, y: number) =>
    SVGtoPDF(doc, svgOf(content, width, height), x, y, { assumePt: true, width, height, fontCallback: (family, bold) => fontFor(family, bold), warningCallback: () => undefined }); // prettier-ignore
  doc.markContent('Artifact', { type: 'Pagination' });
  draw(frame, 0, 0);
  doc.endMarkedContent();
  const page = doc.struct('Sect', { title });
  root.add(page);
  for (const { x, y, content, part, alt, links, anchors } of blocks) {
    if (part === 'beside') {
      doc.markContent('Artifact', { type: 'Layout' });
      draw(content, x, y);
      doc.endMarkedContent();
    } else page.add(doc.struct(part === 'drawing' ? 'Figure' : 'P', part === 'drawing' ? { alt } : {}, () => draw(content, x, y))); // prettier-ignore
    for (const name of anchors) doc.addNamedDestination(name, 'XYZ', x, y, null);
    // Links are shown where they are printed, too (PDF/A: annotations print).
    for (const link of links)
      if (known.has(link.to)) doc.goTo(x + link.x, y + link.y, link.w, link.h, link.to, { F: 4 } as never);
  }
  page.end();
}
