/** Running integral by trapezoids, 0 at the first sample. @param x without NaN, each in unit @returns unit·s, shape of x */
export function integrated(x: Float64Array, rateHz: number): Float64Array {
  const out = new Float64Array(x.length);
  // Kahan’s sum: of millions of steps none is lost.
  let sum = 0;
  let lost = 0;
  for (let i = 1; i < x.length; i++) {
    const step = (x[i] + x[i - 1]) / 2 / rateHz - lost;
    const next = sum + step;
    lost = next - sum - step;
    out[i] = sum = next;
  }
  return out;
}

/** Central differences, one-sided ones at the two ends. @param x without NaN @returns unit/s, shape of x */
export function differentiated(x: Float64Array, rateHz: number): Float64Array {
  const last = x.length - 1;
  return x.map((_, i) => {
    const [from, to] = [Math.max(0, i - 1), Math.min(last, i + 1)];
    return to > from ? ((x[to] - x[from]) * rateHz) / (to - from) : NaN;
  });
}
