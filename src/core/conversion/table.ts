/** Linear interpolation in a table with rising x.
 *  @param xs shape [n ≥ 2], rising @param ys shape [n] @param held true holds the end values outside, false goes on along the end lines */
export function lookUp(xs: ArrayLike<number>, ys: ArrayLike<number>, x: number, held: boolean): number {
  const last = xs.length - 1;
  if (x !== x) return NaN;
  if (held && x <= xs[0]) return ys[0];
  if (held && x >= xs[last]) return ys[last];
  let low = 0;
  let high = last;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (xs[middle] <= x) low = middle;
    else high = middle;
  }
  return ys[low] + ((ys[high] - ys[low]) * (x - xs[low])) / (xs[high] - xs[low]);
}
