/** A run of words as it was marked. */
export interface MarkedRun {
  text: string;
  bold?: boolean;
  raised?: 'above' | 'below';
  /** A value that was put in, or the name of one that there is not. */
  live?: 'known' | 'unknown';
}
export type ParagraphKind = 'heading' | 'subheading' | 'item' | 'text';
export interface Paragraph {
  kind: ParagraphKind;
  runs: MarkedRun[];
}

/** A run as it is written: words, or the name of a value that is looked up. */
export interface WrittenRun {
  text?: string;
  value?: string;
  bold?: boolean;
  raised?: 'above' | 'below';
}
export interface WrittenParagraph {
  kind: ParagraphKind;
  runs: WrittenRun[];
}

const PREFIX: Record<ParagraphKind, string> = { heading: '# ', subheading: '## ', item: '- ', text: '' };
/** Signs that a backslash makes plain (CommonMark 2.4, of those that mean something here). */
const SIGNS = /[\\*^~{}#-]/;
const NAME = /^\{([^{}\n]{1,80})\}/;

/** Words as they are written: a line that begins with # is a heading, with ## one below it, with - an item of a list (CommonMark); **bold**, ^above^ and
 *  ~below~ the line; {name} is a value; a backslash makes a sign plain. What is not closed is plain. */
export function parseWords(text: string): WrittenParagraph[] {
  return text
    .replace(/\r\n?/g, '\n')
    .split('\n')
    .map((line) => {
      const [, head, rest] = /^(#{1,2}|-)\s+([\s\S]*)$/.exec(line) ?? [null, '', line];
      const kind = head === '#' ? 'heading' : head === '##' ? 'subheading' : head === '-' ? 'item' : 'text';
      return { kind, runs: runsIn(rest, false) };
    });
}

function runsIn(line: string, bold: boolean): WrittenRun[] {
  const runs: WrittenRun[] = [];
  const marks = bold ? { bold } : {};
  let plain = '';
  const put = (run: WrittenRun[]) => {
    if (plain) runs.push({ text: plain, ...marks });
    plain = '';
    runs.push(...run);
  };
  for (let i = 0; i < line.length;) {
    const sign = line[i];
    if (sign === '\\' && i + 1 < line.length && SIGNS.test(line[i + 1])) {
      plain += line[i + 1];
      i += 2;
      continue;
    }
    if (!bold && line.startsWith('**', i)) {
      const end = closing(line, i + 2, '**');
      if (end > i + 2) {
        put(runsIn(line.slice(i + 2, end), true));
        i = end + 2;
        continue;
      }
    } else if (sign === '^' || sign === '~') {
      const end = closing(line, i + 1, sign);
      if (end > i + 1) {
        const raised = sign === '^' ? ('above' as const) : ('below' as const);
        put([{ text: unescaped(line.slice(i + 1, end)), ...marks, raised }]);
        i = end + 1;
        continue;
      }
    } else if (sign === '{') {
      const [whole, name] = NAME.exec(line.slice(i)) ?? [];
      if (whole && name.trim()) {
        put([{ value: name.trim(), ...marks }]);
        i += whole.length;
        continue;
      }
    }
    plain += sign;
    i++;
  }
  put([]);
  return runs;
}
/** Where a mark is closed; −1 where it is not. */
function closing(line: string, from: number, mark: string): number {
  for (let i = from; i < line.length; i++) {
    if (line[i] === '\\') i++;
    else if (line.startsWith(mark, i)) return i;
  }
  return -1;
}
const unescaped = (text: string) => text.replace(/\\([\\*^~{}#-])/g, '$1');
const escaped = (text: string) => text.replace(/[\\*^~{}]/g, '\\$&');

/** The text that is read as these paragraphs again. */
export function writeWords(paragraphs: readonly WrittenParagraph[]): string {
  return paragraphs
    .map(({ kind, runs }) => {
      let line = '';
      let bold = false;
      for (const run of runs) {
        if (run.value === undefined && !run.text) continue;
        if ((run.bold ?? false) !== bold) line += '**';
        bold = run.bold ?? false;
        const mark = run.raised === 'above' ? '^' : run.raised === 'below' ? '~' : '';
        line += run.value === undefined ? mark + escaped(run.text ?? '') + mark : `{${run.value}}`;
      }
      if (bold) line += '**';
      // What would be read as a head of its own is plain.
      const plain = kind === 'text' ? line.replace(/^(#{1,2}|-)(?=\s)/, '\\$1') : line;
      return PREFIX[kind] + plain;
    })
    .join('\n');
}

/** Words of a page with its values. @param valueOf a live value by its name, null where there is none of that name */
export function readWords(text: string, valueOf: (name: string) => string | null): Paragraph[] {
  return parseWords(text).map(({ kind, runs }) => ({
    kind,
    runs: runs.map(({ value, text = '', ...marks }): MarkedRun => {
      if (value === undefined) return { text, ...marks };
      const known = valueOf(value);
      return known === null ? { text: `${value}?`, live: 'unknown', ...marks } : { text: known, live: 'known', ...marks }; // prettier-ignore
    }),
  }));
}
