import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { PDFArray, PDFDict, PDFDocument, PDFHexString, PDFName, PDFNumber, PDFRef, PDFString, type PDFPage } from '@cantoo/pdf-lib'; // prettier-ignore
import { strFromU8, unzipSync } from 'fflate';
import { Automizer } from 'pptx-automizer';
import { FarrierError, asFarrierError, badInput, damaged, type ErrorText } from '$core/errors';
import type { Watched } from '../../watched';
import { PIECE } from './pdf';
import { SLIDE_MARK } from './slide-mark';

type Kind = 'pdf' | 'pptx';
/** What a file has: its pages, and the indices of those that come from a report. */
interface Known {
  pages: number;
  own: number[];
}
/** Bytes of a file that may come out of an archive. */
const MOST_UNPACKED = 1e9;

/** Looks into a file that pages are to go into. Done in a worker thread. */
export async function lookIntoFile({ path, kind, report }: { path: string; kind: Kind; report: string }): Promise<{ result: Known } | { fault: ErrorText }> {
  try {
    return { result: kind === 'pdf' ? await pdfPages(path, report) : slidesIn(path, report) };
  } catch (error) {
    return { fault: asFarrierError(error, 'the file').text };
  }
} // prettier-ignore

/** Opens a PDF. @throws `damaged`, `bad_input` where it is locked */
async function opened(path: string): Promise<PDFDocument> {
  const bytes = readFileSync(path);
  if (!bytes.subarray(0, 1024).includes('%PDF-')) throw damaged('the file', 'It is no PDF.', 'Choose the PDF that the pages are to go into.'); // prettier-ignore
  try {
    const doc = await PDFDocument.load(bytes, { updateMetadata: false });
    if (doc.getPageCount() < 1) throw new Error('It has no pages.');
    return doc;
  } catch (error) {
    const says = (error as Error).message;
    if (/encrypt/i.test(says)) throw badInput('file', 'locked by a password', 'Save it without one, then add to it.'); // prettier-ignore
    throw damaged('the file', `The PDF cannot be read (${says.slice(0, 120)}).`, 'Open it elsewhere, save it anew, and try that.'); // prettier-ignore
  }
}

/** Whose report a page is, by what it says of itself. */
function reportOf(page: PDFPage): string | null {
  const piece = page.node.lookupMaybe(PDFName.of('PieceInfo'), PDFDict)?.lookupMaybe(PDFName.of(PIECE), PDFDict);
  const report = piece?.lookupMaybe(PDFName.of('Private'), PDFDict)?.lookup(PDFName.of('Report'));
  return report instanceof PDFString || report instanceof PDFHexString ? report.decodeText() : null;
} // prettier-ignore
async function pdfPages(path: string, report: string): Promise<Known> {
  const pages = (await opened(path)).getPages();
  return { pages: pages.length, own: pages.flatMap((p, k) => (reportOf(p) === report ? [k] : [])) };
}

/** Slides of a presentation in their order. @throws `damaged`, `bad_input` */
function slidesIn(path: string, report: string): Known {
  let unpacked = 0;
  const wanted = /^ppt\/(presentation\.xml|_rels\/presentation\.xml\.rels|slides\/slide\d+\.xml)$/;
  let files: Record<string, Uint8Array>;
  try {
    files = unzipSync(readFileSync(path), {
      filter: ({ name, originalSize }) => {
        if (!wanted.test(name)) return false;
        if ((unpacked += originalSize) > MOST_UNPACKED) throw badInput('file', 'over 1 GB unpacked', 'Choose the presentation that the slides are to go into.'); // prettier-ignore
        return true;
      },
    });
  } catch (error) {
    if (error instanceof FarrierError) throw error;
    throw damaged(
      'the file',
      'It is no presentation.',
      'Choose the PPTX file that the slides are to go into.',
    );
  }
  const order = files['ppt/presentation.xml'];
  const relations = files['ppt/_rels/presentation.xml.rels'];
  if (!order || !relations) throw damaged('the file', 'It is no presentation.', 'Choose the PPTX file that the slides are to go into.'); // prettier-ignore
  const targets = new Map([...strFromU8(relations).matchAll(/<Relationship\b[^>]*>/g)].map(([tag]) => [/\bId="([^"]*)"/.exec(tag)?.[1], /\bTarget="\/?(?:ppt\/)?([^"]*)"/.exec(tag)?.[1]])); // prettier-ignore
  const slides = [...strFromU8(order).matchAll(/<p:sldId\b[^>]*\br:id="([^"]*)"/g)].map(([, id]) => files[`ppt/${targets.get(id)}`]); // prettier-ignore
  const mark = `"${SLIDE_MARK} ${report}"`;
  return {
    pages: slides.length,
    own: slides.flatMap((s, k) => (s && strFromU8(s).includes(mark) ? [k] : [])),
  };
}

/** Puts pages into a file at a place; what else it has stays as it is. Done in a worker thread; of a file that is not whole nothing stays.
 *  @param at index of the first one @param without indices of pages that go away */
export async function joinFiles(
  task: { path: string; added: string; at: number; without: number[]; kind: Kind; to: string },
  { progress }: Watched,
): Promise<{ says: string[] } | { fault: ErrorText }> {
  try {
    const says = task.kind === 'pdf' ? await joinPdf(task) : await joinSlides(task);
    progress(1);
    return { says };
  } catch (error) {
    rmSync(task.to, { force: true });
    return { fault: asFarrierError(error, 'the file').text };
  }
}
type Join = Omit<Parameters<typeof joinFiles>[0], 'kind'>;

/** The outline, names, attachments and whatever the file says of itself stay; bookmarks of the new pages are added at their end. */
async function joinPdf({ path, added, at, without, to }: Join): Promise<string[]> {
  const doc = await opened(path);
  const more = await opened(added);
  const bookmarks = titlesOf(more);
  const places = destinationsOf(more);
  const copied = await doc.copyPages(more, more.getPageIndices());
  const [gone, former] = [new Set(without), doc.getPages()];
  const leaving = new Set(without.map((k) => former[k].ref));
  dropBookmarks(doc, leaving);
  for (const k of [...gone].sort((a, b) => b - a)) doc.removePage(k);
  copied.forEach((page, k) => {
    // Structure and names are the whole file’s: of pages that come in, links lead straight to their places, and tags are left out.
    page.node.delete(PDFName.of('StructParents'));
    doc.insertPage(at + k, page);
  });
  copied.forEach((page) => leadStraight(page, places, copied));
  addBookmarks(doc, copied.flatMap((page, k) => (bookmarks.has(k) ? [{ title: bookmarks.get(k)!, page: page.ref }] : []))); // prettier-ignore
  writeFileSync(to, await doc.save());
  return ['The pages that were put in carry no tags for reading aloud; what the file had keeps its own.'];
}

/** Titles of bookmarks by the page that they lead to, of a file of our own. */
function titlesOf(doc: PDFDocument): Map<number, string> {
  const refs = doc.getPages().map((p) => p.ref);
  const titles = new Map<number, string>();
  const outlines = doc.catalog.lookupMaybe(PDFName.of('Outlines'), PDFDict);
  for (
    let item = outlines?.lookupMaybe(PDFName.of('First'), PDFDict);
    item;
    item = item.lookupMaybe(PDFName.of('Next'), PDFDict)
  ) {
    // prettier-ignore
    const title = item.lookup(PDFName.of('Title'));
    const dest = item.lookup(PDFName.of('Dest'));
    const page = dest instanceof PDFArray ? refs.indexOf(dest.get(0) as PDFRef) : -1;
    if (page >= 0 && (title instanceof PDFString || title instanceof PDFHexString)) titles.set(page, title.decodeText()); // prettier-ignore
  }
  return titles;
}

/** Where names lead to: index of the page, and from its left lower corner. */
function destinationsOf(doc: PDFDocument): Map<string, { page: number; x: number; y: number }> {
  const refs = doc.getPages().map((p) => p.ref);
  const found = new Map<string, { page: number; x: number; y: number }>();
  const walk = (node: PDFDict | undefined): void => {
    const names = node?.lookupMaybe(PDFName.of('Names'), PDFArray);
    for (let i = 0; names && i + 1 < names.size(); i += 2) {
      const [name, dest] = [names.lookup(i), names.lookup(i + 1)];
      const target = dest instanceof PDFDict ? dest.lookup(PDFName.of('D')) : dest;
      if (!(name instanceof PDFString || name instanceof PDFHexString) || !(target instanceof PDFArray)) continue;
      const number = (k: number) => { const v = target.lookup(k); return v instanceof PDFNumber ? v.asNumber() : 0; }; // prettier-ignore
      found.set(name.decodeText(), { page: refs.indexOf(target.get(0) as PDFRef), x: number(2), y: number(3) });
    }
    const kids = node?.lookupMaybe(PDFName.of('Kids'), PDFArray);
    for (let i = 0; kids && i < kids.size(); i++) walk(kids.lookup(i, PDFDict));
  };
  walk(doc.catalog.lookupMaybe(PDFName.of('Names'), PDFDict)?.lookupMaybe(PDFName.of('Dests'), PDFDict));
  return found;
} // prettier-ignore

/** Links by names become links to places. */
function leadStraight(page: PDFPage, places: ReturnType<typeof destinationsOf>, pages: readonly PDFPage[]): void {
  const annotations = page.node.lookupMaybe(PDFName.of('Annots'), PDFArray);
  for (let i = 0; annotations && i < annotations.size(); i++) {
    const link = annotations.lookup(i, PDFDict);
    const action = link.lookupMaybe(PDFName.of('A'), PDFDict);
    const name = action?.lookup(PDFName.of('D'));
    if (!(name instanceof PDFString || name instanceof PDFHexString)) continue;
    const place = places.get(name.decodeText());
    if (!place || place.page < 0) continue;
    link.delete(PDFName.of('A'));
    link.set(PDFName.of('Dest'), page.doc.context.obj([pages[place.page].ref, 'XYZ', place.x, place.y, null]));
  }
} // prettier-ignore

/** Adds bookmarks behind those that the file has. */
function addBookmarks(doc: PDFDocument, items: readonly { title: string; page: PDFRef }[]): void {
  if (items.length === 0) return;
  const { context, catalog } = doc;
  let outlines = catalog.lookupMaybe(PDFName.of('Outlines'), PDFDict);
  let root = catalog.get(PDFName.of('Outlines')) as PDFRef | undefined;
  if (!outlines || !(root instanceof PDFRef)) {
    outlines = context.obj({ Type: 'Outlines', Count: 0 });
    root = context.register(outlines);
    catalog.set(PDFName.of('Outlines'), root);
  }
  const refs = items.map(() => context.nextRef());
  const last = outlines.get(PDFName.of('Last')) as PDFRef | undefined;
  items.forEach(({ title, page }, k) => {
    const item = context.obj({ Dest: [page, 'XYZ', null, null, null] });
    item.set(PDFName.of('Title'), PDFHexString.fromText(title));
    item.set(PDFName.of('Parent'), root);
    const before = k > 0 ? refs[k - 1] : last;
    if (before) item.set(PDFName.of('Prev'), before);
    if (k + 1 < refs.length) item.set(PDFName.of('Next'), refs[k + 1]);
    context.assign(refs[k], item);
  });
  if (last) (context.lookup(last) as PDFDict).set(PDFName.of('Next'), refs[0]);
  else outlines.set(PDFName.of('First'), refs[0]);
  outlines.set(PDFName.of('Last'), refs[refs.length - 1]);
  const count = outlines.lookupMaybe(PDFName.of('Count'), PDFNumber)?.asNumber() ?? 0;
  outlines.set(PDFName.of('Count'), PDFNumber.of(count < 0 ? count : count + items.length));
}

/** Takes bookmarks away that stand at the top and lead to pages that leave. */
function dropBookmarks(doc: PDFDocument, leaving: ReadonlySet<PDFRef>): void {
  const outlines = doc.catalog.lookupMaybe(PDFName.of('Outlines'), PDFDict);
  if (!outlines || leaving.size === 0) return;
  const [first, last, next, prev] = ['First', 'Last', 'Next', 'Prev'].map((name) => PDFName.of(name));
  const kept: PDFRef[] = [];
  let count = 0;
  for (let ref = outlines.get(first) as PDFRef | undefined; ref;) {
    const item = doc.context.lookup(ref) as PDFDict;
    const dest = item.lookup(PDFName.of('Dest'));
    if (dest instanceof PDFArray && leaving.has(dest.get(0) as PDFRef)) count++;
    else kept.push(ref);
    ref = item.get(next) as PDFRef | undefined;
  }
  if (count === 0) return;
  kept.forEach((ref, k) => {
    const item = doc.context.lookup(ref) as PDFDict;
    for (const [name, other] of [
      [prev, kept[k - 1]],
      [next, kept[k + 1]],
    ] as const)
      // prettier-ignore
      if (other) item.set(name, other);
      else item.delete(name);
  });
  if (kept.length === 0) return void doc.catalog.delete(PDFName.of('Outlines'));
  outlines.set(first, kept[0]);
  outlines.set(last, kept[kept.length - 1]);
  const was = outlines.lookupMaybe(PDFName.of('Count'), PDFNumber)?.asNumber() ?? 0;
  if (was > 0) outlines.set(PDFName.of('Count'), PDFNumber.of(Math.max(1, was - count)));
}

/** Slides with their charts, tables and pictures; those that the file has keep their masters. */
async function joinSlides({ path, added, at, without, to }: Join): Promise<string[]> {
  const folder = mkdtempSync(join(dirname(to), 'slides-'));
  try {
    writeFileSync(join(folder, 'was.pptx'), readFileSync(path));
    writeFileSync(join(folder, 'added.pptx'), readFileSync(added));
    const [was, more] = [slidesIn(path, ''), slidesIn(added, '')];
    const settings = { templateDir: folder, outputDir: folder, verbosity: 0 as const, autoImportSlideMasters: false };
    const range = (from: number, end: number) => Array.from({ length: end - from }, (_, i) => from + i);
    const anew = without.length > 0 || at < was.pages;
    const deck = new Automizer({ ...settings, removeExistingSlides: anew, cleanup: anew });
    deck.loadRoot('was.pptx').load('added.pptx', 'added');
    const fresh = () => range(0, more.pages).forEach((k) => deck.addSlide('added', k + 1));
    if (anew) {
      deck.load('was.pptx', 'was');
      const [gone, kept] = [new Set(without), (k: number) => void deck.addSlide('was', k + 1)];
      range(0, at).filter((k) => !gone.has(k)).forEach(kept); // prettier-ignore
      fresh();
      range(at, was.pages).filter((k) => !gone.has(k)).forEach(kept); // prettier-ignore
    } else fresh();
    await deck.write(basename(to));
    writeFileSync(to, readFileSync(join(folder, basename(to))));
    return [];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
} // prettier-ignore
