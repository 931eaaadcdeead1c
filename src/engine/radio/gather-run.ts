import type { GatherStep } from '$core/radio/gathering';
import type { GatherTold, GatherWish } from '$contract/radio-gathering';

/** Takes a receiver through the steps of what somebody wants gathered, and back to where it was. */
export class GatherRun {
  private place = 0;

  /** @param homeHz where it is tuned again afterwards @param begin has the step gathered */
  constructor(
    private readonly wish: GatherWish,
    readonly homeHz: number,
    private readonly tune: (step: GatherStep) => void,
    private readonly begin: (step: GatherStep, told: { id: string; step: number }) => void,
  ) {
    this.go();
  }

  get id(): string {
    return this.wish.id;
  }
  private go(): void {
    const step = this.wish.steps[this.place];
    this.tune(step);
    this.begin(step, { id: this.wish.id, step: this.place });
  }

  /** A step was told. @returns whether the run is over */
  told(said: GatherTold): boolean {
    if (said.id !== this.wish.id) return false;
    if ('fault' in said) return true;
    if (!('gathered' in said) || said.step !== this.place) return false;
    this.place++;
    if (this.place === this.wish.steps.length) return true;
    this.go();
    return false;
  }
}
