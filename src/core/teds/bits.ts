import { damaged } from '../errors';

/** A stream of bits, lowest bit of each byte first (IEEE 1451.4-2004, 5.1). */
export class BitReader {
  at = 0;
  constructor(private readonly bytes: Uint8Array) {}

  get left(): number {
    return this.bytes.length * 8 - this.at;
  }

  /** @param what for the error @throws `damaged` when the stream ends */
  take(count: number, what: string): number {
    if (count > this.left)
      throw damaged(
        'sensor chip',
        `Its data ends within “${what}”, at bit ${this.at}.`,
        'Read it again; if it stays so, enter the sheet by hand.',
      );
    let value = 0;
    for (let k = 0; k < count; k++, this.at++)
      if ((this.bytes[this.at >> 3] >> (this.at & 7)) & 1) value += 2 ** k;
    return value;
  }
}

export class BitWriter {
  private readonly bits: number[] = [];
  put(value: number, count: number): void {
    for (let k = 0; k < count; k++) this.bits.push(Math.floor(value / 2 ** k) % 2);
  }
  bytes(): Uint8Array {
    const out = new Uint8Array(Math.ceil(this.bits.length / 8));
    this.bits.forEach((bit, k) => (out[k >> 3] |= bit << (k & 7)));
    return out;
  }
}
