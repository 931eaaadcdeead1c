import { lastUpTo, sampleS, type Sampled } from './sampled';

/** How a value at an instant is found from the samples around it. */
export const GRID_METHODS = [
  'the last sample before',
  'the nearest sample',
  'on the line between',
  'the mean of the step',
] as const;
export type GridMethod = (typeof GRID_METHODS)[number];

const BLOCK = 1 << 14;

/** Values of a signal at rising instants, NaN where there is none: before its first sample, after its end, in a gap. Reads a block at a time.
 *  - the last sample before: sample and hold; a gap is not bridged, and after the last sample its value holds for one sample
 *  - the nearest sample: at most half a sample away
 *  - on the line between: linear interpolation between two neighbours that are both there
 *  - the mean of the step: of the samples in [t − step/2, t + step/2), those that are there; of a signal slower than the step the nearest sample */
export class OnGrid {
  private block: Float32Array = new Float32Array(0);
  private first = 0;

  /** @param stepS between the instants, s */
  constructor(
    private readonly signal: Sampled,
    private readonly method: GridMethod,
    private readonly stepS: number,
  ) {}

  /** @param t s from the start */
  at(t: number): number {
    const before = lastUpTo(this.signal, t);
    switch (this.method) {
      case 'the last sample before':
        return this.sample(before);
      case 'the nearest sample':
        return this.nearest(t, before);
      case 'on the line between': {
        const own = this.sample(before);
        const share = this.share(t, before);
        if (share < 1e-6) return own;
        return own + (this.sample(before + 1) - own) * share;
      }
      case 'the mean of the step':
        return this.mean(t, before);
    }
  }

  /** How far between a sample and the next an instant lies, 0 to 1. */
  private share(t: number, before: number): number {
    const own = sampleS(this.signal, before);
    return (t - own) / (sampleS(this.signal, before + 1) - own);
  }
  private nearest(t: number, before: number): number {
    return this.sample(this.share(t, before) < 0.5 ? before : before + 1);
  }
  private mean(t: number, before: number): number {
    const from = lastUpTo(this.signal, t - this.stepS / 2);
    const begin = Math.abs(sampleS(this.signal, from) - (t - this.stepS / 2)) < 1e-9 ? from : from + 1;
    let [sum, n, any] = [0, 0, false];
    for (let i = begin; sampleS(this.signal, i) < t + this.stepS / 2 - 1e-9; i++) {
      any = true;
      const value = this.sample(i);
      if (Number.isNaN(value)) continue;
      sum += value;
      n++;
    }
    if (!any) return this.nearest(t, before);
    return n ? sum / n : NaN;
  }
  private sample(index: number): number {
    if (index < 0 || index >= this.signal.length) return NaN;
    if (index < this.first || index >= this.first + this.block.length) {
      // A little before, too: means look back.
      this.first = Math.max(0, index - 64);
      this.block = this.signal
        .read(this.first, Math.min(Math.max(BLOCK, index - this.first + 1), this.signal.length - this.first))
        .slice();
    }
    return this.block[index - this.first];
  }
}
