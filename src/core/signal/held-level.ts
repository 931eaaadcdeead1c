import type { Direction } from './level-detector';

/** Finds the sample at which a signal has stayed past a level for a while without a break. It has to be seen on the other side
 *  first, so a signal that lies past the level from the start does not count. NaN is ignored. */
export class HeldLevel {
  private seenOff = false;
  private since = -1;
  private readonly sign: number;
  private readonly limit: number;

  /** @param holdSamples samples it has to stay past the level, ≥ 0 */
  constructor(
    direction: Direction,
    level: number,
    private readonly holdSamples: number,
  ) {
    this.sign = direction === 'rises above' ? 1 : -1;
    this.limit = this.sign * level;
  }

  /** @param block shape [≥ n] @param first index of block[0], rising from call to call @returns index of the sample, or -1 */
  find(block: ArrayLike<number>, first: number, n: number): number {
    const { sign, limit } = this;
    for (let i = 0; i < n; i++) {
      const value = sign * block[i];
      if (value > limit) {
        if (!this.seenOff) continue;
        if (this.since < 0) this.since = first + i;
        if (first + i - this.since >= this.holdSamples) return first + i;
      } else if (value <= limit) {
        this.seenOff = true;
        this.since = -1;
      }
    }
    return -1;
  }
}
