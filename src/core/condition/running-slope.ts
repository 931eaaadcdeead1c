/** Slope of the least-squares line through the last samples, one sample at a time and at a cost that does not depend on their number.
 *  With x = 0 … n-1: slope = (12 Σx·y − 6(n−1) Σy) / (n(n²−1)) per sample. */
export class RunningSlope {
  private readonly held: Float64Array;
  private at = 0;
  private count = 0;
  private sum = 0;
  private weighted = 0;

  /** @param samples in the window, at least 2 @param rateHz of the signal */
  constructor(
    samples: number,
    private readonly rateHz: number,
  ) {
    this.held = new Float64Array(Math.max(2, samples));
  }

  /** @returns the slope in units a second, NaN until the window is full; a missing reading is passed over */
  push(value: number): number {
    const { held } = this;
    const n = held.length;
    if (value === value) {
      if (this.count < n) {
        this.weighted += this.count * value;
        this.sum += value;
        this.count++;
      } else {
        const gone = held[this.at];
        this.weighted += gone - this.sum + (n - 1) * value;
        this.sum += value - gone;
      }
      held[this.at] = value;
      this.at = (this.at + 1) % n;
      if (this.at === 0) this.anew();
    }
    if (this.count < n) return NaN;
    return ((12 * this.weighted - 6 * (n - 1) * this.sum) / (n * (n * n - 1))) * this.rateHz;
  }

  /** Once a window the sums are made afresh, so that rounding does not gather. */
  private anew(): void {
    this.sum = this.weighted = 0;
    for (let i = 0; i < this.count; i++) {
      this.sum += this.held[i];
      this.weighted += i * this.held[i];
    }
  }
}
