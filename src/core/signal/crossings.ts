/** Finds where a signal passes a level, block by block. It has to have been on the other side by more than the hysteresis first, so that noise
 *  about the level counts once. The instant is interpolated linearly between the sample that passed and the one before; over a gap it is that of
 *  the sample. */
export class CrossingFinder {
  private readonly sign: 1 | -1;
  private ready = false;
  private last = NaN;
  private fed = 0;

  /** @param level in the signal's unit @param hysteresis 0 or above, in the same */
  constructor(
    private readonly level: number,
    private readonly hysteresis: number,
    direction: 'rising' | 'falling',
  ) {
    this.sign = direction === 'rising' ? 1 : -1;
  }

  /** @param block the next samples; NaN is passed over @param found told the place of each crossing, in samples from the first that was fed;
   *  false ends the search within this block */
  push(block: ArrayLike<number>, found: (at: number) => boolean | void): void {
    const { sign, hysteresis } = this;
    const level = this.level * sign;
    for (let i = 0; i < block.length; i++) {
      const value = block[i] * sign;
      if (value !== value) {
        this.last = NaN;
        continue;
      }
      if (value < level - hysteresis) this.ready = true;
      else if (this.ready && value >= level) {
        this.ready = false;
        const rise = value - this.last;
        const back = rise > 0 ? Math.min(1, (value - level) / rise) : 0;
        if (found(this.fed + i - back) === false) return;
      }
      this.last = value;
    }
    this.fed += block.length;
  }
}
