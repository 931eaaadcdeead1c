export type Direction = 'rises above' | 'falls below';
export const DIRECTIONS = ['rises above', 'falls below'] as const satisfies readonly Direction[];

/** Finds the sample at which a signal passes a level, with hysteresis: after firing, the signal has to come back past the
 *  level by the hysteresis before it can fire again. A signal that is past the level from the start does not fire. NaN is ignored. */
export class LevelDetector {
  /** true while the signal is past the level. */
  past: boolean | undefined;

  constructor(
    private readonly direction: Direction,
    private readonly level: number,
    private readonly hysteresis = 0,
  ) {}

  /** @param block shape [≥ end] @returns index of the first sample in [from, end) at which it passes, or -1 */
  find(block: ArrayLike<number>, from = 0, end = block.length): number {
    const sign = this.direction === 'rises above' ? 1 : -1;
    const limit = sign * this.level;
    const release = limit - this.hysteresis;
    for (let i = from; i < end; i++) {
      const value = sign * block[i];
      if (value > limit) {
        const fires = this.past === false;
        this.past = true;
        if (fires) return i;
      } else if (value <= release || (this.past === undefined && value <= limit)) this.past = false;
    }
    return -1;
  }
}
