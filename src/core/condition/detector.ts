/** The part of the axis that counts: inside [low, high] or outside of it. An end may be infinite. */
export interface Region {
  low: number;
  high: number;
  inside: boolean;
  /** How far a value has to come back before it no longer counts, ≥ 0. */
  hysteresis: number;
}

/** Says sample by sample whether a signal counts as being in a region: only after it stayed there for a hold without a break, and
 *  until it has come back by the hysteresis. NaN is passed over: a missing reading changes nothing. */
export class Detector {
  private stay = 0;
  private left: boolean;
  /** Beyond which end of a band the value was last. */
  private above = false;
  private readonly back: number;
  on = false;

  /** @param holdSamples samples it has to stay in the region before it counts, ≥ 0
   *  @param entering it has to be seen outside the region first: what lies in it from the start does not count */
  constructor(
    private readonly region: Region,
    private readonly holdSamples = 0,
    entering = false,
  ) {
    this.left = !entering;
    const { low, high, inside, hysteresis } = region;
    // Within a band a value cannot come back further than to its middle: a wider hysteresis would hold for ever.
    this.back = inside ? hysteresis : Math.min(hysteresis, (high - low) / 2);
  }

  /** Moves on by one sample. @returns whether the state changed */
  next(value: number): boolean {
    const { low, high, inside } = this.region;
    const in_ = inside ? value >= low && value <= high : value > high || value < low;
    if (in_) {
      this.above = value > high;
      if (!this.left || this.on || this.stay++ < this.holdSamples) return false;
      return (this.on = true);
    }
    if (value !== value) return false;
    this.left = true;
    this.stay = 0;
    if (!this.on) return false;
    const back = inside
      ? value < low - this.back || value > high + this.back
      : this.above
        ? value <= high - this.back
        : value >= low + this.back;
    if (back) this.on = false;
    return back;
  }

  /** Goes on where another one was: the same region, perhaps in another unit. */
  follow({ stay, left, above, on }: Detector): void {
    Object.assign(this, { stay, left, above, on });
  }

  /** Whether a block whose extremes are these can change nothing. */
  quiet(min: number, max: number): boolean {
    const { low, high, inside } = this.region;
    return !inside && !this.on && min >= low && max <= high && this.idle();
  }
  private idle(): true {
    this.left = true;
    this.stay = 0;
    return true;
  }
}
