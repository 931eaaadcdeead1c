/** Response of single degrees of freedom to the acceleration of their base. */
interface ShockLine {
  frequencyHz: number;
  /** Highest, lowest and largest absolute acceleration of the mass, in the unit of the base’s. */
  positive: number;
  negative: number;
  maximax: number;
}

/** Absolute-acceleration response of one oscillator, sample by sample: ramp-invariant recursive filter, the input linear between samples (ISO 18431-4;
 *  Smallwood, Shock and Vibration Bulletin 51, 1981). Missing samples count as 0. */
export class ShockOscillator {
  private readonly b: [number, number, number];
  private readonly a1: number;
  private readonly a2: number;
  private x1 = 0;
  private x2 = 0;
  private y1 = 0;
  private y2 = 0;
  positive = 0;
  negative = 0;

  /** @param quality Q = 1 / (2 · damping ratio), above 0.5 */
  constructor(
    readonly frequencyHz: number,
    quality: number,
    sampleRateHz: number,
  ) {
    const w = (2 * Math.PI * frequencyHz) / sampleRateHz;
    const zeta = 1 / (2 * quality);
    const e = Math.exp(-zeta * w);
    const k = w * Math.sqrt(1 - zeta * zeta);
    const c = e * Math.cos(k);
    const s = (e * Math.sin(k)) / k;
    this.b = [1 - s, 2 * (s - c), e * e - s];
    this.a1 = -2 * c;
    this.a2 = e * e;
  }
  push(block: ArrayLike<number>): void {
    const { a1, a2 } = this;
    const [b0, b1, b2] = this.b;
    let { x1, x2, y1, y2, positive, negative } = this;
    for (let i = 0; i < block.length; i++) {
      const v = block[i];
      const x = v === v ? v : 0;
      const y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
      [x2, x1, y2, y1] = [x1, x, y1, y];
      if (y > positive) positive = y;
      if (y < negative) negative = y;
    }
    Object.assign(this, { x1, x2, y1, y2, positive, negative });
  }
  get line(): ShockLine {
    const { frequencyHz, positive, negative } = this;
    return { frequencyHz, positive, negative, maximax: Math.max(positive, -negative) };
  }
}
