/** The first peak of some samples: the highest one between two places where the signal is lower by at least `rise`, so that noise is no peak.
 *  @param values shape [n]; NaN is passed over @returns its index; −1 where there is none */
export function firstPeak(values: ArrayLike<number>, rise: number): number {
  let low = Infinity;
  let top = -1;
  for (let i = 0; i < values.length; i++) {
    const value = values[i];
    if (value !== value) continue;
    if (top < 0) {
      if (value < low) low = value;
      else if (value - low >= rise && value > low) top = i;
    } else if (value > values[top]) top = i;
    else if (values[top] - value >= rise && value < values[top]) return top;
  }
  return -1;
}
