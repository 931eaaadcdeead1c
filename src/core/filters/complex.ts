/** A complex number as [re, im]. */
export type Complex = readonly [re: number, im: number];

export const times = ([a, b]: Complex, [c, d]: Complex): Complex => [a * c - b * d, a * d + b * c];
export const plus = ([a, b]: Complex, [c, d]: Complex): Complex => [a + c, b + d];
export const minus = ([a, b]: Complex, [c, d]: Complex): Complex => [a - c, b - d];
export const over = ([a, b]: Complex, [c, d]: Complex): Complex => {
  const size = c * c + d * d;
  return [(a * c + b * d) / size, (b * c - a * d) / size];
};
export const scaled = ([a, b]: Complex, by: number): Complex => [a * by, b * by];
/** The root with the non-negative real part. */
export const squareRoot = ([a, b]: Complex): Complex => {
  const size = Math.hypot(a, b);
  return [Math.sqrt((size + a) / 2), Math.sign(b || 1) * Math.sqrt((size - a) / 2)];
};
export const productOf = (values: readonly Complex[]): Complex => values.reduce(times, [1, 0]);

/** All roots of c[0] + c[1]·x + … + x^n at once (Durand and Kerner). @param c real, its last one 1, of length n + 1 */
export function rootsOf(c: readonly number[]): Complex[] {
  const n = c.length - 1;
  const radius = 1 + Math.max(...c.slice(0, n).map((v) => Math.abs(v) ** (1 / n)));
  let roots = Array.from({ length: n }, (_, k): Complex => {
    const angle = (2 * Math.PI * k) / n + 0.4;
    return [radius * Math.cos(angle), radius * Math.sin(angle)];
  });
  const at = (x: Complex) => c.reduceRight<Complex>((sum, v) => plus(times(sum, x), [v, 0]), [0, 0]);
  for (let turn = 0; turn < 500; turn++) {
    let moved = 0;
    roots = roots.map((root, k) => {
      const others = productOf(roots.filter((_, j) => j !== k).map((other) => minus(root, other)));
      const step = over(at(root), others);
      moved = Math.max(moved, Math.hypot(...step) / Math.hypot(...root));
      return minus(root, step);
    });
    if (moved < 1e-15) break;
  }
  return roots;
}
