import { badInput } from '../errors';
import { solveSymmetric } from '../matrix/solve';
import { kernel, sOf, type Lines } from './half-spectra';
import type { FoundPole } from './poles';
import type { Pole, Shape } from './shape';

export const RESIDUALS = ['no residuals', 'the lower residual', 'the upper residual', 'both residuals'] as const; // prettier-ignore
export type Residuals = (typeof RESIDUALS)[number];

/** A mode: its pole, its shape, and how the references take part; shape · participationᵀ is the residue of each pair. */
export interface Mode extends Pole {
  shape: Shape;
  participation: Shape;
}

/** Modes with what lies below and above the band: real coefficients of powers of jω for each pair (`POWERS`); shape
 *  [responses·references][powers]. */
export interface ModalModel {
  modes: Mode[];
  residuals: Float64Array[];
  /** Rank of the equations was less than the number of unknowns: some modes cannot be told apart. */
  rankLoss: boolean;
}

/** Shapes of poles whose participation is known, by least squares on the lines of the band: H(ω) = Σ ψ·wᵀ/(jω − s) + conj. + residuals (least-squares
 *  frequency domain; Heylen, Lammens and Sas, Modal Analysis Theory and Testing, A.1.3).
 *  @param decay of the window that the lines are under, 1/s @throws `bad_input` where the lines are fewer than the unknowns */
export function shapesOf(
  lines: Lines,
  poles: readonly FoundPole[],
  residuals: Residuals,
  decay: number,
): ModalModel {
  const { responses, references: m, re, im, hz } = lines;
  const n = hz.length;
  const kinds = residualKinds(residuals, lines.lags !== null);
  const own = poles.length * 2;
  const unknowns = own + kinds.length * m;
  if (2 * n * m < unknowns)
    throw badInput('band', `${n} lines`, `${poles.length} modes have more unknowns: make the band wider, or take fewer.`); // prettier-ignore
  // A column of each unknown, references one after the other: [m·n] complex.
  const columns: { re: Float64Array; im: Float64Array; from: number; to: number }[] = [];
  for (const pole of poles) {
    const [a, b] = modeColumns(lines, pole, decay);
    columns.push({ ...a, from: 0, to: m * n }, { ...b, from: 0, to: m * n });
  }
  const terms = residualTerms(lines);
  for (let r = 0; r < m; r++)
    for (const kind of kinds) {
      const [x, y] = [new Float64Array(m * n), new Float64Array(m * n)];
      x.set(terms[kind].re, r * n);
      y.set(terms[kind].im, r * n);
      columns.push({ re: x, im: y, from: r * n, to: (r + 1) * n });
    }
  const A = columns.map(() => new Float64Array(unknowns));
  for (let a = 0; a < unknowns; a++)
    for (let b = a; b < unknowns; b++) {
      const [p, q] = [columns[a], columns[b]];
      let sum = 0;
      const end = Math.min(p.to, q.to);
      for (let k = Math.max(p.from, q.from); k < end; k++) sum += p.re[k] * q.re[k] + p.im[k] * q.im[k];
      A[a][b] = A[b][a] = sum;
    }
  const B = columns.map(({ re: x, im: y, from, to }) =>
    Float64Array.from({ length: responses }, (_, i) => {
      let sum = 0;
      const base = i * m * n;
      for (let k = from; k < to; k++) sum += x[k] * re[base + k] + y[k] * im[base + k];
      return sum;
    }),
  );
  const { x, rank } = solveSymmetric(A, B);
  return {
    modes: poles.map(({ hz: f, damping, participation }, k) => ({
      hz: f,
      damping,
      participation,
      shape: { re: x[2 * k], im: x[2 * k + 1] },
    })),
    residuals: Array.from({ length: responses * m }, (_, pair) => {
      const [i, r] = [Math.floor(pair / m), pair % m];
      const out = new Float64Array(terms.length);
      kinds.forEach((kind, c) => (out[kind] = x[own + r * kinds.length + c][i]));
      return out;
    }),
    rankLoss: rank < unknowns,
  };
}

/** What the real and the imaginary part of a shape’s number make: shape [references·lines] each. */
function modeColumns(lines: Lines, { participation: w, ...pole }: FoundPole, decay: number) {
  const n = lines.hz.length;
  const [sr, si] = sOf(pole);
  const s: [number, number] = [sr - decay, si];
  const [g, c] = [kernel(lines, s), kernel(lines, s, true)];
  const size = w.re.length * n;
  const first = { re: new Float64Array(size), im: new Float64Array(size) };
  const second = { re: new Float64Array(size), im: new Float64Array(size) };
  for (let r = 0; r < w.re.length; r++)
    for (let k = 0, at = r * n; k < n; k++, at++) {
      const [p, q] = [w.re[r], w.im[r]];
      const [ar, ai] = [g.re[k] * p - g.im[k] * q, g.re[k] * q + g.im[k] * p];
      const [br, bi] = [c.re[k] * p + c.im[k] * q, c.im[k] * p - c.re[k] * q];
      first.re[at] = ar + br;
      first.im[at] = ai + bi;
      // j·(a − b)
      second.re[at] = -(ai - bi);
      second.im[at] = ar - br;
    }
  return [first, second] as const;
}

/** Powers of jω that stand for what lies below the band (negative) and above it. A mode far below half a spectrum gives 2r/(jω) and then odd powers,
 *  one far above it 2r·jω/ω₀² and odd powers, since there the parts of a pair have one sign; of a frequency response they have opposite ones, and
 *  the powers are even. The constant takes up the first lag. */
const POWERS = { correlations: [-3, -1, 0, 1, 3], responses: [-2, -1, 0, 1, 2] } as const;
const powersOf = (correlations: boolean) => (correlations ? POWERS.correlations : POWERS.responses);

/** Which of the powers count. */
const residualKinds = (residuals: Residuals, correlations: boolean): number[] =>
  powersOf(correlations).flatMap((power, k) =>
    residuals === 'both residuals' ||
    (residuals === 'the lower residual' && power < 0) ||
    (residuals === 'the upper residual' && power >= 0)
      ? [k]
      : [],
  );

/** The powers at each line; at 0 Hz what would be infinite counts as nothing. */
function residualTerms({ hz, lags }: Pick<Lines, 'hz' | 'lags'>): { re: Float64Array; im: Float64Array }[] {
  const w = hz.map((f) => 2 * Math.PI * f);
  return powersOf(lags !== null).map((power) => {
    const size = w.map((x) => (x > 0 || power >= 0 ? x ** power : 0));
    // j to the power: 1, j, −1, −j.
    const turn = ((power % 4) + 4) % 4;
    const zero = new Float64Array(hz.length);
    const signed = turn === 0 || turn === 1 ? size : size.map((v) => -v);
    return turn % 2 === 0 ? { re: signed, im: zero } : { re: zero, im: signed };
  });
}

/** The functions put together again from modes: of some pair, shape [lines] twice.
 *  @param modes those that take part @param decay of the window that is put on, 1/s */
export function together(
  grid: Pick<Lines, 'hz' | 'lags'>,
  { modes, residuals }: Pick<ModalModel, 'modes' | 'residuals'>,
  response: number,
  reference: number,
  references: number,
  decay: number,
): { re: Float64Array; im: Float64Array } {
  const re = new Float64Array(grid.hz.length);
  const im = new Float64Array(grid.hz.length);
  for (const mode of modes) {
    const [sr, si] = sOf(mode);
    const [g, c] = [kernel(grid, [sr - decay, si]), kernel(grid, [sr - decay, si], true)];
    const [a, b] = [mode.shape.re[response], mode.shape.im[response]];
    const [p, q] = [mode.participation.re[reference], mode.participation.im[reference]];
    const [x, y] = [a * p - b * q, a * q + b * p];
    for (let k = 0; k < re.length; k++) {
      re[k] += g.re[k] * x - g.im[k] * y + c.re[k] * x + c.im[k] * y;
      im[k] += g.re[k] * y + g.im[k] * x + c.im[k] * x - c.re[k] * y;
    }
  }
  const own = residuals[response * references + reference];
  residualTerms(grid).forEach((term, kind) => {
    if (!own?.[kind]) return;
    for (let k = 0; k < re.length; k++) {
      re[k] += own[kind] * term.re[k];
      im[k] += own[kind] * term.im[k];
    }
  });
  return { re, im };
}

/** How well each pair is met, as a share: 1 − Σ|measured − made|²/Σ|measured|² over the lines, shape [responses·references]; below 0 where it is
 *  worse than nothing. */
export function met(lines: Lines, model: ModalModel, decay: number): Float64Array {
  const { responses, references, hz, re, im } = lines;
  const n = hz.length;
  return Float64Array.from({ length: responses * references }, (_, pair) => {
    const made = together(lines, model, Math.floor(pair / references), pair % references, references, decay);
    let [rest, all] = [0, 0];
    for (let k = 0; k < n; k++) {
      const at = pair * n + k;
      rest += (re[at] - made.re[k]) ** 2 + (im[at] - made.im[k]) ** 2;
      all += re[at] ** 2 + im[at] ** 2;
    }
    return all > 0 ? 1 - rest / all : NaN;
  });
}
