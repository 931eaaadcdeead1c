import { badInput } from '../errors';
import { checkPoints, distinct, extremes } from './points';

/** Least-squares polynomial c0 + c1 x + … + ck x^k, over x brought to -1 … 1 and orthogonalised (modified Gram-Schmidt, twice), then
 *  written in plain powers.
 *  @param x shape [n] @param y shape [n] @param order k, 1 to 8 @returns coefficients, shape [k + 1]
 *  @throws `bad_input` for fewer than k + 1 different x, or a value that is no number */
export function fitPolynomial(x: ArrayLike<number>, y: ArrayLike<number>, order: number): number[] {
  checkPoints(x, y);
  const { basis, centre, half } = orthogonalBasis(x, order);
  const total = Array.from({ length: order + 1 }, () => 0);
  const rest = Float64Array.from(y);
  for (const { values, poly } of basis) {
    const amount = dot(rest, values);
    for (let i = 0; i < rest.length; i++) rest[i] -= amount * values[i];
    poly.forEach((v, j) => (total[j] += amount * v));
  }
  return inPlainPowers(total, centre, half);
}

/** The largest share that a single point has in its own fitted value (leverage, the diagonal of X (XᵀX)⁻¹ Xᵀ): the variance of the curve
 *  within the points is at most this times that of one reading.
 *  @param x shape [n] @param order of the polynomial, 1 to 8 @returns (order + 1)/n to 1 @throws as fitPolynomial */
export function largestLeverage(x: ArrayLike<number>, order: number): number {
  checkPoints(x, x);
  const { basis } = orthogonalBasis(x, order);
  let most = 0;
  for (let i = 0; i < x.length; i++)
    most = Math.max(
      most,
      basis.reduce((sum, { values }) => sum + values[i] ** 2, 0),
    );
  return most;
}

/** Orthonormal polynomials over the points, each with its coefficients in the scaled variable (x − centre)/half. */
export function orthogonalBasis(x: ArrayLike<number>, order: number) {
  if (!(Number.isInteger(order) && order >= 1 && order <= 8)) throw badInput('order', order, 'Give 1 to 8.');
  const different = distinct(x);
  if (different < order + 1)
    throw badInput(
      'points',
      `${different} different readings`,
      `A polynomial of order ${order} needs at least ${order + 1}.`,
    );
  const { low, high } = extremes(x);
  const [centre, half] = [(low + high) / 2, (high - low) / 2];
  const scaled = Float64Array.from(x, (v) => (v - centre) / half);
  const basis: { values: Float64Array; poly: number[] }[] = [];
  for (let k = 0; k <= order; k++) {
    const values = scaled.map((t) => t ** k);
    let poly: number[] = Array.from({ length: order + 1 }, (_, j) => (j === k ? 1 : 0));
    for (let pass = 0; pass < 2; pass++)
      for (const b of basis) {
        const share = dot(values, b.values);
        for (let i = 0; i < values.length; i++) values[i] -= share * b.values[i];
        poly = poly.map((v, j) => v - share * b.poly[j]);
      }
    const size = Math.sqrt(dot(values, values));
    basis.push({ values: values.map((v) => v / size), poly: poly.map((v) => v / size) });
  }
  return { basis, centre, half };
}

const dot = (a: Float64Array, b: Float64Array) => a.reduce((sum, v, i) => sum + v * b[i], 0);

/** Coefficients of p((x - centre) / half) in powers of x, by Horner's rule on polynomials. */
function inPlainPowers(scaled: number[], centre: number, half: number): number[] {
  let out = [0];
  for (let k = scaled.length - 1; k >= 0; k--) {
    const next = Array.from({ length: Math.min(out.length + 1, scaled.length) }, () => 0);
    out.forEach((c, j) => {
      next[j] -= (c * centre) / half;
      if (j + 1 < next.length) next[j + 1] += c / half;
    });
    next[0] += scaled[k];
    out = next;
  }
  return out;
}
