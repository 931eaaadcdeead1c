import { asFarrierError } from '$core/errors';
import { Gatherer, type GatherStep } from '$core/radio/gathering';
import type { ReceiverState } from '$contract/radio';
import type { GatherTold } from '$contract/radio-gathering';
import type { IqBlock } from './source';

/** A step that is gathered now. */
export interface GatherNow {
  id: string;
  index: number;
  step: GatherStep;
}
/** Shares of a step are told so far apart, ms. */
const TOLD_EVERY_MS = 200;

/** Gathers the steps that it is given, one at a time, from samples received where the step wants them. */
export class Gathers {
  private now: GatherNow | null = null;
  private gatherer: Gatherer | null = null;
  private toldMs = 0;

  constructor(private readonly told: (said: GatherTold) => void) {}

  want(now: GatherNow | null): void {
    this.now = now;
    this.gatherer = null;
    this.toldMs = Date.now();
  }

  /** @returns whether samples are wanted for a step: nothing else hears them then */
  push({ first, iq, overload }: IqBlock, receiver: ReceiverState): boolean {
    const { now } = this;
    if (!now) return false;
    // What was on its way from the step before does not count.
    if (Math.abs(receiver.centreHz - now.step.centreHz) > 1) return true;
    try {
      this.gatherer ??= new Gatherer(now.step.task, receiver);
      const got = this.gatherer.push(iq, first, overload);
      const { id, index: step } = now;
      if (typeof got !== 'number') {
        this.want(null);
        this.told({ id, step, gathered: got });
      } else if (this.gatherer.hopeless) {
        this.want(null);
        this.told({
          id,
          fault: 'Samples are lost again and again: no step becomes whole.',
          next: 'Lower the receiver’s rate, or let other work on this machine end.',
        });
      } else if (Date.now() - this.toldMs > TOLD_EVERY_MS) {
        this.toldMs = Date.now();
        this.told({ id, step, share: got });
      }
    } catch (error) {
      this.want(null);
      const { text } = asFarrierError(error, 'the step');
      this.told({
        id: now.id,
        fault: [text.what, text.why].filter(Boolean).join(' '),
        next: text.next ?? '',
      });
    }
    return true;
  }
}
