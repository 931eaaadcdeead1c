/** Choices that only the page knows, by the name under which a field asks for them. */
export type EditorOptions = Record<string, readonly (string | number)[]>;

/** Text typed into a number field as a number: a comma or a point as decimal sign, spaces between thousands. NaN when it is none. */
export function parseNumber(text: string): number {
  const plain = text
    .trim()
    .replace(/[\s\u00a0\u2009]/g, '')
    .replace('−', '-');
  if (plain === '') return NaN;
  const dotted = plain.includes('.') ? plain : plain.replace(',', '.');
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(dotted) ? Number(dotted) : NaN;
}
