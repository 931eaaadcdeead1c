import * as fontkit from 'fontkit';
import { imageSize } from 'image-size';
import { Sheet, svgOf, type Faces } from '$core/pages/sheet';
import { sizeOf } from '$core/pages/text';
import type { Ink } from '$core/figures/vectors';
import { PAPER_INK } from '$contract/palette';
import { pageMm, type Block, type HouseStyle, type PaintedBlock, type ReportBody } from '$contract/report';
import { blockKind } from '$contract/report-blocks';
import type { App } from '../app';
import { PAINTERS } from './blocks/registry';
import type { BlockPainter, PageContext } from './blocks/block';
import { contextFor, seriesFor } from './context';
import { houseStyle } from './style';
import { TYPEFACE_FILES, runsOf, type FontFiles } from './letters';

const POINTS_A_MM = 72 / 25.4;
export const pt = (mm: number) => mm * POINTS_A_MM;

const opened = new Map<string, fontkit.Font>();
const fontOf = (path: string) => {
  if (!opened.has(path)) opened.set(path, fontkit.openSync(path) as fontkit.Font);
  return opened.get(path)!;
};
const widths = new Map<string, number>();
/** Widths come from the fonts that are embedded: what is seen breaks its lines where what is printed does. */
const facesOf = (files: FontFiles): Faces => ({
  runs: (text, mono) => runsOf(text, mono ? 'Mono' : 'Words', files),
  measure: (text, face) => {
    const own = face.mono ? files.mono : face.bold ? files.bold : files.words;
    const key = `${own} ${text}`;
    let width = widths.get(key);
    if (width === undefined) {
      width = runsOf(text, face.mono ? 'Mono' : 'Words', files).reduce((sum, run) => {
        const font = fontOf(run.font ? files.others : own);
        return sum + font.layout(run.text).advanceWidth / font.unitsPerEm;
      }, 0);
      if (widths.size > 20_000) widths.clear();
      widths.set(key, width);
    }
    return width * sizeOf(face);
  },
});

/** How the house sets its papers. */
export interface Setting {
  style: HouseStyle;
  ink: Ink;
  faces: Faces;
}
/** @param seen on a page of the application, which has the faces under names of its own */
export function settingOf(style: HouseStyle, seen = false): Setting {
  const { colours, face } = style;
  const trace = colours ? { trace: (k: number) => colours[k % colours.length] } : {};
  const screen = seen ? { words: `'${face} Variable', sans-serif`, mono: "'JetBrains Mono Variable', monospace" } : {}; // prettier-ignore
  return { style, ink: { ...PAPER_INK, ...trace, ...screen }, faces: facesOf(TYPEFACE_FILES[face]) };
}

/** A block as it prints, and its sheet. */
export function paintedBlock(
  block: Block,
  context: PageContext,
  setting: Setting,
): { sheet: Sheet; svg: string } {
  const sheet = sheetOf(block, context, setting);
  return {
    sheet,
    svg: svgOf(numbersIn(sheet.content, block.kind, setting.style), sheet.width, sheet.height),
  };
}

/** Draws the blocks of a page. One that cannot be drawn says so; the others stand. */
const paint = (page: ReportBody['pages'][number], context: PageContext, setting: Setting) =>
  page.blocks.map((block): PaintedBlock => {
    const { sheet, svg } = paintedBlock(block, context, setting);
    return { id: block.id, svg, says: [...new Set(sheet.faults)].join(' ') || null };
  });
/** A block on its own sheet. */
export function sheetOf(
  { kind, w, h, settings }: Block,
  context: PageContext,
  { ink, faces }: Setting,
): Sheet {
  const sheet = new Sheet(pt(w), pt(h), ink, faces);
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
const numbersIn = (content: string, kind: string, style: HouseStyle): string =>
  style.numbers === 'point' || kind === 'words'
    ? content
    : content.replace(/(<text\b[^>]*>)([\s\S]*?)(<\/text>)/g, (_, open: string, text: string, close: string) => open + numbersOf(text, style) + close); // prettier-ignore
/** A text with its numbers as the house writes them. */
export const numbersOf = (text: string, { numbers }: HouseStyle): string =>
  numbers === 'point' ? text : text.replace(/(\d)\.(?=\d)/g, '$1,');

/** What the house puts on every page, within its margins: words at its head and foot, the logo at the right of the head. */
export function framed(
  { paper }: Pick<ReportBody, 'paper'>,
  { style, ink, faces }: Setting,
  page: PageContext,
): string {
  const [width, height] = pageMm(paper).map(pt);
  const margin = pt(paper.marginMm);
  const sheet = new Sheet(width, height, ink, faces);
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
  const setting = settingOf(houseStyle(app), true);
  const pages = wanted.flatMap((page, k) => {
    if (only && page.blocks.length === 0) return [];
    const own = { ...context, page: k + 1 };
    return [{ id: page.id, frame: framed(body, setting, own), blocks: paint(page, own, setting) }]; // prettier-ignore
  });
  return { pages, values: context.values() };
}
