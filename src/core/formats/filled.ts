import type { Sampled } from '../samples/sampled';

/** A column of a file: samples where there are some, filled where not. */
export class Filled {
  private last = 0;
  constructor(
    private readonly signal: Sampled,
    private readonly offset: number,
    private readonly hold: boolean,
  ) {}

  take(at: number, n: number): Float32Array {
    const { signal, offset } = this;
    const out = new Float32Array(n);
    const first = Math.max(0, at - offset);
    const end = Math.min(signal.length, at + n - offset);
    if (end > first) out.set(signal.read(first, end - first), first + offset - at);
    const [from, to] = [first + offset - at, end + offset - at];
    for (let i = 0; i < n; i++) {
      const there = i >= from && i < to && Number.isFinite(out[i]);
      if (there) this.last = out[i];
      else out[i] = this.hold ? this.last : 0;
    }
    return out;
  }
}
