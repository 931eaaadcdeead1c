import { badInput } from '../errors';

/** Least-squares polynomial c0 + c1 x + … + ck x^k, over x brought to -1 … 1 and orthogonalised (modified Gram-Schmidt, twice), then
 *  written in plain powers.
 *  @param x shape [n] @param y shape [n] @param order k, 1 to 8 @returns coefficients, shape [k + 1]
 *  @throws `bad_input` for fewer than k + 1 different x */
export function fitPolynomial(x: ArrayLike<number>, y: ArrayLike<number>, order: number): number[] {
  const n = x.length;
  if (n !== y.length) throw badInput('points', `${n} x and ${y.length} y`, 'Give one y for each x.');
  if (!(Number.isInteger(order) && order >= 1 && order <= 8)) throw badInput('order', order, 'Give 1 to 8.');
  const xs = Array.from(x);
  if (new Set(xs).size < order + 1)
    throw badInput(
      'points',
      `${new Set(xs).size} different readings`,
      `A polynomial of order ${order} needs at least ${order + 1}.`,
    );
  const [low, high] = [Math.min(...xs), Math.max(...xs)];
  const [centre, half] = [(low + high) / 2, (high - low) / 2];
  const scaled = xs.map((v) => (v - centre) / half);
  // Each basis vector keeps its own polynomial in the scaled variable.
  const basis: { values: number[]; poly: number[] }[] = [];
  const total = Array.from({ length: order + 1 }, () => 0);
  let rest = Array.from(y);
  for (let k = 0; k <= order; k++) {
    let values = scaled.map((t) => t ** k);
    let poly: number[] = Array.from({ length: order + 1 }, (_, j) => (j === k ? 1 : 0));
    for (let pass = 0; pass < 2; pass++)
      for (const b of basis) {
        const share = dot(values, b.values);
        values = values.map((v, i) => v - share * b.values[i]);
        poly = poly.map((v, j) => v - share * b.poly[j]);
      }
    const size = Math.sqrt(dot(values, values));
    values = values.map((v) => v / size);
    poly = poly.map((v) => v / size);
    basis.push({ values, poly });
    const amount = dot(rest, values);
    rest = rest.map((v, i) => v - amount * values[i]);
    poly.forEach((v, j) => (total[j] += amount * v));
  }
  return inPlainPowers(total, centre, half);
}

const dot = (a: number[], b: number[]) => a.reduce((sum, v, i) => sum + v * b[i], 0);

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
