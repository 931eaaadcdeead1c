import { hermitian, symmetric } from '../matrix/eigen';
import type { Lines } from './half-spectra';
import type { Shape } from './shape';

/** Sum of the sizes of all functions at each line. */
export function sumOf({ responses, references, hz, re, im }: Lines): Float64Array {
  const n = hz.length;
  const out = new Float64Array(n);
  for (let p = 0; p < responses * references; p++)
    for (let k = 0; k < n; k++) out[k] += Math.hypot(re[p * n + k], im[p * n + k]);
  return out;
}

/** The same with each function in its own measure, so that pairs that hardly move count as much as those that do: what stands out of it is a peak
 *  somewhere. */
export function evenSumOf({ responses, references, hz, re, im }: Lines): Float64Array {
  const n = hz.length;
  const out = new Float64Array(n);
  for (let p = 0; p < responses * references; p++) {
    let power = 0;
    for (let k = p * n; k < (p + 1) * n; k++) power += re[k] ** 2 + im[k] ** 2;
    const scale = power > 0 ? 1 / Math.sqrt(power) : 0;
    for (let k = 0; k < n; k++) out[k] += Math.hypot(re[p * n + k], im[p * n + k]) * scale;
  }
  return out;
}

/** The spectral matrix of the references at a line, half spectra plus their conjugate transpose; of frequency responses Hᴴ·H, whose eigenvalues are
 *  squares of their singular values. @param which responses that are references; frequency responses need none */
function spectralMatrix(lines: Lines, which: readonly number[], k: number) {
  const { responses, references: m, hz, re, im } = lines;
  const n = hz.length;
  if (lines.lags === null) {
    const gram = (f: (a: number, b: number) => number) =>
      Array.from({ length: m }, (_, a) =>
        Float64Array.from({ length: m }, (_, b) => {
          let sum = 0;
          for (let i = 0; i < responses; i++) sum += f((i * m + a) * n + k, (i * m + b) * n + k);
          return sum;
        }),
      );
    return {
      re: gram((a, b) => re[a] * re[b] + im[a] * im[b]),
      im: gram((a, b) => re[a] * im[b] - im[a] * re[b]),
    };
  }
  const at = (a: number, b: number) => (which[a] * m + b) * n + k;
  const make = (f: (a: number, b: number) => number) =>
    Array.from({ length: m }, (_, a) => Float64Array.from({ length: m }, (_, b) => f(a, b)));
  return {
    re: make((a, b) => re[at(a, b)] + re[at(b, a)]),
    im: make((a, b) => im[at(a, b)] - im[at(b, a)]),
  };
}

/** Singular values of the spectral matrix of the references at each line, in falling order: each mode lifts the first, close ones the second as
 *  well (Shih and others, Mech. Syst. Signal Process. 2, 1988). @returns shape [references][lines] */
export function singularValues(lines: Lines, which: readonly number[]): Float64Array[] {
  const out = Array.from({ length: lines.references }, () => new Float64Array(lines.hz.length));
  for (let k = 0; k < lines.hz.length; k++) {
    const matrix = spectralMatrix(lines, which, k);
    hermitian(matrix.re, matrix.im).values.forEach(
      (v, i) => (out[i][k] = lines.lags ? Math.max(0, v) : Math.sqrt(Math.max(0, v))),
    );
  }
  return out;
}

/** Multivariate mode indicator: at each line the least share of what moves in quadrature that any mixture of the references can have, and those
 *  that stand across it, in rising order; it dips to 0 at modes (Williams, Crowley and Vold, IMAC III, 1985). Of accelerations under
 *  correlation the real part is what is in resonance, of frequency responses what `resonant` says. @returns shape [references][lines] */
export function multivariateIndicator(lines: Lines, resonant: 're' | 'im' = 're'): Float64Array[] {
  const { responses, references: m, hz } = lines;
  const [re, im] = resonant === 're' ? [lines.re, lines.im] : [lines.im, lines.re];
  const n = hz.length;
  const out = Array.from({ length: m }, () => new Float64Array(n));
  const gram = (x: Float64Array, k: number) =>
    Array.from({ length: m }, (_, a) =>
      Float64Array.from({ length: m }, (_, b) => {
        let sum = 0;
        for (let i = 0; i < responses; i++) sum += x[(i * m + a) * n + k] * x[(i * m + b) * n + k];
        return sum;
      }),
    );
  for (let k = 0; k < n; k++) {
    const [a, b] = [gram(re, k), gram(im, k)];
    const both = a.map((row, i) => row.map((v, c) => v + b[i][c]));
    symmetricPencil(b, both).forEach((v, i) => (out[i][k] = Math.min(1, Math.max(0, v))));
  }
  return out;
}

/** Values λ of b·x = λ·a·x in rising order. @param b symmetric @param a symmetric, positive definite */
function symmetricPencil(b: Float64Array[], a: Float64Array[]): Float64Array {
  const { values, vectors } = symmetric(a);
  const n = a.length;
  const half = values.map((v) => (v > values[0] * 1e-12 ? 1 / Math.sqrt(v) : 0));
  const c = Array.from({ length: n }, (_, p) =>
    Float64Array.from({ length: n }, (_, q) => {
      let sum = 0;
      for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) sum += vectors[p][i] * b[i][j] * vectors[q][j];
      // A mixture of references that sees nothing at all has no say.
      if (half[p] === 0 || half[q] === 0) return p === q ? 1 : 0;
      return sum * half[p] * half[q];
    }),
  );
  return symmetric(c).values.reverse();
}

/** Lines of the local maxima that stand out: higher than the valleys beside them by a factor.
 *  @returns in order of frequency */
export function peaksOf(values: Float64Array, factor: number): number[] {
  const peaks: number[] = [];
  // The lowest since the last peak, the highest since the last valley.
  let [low, high, at, rising] = [values[0], values[0], 0, true];
  for (let k = 1; k < values.length; k++) {
    const v = values[k];
    if (rising) {
      if (v > high) {
        high = v;
        at = k;
      } else if (high > v * factor) {
        if (high > low * factor) peaks.push(at);
        rising = false;
        low = v;
      }
      if (v < low) {
        low = v;
        high = v;
        at = k;
      }
    } else if (v < low) low = v;
    else if (v > low * factor) {
      rising = true;
      high = v;
      at = k;
    }
  }
  return peaks;
}

/** The lowest line between the peaks on either side of one: where a band’s edge belongs. */
export function valleyNear(values: Float64Array, line: number, factor = 2): number {
  const peaks = peaksOf(values, factor);
  const before = [...peaks].reverse().find((p) => p <= line) ?? 0;
  const after = peaks.find((p) => p > line) ?? values.length - 1;
  // A peak itself belongs to the side that it is dragged from least.
  let best = line;
  for (let k = before; k <= after; k++) if (values[k] < values[best]) best = k;
  return best;
}

/** Whether an edge stands on a peak: within the width at half the height of one. @returns that peak’s line, or null */
export function onPeak(values: Float64Array, line: number, factor = 2): number | null {
  for (const peak of peaksOf(values, factor)) {
    const half = values[peak] / factor;
    let [from, to] = [peak, peak];
    while (from > 0 && values[from - 1] >= half) from--;
    while (to < values.length - 1 && values[to + 1] >= half) to++;
    if (line >= from && line <= to) return peak;
  }
  return null;
}

/** Bands that hold the peaks, from valley to valley; peaks nearer to each other than a third of their frequency stay together.
 *  @param values such as `evenSumOf` makes */
export function suggestedBands(hz: Float64Array, values: Float64Array): { fromHz: number; toHz: number }[] {
  const peaks = peaksOf(values, 1.7).filter((p) => p > 2 && p < values.length - 3);
  const groups: number[][] = [];
  for (const p of peaks) {
    const last = groups.at(-1)?.at(-1);
    if (last !== undefined && hz[p] - hz[last] < 0.35 * hz[p]) groups.at(-1)!.push(p);
    else groups.push([p]);
  }
  const valley = (from: number, to: number) => {
    let best = from;
    for (let k = from; k <= to; k++) if (values[k] < values[best]) best = k;
    return best;
  };
  return groups.map((group, i) => {
    const [first, last] = [group[0], group[group.length - 1]];
    const margin = Math.max(3, Math.round(0.15 * first));
    const before = Math.max(1, groups[i - 1]?.at(-1) ?? 0, first - 3 * margin);
    const after = Math.min(values.length - 1, groups[i + 1]?.[0] ?? values.length - 1, last + 3 * margin);
    return { fromHz: hz[valley(before, first)], toHz: hz[valley(last, after)] };
  });
}

/** A mode by frequency-domain decomposition: a local maximum of the first singular value. */
export interface QuickMode {
  line: number;
  hz: number;
  shape: Shape;
  singularValue: number;
}

/** Frequency-domain decomposition: singular values and vectors of the references’ spectral matrix at each line; at peaks of the first its vector,
 *  carried to all responses, is the shape (Brincker, Zhang and Andersen, Smart Mater. Struct. 10, 2001). A quick look: frequencies to a line,
 *  no damping. */
export function decomposition(lines: Lines, which: readonly number[], factor = 4): QuickMode[] {
  const { responses, references: m, hz, re, im } = lines;
  const n = hz.length;
  const [first] = singularValues(lines, which);
  return peaksOf(first, factor).map((k) => {
    const matrix = spectralMatrix(lines, which, k);
    const { vectorRe, vectorIm, values } = hermitian(matrix.re, matrix.im);
    const shape = { re: new Float64Array(responses), im: new Float64Array(responses) };
    for (let i = 0; i < responses; i++)
      for (let r = 0; r < m; r++) {
        const at = (i * m + r) * n + k;
        shape.re[i] += re[at] * vectorRe[0][r] - im[at] * vectorIm[0][r];
        shape.im[i] += re[at] * vectorIm[0][r] + im[at] * vectorRe[0][r];
      }
    return { line: k, hz: hz[k], shape, singularValue: values[0] };
  });
}

/** Mutual coherence of the references at each line against each other, the mean over the band: 1 where one says what the other does.
 *  @returns shape [references][references] */
export function mutualCoherence(lines: Lines, which: readonly number[]): number[][] {
  const { references: m, hz } = lines;
  const sum = Array.from({ length: m }, () => new Array<number>(m).fill(0));
  for (let k = 1; k < hz.length; k++) {
    const { re, im } = spectralMatrix(lines, which, k);
    for (let a = 0; a < m; a++)
      for (let b = 0; b < m; b++) {
        const both = re[a][a] * re[b][b];
        sum[a][b] += both > 0 ? Math.min(1, (re[a][b] ** 2 + im[a][b] ** 2) / both) : 0;
      }
  }
  return sum.map((row) => row.map((v) => v / Math.max(1, hz.length - 1)));
}

/** Unused references weigh down a fit: the rank that the references’ correlations have over the band, and which could go.
 *  @param share of the largest singular value below which nothing is seen */
export function referenceRank(lines: Lines, which: readonly number[], share = 1e-3): number {
  const values = singularValues(lines, which).map((v) => v.reduce((s, x) => s + x, 0));
  return values.filter((v) => v > share * values[0]).length;
}
