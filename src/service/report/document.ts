import { PAPER } from '$contract/palette';
import pdfmake from 'pdfmake';
import type { Content, DynamicContent, TDocumentDefinitions } from 'pdfmake/interfaces';
import { FONT_FILES, OTHER_LETTERS, withAllLetters } from './letters';

// Fonts ship with the program and are embedded.
const { words, bold, mono, others } = FONT_FILES;
// Real files, not virtual ones: texts in drawings open their fonts by themselves, and would fall back to another one.
pdfmake.setFonts({
  Words: { normal: words, bold, italics: words, bolditalics: bold },
  Mono: { normal: mono, bold: mono, italics: mono, bolditalics: mono },
  [OTHER_LETTERS]: { normal: others, bold: others, italics: others, bolditalics: others },
});
pdfmake.setLocalAccessPolicy((path) => Object.values(FONT_FILES).includes(path));
pdfmake.setUrlAccessPolicy(() => false);

/** Page, type and styles that all printed papers share. */
export const PAGE = {
  pageSize: 'A4',
  pageMargins: [48, 54, 48, 54],
  defaultStyle: { font: 'Words', fontSize: 9.5, color: PAPER.ink, lineHeight: 1.3 },
  styles: {
    heading: { fontSize: 12.5, bold: true, margin: [0, 16, 0, 4] },
    muted: { color: PAPER.muted },
    sentence: { fontSize: 10.5, lineHeight: 1.4, margin: [0, 0, 0, 6] },
    label: { fontSize: 8, color: PAPER.muted },
    cell: { font: 'Mono', fontSize: 8 },
    head: { fontSize: 8, bold: true, color: PAPER.muted },
  },
} satisfies Partial<TDocumentDefinitions>;

export const stamp = (date: Date) =>
  `${date.toISOString().slice(0, 10)}, ${date.toISOString().slice(11, 16)} UTC`;

export const footer =
  (generated: Date): DynamicContent =>
  (page, pages) => ({
    columns: [
      { text: `Made with Farrier on ${stamp(generated)}`, style: 'label' },
      { text: `${page} of ${pages}`, style: 'label', alignment: 'right' },
    ],
    margin: [48, 22, 48, 0],
  });

/** Sets a paper with the fonts that ship with the program. */
export function makePdf(definition: TDocumentDefinitions): Promise<Buffer> {
  const letters = (content: unknown) => withAllLetters(content, PAGE.styles) as Content;
  const { header } = definition;
  return pdfmake
    .createPdf({
      ...definition,
      content: letters(definition.content),
      ...(typeof header === 'function' && {
        header: (...page: Parameters<DynamicContent>) => letters(header(...page)),
      }),
    })
    .getBuffer();
}
