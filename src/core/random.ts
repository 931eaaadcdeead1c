/** Marsaglia's xorshift32 (Journal of Statistical Software 8(14), 2003): small, seeded, repeatable. */
export class Random {
  private state: number;
  private spare = NaN;

  /** @param seed any integer; 0 is replaced, since the generator would stay at 0 */
  constructor(seed: number) {
    this.state = seed >>> 0 || 0x9e3779b9;
  }

  /** Uniform in [0, 1). */
  uniform(): number {
    let x = this.state;
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    this.state = x >>> 0;
    return this.state / 4294967296;
  }

  /** Normal with mean 0 and standard deviation 1 (polar method). */
  gauss(): number {
    if (!Number.isNaN(this.spare)) {
      const value = this.spare;
      this.spare = NaN;
      return value;
    }
    let u: number, v: number, s: number;
    do {
      u = 2 * this.uniform() - 1;
      v = 2 * this.uniform() - 1;
      s = u * u + v * v;
    } while (s >= 1 || s === 0);
    const scale = Math.sqrt((-2 * Math.log(s)) / s);
    this.spare = v * scale;
    return u * scale;
  }
}
