import * as fontkit from 'fontkit';
import { imageSize } from 'image-size';
import { Sheet, contentOf, svgOf, type Faces } from '$core/pages/sheet';
import { sizeOf } from '$core/pages/text';
import type { Ink } from '$core/figures/vectors';
import { PAPER_INK } from '$contract/palette';
import { pageMm, type Block, type HouseStyle, type PaintedBlock, type ReportBody } from '$contract/report';
import { blockKind } from '$contract/report-blocks';
import { log, type App } from '../app';
import { sealOf } from '../takes';
import { PAINTERS } from './blocks/registry';
import type { BlockPainter, PageContext } from './blocks/block';
import { contextFor, seriesFor } from './context';
import { houseStyle } from './style';
import { PAGE, makePdf, stamp } from './document';
import { FONT_FILES, runsOf } from './letters';
import { viewReport } from './reports';

const POINTS_A_MM = 72 / 25.4;
const pt = (mm: number) => mm * POINTS_A_MM;

/** Faces that the pages of the application have under these names. */
const SCREEN_INK: Ink = { ...PAPER_INK, words: "'Commissioner Variable', sans-serif", mono: "'JetBrains Mono Variable', monospace" }; // prettier-ignore

const opened = new Map<string, fontkit.Font>();
const fontOf = (path: string) => {
  if (!opened.has(path)) opened.set(path, fontkit.openSync(path) as fontkit.Font);
  return opened.get(path)!;
};
const widths = new Map<string, number>();
/** Widths come from the fonts that are embedded: what is seen breaks its lines where what is printed does. */
const FACES: Faces = {
  runs: (text, mono) => runsOf(text, mono ? 'Mono' : 'Words'),
  measure: (text, face) => {
    const own = face.mono ? FONT_FILES.mono : face.bold ? FONT_FILES.bold : FONT_FILES.words;
    const key = `${own} ${text}`;
    let width = widths.get(key);
    if (width === undefined) {
      width = runsOf(text, face.mono ? 'Mono' : 'Words').reduce((sum, run) => {
        const font = fontOf(run.font ? FONT_FILES.others : own);
        return sum + font.layout(run.text).advanceWidth / font.unitsPerEm;
      }, 0);
      if (widths.size > 20_000) widths.clear();
      widths.set(key, width);
    }
    return width * sizeOf(face);
  },
};

/** Draws the blocks of a page. One that cannot be drawn says so; the others stand. */
function paint(
  page: ReportBody['pages'][number],
  context: PageContext,
  ink: Ink,
  style: HouseStyle,
): PaintedBlock[] {
  return page.blocks.map((block) => {
    const sheet = sheetOf(block, context, ink);
    const says = [...new Set(sheet.faults)].join(' ') || null;
    return { id: block.id, svg: svgOf(numbersIn(sheet.content, block.kind, style), sheet.width, sheet.height), says }; // prettier-ignore
  });
}
/** A block on its own sheet. */
export function sheetOf({ kind, w, h, settings }: Block, context: PageContext, ink: Ink): Sheet {
  const sheet = new Sheet(pt(w), pt(h), ink, FACES);
  try {
    const painter = PAINTERS[kind as keyof typeof PAINTERS] as BlockPainter<keyof typeof PAINTERS>;
    painter(sheet, { ...blockKind(kind)?.defaults, ...settings } as never, context);
  } catch (error) {
    sheet.faults.push((error as Error).message);
    sheet.flow(0, 0, [{ text: (error as Error).message, face: { size: 8.5, colour: ink.tones.alarm } }], pt(w)); // prettier-ignore
  }
  return sheet;
}

/** With a decimal comma where the house wants one; what people wrote themselves stays as they wrote it. */
const numbersIn = (content: string, kind: string, { numbers }: HouseStyle): string =>
  numbers === 'point' || kind === 'words'
    ? content
    : content.replace(/(<text\b[^>]*>)([\s\S]*?)(<\/text>)/g, (_, open: string, text: string, close: string) => open + text.replace(/(\d)\.(?=\d)/g, '$1,') + close); // prettier-ignore

/** What the house puts on every page, within its margins: words at its head and foot, the logo at the right of the head. */
function framed({ paper }: Pick<ReportBody, 'paper'>, style: HouseStyle, page: PageContext, ink: Ink): string {
  const [width, height] = pageMm(paper).map(pt);
  const margin = pt(paper.marginMm);
  const sheet = new Sheet(width, height, ink, FACES);
  const filled = (text: string) => text.replace(/\{([^{}]+)\}/g, (whole, name: string) => (name === 'page' ? String(page.page) : name === 'pages' ? String(page.pages) : (page.value(name.trim()) ?? whole))); // prettier-ignore
  const face = { size: 7.5, colour: ink.muted };
  if (style.head) sheet.fitted(margin, margin * 0.6, filled(style.head), face, (width - 2 * margin) * 0.7);
  if (style.foot) sheet.fitted(margin, height - margin * 0.45, filled(style.foot), face, width - 2 * margin);
  const logo = style.logo === null ? null : page.picture(style.logo);
  if (logo && logo.type !== 'image/webp' && margin > 12) {
    const size = imageSize(logo.content);
    const scale = Math.min((margin * 0.62) / size.height, (width * 0.25) / size.width);
    const [w, h] = [size.width * scale, size.height * scale];
    sheet.picture(`data:${logo.type};base64,${Buffer.from(logo.content).toString('base64')}`, width - margin - w, margin * 0.8 - h, w, h); // prettier-ignore
  }
  return svgOf(sheet.content, width, height);
} // prettier-ignore

/** The pages of a report for the screen, drawn as they print. @param body as it stands in its editor @throws `not_found` for the take */
export async function paintReport(
  app: App,
  body: ReportBody,
  takeId: string | null,
  takes: PageContext['takes'],
  only: readonly string[] | null = null,
): Promise<{
  pages: { id: string; frame: string; blocks: PaintedBlock[] }[];
  values: { name: string; says: string }[];
}> {
  const wanted = only === null ? body.pages : body.pages.map((p) => ({ ...p, blocks: p.blocks.filter((b) => only.includes(b.id)) })); // prettier-ignore
  const context = contextFor(app, body, takeId, takes, await seriesFor(app, wanted));
  const style = houseStyle(app);
  const pages = wanted.flatMap((page, k) => {
    if (only && page.blocks.length === 0) return [];
    const own = { ...context, page: k + 1 };
    return [{ id: page.id, frame: framed(body, style, own, SCREEN_INK), blocks: paint(page, own, SCREEN_INK, style) }]; // prettier-ignore
  });
  return { pages, values: context.values() };
}

/** The PDF of a report over some takes, one after the other: vectors with embedded fonts, a bookmark for each page; it says of which takes, with their
 *  seals. @throws `not_found` */
export async function printReport(
  app: App,
  id: string,
  takeIds: readonly string[],
  by: string,
  told: (share: number) => void = () => undefined,
): Promise<{ name: string; pdf: Buffer }> {
  const report = viewReport(app, id);
  const [width, height] = pageMm(report.paper).map(pt);
  const over: (string | null)[] = takeIds.length ? [...takeIds] : [null];
  const drawn: { title: string; svg: string }[] = [];
  const names: string[] = [];
  const series = await seriesFor(app, report.pages);
  const style = houseStyle(app);
  for (const [n, takeId] of over.entries()) {
    const context = contextFor(app, report, takeId, report.now, series);
    const name = context.take?.head.name;
    if (takeId && name) names.push(`${name} (${sealText((await sealOf(app, takeId)).state)})`);
    for (const [k, page] of report.pages.entries()) {
      const [number, all] = [n * report.pages.length + k + 1, over.length * report.pages.length];
      const own = { ...context, page: number, pages: all };
      const painted = paint(page, own, PAPER_INK, style);
      const frame = contentOf(framed(report, style, own, PAPER_INK));
      const content = page.blocks
        .map(
          (b, i) =>
            `<g transform="translate(${pt(b.x).toFixed(2)},${pt(b.y).toFixed(2)})">${contentOf(painted[i].svg)}</g>`,
        ) // prettier-ignore
        .join('');
      drawn.push({ title: over.length > 1 && name ? `${name}: ${page.name}` : page.name, svg: svgOf(frame + content, width, height) }); // prettier-ignore
      told(number / all);
    }
  }
  const made = new Date();
  const pdf = await makePdf({
    pageSize: { width, height },
    pageMargins: [0, 0, 0, 0],
    defaultStyle: PAGE.defaultStyle,
    version: '1.7',
    subset: 'PDF/A-2b',
    language: 'en',
    displayTitle: true,
    info: {
      title: report.name,
      author: by,
      subject: names.length ? `Of ${names.join('; ')}` : 'Of no take',
      creator: 'Farrier',
      producer: 'Farrier',
      creationDate: made,
      keywords: `made ${stamp(made)}`,
    },
    content: drawn.map(({ title, svg }, k) => [
      {
        text: '\u00a0',
        fontSize: 1,
        outline: true,
        outlineText: title,
        absolutePosition: { x: 0, y: 0 },
        ...(k > 0 && { pageBreak: 'before' as const }),
      },
      { svg, width, height, absolutePosition: { x: 0, y: 0 } },
    ]),
  });
  log(app, 'report', `${report.name} was printed: ${drawn.length} ${drawn.length === 1 ? 'page' : 'pages'}${names.length ? ` of ${names.length} ${names.length === 1 ? 'take' : 'takes'}` : ''}.`, { by }); // prettier-ignore
  const [only] = over.length === 1 && takeIds.length ? [names[0].replace(/ \([^)]*\)$/, '')] : [null];
  return { name: `${report.name}${only ? `, ${only}` : ''}.pdf`, pdf };
}

const sealText = (state: string) => (state === 'sealed' ? 'as sealed' : state === 'changed' ? 'changed since it was sealed' : state); // prettier-ignore
