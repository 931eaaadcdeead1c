import { badInput, cancelled } from '../errors';
import { eigenpairs } from '../matrix/eigen';
import { solveSymmetric } from '../matrix/solve';
import type { CancelSignal, Progress } from '../studies/study';
import type { Lines } from './half-spectra';
import { physical, type OrderPoles } from './poles';

export interface FitOptions {
  band: { fromHz: number; toHz: number };
  /** Highest number of poles of a model, both of each pair counted. */
  order: number;
  /** Decay of the window that the functions are under, 1/s: it is taken out of the poles. */
  decay: number;
  /** These orders alone, where not all are wanted. */
  only?: ReadonlySet<number>;
}

/** Poly-reference least-squares complex frequency domain: functions as a right matrix fraction N(z)·D(z)⁻¹ with real coefficients, z = e^(jω·dt),
 *  the numerators eliminated from the linearised equations, the poles those of D (Guillaume and others, ISMA 2003; Peeters and others,
 *  Shock and Vibration 11, 2004). Of D the coefficient of the lowest power is the unit matrix: poles that only describe noise then come out
 *  with negative damping.
 *  @param lines those of the band @throws `bad_input` for an order that the lines do not carry, `cancelled` */
export function leastSquaresComplexFrequency(
  lines: Lines,
  { band, order, decay, only }: FitOptions,
  progress: Progress = () => undefined,
  signal: CancelSignal = { aborted: false },
): OrderPoles[] {
  const { responses, references: m } = lines;
  const most = Math.floor(order / m);
  if (most < 1)
    throw badInput('order', order, `Give ${2 * m} or more: each step has as many poles as there are references.`); // prettier-ignore
  if (lines.hz.length < 2 * (most + 1))
    throw badInput(
      'order',
      order,
      `The band has ${lines.hz.length} lines, which carry no more than ${m * Math.floor(lines.hz.length / 2 - 1)} poles: take more lags, a wider band or a lower order.`,
    );
  const dtS = sampleTime(lines, band.toHz);
  const { own, mixed, powers } = toeplitz(lines, most, dtS);
  const found: OrderPoles[] = [];
  for (let p = 1; p <= most; p++) {
    if (signal.aborted) throw cancelled('the fit');
    if (only && !only.has(p * m)) continue;
    found.push(
      polesOf(denominator(normalMatrix(p, m, responses, own, mixed, powers), p, m), p, m, dtS, band, decay),
    );
    progress(p / most);
  }
  return found;
}

/** Time between the samples of the model: of the correlations where the band nearly reaches half their rate, else of the band alone. */
function sampleTime({ hz, lags }: Lines, toHz: number): number {
  const own = lags?.dtS ?? 0;
  const needed = 1 / (2 * Math.max(toHz, hz[hz.length - 1]));
  return own > 0.8 * needed ? own : needed;
}

/** Sums over the lines that all orders are made of: of z^k alone (numerators), of z^k with each response’s functions, and of their products. */
function toeplitz({ hz, re, im, responses, references: m }: Lines, most: number, dtS: number) {
  const n = hz.length;
  const powers = new Float64Array(most + 1);
  // mixed[i][r][most + d] = Re Σ z^d·H_ir, d = −most … most; own[r·m + q][most + d] = Re Σ z^d·conj(H_ir)·H_iq over all responses.
  const mixed = Array.from({ length: responses }, () => Array.from({ length: m }, () => new Float64Array(2 * most + 1))); // prettier-ignore
  const own = Array.from({ length: m * m }, () => new Float64Array(2 * most + 1));
  const weights = Float64Array.from({ length: responses }, (_, i) => {
    let sum = 0;
    for (let at = i * m * n; at < (i + 1) * m * n; at++) sum += re[at] ** 2 + im[at] ** 2;
    // Each response counts the same, however far it moves.
    return sum > 0 ? 1 / sum : 0;
  });
  const cos = new Float64Array(n);
  const sin = new Float64Array(n);
  for (let d = -most; d <= most; d++) {
    for (let k = 0; k < n; k++) {
      const w = 2 * Math.PI * hz[k] * dtS * d;
      cos[k] = Math.cos(w);
      sin[k] = Math.sin(w);
    }
    if (d >= 0) powers[d] = cos.reduce((sum, c) => sum + c, 0);
    for (let i = 0; i < responses; i++) {
      const scale = Math.sqrt(weights[i]);
      for (let r = 0; r < m; r++) {
        const at = (i * m + r) * n;
        let sum = 0;
        for (let k = 0; k < n; k++) sum += cos[k] * re[at + k] - sin[k] * im[at + k];
        mixed[i][r][most + d] = sum * scale;
        for (let q = 0; q < m; q++) {
          const other = (i * m + q) * n;
          let both = 0;
          for (let k = 0; k < n; k++) {
            const [a, b, c, e] = [re[at + k], im[at + k], re[other + k], im[other + k]];
            both += cos[k] * (a * c + b * e) - sin[k] * (a * e - b * c);
          }
          own[r * m + q][most + d] += both * weights[i];
        }
      }
    }
  }
  return { own, mixed, powers };
}

/** Σ over responses of T − Sᵀ·R⁻¹·S: normal equations of D’s coefficients, numerators eliminated. Row k·m + r stands for z^k and reference r. */
function normalMatrix(
  p: number,
  m: number,
  responses: number,
  own: Float64Array[],
  mixed: Float64Array[][],
  powers: Float64Array,
): Float64Array[] {
  const most = powers.length - 1;
  const size = (p + 1) * m;
  const R = Array.from({ length: p + 1 }, (_, a) => Float64Array.from({ length: p + 1 }, (_, b) => powers[Math.abs(a - b)])); // prettier-ignore
  const M = Array.from({ length: size }, (_, a) =>
    Float64Array.from({ length: size }, (_, b) => {
      const [ka, ra, kb, rb] = [Math.floor(a / m), a % m, Math.floor(b / m), b % m];
      return own[ra * m + rb][most + kb - ka];
    }),
  );
  const S = Array.from({ length: p + 1 }, () => new Float64Array(size * responses));
  for (let i = 0; i < responses; i++)
    for (let a = 0; a <= p; a++)
      for (let b = 0; b < size; b++) S[a][i * size + b] = mixed[i][b % m][most + Math.floor(b / m) - a];
  const { x } = solveSymmetric(R, S);
  for (let a = 0; a <= p; a++)
    for (let i = 0; i < responses; i++) {
      const [s, y] = [S[a].subarray(i * size, (i + 1) * size), x[a].subarray(i * size, (i + 1) * size)];
      for (let b = 0; b < size; b++) {
        if (s[b] === 0) continue;
        const [row, f] = [M[b], s[b]];
        for (let c = 0; c < size; c++) row[c] -= f * y[c];
      }
    }
  return M;
}

/** D’s coefficients of z^0 … z^p for the one of z^0 being the unit matrix, shape [(p + 1)·m][m]. */
function denominator(M: Float64Array[], p: number, m: number): Float64Array[] {
  const rest = M.slice(m).map((row) => row.slice(m));
  const right = M.slice(m).map((row) => Float64Array.from({ length: m }, (_, c) => -row[c]));
  const { x } = solveSymmetric(rest, right);
  const unit = Array.from({ length: m }, (_, r) => Float64Array.from({ length: m }, (_, c) => (r === c ? 1 : 0))); // prettier-ignore
  return [...unit, ...x];
}

/** Poles of D: eigenvalues of its companion matrix in 1/z, since the coefficient of z^0 is the unit matrix. The vectors w with wᵀ·D = 0 say how
 *  the references take part. */
function polesOf(
  D: Float64Array[],
  p: number,
  m: number,
  dtS: number,
  band: FitOptions['band'],
  decay: number,
): OrderPoles {
  const size = p * m;
  const companion = Array.from({ length: size }, () => new Float64Array(size));
  for (let a = 0; a < size - m; a++) companion[a][a + m] = 1;
  // The last block row: −D(p − b)ᵀ for the block b of 1/z to the power b.
  for (let b = 0; b < p; b++)
    for (let r = 0; r < m; r++)
      for (let c = 0; c < m; c++) companion[size - m + r][b * m + c] = -D[(p - b) * m + c][r];
  const { re, im, vectorRe, vectorIm } = eigenpairs(companion);
  const s = Array.from(re, (x, k): [number, number] => {
    // λ = 1/μ: its logarithm is that of μ with the sign turned.
    return [-Math.log(Math.hypot(x, im[k])) / dtS, -Math.atan2(im[k], x) / dtS];
  });
  return physical(p * m, s, band, decay, (k) => ({
    participation: { re: vectorRe[k].slice(0, m), im: vectorIm[k].slice(0, m) },
  }));
}
