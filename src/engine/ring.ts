/** The last samples of a signal, by their index: memory from before a start, and what a step writes from. */
export class Ring {
  private readonly data: Float32Array;
  /** Index after the last sample held. */
  end = 0;
  private oldest = 0;

  /** @param capacity samples @param width numbers of each */
  constructor(
    readonly capacity: number,
    private readonly width: 1 | 2 = 1,
  ) {
    this.data = new Float32Array(capacity * width);
  }

  /** First index still held. */
  get start(): number {
    return Math.max(this.oldest, this.end - this.capacity);
  }

  /** @param block `width` numbers a sample */
  push(first: number, block: Float32Array): void {
    if (first !== this.end) this.oldest = first; // what came before a gap is not joined to what comes after
    const { data, width, capacity } = this;
    const count = block.length / width;
    const skip = Math.max(0, count - capacity);
    let at = (first + skip) % capacity;
    for (let i = skip; i < count;) {
      const take = Math.min(capacity - at, count - i);
      data.set(block.subarray(i * width, (i + take) * width), at * width);
      i += take;
      at = 0;
    }
    this.end = first + count;
  }

  /** One of another capacity with as much of the same memory as goes into it. */
  resized(capacity: number): Ring {
    const next = new Ring(capacity, this.width);
    this.each(Math.max(this.start, this.end - capacity), this.end, (first, piece) => {
      if (next.end === 0) next.oldest = next.end = first;
      next.push(first, piece);
    });
    return next;
  }

  /** Hands out samples [from, to) in one or two pieces, as far as they are held; the pieces are views that the next push overwrites. */
  each(from: number, to: number, take: (first: number, piece: Float32Array) => void): void {
    const { data, width, capacity } = this;
    const end = Math.min(to, this.end);
    for (let i = Math.max(from, this.start); i < end;) {
      const at = i % capacity;
      const count = Math.min(capacity - at, end - i);
      take(i, data.subarray(at * width, (at + count) * width));
      i += count;
    }
  }
}
