/** Values at the places of a grid, straight between neighbours. Outside of what there is, beside a gap and where neighbours are further apart
 *  than `reach` there is none.
 *  @param times rising, shape [n] @param values shape [n] @param grid rising, shape [m] @returns shape [m], NaN where nothing is known */
export function onGrid(
  times: ArrayLike<number>,
  values: ArrayLike<number>,
  grid: ArrayLike<number>,
  reach = Infinity,
): Float64Array {
  const out = new Float64Array(grid.length).fill(NaN);
  let i = 0;
  for (let g = 0; g < grid.length; g++) {
    const at = grid[g];
    while (i < times.length && times[i] < at) i++;
    if (i < times.length && times[i] === at) out[g] = values[i];
    else if (i > 0 && i < times.length && times[i] - times[i - 1] <= reach) {
      const share = (at - times[i - 1]) / (times[i] - times[i - 1]);
      out[g] = values[i - 1] + share * (values[i] - values[i - 1]);
    }
  }
  return out;
}

export interface Spread {
  /** How many have a value there. */
  count: Uint16Array;
  lowest: Float64Array;
  highest: Float64Array;
  mean: Float64Array;
  /** With n − 1; NaN where fewer than two have a value. */
  standardDeviation: Float64Array;
}

/** The spread of several signals at each place of a common grid; one without a value there is left out there.
 *  @param signals shape [k][m] */
export function spreadOf(signals: readonly ArrayLike<number>[]): Spread {
  const length = signals[0]?.length ?? 0;
  const nothing = () => new Float64Array(length).fill(NaN);
  const out: Spread = {
    count: new Uint16Array(length),
    lowest: nothing(),
    highest: nothing(),
    mean: nothing(),
    standardDeviation: nothing(),
  };
  for (let g = 0; g < length; g++) {
    let n = 0;
    let mean = 0;
    let m2 = 0;
    let [low, high] = [Infinity, -Infinity];
    for (const signal of signals) {
      const value = signal[g];
      if (value !== value) continue;
      // Welford's update: a large mean costs no digits.
      const before = value - mean;
      mean += before / ++n;
      m2 += before * (value - mean);
      low = Math.min(low, value);
      high = Math.max(high, value);
    }
    out.count[g] = n;
    if (n === 0) continue;
    [out.lowest[g], out.highest[g], out.mean[g]] = [low, high, mean];
    if (n > 1) out.standardDeviation[g] = Math.sqrt(m2 / (n - 1));
  }
  return out;
}
