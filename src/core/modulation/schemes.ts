/** Ways of modulation that are read. */
export const SCHEMES = [
  '2-PSK', '4-PSK', '8-PSK', 'π/4-DQPSK', 'OQPSK', '16-QAM', '32-QAM', '64-QAM', '128-QAM', '256-QAM',
  '2-ASK', '4-ASK', '8-ASK', '16-ASK', '2-FSK', '4-FSK', 'MSK', 'GMSK', 'a constellation of one’s own',
] as const; // prettier-ignore
export type Scheme = (typeof SCHEMES)[number];

export interface Point {
  re: number;
  im: number;
}
export const isFrequency = (scheme: Scheme): boolean => /FSK|MSK/.test(scheme);

const around = (count: number, turn: number): Point[] =>
  Array.from({ length: count }, (_, k) => {
    const angle = turn + (2 * Math.PI * k) / count;
    return { re: Math.cos(angle), im: Math.sin(angle) };
  });
/** Points on a square grid; of 32 and 128 without their corners. Index k: column k mod m, row ⌊k/m⌋. */
function grid(count: number): Point[] {
  const m = Math.ceil(Math.sqrt(count));
  const cut = (m * m - count) / 4;
  const corner = Math.round(Math.sqrt(cut));
  const inner = (v: number) => v >= corner && v < m - corner;
  const out: Point[] = [];
  for (let row = 0; row < m; row++)
    for (let column = 0; column < m; column++)
      if (cut === 0 || inner(row) || inner(column))
        out.push({ re: 2 * column - (m - 1), im: 2 * row - (m - 1) });
  return out;
}

/** Scaled to mean power 1. */
function unitPower(points: readonly Point[]): Point[] {
  const power = points.reduce((s, p) => s + p.re * p.re + p.im * p.im, 0) / points.length;
  return points.map((p) => ({ re: p.re / Math.sqrt(power), im: p.im / Math.sqrt(power) }));
}

/** Ideal points of a scheme, mean power 1 (of ASK the highest is 1 and the lowest depth below it); point k stands for the bits of the number k.
 *  @param own points of a constellation of one’s own */
export function pointsOf(scheme: Scheme, own: readonly Point[] = []): Point[] {
  const count = Number(/^\d+/.exec(scheme)?.[0] ?? 4);
  if (scheme.endsWith('own')) return unitPower(own);
  if (scheme === '2-PSK') return [{ re: -1, im: 0 }, { re: 1, im: 0 }]; // prettier-ignore
  if (scheme === '8-PSK') return around(8, 0);
  if (scheme.endsWith('ASK')) return Array.from({ length: count }, (_, k) => ({ re: count === 2 ? 0.25 + 0.75 * k : (k + 1) / count, im: 0 })); // prettier-ignore
  if (scheme.endsWith('QAM')) return unitPower(grid(count));
  return [-1, 1].flatMap((im) => [-1, 1].map((re) => ({ re: re * Math.SQRT1_2, im: im * Math.SQRT1_2 })));
}

export const bitsPerSymbol = (points: readonly Point[]): number =>
  Math.max(1, Math.round(Math.log2(points.length)));

/** Turns by which a constellation falls onto itself: 4 for a square one, 1 for one that tells its own phase. */
export function turnsOf(points: readonly Point[]): number {
  for (const turns of [16, 8, 4, 3, 2]) {
    const [c, s] = [Math.cos((2 * Math.PI) / turns), Math.sin((2 * Math.PI) / turns)];
    const falls = points.every((p) => {
      const [re, im] = [p.re * c - p.im * s, p.re * s + p.im * c];
      return points.some((q) => Math.hypot(q.re - re, q.im - im) < 1e-6);
    });
    if (falls) return turns;
  }
  return 1;
}

/** The nearest ideal point. */
export function nearest(points: readonly Point[], re: number, im: number): number {
  let [best, least] = [0, Infinity];
  for (let k = 0; k < points.length; k++) {
    const d = (points[k].re - re) ** 2 + (points[k].im - im) ** 2;
    if (d < least) [best, least] = [k, d];
  }
  return best;
}

/** Points of a constellation from text: re and im on each line, between blanks, commas or semicolons. @returns them, or what is wrong with which line */
export function readPoints(text: string): Point[] | { fault: string } {
  const out: Point[] = [];
  for (const [k, line] of text.split(/\r?\n/).entries()) {
    if (!line.trim()) continue;
    const [re, im, more] = line.trim().split(/[\s;,]+/).map((w) => Number(w.replace('−', '-'))); // prettier-ignore
    if (!Number.isFinite(re) || !Number.isFinite(im) || more !== undefined)
      return { fault: `Line ${k + 1}: give two numbers, in phase and in quadrature.` };
    if (out.some((p) => Math.hypot(p.re - re, p.im - im) < 1e-9))
      return { fault: `Line ${k + 1}: this point is there already.` };
    out.push({ re, im });
  }
  if (out.length < 2) return { fault: 'Give two points or more, one a line.' };
  if (out.length > 1024) return { fault: 'At most 1024 points.' };
  if (out.every((p) => p.re === 0 && p.im === 0)) return { fault: 'All points lie at 0.' };
  return out;
}
