const TENS = Float64Array.from({ length: 23 }, (_, k) => Number(`1e${k}`));
const [ZERO, MINUS] = [48, 45];
/** Significant digits: as many as a 32-bit sample holds. */
const DIGITS = 7;
/** So near to the middle of two roundings it is left to exact arithmetic. */
const NEAR = 1e-5;
/** Bytes that a number takes at the most. */
const LONGEST = 48;

/** Text of numbers, written as bytes (ASCII) without making words of them: several times as fast. Digit for digit what `toPrecision(7)` without trailing zeros and
 *  `toFixed` give; what is near the middle of two roundings, or far from one, is left to them. */
export class Digits {
  private bytes = new Uint8Array(1 << 16);
  private at = 0;
  private readonly few = new Uint8Array(24);
  /** @param point byte of the decimal sign */
  constructor(private readonly point: number) {}

  /** What was written since the last time. */
  taken(): Uint8Array {
    const out = this.bytes.slice(0, this.at);
    this.at = 0;
    return out;
  }
  byte(value: number): void {
    this.room(1);
    this.bytes[this.at++] = value;
  }

  /** Seven significant digits; nothing for a missing value. */
  significant(value: number): void {
    if (!Number.isFinite(value)) return;
    const size = Math.abs(value);
    if (size === 0) return this.byte(ZERO);
    if (!(size >= 1e-6 && size < 1e15)) return this.words(String(Number(value.toPrecision(DIGITS))));
    let exponent = Math.floor(Math.log10(size));
    let scaled = this.scaled(size, exponent);
    if (scaled < 1e6 - 0.5) scaled = this.scaled(size, --exponent);
    let whole = Math.round(scaled);
    if (Math.abs(scaled - Math.floor(scaled) - 0.5) < NEAR) return this.words(String(Number(value.toPrecision(DIGITS)))); // prettier-ignore
    if (whole >= 1e7) {
      whole = Math.round(whole / 10);
      exponent++;
    }
    let count = DIGITS;
    while (whole % 10 === 0) {
      whole /= 10;
      count--;
    }
    this.room(LONGEST);
    if (value < 0) this.bytes[this.at++] = MINUS;
    this.put(whole, count, exponent + 1);
  }

  /** So many digits behind the point. @param value 0 or above */
  fixed(value: number, decimals: number): void {
    const scaled = value * TENS[decimals];
    const whole = Math.round(scaled);
    const near = NEAR + scaled * 4e-16;
    if (!(value >= 0 && scaled < 1e15) || Math.abs(scaled - Math.floor(scaled) - 0.5) < near)
      return this.words(value.toFixed(decimals));
    this.room(LONGEST);
    let length = whole < 1 ? 1 : Math.floor(Math.log10(whole)) + 1;
    // The logarithm may be rounded over a power of ten.
    if (whole >= TENS[length]) length++;
    else if (length > 1 && whole < TENS[length - 1]) length--;
    const count = Math.max(length, decimals + 1);
    this.put(whole, count, count - decimals);
  }

  private scaled = (size: number, exponent: number): number =>
    exponent <= DIGITS - 1 ? size * TENS[DIGITS - 1 - exponent] : size / TENS[exponent - DIGITS + 1];

  /** Writes `count` digits of a whole number with the point behind so many of them; zeros stand in for those that are missing. */
  private put(whole: number, count: number, before: number): void {
    const { few, bytes } = this;
    let rest = whole;
    for (let k = count - 1; k >= 0; k--) {
      const next = Math.floor(rest / 10);
      few[k] = ZERO + rest - next * 10;
      rest = next;
    }
    let at = this.at;
    if (before <= 0) {
      bytes[at++] = ZERO;
      bytes[at++] = this.point;
      for (let k = before; k < 0; k++) bytes[at++] = ZERO;
      for (let k = 0; k < count; k++) bytes[at++] = few[k];
    } else {
      for (let k = 0; k < Math.max(before, count); k++) {
        if (k === before) bytes[at++] = this.point;
        bytes[at++] = k < count ? few[k] : ZERO;
      }
    }
    this.at = at;
  }
  private words(text: string): void {
    this.room(text.length);
    for (let k = 0; k < text.length; k++) {
      const byte = text.charCodeAt(k);
      this.bytes[this.at++] = byte === 46 ? this.point : byte;
    }
  }
  private room(count: number): void {
    if (this.at + count <= this.bytes.length) return;
    const more = new Uint8Array(this.bytes.length * 2);
    more.set(this.bytes);
    this.bytes = more;
  }
}
