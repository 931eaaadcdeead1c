import { badInput, cancelled } from '../errors';
import { eigenpairs } from '../matrix/eigen';
import { singular } from '../matrix/singular';
import { solveComplex, solveSymmetric } from '../matrix/solve';
import type { CancelSignal, Progress } from '../studies/study';
import type { Correlations } from './correlations';
import type { FitOptions } from './lscf';
import { physical, type OrderPoles } from './poles';

/** Lags over which states are followed. */
const ROWS = 96;

/** Covariance-driven stochastic subspace identification with references: the block Toeplitz matrix of the correlations is taken apart by its
 *  singular values, the state matrix of each order follows from the shift of the observability matrix (Peeters and De Roeck, Mech. Syst. Signal
 *  Process. 13, 1999; Van Overschee and De Moor, 1996). It looks at all frequencies of the correlations; the poles of the band are kept.
 *  @param set correlations, under a window or not @throws `bad_input` for an order that the lags do not carry, `cancelled` */
export function stochasticSubspace(
  set: Correlations,
  { band, order, decay, only }: FitOptions,
  progress: Progress = () => undefined,
  signal: CancelSignal = { aborted: false },
): OrderPoles[] {
  const { responses: l, references: r, lags, values, dtS } = set;
  // Columns for the states, rows for as long as they are followed: long histories tell close poles apart.
  const columns = Math.ceil((1.25 * order) / r) + 2;
  const rows = Math.min(lags - columns, Math.max(ROWS, Math.ceil((2 * order) / l)));
  if (columns > lags / 2 || (rows - 1) * l < order)
    throw badInput(
      'order',
      order,
      `${lags} lags carry no more than ${Math.floor((lags / 2 - 2) / 1.25) * r} poles: take more lags or a lower order.`,
    );
  const weights = Float64Array.from({ length: l }, (_, i) => {
    let sum = 0;
    for (let k = i * r * lags; k < (i + 1) * r * lags; k++) sum += values[k] ** 2;
    return sum > 0 ? 1 / Math.sqrt(sum) : 0;
  });
  // Block (a, b) is R(columns + a − b): its first lag is 1, since lag 0 holds the noise of each sensor.
  const toeplitz = Array.from({ length: rows * l }, (_, row) => {
    const [a, i] = [Math.floor(row / l), row % l];
    return Float64Array.from({ length: columns * r }, (_, column) => {
      const [b, q] = [Math.floor(column / r), column % r];
      return values[(i * r + q) * lags + columns + a - b] * weights[i];
    });
  });
  progress(0.05);
  const { u, s, v } = singular(toeplitz, order);
  progress(0.5);
  const top = Math.min(order, s.filter((x) => x > s[0] * 1e-13).length);
  // Shifted products of the left vectors: the state matrix of order n is made of their first n rows and columns.
  const up = (rows - 1) * l;
  const product = (shift: number) => {
    const out = Array.from({ length: top }, () => new Float64Array(top));
    for (let k = 0; k < up; k++) {
      const [x, y] = [u[k], u[k + shift]];
      for (let a = 0; a < top; a++) {
        const [row, f] = [out[a], x[a]];
        for (let b = 0; b < top; b++) row[b] += f * y[b];
      }
    }
    return out;
  };
  const [same, next] = [product(0), product(l)];
  const found: OrderPoles[] = [];
  for (let n = 2; n <= top; n += 2) {
    if (signal.aborted) throw cancelled('the fit');
    if (only && !only.has(n)) continue;
    const part = (x: Float64Array[]) => x.slice(0, n).map((row) => row.slice(0, n));
    const state = solveSymmetric(part(same), part(next)).x;
    const { re, im, vectorRe, vectorIm } = eigenpairs(state);
    const takePart = participations(vectorRe, vectorIm, s, v, n, r, columns);
    const poles = Array.from(re, (x, k): [number, number] => [Math.log(Math.hypot(x, im[k])) / dtS, Math.atan2(im[k], x) / dtS]); // prettier-ignore
    found.push(
      physical(n, poles, band, decay, (k) => {
        const seen = (vector: Float64Array) =>
          Float64Array.from({ length: l }, (_, i) => {
            let sum = 0;
            for (let a = 0; a < n; a++) sum += u[i][a] * vector[a];
            return weights[i] > 0 ? sum / weights[i] : 0;
          });
        return {
          shape: { re: seen(vectorRe[k]), im: seen(vectorIm[k]) },
          participation: { re: takePart.re[k], im: takePart.im[k] },
        };
      }),
    );
    progress(0.5 + (0.5 * n) / top);
  }
  return found;
}

/** How the references take part in each pole: rows of V⁻¹·G, where V holds the eigenvectors and G the last block column of diag(s)·vᵀ. */
function participations(
  vectorRe: Float64Array[],
  vectorIm: Float64Array[],
  s: Float64Array,
  v: Float64Array[],
  n: number,
  r: number,
  columns: number,
): { re: Float64Array[]; im: Float64Array[] } {
  const re = Array.from({ length: n }, (_, a) => Float64Array.from({ length: n }, (_, k) => vectorRe[k][a]));
  const im = Array.from({ length: n }, (_, a) => Float64Array.from({ length: n }, (_, k) => vectorIm[k][a]));
  const gRe = Array.from({ length: n }, (_, a) => Float64Array.from({ length: r }, (_, q) => s[a] * v[(columns - 1) * r + q][a])); // prettier-ignore
  const gIm = Array.from({ length: n }, () => new Float64Array(r));
  solveComplex(re, im, gRe, gIm);
  return { re: gRe, im: gIm };
}
