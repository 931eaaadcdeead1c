/** A span of the last N samples whose sums are never made by subtraction: what has left the span leaves nothing behind, whatever its size.
 *  The ring is two stacks, as of a queue: sums from each place to the end of the former turn, made once a turn, and the running sum of
 *  this turn. A push costs the same whatever N is. NaN counts as a place in time without a value. */
export class Sliding {
  private readonly ring: Float64Array;
  private readonly tails: Float64Array[];
  private readonly heads: number[];
  private at = 0;
  private turns = 0;
  /** Samples in the span that hold a value. */
  valid = 0;

  /** @param samples N, ≥ 1 @param parts what is summed, each of a value and its place k, 0 … 2N − 1, counted on from the former turn's begin */
  constructor(
    readonly samples: number,
    private readonly parts: readonly ((value: number, place: number) => number)[],
  ) {
    this.ring = new Float64Array(samples).fill(NaN);
    this.tails = parts.map(() => new Float64Array(samples + 1));
    this.heads = parts.map(() => 0);
  }

  /** Whether N samples have passed since the begin. */
  get full(): boolean {
    return this.turns > 0;
  }
  /** Sum of one part over the span. */
  sum = (part: number): number => this.tails[part][this.at] + this.heads[part];

  push(value: number): void {
    const { ring, heads, parts, samples } = this;
    if (this.at === samples) this.turn();
    const old = ring[this.at];
    if (old === old) this.valid--;
    ring[this.at] = value;
    if (value === value) {
      this.valid++;
      for (let p = 0; p < parts.length; p++) heads[p] += parts[p](value, samples + this.at);
    }
    if (++this.at === samples && this.turns === 0) this.turns = 1;
  }

  /** What was this turn becomes the former one. */
  private turn(): void {
    const { ring, tails, heads, parts } = this;
    this.at = 0;
    for (let p = 0; p < parts.length; p++) {
      heads[p] = 0;
      const tail = tails[p];
      tail[ring.length] = 0;
      for (let k = ring.length - 1; k >= 0; k--)
        tail[k] = tail[k + 1] + (ring[k] === ring[k] ? parts[p](ring[k], k) : 0);
    }
  }
}

/** Places of a slope's span at the most: a longer one is fed with means of several samples each, which moves the line by next to nothing. */
const MOST_PLACES = 1_000_000;

/** Slope of the straight line of least squares through the values of the last N samples, each at its own time: a gap makes it no steeper.
 *  A push costs the same whatever N is. */
export class SlidingSlope {
  private readonly span: Sliding;
  private readonly group: number;
  private read = 0;
  private sum = 0;
  private count = 0;
  private slope = NaN;

  /** @param samples N, at least 2 @param rateHz of the signal */
  constructor(
    samples: number,
    private readonly rateHz: number,
  ) {
    this.group = Math.ceil(samples / MOST_PLACES);
    const places = Math.max(2, Math.round(samples / this.group));
    this.span = new Sliding(places, [
      (_, k) => k - places,
      (_, k) => (k - places) ** 2,
      (v) => v,
      (v, k) => v * (k - places),
    ]);
  }

  /** Whether N samples have passed since the begin, at least half of them with a value. */
  get full(): boolean {
    return this.span.full && 2 * this.span.valid >= this.span.samples;
  }

  /** @returns the slope in units a second; NaN while the span holds less than two values */
  push(value: number): number {
    if (value === value) {
      this.sum += value;
      this.count++;
    }
    if (++this.read < this.group) return this.slope;
    this.span.push(this.sum / this.count); // NaN where none of them has a value
    this.read = this.sum = this.count = 0;
    return (this.slope = this.line());
  }

  private line(): number {
    const { span } = this;
    const n = span.valid;
    if (n < 2) return NaN;
    const [x, xx, y, xy] = [span.sum(0), span.sum(1), span.sum(2), span.sum(3)];
    return (((n * xy - x * y) / (n * xx - x * x)) * this.rateHz) / this.group;
  }
}
