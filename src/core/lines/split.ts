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
      return leaves(JSON.parse(text));
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

/** Finds the split that gives the same numeric fields on most lines, the one with more numbers where two do.
 *  @param lines as they arrived, at least one @returns null when no line holds a number */
export function proposeSplit(lines: string[]): Proposal | null {
  const sample = lines.filter((l) => l.trim() !== '').slice(-60);
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
  let best: (Judged & { worth: number }) | null = null;
  for (const split of tries) {
    const proposal = judge(split, sample);
    if (!proposal || proposal.share < 0.5) continue;
    // A numeric field more is worth more than a line less; named fields are worth more than places, a prefix is not put into a value.
    const worth =
      proposal.share * proposal.fields.length +
      (split.how === 'as JSON' || split.how === 'as key=value' ? 0.5 : 0) +
      (split.prefix ? 0.1 : 0) +
      (proposal.decimalComma && split.separator !== ',' ? proposal.fields.length : 0);
    if (!best || worth > best.worth + 1e-9) best = { ...proposal, worth };
  }
  return best && { split: best.split, fields: best.fields, share: best.share };
}

type Judged = Proposal & { decimalComma: boolean };

function judge(split: Split, lines: string[]): Judged | null {
  const seen = new Map<string, { count: number; example: number }>();
  let whole = 0;
  // Fields such as 1,5 all through are numbers with a comma, not two numbers.
  let decimalComma = true;
  for (const line of lines) {
    const fields = splitLine(split, line);
    if (!fields) continue;
    whole++;
    for (const [field, text] of fields) {
      const example = numberOf(text);
      decimalComma &&= /^[+-]?\d+,\d+$/.test(text);
      if (example !== null) seen.set(field, { count: (seen.get(field)?.count ?? 0) + 1, example });
    }
  }
  const fields = [...seen]
    .filter(([, { count }]) => count >= whole / 2)
    .map(([field, { example }]) => ({
      field,
      name: /^\d+$/.test(field) ? `Field ${field}` : field.replace(/^\//, '').replaceAll('/', ' '),
      example,
    }));
  return fields.length ? { split, fields, share: whole / lines.length, decimalComma } : null;
}

/** Letters and signs that all lines begin with, before their first number. */
function commonPrefix(lines: string[]): string {
  if (lines.length < 2) return '';
  let prefix = lines[0];
  for (const line of lines) while (!line.startsWith(prefix)) prefix = prefix.slice(0, -1);
  return /^[^0-9+\-.{]*/.exec(prefix)![0];
}
