export interface Limits {
  below: number | null;
  above: number | null;
}

/** Watches one pair of limits: past them for a hold without a break counts, and ends once the value is back by a hysteresis. */
export class LimitWatch {
  private past = 0;
  private on = false;
  private readonly low: number;
  private readonly high: number;

  /** @param holdSamples samples the value has to stay past a limit, ≥ 0 @param back distance it has to come back, ≥ 0 */
  constructor(
    limits: Limits,
    private readonly holdSamples: number,
    private readonly back: number,
  ) {
    this.low = limits.below ?? -Infinity;
    this.high = limits.above ?? Infinity;
  }

  /** Whether it was past its limits at any sample of the block. NaN is passed over.
   *  @param block shape [≥ n] @param min,max extremes of the block, to pass quickly over what lies well within */
  step(block: ArrayLike<number>, n: number, min: number, max: number): boolean {
    const { low, high, back, holdSamples } = this;
    if (!this.on && min >= low && max <= high) {
      this.past = 0;
      return false;
    }
    let seen = this.on;
    for (let i = 0; i < n; i++) {
      const v = block[i];
      if (v > high || v < low) {
        if (this.past++ >= holdSamples) this.on = seen = true;
      } else if (v === v) {
        this.past = 0;
        if (v <= high - back && v >= low + back) this.on = false;
      }
    }
    return seen;
  }
}
