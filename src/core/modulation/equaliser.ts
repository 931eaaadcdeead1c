import FFT from 'fft.js';
import { nearest, type Point } from './schemes';

export interface EqualiserWish {
  /** Taps, half a symbol apart; odd. */
  taps: number;
  /** Step of the adaption against the power of what it sees, above 0 to below 1. */
  step: number;
  /** Symbols that are known, by their number; elsewhere what is decided counts. */
  known: ReadonlyMap<number, number> | null;
  /** Taps that are used as they are, without learning; null: it learns. */
  held: Float64Array | null;
  /** Whether the quadrature lies half a symbol later. */
  staggered?: boolean;
}

/** Times that a capture is gone through to learn. */
const ROUNDS = 12;

/** Takes out what the path did: taps half a symbol apart, adapted by least mean squares, normalised to the power seen.
 *  Source: Widrow and Hoff, 1960; Proakis, Digital Communications, 4th ed., 11.1. @param twice readings half a symbol apart, re and im in turn: reading 2k is symbol k
 *  @returns symbols after it, what they are, and its taps */
export function equalise(
  twice: Float64Array,
  points: readonly Point[],
  { taps, step, known, held, staggered = false }: EqualiserWish,
): { received: Float64Array; symbols: Uint16Array; taps: Float64Array } {
  const n = Math.floor(twice.length / 4);
  const half = (taps - 1) >> 1;
  const w = new Float64Array(2 * taps);
  if (held && held.length === w.length) w.set(held);
  else w[2 * half] = 1;
  const received = new Float64Array(2 * n);
  const symbols = new Uint16Array(n);
  const rounds = held && held.length === w.length ? 1 : ROUNDS;
  /** What the taps make of the readings around one, and the power that they see. */
  const seen = new Float64Array(3);
  const look = (at: number): void => {
    let [re, im, power] = [0, 0, 0];
    for (let t = 0; t < taps; t++) {
      const i = 2 * (at + t - half);
      if (i < 0 || i + 1 >= twice.length) continue;
      re += w[2 * t] * twice[i] - w[2 * t + 1] * twice[i + 1];
      im += w[2 * t] * twice[i + 1] + w[2 * t + 1] * twice[i];
      power += twice[i] ** 2 + twice[i + 1] ** 2;
    }
    [seen[0], seen[1], seen[2]] = [re, im, power];
  };
  const learn = (at: number, er: number, ei: number, mu: number): void => {
    const g = mu / (seen[2] + 1e-12);
    for (let t = 0; t < taps; t++) {
      const i = 2 * (at + t - half);
      if (i < 0 || i + 1 >= twice.length) continue;
      w[2 * t] += g * (er * twice[i] + ei * twice[i + 1]);
      w[2 * t + 1] += g * (ei * twice[i] - er * twice[i + 1]);
    }
  };
  for (let round = 0; round < rounds; round++) {
    const learns = rounds > 1 && round < rounds - 1;
    // First from what is known alone; then from decisions, in ever smaller steps.
    const sure = known !== null && known.size > 0 && round < rounds / 2;
    const mu = step / (1 + round / 3);
    for (let k = 0; k < n; k++) {
      look(2 * k);
      const re = seen[0];
      let im = seen[1];
      if (staggered) {
        look(2 * k + 1);
        im = seen[1];
      }
      received[2 * k] = re;
      received[2 * k + 1] = im;
      const told = known?.get(k);
      symbols[k] = told !== undefined && learns ? told : nearest(points, re, im);
      if (!learns || (sure && told === undefined)) continue;
      const [er, ei] = [points[symbols[k]].re - re, points[symbols[k]].im - im];
      if (!staggered) {
        learn(2 * k, er, ei, mu);
        continue;
      }
      // Half a symbol later the quadrature alone is known, and before that the part in phase.
      learn(2 * k + 1, 0, ei, mu);
      look(2 * k);
      learn(2 * k, er, 0, mu);
    }
  }
  return { received, symbols, taps: w };
}

/** Gradient steps of the least squares: symbols are nearly white, so that few are enough. */
const STEPS = 24;

/** What lies between ideal symbols and received ones, as a response over frequency: taps a symbol apart by least squares.
 *  @param span symbols to either side @param lines over the symbol rate @returns cycles a symbol from −½, level dB, group delay in symbols */
export function pathOf(
  received: Float64Array,
  symbols: ArrayLike<number>,
  points: readonly Point[],
  span = 8,
  lines = 128,
): { cycles: Float64Array; level: Float64Array; delay: Float64Array } {
  const n = symbols.length;
  const taps = new Float64Array(2 * (2 * span + 1));
  let power = 0;
  for (let k = 0; k < n; k++) power += points[symbols[k]].re ** 2 + points[symbols[k]].im ** 2;
  const left = new Float64Array(2 * n);
  for (let step = 0; step < STEPS; step++) {
    for (let k = 0; k < n; k++) {
      let [re, im] = [received[2 * k], received[2 * k + 1]];
      for (let d = -span; d <= span; d++) {
        const s = points[symbols[k - d]] as Point | undefined;
        if (!s) continue;
        const t = 2 * (d + span);
        re -= taps[t] * s.re - taps[t + 1] * s.im;
        im -= taps[t] * s.im + taps[t + 1] * s.re;
      }
      // At the ends some symbols are not known: what they left is not fitted.
      const inside = k >= span && k < n - span;
      left[2 * k] = inside ? re : 0;
      left[2 * k + 1] = inside ? im : 0;
    }
    for (let d = -span; d <= span; d++) {
      let [re, im] = [0, 0];
      for (let k = Math.max(0, d); k < Math.min(n, n + d); k++) {
        const s = points[symbols[k - d]];
        re += left[2 * k] * s.re + left[2 * k + 1] * s.im;
        im += left[2 * k + 1] * s.re - left[2 * k] * s.im;
      }
      const t = 2 * (d + span);
      // Smaller than the largest step that is stable: some symbols are not quite white.
      taps[t] += (0.7 * re) / power;
      taps[t + 1] += (0.7 * im) / power;
    }
  }
  const fft = new FFT(lines);
  const input = new Float64Array(2 * lines);
  const ramp = new Float64Array(2 * lines);
  for (let d = -span; d <= span; d++) {
    const i = 2 * ((d + lines) % lines);
    const t = 2 * (d + span);
    [input[i], input[i + 1]] = [taps[t], taps[t + 1]];
    [ramp[i], ramp[i + 1]] = [d * taps[t], d * taps[t + 1]];
  }
  const h = new Float64Array(2 * lines);
  const dh = new Float64Array(2 * lines);
  fft.transform(h, input);
  fft.transform(dh, ramp);
  const out = {
    cycles: new Float64Array(lines),
    level: new Float64Array(lines),
    delay: new Float64Array(lines),
  };
  for (let k = 0; k < lines; k++) {
    const i = 2 * ((k + lines / 2) % lines);
    const size = h[i] ** 2 + h[i + 1] ** 2;
    out.cycles[k] = k / lines - 0.5;
    out.level[k] = 10 * Math.log10(size + 1e-30);
    // −dφ/dω is the real part of (F{d·h} / F{h}).
    out.delay[k] = (dh[i] * h[i] + dh[i + 1] * h[i + 1]) / (size + 1e-30);
  }
  return out;
}
