import type { Point } from './schemes';

/** Where a known sequence was found: place of its first symbol, how alike (0 to 1), and the angle by which it is turned, rad. */
export interface Match {
  at: number;
  alike: number;
  turn: number;
}

/** Finds a known sequence by normalised correlation |Σ conj(p)·r| / √(Σ|p|²·Σ|r|²): values that reach the threshold and are the largest within half its length on either side.
 *  @param received I and Q in turn @returns in the order of their places */
export function findPattern(received: Float64Array, pattern: readonly Point[], threshold: number): Match[] {
  const m = pattern.length;
  const n = received.length / 2;
  const own = pattern.reduce((s, p) => s + p.re * p.re + p.im * p.im, 0);
  const alike = new Float64Array(Math.max(0, n - m + 1));
  const turn = new Float64Array(alike.length);
  for (let i = 0; i < alike.length; i++) {
    let [re, im, power] = [0, 0, 0];
    for (let k = 0; k < m; k++) {
      const [zr, zi] = [received[2 * (i + k)], received[2 * (i + k) + 1]];
      const p = pattern[k];
      re += p.re * zr + p.im * zi;
      im += p.re * zi - p.im * zr;
      power += zr * zr + zi * zi;
    }
    alike[i] = power > 0 ? Math.hypot(re, im) / Math.sqrt(own * power) : 0;
    turn[i] = Math.atan2(im, re);
  }
  const half = Math.floor(m / 2);
  const found: Match[] = [];
  for (let i = 0; i < alike.length; i++) {
    if (!(alike[i] >= threshold)) continue;
    let largest = true;
    for (let k = Math.max(0, i - half); k <= Math.min(alike.length - 1, i + half) && largest; k++)
      largest = alike[k] < alike[i] || (alike[k] === alike[i] && k >= i);
    if (largest) found.push({ at: i, alike: alike[i], turn: turn[i] });
  }
  return found;
}

/** Symbols of bits, the first bit of each the highest. Bits that do not fill the last symbol are left out. @param bits of “0” and “1”; anything else is passed over */
export function symbolsOfBits(bits: string, each: number): number[] {
  const plain = bits.replace(/[^01]/g, '');
  return Array.from({ length: Math.floor(plain.length / each) }, (_, k) =>
    parseInt(plain.slice(k * each, (k + 1) * each), 2),
  );
}
export const bitsOfSymbols = (symbols: ArrayLike<number>, each: number): string =>
  Array.from(symbols, (s) => s.toString(2).padStart(each, '0')).join('');

/** Bits that differ from known ones, which come again and again where they are fewer. */
export function bitErrors(bits: string, known: string): { errors: number; of: number } {
  const plain = known.replace(/[^01]/g, '');
  if (!plain) return { errors: 0, of: 0 };
  let errors = 0;
  for (let k = 0; k < bits.length; k++) if (bits[k] !== plain[k % plain.length]) errors++;
  return { errors, of: bits.length };
}
