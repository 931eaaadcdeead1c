import type { UnitTiming } from '$contract/take';

/** Compares one unit's clock with the engine's: the time at which blocks arrive against the time their last sample says.
 *  A straight line through the differences gives offset and drift (least squares). */
export class UnitClock {
  private n = 0;
  private x0 = 0;
  private sx = 0;
  private sy = 0;
  private sxx = 0;
  private sxy = 0;
  private syy = 0;

  constructor(
    readonly unit: string,
    readonly name: string,
  ) {}

  /** @param atS time of the last sample by its index, s @param lateS how much later than that it arrived, s */
  push(atS: number, lateS: number): void {
    if (this.n === 0) this.x0 = atS;
    const x = atS - this.x0;
    this.n++;
    this.sx += x;
    this.sy += lateS;
    this.sxx += x * x;
    this.sxy += x * lateS;
    this.syy += lateS * lateS;
  }

  /** @returns null before there are enough blocks to say anything */
  get timing(): UnitTiming | null {
    const { n, sx, sy, sxx, sxy, syy } = this;
    const spread = sxx - (sx * sx) / n;
    if (n < 20 || spread <= 0) return null;
    const slope = (sxy - (sx * sy) / n) / spread;
    const residual = Math.max(0, syy - (sy * sy) / n - slope * slope * spread) / (n - 2);
    return {
      unit: this.unit,
      name: this.name,
      offsetMs: (1000 * sy) / n,
      driftPpm: slope * 1e6,
      driftUncertaintyPpm: 2 * Math.sqrt(residual / spread) * 1e6,
      blocks: n,
    };
  }
}
