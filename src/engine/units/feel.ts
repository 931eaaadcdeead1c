/** How a sensor feels what a hand does: it settles with a time constant and, where it has friction, follows only once the play is used up. */
export class Feel {
  private settled = NaN;
  private followed = NaN;

  /** @param settleS time constant, s @param play width of the dead band, in the hand's unit */
  constructor(
    private readonly settleS: number,
    private readonly play = 0,
  ) {}

  /** One step. The first one finds the sensor at rest where the hand is, reached from below. @returns what it feels */
  step(hand: number, seconds: number): number {
    if (Number.isNaN(this.settled)) {
      this.settled = hand;
      this.followed = hand - this.play / 2;
    }
    this.settled += (hand - this.settled) * (1 - Math.exp(-seconds / this.settleS));
    const half = this.play / 2;
    this.followed = Math.min(this.settled + half, Math.max(this.settled - half, this.followed));
    return this.play > 0 ? this.followed : this.settled;
  }
}
