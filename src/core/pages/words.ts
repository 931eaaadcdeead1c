/** A run of words as it was marked. */
export interface MarkedRun {
  text: string;
  bold?: boolean;
  raised?: 'above' | 'below';
  /** A value that was put in, or the name of one that there is not. */
  live?: 'known' | 'unknown';
}
export interface Paragraph {
  kind: 'heading' | 'subheading' | 'item' | 'text';
  runs: MarkedRun[];
}

const MARKS = /(\*\*[^*\n]+\*\*|\^[^^\n]+\^|~[^~\n]+~|\{[^{}\n]{1,80}\})/;

/** Words of a page: a line that begins with # is a heading, with ## one below it, with - an item of a list (CommonMark); **bold**, ^above^ and
 *  ~below~ the line; {name} is a value that is looked up. @param valueOf a live value by its name, null where there is none of that name */
export function readWords(text: string, valueOf: (name: string) => string | null): Paragraph[] {
  return text
    .replace(/\r\n?/g, '\n')
    .split('\n')
    .map((line): Paragraph => {
      const [, head, rest] = /^(#{1,2}|-)\s+(.*)$/.exec(line) ?? [null, '', line];
      const kind = head === '#' ? 'heading' : head === '##' ? 'subheading' : head === '-' ? 'item' : 'text';
      return { kind, runs: runsOf(rest, valueOf) };
    });
}

function runsOf(line: string, valueOf: (name: string) => string | null): MarkedRun[] {
  return line
    .split(MARKS)
    .filter((part) => part !== '')
    .flatMap((part): MarkedRun[] => {
      if (part.length > 4 && part.startsWith('**') && part.endsWith('**'))
        return runsOf(part.slice(2, -2), valueOf).map((run) => ({ ...run, bold: true }));
      if (part.length > 2 && /^[\^~].*[\^~]$/.test(part))
        return [{ text: part.slice(1, -1), raised: part.startsWith('^') ? 'above' : 'below' }];
      if (part.startsWith('{') && part.endsWith('}') && part.length > 2) {
        const name = part.slice(1, -1).trim();
        const value = valueOf(name);
        return [value === null ? { text: `${name}?`, live: 'unknown' } : { text: value, live: 'known' }];
      }
      return [{ text: part }];
    });
}
