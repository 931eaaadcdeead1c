/** Running figures of a signal, fed block by block: memory does not grow with the length.
 *  Blocks are merged by the pairwise update of Chan, Golub and LeVeque (1983), so a large offset costs no digits.
 *  NaN (a gap) is counted and otherwise left out. */
export class Moments {
  count = 0;
  missing = 0;
  mean = 0;
  min = Infinity;
  max = -Infinity;
  /** Index of the first sample that has the minimum or maximum, counted over all samples fed, gaps included. */
  minIndex = -1;
  maxIndex = -1;
  private m2 = 0;
  private fed = 0;

  /** @param block shape [n], in the signal's unit */
  push(block: ArrayLike<number>): void {
    let n = 0;
    let sum = 0;
    for (let i = 0; i < block.length; i++) {
      const value = block[i];
      if (value !== value) continue;
      n++;
      sum += value;
      if (value < this.min) {
        this.min = value;
        this.minIndex = this.fed + i;
      }
      if (value > this.max) {
        this.max = value;
        this.maxIndex = this.fed + i;
      }
    }
    this.fed += block.length;
    this.missing += block.length - n;
    if (n === 0) return;
    const rough = sum / n;
    let m2 = 0;
    let rest = 0;
    for (let i = 0; i < block.length; i++) {
      const deviation = block[i] - rough;
      if (deviation !== deviation) continue;
      m2 += deviation * deviation;
      rest += deviation;
    }
    const mean = rough + rest / n; // the second pass takes out the rounding of the first
    m2 -= (rest * rest) / n;
    const delta = mean - this.mean;
    const total = this.count + n;
    this.m2 += m2 + (delta * delta * this.count * n) / total;
    this.mean += (delta * n) / total;
    this.count = total;
  }

  /** Standard deviation with n - 1 (of a sample); NaN below two values. */
  get standardDeviation(): number {
    return this.count > 1 ? Math.sqrt(this.m2 / (this.count - 1)) : NaN;
  }
  get rms(): number {
    return this.count ? Math.sqrt(this.m2 / this.count + this.mean * this.mean) : NaN;
  }
  get peakToPeak(): number {
    return this.count ? this.max - this.min : NaN;
  }
  /** Largest absolute value over rms; NaN for a signal that is zero. */
  get crestFactor(): number {
    return this.rms > 0 ? Math.max(Math.abs(this.min), Math.abs(this.max)) / this.rms : NaN;
  }
}
