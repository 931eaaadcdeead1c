import FFT from 'fft.js';
import { badInput } from '../errors';
import type { Correlations } from './correlations';
import type { Pole } from './shape';

/** Complex functions of responses and references on lines: values at (i·references + r)·lines + k. Half spectra of correlations (their positive
 *  lags alone), or frequency responses. */
export interface Lines {
  responses: number;
  references: number;
  hz: Float64Array;
  re: Float64Array;
  im: Float64Array;
  /** Of correlations: how many lags, and how far apart, s; a pole then stands for a geometric series of just so many terms. Null: functions of
   *  continuous frequency. */
  lags: { count: number; dtS: number } | null;
}

/** Half spectra S⁺(f) = dt·Σ R(k)·e^(−j2πf·k·dt), at the lines of as many lags as there are, so that a decaying exponential, cut off as it is,
 *  is one pole exactly. From 0 Hz to half the rate. */
export function halfSpectra({ values, lags, dtS, responses, references, driven }: Correlations): Lines {
  const lines = lags / 2 + 1;
  const fft = new FFT(lags);
  const out = new Float64Array(2 * lags);
  const packed = new Float64Array(2 * lags);
  const pairs = responses * references;
  const re = new Float64Array(pairs * lines);
  const im = new Float64Array(pairs * lines);
  for (let p = 0; p < pairs; p += 2) {
    // Two real functions share a transform.
    const second = p + 1 < pairs;
    for (let k = 0; k < lags; k++) {
      packed[2 * k] = values[p * lags + k];
      packed[2 * k + 1] = second ? values[(p + 1) * lags + k] : 0;
    }
    fft.transform(out, packed);
    for (let k = 0; k < lines; k++) {
      const n = (lags - k) % lags;
      const [a, b, c, d] = [out[2 * k], out[2 * k + 1], out[2 * n], out[2 * n + 1]];
      re[p * lines + k] = ((a + c) / 2) * dtS;
      im[p * lines + k] = ((b - d) / 2) * dtS;
      if (!second) continue;
      re[(p + 1) * lines + k] = ((b + d) / 2) * dtS;
      im[(p + 1) * lines + k] = ((c - a) / 2) * dtS;
    }
  }
  const hz = Float64Array.from({ length: lines }, (_, k) => k / (lags * dtS));
  // Of impulse responses these are frequency responses.
  return { responses, references, hz, re, im, lags: driven ? null : { count: lags, dtS } };
}

/** The lines of a band. @throws `bad_input` where fewer than 8 lie in it */
export function within(all: Lines, fromHz: number, toHz: number): Lines {
  const first = all.hz.findIndex((f) => f >= fromHz - 1e-9);
  let end = first < 0 ? 0 : first;
  while (end < all.hz.length && all.hz[end] <= toHz + 1e-9) end++;
  if (first < 0 || end - first < 8)
    throw badInput(
      'band',
      `${fromHz} to ${toHz} Hz`,
      `Only ${Math.max(0, end - first)} lines lie in it: make it wider, or take more lags.`,
    );
  const pairs = all.responses * all.references;
  const [n, lines] = [all.hz.length, end - first];
  const cut = (x: Float64Array) => {
    const out = new Float64Array(pairs * lines);
    for (let p = 0; p < pairs; p++) out.set(x.subarray(p * n + first, p * n + end), p * lines);
    return out;
  };
  return { ...all, hz: all.hz.slice(first, end), re: cut(all.re), im: cut(all.im) };
}

/** s = −ζω + jω√(1 − ζ²), rad/s. */
export const sOf = ({ hz, damping }: Pole): [re: number, im: number] => {
  const w = 2 * Math.PI * hz;
  return [-damping * w, w * Math.sqrt(Math.max(0, 1 - damping * damping))];
};
/** What a pole with residue 1 gives at each line, shape [lines] twice: of correlations dt·(1 − λ^L)/(1 − λ·e^(−jω·dt)), λ = e^(s·dt); of
 *  frequency responses 1/(jω − s). @param conjugate the same for the conjugate of s */
export function kernel(
  { hz, lags }: Pick<Lines, 'hz' | 'lags'>,
  s: readonly [number, number],
  conjugate = false,
): { re: Float64Array; im: Float64Array } {
  const re = new Float64Array(hz.length);
  const im = new Float64Array(hz.length);
  const [sr, si] = [s[0], conjugate ? -s[1] : s[1]];
  if (!lags) {
    hz.forEach((f, k) => {
      const [a, b] = [-sr, 2 * Math.PI * f - si];
      const size = a * a + b * b;
      re[k] = a / size;
      im[k] = -b / size;
    });
    return { re, im };
  }
  const { count, dtS } = lags;
  const decay = Math.exp(sr * dtS);
  const [lr, li] = [decay * Math.cos(si * dtS), decay * Math.sin(si * dtS)];
  const end = Math.exp(sr * dtS * count);
  const [tr, ti] = [1 - end * Math.cos(si * dtS * count), -end * Math.sin(si * dtS * count)];
  hz.forEach((f, k) => {
    const w = 2 * Math.PI * f * dtS;
    const [c, d] = [Math.cos(w), -Math.sin(w)];
    const [a, b] = [1 - (lr * c - li * d), -(lr * d + li * c)];
    const size = (a * a + b * b) / dtS;
    re[k] = (tr * a + ti * b) / size;
    im[k] = (ti * a - tr * b) / size;
  });
  return { re, im };
}
