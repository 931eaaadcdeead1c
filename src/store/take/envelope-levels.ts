import { ENVELOPE_FACTOR } from '$core/signal/envelope';

/** Buckets in one stored row of a level. */
const CHUNK_BUCKETS = 1024;
/** A level is built from the one below as long as that one fills more than this many buckets. */
const SMALL = CHUNK_BUCKETS;

/** Receives a finished row of buckets. */
export type EmitChunk = (level: number, first: number, min: Float32Array, max: Float32Array) => void;

/** Builds one level of extremes, 16 values of the level below to a bucket, and feeds the next one row by row. */
export class EnvelopeLevel {
  private readonly min = new Float32Array(CHUNK_BUCKETS);
  private readonly max = new Float32Array(CHUNK_BUCKETS);
  private filled = 0;
  private within = 0;
  private lo = Infinity;
  private hi = -Infinity;
  private next: EnvelopeLevel | undefined;

  /** @param level 1 is built from samples @param first bucket to start at (rebuilding the end of an interrupted take) */
  constructor(
    private readonly level: number,
    private readonly emit: EmitChunk,
    private first = 0,
  ) {}

  /** @param min lowest of each value below, shape [≥ n] @param max highest (the same array for samples); NaN means none */
  push(min: ArrayLike<number>, max: ArrayLike<number>, n: number): void {
    let i = 0;
    while (i < n) {
      const stop = Math.min(n, i + ENVELOPE_FACTOR - this.within);
      this.within += stop - i;
      let { lo, hi } = this;
      for (; i < stop; i++) {
        const low = min[i];
        const high = max[i];
        if (low < lo) lo = low;
        if (high > hi) hi = high;
      }
      this.lo = lo;
      this.hi = hi;
      if (this.within === ENVELOPE_FACTOR) this.closeBucket();
    }
  }

  private closeBucket(): void {
    const empty = this.lo > this.hi;
    this.min[this.filled] = empty ? NaN : this.lo;
    this.max[this.filled] = empty ? NaN : this.hi;
    this.lo = Infinity;
    this.hi = -Infinity;
    this.within = 0;
    if (++this.filled === CHUNK_BUCKETS) this.closeChunk();
  }

  private closeChunk(): void {
    const { filled } = this;
    if (filled === 0) return;
    this.emit(this.level, this.first, this.min.subarray(0, filled), this.max.subarray(0, filled));
    this.next ??= new EnvelopeLevel(this.level + 1, this.emit);
    this.next.push(this.min, this.max, filled);
    this.first += filled;
    this.filled = 0;
  }

  /** Closes what is open here and above, with a shorter last bucket. */
  finish(): void {
    if (this.within) this.closeBucket();
    const short = this.first === 0 && this.filled <= SMALL;
    this.closeChunk();
    if (!short) this.next?.finish();
  }
}
