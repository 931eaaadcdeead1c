import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { PAPER } from '$contract/palette';
import pdfmake from 'pdfmake';
import type { DynamicContent, TDocumentDefinitions } from 'pdfmake/interfaces';

let fontsLoaded = false;
/** Fonts ship with the program and are embedded. */
function loadFonts(): void {
  if (fontsLoaded) return;
  const require = createRequire(import.meta.url);
  const files: Record<string, string> = {
    'words.ttf': '@expo-google-fonts/commissioner/400Regular/Commissioner_400Regular.ttf',
    'words-bold.ttf': '@expo-google-fonts/commissioner/600SemiBold/Commissioner_600SemiBold.ttf',
    'mono.ttf': '@expo-google-fonts/jetbrains-mono/400Regular/JetBrainsMono_400Regular.ttf',
  };
  // The types of pdfmake lack its virtual files.
  const { virtualfs } = pdfmake as unknown as {
    virtualfs: { writeFileSync(name: string, data: Buffer): void };
  };
  for (const [name, path] of Object.entries(files))
    virtualfs.writeFileSync(name, readFileSync(require.resolve(path)));
  pdfmake.setFonts({
    Words: {
      normal: 'words.ttf',
      bold: 'words-bold.ttf',
      italics: 'words.ttf',
      bolditalics: 'words-bold.ttf',
    },
    Mono: { normal: 'mono.ttf', bold: 'mono.ttf', italics: 'mono.ttf', bolditalics: 'mono.ttf' },
  });
  pdfmake.setLocalAccessPolicy(() => false);
  pdfmake.setUrlAccessPolicy(() => false);
  fontsLoaded = true;
}

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
  loadFonts();
  return pdfmake.createPdf(definition).getBuffer();
}
