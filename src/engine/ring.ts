/** The last samples of a signal, by their index: memory from before a start, and what a step writes from. */
export class Ring {
  private readonly data: Float32Array;
  /** Index after the last sample held. */
  end = 0;
  private oldest = 0;

  constructor(readonly capacity: number) {
    this.data = new Float32Array(capacity);
  }

  /** First index still held. */
  get start(): number {
    return Math.max(this.oldest, this.end - this.capacity);
  }

  push(first: number, block: Float32Array): void {
    if (first !== this.end) this.oldest = first; // what came before a gap is not joined to what comes after
    const { data } = this;
    const skip = Math.max(0, block.length - data.length);
    let at = (first + skip) % data.length;
    for (let i = skip; i < block.length;) {
      const take = Math.min(data.length - at, block.length - i);
      data.set(block.subarray(i, i + take), at);
      i += take;
      at = 0;
    }
    this.end = first + block.length;
  }

  /** One of another capacity with as much of the same memory as goes into it. */
  resized(capacity: number): Ring {
    const next = new Ring(capacity);
    this.each(Math.max(this.start, this.end - capacity), this.end, (first, piece) => {
      if (next.end === 0) next.oldest = next.end = first;
      next.push(first, piece);
    });
    return next;
  }

  /** Hands out samples [from, to) in one or two pieces, as far as they are held; the pieces are views that the next push overwrites. */
  each(from: number, to: number, take: (first: number, piece: Float32Array) => void): void {
    const { data } = this;
    const end = Math.min(to, this.end);
    for (let i = Math.max(from, this.start); i < end;) {
      const at = i % data.length;
      const count = Math.min(data.length - at, end - i);
      take(i, data.subarray(at, at + count));
      i += count;
    }
  }
}
