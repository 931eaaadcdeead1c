import { Detector } from '../condition/detector';

export interface Limits {
  below: number | null;
  above: number | null;
}

/** Watches one pair of limits, by the same rule as every condition: past them for a hold without a break counts, and ends once the
 *  value is back by a hysteresis. */
export class LimitWatch {
  private readonly detector: Detector;

  /** @param holdSamples samples the value has to stay past a limit, ≥ 0 @param back distance it has to come back, ≥ 0 */
  constructor(limits: Limits, holdSamples: number, back: number) {
    const { below, above } = limits;
    this.detector = new Detector(
      { low: below ?? -Infinity, high: above ?? Infinity, inside: false, hysteresis: back },
      holdSamples,
    );
  }

  /** Goes on where another one was: the same limits, perhaps in another unit. */
  follow = (other: LimitWatch) => this.detector.follow(other.detector);

  /** Whether it was past its limits at any sample of the block. NaN is passed over.
   *  @param block shape [≥ n] @param min,max extremes of the block, to pass quickly over what lies well within */
  step(block: ArrayLike<number>, n: number, min: number, max: number): boolean {
    const { detector } = this;
    if (detector.quiet(min, max)) return false;
    let seen = detector.on;
    for (let i = 0; i < n; i++) if (detector.next(block[i])) seen ||= detector.on;
    return seen;
  }
}
