import { badInput } from '../errors';
import { studentFactor } from '../statistics/student-t';

/** One channel from several: y = offset + Σ slope · x. */
export interface Regression {
  offset: number;
  slopes: number[];
  /** Standard errors, of the offset first. */
  standardErrors: number[];
  /** Student’s factor of 95 % for the degrees of freedom. */
  factor: number;
  rSquared: number;
  /** Standard deviation of what is left, n − p degrees of freedom. */
  residual: number;
  count: number;
}

/** Least squares of samples that come in blocks, by sums of squares and products about the first sample; rows with a missing value are passed over.
 *  Source: Draper and Smith, Applied Regression Analysis, ch. 5. */
export class RegressionSums {
  private readonly size: number;
  private readonly sums: Float64Array;
  private shift: Float64Array | null = null;
  count = 0;
  missing = 0;

  /** @param inputs how many channels x there are */
  constructor(private readonly inputs: number) {
    // 1, the x, and y.
    this.size = inputs + 2;
    this.sums = new Float64Array(this.size * this.size);
  }
  /** @param x one array a channel @param y of the same length */
  push(x: readonly ArrayLike<number>[], y: ArrayLike<number>): void {
    const { size, sums, inputs } = this;
    const row = new Float64Array(size);
    for (let i = 0; i < y.length; i++) {
      row[0] = 1;
      let sum = y[i];
      for (let k = 0; k < inputs; k++) sum += row[k + 1] = x[k][i];
      if (Number.isNaN(sum)) {
        this.missing++;
        continue;
      }
      row[size - 1] = y[i];
      this.shift ??= row.slice();
      for (let k = 1; k < size; k++) row[k] -= this.shift[k];
      for (let a = 0; a < size; a++) for (let b = a; b < size; b++) sums[a * size + b] += row[a] * row[b];
      this.count++;
    }
  }
  /** @throws `bad_input` for too few samples, or channels that say the same */
  result(): Regression {
    const { size, inputs, count } = this;
    const p = inputs + 1;
    if (count <= p)
      throw badInput('span', `${count} complete samples`, `Choose a span that holds more than ${p}.`);
    // Brought to one size, so that units do not decide what is singular.
    const scale = Array.from({ length: size }, (_, k) => Math.sqrt(this.sums[k * size + k] / count) || 1);
    const at = (a: number, b: number) =>
      this.sums[Math.min(a, b) * size + Math.max(a, b)] / scale[a] / scale[b];
    // Gauss and Jordan on the normal equations, with the inverse beside them.
    const m = Array.from({ length: p }, (_, a) => [
      ...Array.from({ length: p }, (_, b) => at(a, b)),
      ...Array.from({ length: p }, (_, b) => (a === b ? 1 : 0)),
      at(a, size - 1),
    ]);
    for (let c = 0; c < p; c++) {
      let best = c;
      for (let r = c; r < p; r++) if (Math.abs(m[r][c]) > Math.abs(m[best][c])) best = r;
      if (Math.abs(m[best][c]) < 1e-10 * count)
        throw badInput(
          'channels',
          'they say the same',
          'One of them is constant, or follows from the others: leave it out.',
        );
      [m[c], m[best]] = [m[best], m[c]];
      const pivot = m[c][c];
      m[c] = m[c].map((v) => v / pivot);
      for (let r = 0; r < p; r++)
        if (r !== c && m[r][c] !== 0) m[r] = m[r].map((v, k) => v - m[r][c] * m[c][k]);
    }
    const b = m.map((row) => row[2 * p]);
    let rest = at(size - 1, size - 1);
    b.forEach((v, a) => (rest -= v * at(a, size - 1)));
    const total = at(size - 1, size - 1) - at(0, size - 1) ** 2 / at(0, 0);
    const y = scale[size - 1];
    const residual = Math.sqrt(Math.max(0, rest) / (count - p)) * y;
    const slopes = b.slice(1).map((v, k) => (v * y) / scale[k + 1]);
    const shift = this.shift!;
    const offset =
      (b[0] * y) / scale[0] + shift[size - 1] - slopes.reduce((sum, v, k) => sum + v * shift[k + 1], 0);
    // The offset’s error counts at the channels’ zero, not at the shift.
    const cov = (a: number, c: number) => (m[a][p + c] / scale[a] / scale[c]) * residual ** 2;
    let variance = cov(0, 0);
    for (let a = 1; a < p; a++) {
      variance -= 2 * shift[a] * cov(0, a);
      for (let c = 1; c < p; c++) variance += shift[a] * shift[c] * cov(a, c);
    }
    return {
      offset,
      slopes,
      standardErrors: [
        Math.sqrt(Math.max(0, variance)),
        ...slopes.map((_, k) => Math.sqrt(cov(k + 1, k + 1))),
      ],
      factor: studentFactor(0.95, count - p),
      rSquared: total > 0 ? 1 - Math.max(0, rest) / total : NaN,
      residual,
      count,
    };
  }
}
