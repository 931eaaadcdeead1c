import { createRequire } from 'node:module';
import * as fontkit from 'fontkit';
import type { Typeface } from '$contract/report';

/** Fonts of the papers, by the names that pages use. */
export type PaperFont = 'Words' | 'Mono';
/** Set where the font of the page lacks a letter or sign. */
export const OTHER_LETTERS = 'Other letters';

const file = (path: string) => createRequire(import.meta.url).resolve(path);
/** Files of the fonts of a paper; they ship with the program and are embedded. */
export interface FontFiles {
  words: string;
  bold: string;
  mono: string;
  others: string;
}
const beside = {
  mono: file('@expo-google-fonts/jetbrains-mono/400Regular/JetBrainsMono_400Regular.ttf'),
  others: file('dejavu-fonts-ttf/ttf/DejaVuSans.ttf'),
};
const family = (folder: string, name: string): FontFiles => ({
  words: file(`@expo-google-fonts/${folder}/400Regular/${name}_400Regular.ttf`),
  bold: file(`@expo-google-fonts/${folder}/600SemiBold/${name}_600SemiBold.ttf`),
  ...beside,
});
export const TYPEFACE_FILES: Record<Typeface, FontFiles> = {
  Commissioner: family('commissioner', 'Commissioner'),
  'Source Serif 4': family('source-serif-4', 'SourceSerif4'),
  'Archivo Narrow': family('archivo-narrow', 'ArchivoNarrow'),
};
export const FONT_FILES = TYPEFACE_FILES.Commissioner;

type Face = Pick<fontkit.Font, 'hasGlyphForCodePoint'>;
const faces = new Map<string, Face>();
function face(path: string): Face {
  if (!faces.has(path)) faces.set(path, fontkit.openSync(path) as fontkit.Font);
  return faces.get(path)!;
}

export interface Run {
  text: string;
  font?: string;
}
/** All of it is in every font of the papers. */
const COMMON = /^[\n\t\x20-\x7e\u00a0-\u00ff]*$/;

/** A text as runs of one font each, so that no letter is lost: what the page's font lacks is set in another one, and what that lacks, too,
 *  by its number. */
export function runsOf(text: string, font: PaperFont, files: FontFiles = FONT_FILES): Run[] {
  if (COMMON.test(text)) return [{ text }];
  const own = face(font === 'Mono' ? files.mono : files.words);
  const others = face(files.others);
  const runs: Run[] = [];
  for (const letter of text) {
    const code = letter.codePointAt(0)!;
    const blank = code < 0x20;
    const next: Run =
      blank || own.hasGlyphForCodePoint(code)
        ? { text: letter }
        : others.hasGlyphForCodePoint(code)
          ? { text: letter, font: OTHER_LETTERS }
          : { text: `[U+${code.toString(16).toUpperCase().padStart(4, '0')}]` };
    const last = runs.at(-1);
    if (last && last.font === next.font) last.text += next.text;
    else runs.push(next);
  }
  return runs;
}

/** A page's content with all its texts as runs of fonts that have their letters. @param font that holds here, by name of the style or font */
export function withAllLetters(
  content: unknown,
  styles: Record<string, object>,
  font: PaperFont = 'Words',
): unknown {
  if (typeof content === 'string') {
    const runs = runsOf(content, font);
    return runs.length === 1 && !runs[0].font ? runs[0].text : { text: runs };
  }
  if (Array.isArray(content)) return content.map((part) => withAllLetters(part, styles, font));
  if (typeof content !== 'object' || content === null) return content;
  const node = content as Record<string, unknown>;
  const style =
    typeof node.style === 'string' ? (styles[node.style] as { font?: string } | undefined)?.font : undefined;
  const own = (node.font ?? style ?? font) as PaperFont;
  const again = (part: unknown) => withAllLetters(part, styles, own);
  const out: Record<string, unknown> = { ...node };
  for (const key of ['stack', 'columns', 'ul', 'ol']) if (key in node) out[key] = again(node[key]);
  if (typeof node.text === 'string') {
    const runs = runsOf(node.text, own);
    out.text = runs.length === 1 && !runs[0].font ? runs[0].text : runs;
  } else if (Array.isArray(node.text)) out.text = node.text.map(again);
  if (node.table) {
    const table = node.table as { body: unknown[] };
    out.table = { ...table, body: table.body.map(again) };
  }
  return out;
}
