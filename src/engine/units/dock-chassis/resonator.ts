/** A lightly damped mode of the structure, driven by force per mass; gives its acceleration. Exact discretisation of
 *  x'' + 2ζω x' + ω² x = f for a force held over each sample (zero-order hold). */
export class Resonator {
  private x = 0;
  private v = 0;
  private readonly a11: number;
  private readonly a12: number;
  private readonly a21: number;
  private readonly a22: number;
  private readonly b1: number;
  private readonly b2: number;
  private readonly omega2: number;
  private readonly damping: number;

  constructor(frequencyHz: number, zeta: number, rateHz: number) {
    const w = 2 * Math.PI * frequencyHz;
    const wd = w * Math.sqrt(1 - zeta * zeta);
    const h = 1 / rateHz;
    const decay = Math.exp(-zeta * w * h);
    const c = decay * Math.cos(wd * h);
    const s = decay * Math.sin(wd * h);
    this.omega2 = w * w;
    this.damping = 2 * zeta * w;
    this.a11 = c + (zeta * w * s) / wd;
    this.a12 = s / wd;
    this.a21 = (-this.omega2 * s) / wd;
    this.a22 = c - (zeta * w * s) / wd;
    this.b1 = (1 - this.a11) / this.omega2;
    this.b2 = this.a12;
  }

  /** @param force m/s² @returns acceleration, m/s² */
  step(force: number): number {
    const { x, v } = this;
    this.x = this.a11 * x + this.a12 * v + this.b1 * force;
    this.v = this.a21 * x + this.a22 * v + this.b2 * force;
    return force - this.omega2 * this.x - this.damping * this.v;
  }
}
