/** How a line of text is taken apart. */
export const SPLITS = ['by a separator', 'as key=value', 'as JSON', 'after a prefix'] as const;
export interface Split {
  how: (typeof SPLITS)[number];
  /** Sign between fields (or between pairs); a blank stands for any run of blanks. */
  separator: string;
  /** Text that a line has to begin with; empty for none. */
  prefix: string;
}

/** Characters of one line that are looked at; what is longer is no line of values. */
export const LONGEST_LINE = 65_536;

const NUMBER = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?/i;

/** The number at the beginning of a field, such as 23.4 of “23.4 °C”. @returns null where there is none */
export function numberOf(text: string): number | null {
  const match = NUMBER.exec(text.trim());
  if (!match) return null;
  const value = Number(match[0].replace(',', '.'));
  return Number.isFinite(value) ? value : null;
}

/** A line's fields by their name: their place from 1 on, their key, or their JSON pointer (RFC 6901).
 *  @returns null when the line is not of this form */
export function splitLine(split: Split, line: string): Map<string, string> | null {
  if (line.length > LONGEST_LINE || !line.startsWith(split.prefix)) return null;
  const text = line.slice(split.prefix.length).trim();
  if (split.how === 'as JSON') {
    try {
      const value: unknown = JSON.parse(text);
      // A bare number is a line of its own kind, not a document.
      return value !== null && typeof value === 'object' ? leaves(value) : null;
    } catch {
      return null;
    }
  }
  const parts = split.separator === ' ' ? text.split(/\s+/) : text.split(split.separator || ',');
  if (split.how !== 'as key=value')
    return text === '' ? null : new Map(parts.map((part, k) => [String(k + 1), part.trim()]));
  const pairs = parts.flatMap((part) => {
    const match = /^\s*([^=:]+?)\s*[=:]\s*(.*?)\s*$/.exec(part);
    return match ? [[match[1], match[2]] as const] : [];
  });
  return pairs.length ? new Map(pairs) : null;
}

/** Plain values of a JSON document by their pointer. At most 500, at most 20 levels deep. */
function leaves(
  value: unknown,
  pointer = '',
  found = new Map<string, string>(),
  depth = 0,
): Map<string, string> | null {
  if (found.size >= 500 || depth > 20) return found;
  if (value !== null && typeof value === 'object')
    for (const [key, child] of Object.entries(value))
      leaves(child, `${pointer}/${key.replaceAll('~', '~0').replaceAll('/', '~1')}`, found, depth + 1);
  else if (typeof value === 'boolean') found.set(pointer, value ? '1' : '0');
  else found.set(pointer, String(value));
  return found.size ? found : null;
}

/** The value at a JSON pointer (RFC 6901). @returns undefined where there is none */
export function atPointer(value: unknown, pointer: string): unknown {
  if (pointer === '') return value;
  if (!pointer.startsWith('/')) return undefined;
  let at: unknown = value;
  for (const part of pointer.slice(1).split('/')) {
    const key = part.replaceAll('~1', '/').replaceAll('~0', '~');
    if (at === null || typeof at !== 'object' || !Object.hasOwn(at, key)) return undefined;
    if (Array.isArray(at) && !/^\d+$/.test(key)) return undefined;
    at = (at as Record<string, unknown>)[key];
  }
  return at;
}

/** What an assistant makes of lines that have arrived. */
export interface Proposal {
  split: Split;
  fields: { field: string; name: string; example: number }[];
  /** Share of the lines that it fits. */
  share: number;
}

/** A way of taking lines apart with what it reads of the last ones: a row a line, a value a field. */
export type ReadProposal = Proposal & { rows: (number | null)[][] };
/** Ways of taking lines apart, and the lines that their rows were read from. */
export interface LineProposals {
  choices: ReadProposal[];
  lines: string[];
}

/** Lines that an assistant looks at, the newest. */
const LOOKED_AT = 20;
/** A field that is a number and nothing else, but for a unit behind it: what has another separator in it was cut in the wrong place. */
const CLEAN = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?\s*[^\d\s;,|=:]*$/i;

/** Ways of taking lines apart, the one that fits best first: by how many of the last 20 lines it fits, how much of their fields are numbers
 *  and nothing else, and how many numbers it finds.
 *  @param lines as they arrived, at least one @returns up to `most`, none when no line holds a number */
export function proposeSplits(lines: string[], most = 4): ReadProposal[] {
  const sample = lines.filter((l) => l.trim() !== '').slice(-LOOKED_AT);
  const prefix = commonPrefix(sample);
  const tries: Split[] = [{ how: 'as JSON', separator: ',', prefix: '' }];
  for (const separator of [',', ';', '\t', '|', ' '])
    tries.push(
      { how: 'as key=value', separator, prefix: '' },
      { how: 'by a separator', separator, prefix: '' },
    );
  if (prefix)
    for (const separator of [',', ';', '\t', '|', ' '])
      tries.push({ how: 'after a prefix', separator, prefix });
  const judged = tries.flatMap((split) => {
    const found = judge(split, sample);
    return found && found.share >= 0.5 ? [found] : [];
  });
  judged.sort((a, b) => b.worth - a.worth);
  const seen = new Set<string>();
  return judged
    .map(({ split, fields, share }) => ({
      split,
      fields,
      share,
      rows: sample.slice(-5).map((line) => {
        const parts = splitLine(split, line);
        return fields.map((f) => numberOf(parts?.get(f.field) ?? ''));
      }),
    }))
    .filter(({ rows }) => {
      // Two ways that read the same values are one choice.
      const key = JSON.stringify(rows);
      return !seen.has(key) && seen.add(key);
    })
    .slice(0, most);
}

/** The split that fits best. @returns null when no line holds a number */
export function proposeSplit(lines: string[]): Proposal | null {
  const [best] = proposeSplits(lines, 1);
  return best ? { split: best.split, fields: best.fields, share: best.share } : null;
}

function judge(split: Split, lines: string[]): (Proposal & { worth: number }) | null {
  const seen = new Map<string, { count: number; clean: number; example: number }>();
  let whole = 0;
  for (const line of lines) {
    const fields = splitLine(split, line);
    if (!fields) continue;
    whole++;
    for (const [field, text] of fields) {
      const example = numberOf(text);
      const known = seen.get(field) ?? { count: 0, clean: 0, example: NaN };
      if (example !== null)
        seen.set(field, {
          count: known.count + 1,
          clean: known.clean + Number(CLEAN.test(text.trim())),
          example,
        });
    }
  }
  const found = [...seen].filter(([, { count }]) => count >= whole / 2);
  if (found.length === 0) return null;
  const share = whole / lines.length;
  const clean = found.reduce((sum, [, f]) => sum + f.clean / f.count, 0) / found.length;
  // Cutting within numbers finds more of them, but leaves what is no number; named fields are worth more than places, and a prefix is not
  // put into a value. A comma within numbers beside another separator is a decimal sign.
  const commas = split.separator !== ',' && lines.some((l) => /\d,\d/.test(l)) ? 1 : 0;
  const named = split.how === 'as JSON' || split.how === 'as key=value' ? 0.5 : 0;
  const worth =
    share * clean * (found.length + 1) + named + (split.prefix ? 0.1 : 0) + commas * clean * found.length;
  return {
    split,
    fields: found.map(([field, { example }]) => ({
      field,
      name: /^\d+$/.test(field) ? `Field ${field}` : field.replace(/^\//, '').replaceAll('/', ' '),
      example,
    })),
    share,
    worth,
  };
}

/** Letters and signs that all lines begin with, before their first number. */
function commonPrefix(lines: string[]): string {
  if (lines.length < 2) return '';
  let prefix = lines[0];
  for (const line of lines) while (!line.startsWith(prefix)) prefix = prefix.slice(0, -1);
  return /^[^0-9+\-.{]*/.exec(prefix)![0];
}
