/** The last samples of a signal, by their index: memory from before a start. */
export class Ring {
  private readonly data: Float32Array;
  /** Index after the last sample held. */
  end = 0;
  private oldest = 0;

  constructor(capacity: number) {
    this.data = new Float32Array(capacity);
  }

  /** First index still held. */
  get start(): number {
    return Math.max(this.oldest, this.end - this.data.length);
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

  /** Samples [from, end). @param from not before start */
  from(from: number): Float32Array {
    const { data } = this;
    const out = new Float32Array(Math.max(0, this.end - from));
    for (let i = 0; i < out.length; i++) out[i] = data[(from + i) % data.length];
    return out;
  }
}
