/** A band of frequencies. */
export interface Band {
  lowHz: number;
  midHz: number;
  highHz: number;
  /** The number it is called by. */
  nominal: number;
}

/** Octave ratio of base ten (IEC 61260-1:2014, 5.2). */
const G = 10 ** 0.3;
const NOMINAL = [1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8, 10];

/** Fractional-octave bands whose middles lie in a range: exact frequencies of base ten (IEC 61260-1:2014, 5.2 to 5.5).
 *  @param fraction bands an octave, 1, 3, 6 or so */
export function octaveBands(fraction: number, fromHz: number, toHz: number): Band[] {
  const odd = fraction % 2 === 1;
  const mid = (x: number) => 1000 * G ** (odd ? x / fraction : (2 * x + 1) / (2 * fraction));
  const index = (hz: number) => (Math.log(hz / 1000) / Math.log(G)) * fraction - (odd ? 0 : 0.5);
  const [first, last] = [Math.ceil(index(fromHz) - 1e-9), Math.floor(index(toHz) + 1e-9)];
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, k) => {
    const midHz = mid(first + k);
    const half = G ** (1 / (2 * fraction));
    return { lowHz: midHz / half, midHz, highHz: midHz * half, nominal: nominalOf(midHz, fraction) };
  });
}
/** Thirds and octaves are called by rounded numbers, finer bands by three digits. */
function nominalOf(hz: number, fraction: number): number {
  if (fraction > 3) return Number(hz.toPrecision(3));
  const power = 10 ** Math.floor(Math.log10(hz) + 1e-9);
  const near = NOMINAL.reduce((best, n) => (Math.abs(Math.log(n / (hz / power))) < Math.abs(Math.log(best / (hz / power))) ? n : best)); // prettier-ignore
  return Number((near * power).toPrecision(4));
}

export const WEIGHTINGS = ['Z', 'A', 'C'] as const;
export type Weighting = (typeof WEIGHTINGS)[number];
const [F1, F2, F3, F4] = [20.598997057618, 107.65264864304, 737.86223073623, 12194.217148];

/** Frequency weighting relative to 1 kHz, as a level (IEC 61672-1:2013, annex E). @returns dB; −Infinity at 0 Hz */
export function weightingDb(weighting: Weighting, hz: number): number {
  if (weighting === 'Z') return 0;
  return 20 * Math.log10(plain(weighting, hz) / plain(weighting, 1000));
}
function plain(weighting: 'A' | 'C', hz: number): number {
  const f2 = hz * hz;
  const c = (F4 ** 2 * f2) / ((f2 + F1 ** 2) * (f2 + F4 ** 2));
  return weighting === 'C' ? c : (c * f2) / Math.sqrt((f2 + F2 ** 2) * (f2 + F3 ** 2));
}

/** Power of a band out of a density on lines one step apart: each line stands for the width about it, those at the edges for the part that lies inside.
 *  @param density unit²/Hz, line k at k · step @returns unit² */
export function bandPower(density: ArrayLike<number>, stepHz: number, lowHz: number, highHz: number): number {
  let power = 0;
  const first = Math.max(0, Math.floor(lowHz / stepHz - 0.5));
  for (let k = first; k < density.length; k++) {
    const from = Math.max(lowHz, (k - 0.5) * stepHz);
    const to = Math.min(highHz, (k + 0.5) * stepHz);
    if (from >= highHz) break;
    if (to > from) power += density[k] * (to - from);
  }
  return power;
}
