import type { SteppedPlan } from '$core/radio/stepping';

/** Takes a receiver from step to step of a wide band, each for as long as it has to be heard. */
export class Stepper {
  private place = 0;
  private samples = 0;

  /** @param homeHz where it is tuned again afterwards */
  constructor(
    private readonly stepped: SteppedPlan,
    readonly homeHz: number,
    private readonly tune: (hz: number) => void,
  ) {
    tune(stepped.centresHz[0]);
  }

  /** Samples came that were received around a frequency. */
  heard(count: number, centreHz: number): void {
    const { centresHz, dwell, own } = this.stepped;
    // What was on its way from the step before does not count.
    if (Math.abs(centreHz - centresHz[this.place]) > own.stepHz / 100) return;
    this.samples += count;
    if (this.samples < dwell) return;
    this.samples = 0;
    this.place = (this.place + 1) % centresHz.length;
    this.tune(centresHz[this.place]);
  }
}
