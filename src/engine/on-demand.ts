import { FarrierError } from '$core/errors';
import { hz } from '$core/time/rate';
import type { Reading } from '$contract/engine';
import type { Signal } from './signals';

const LONGEST_S = 600;

/** Samples wanted once: filled from the blocks as they come. */
export class OnDemand {
  private readonly parts: { signal: Signal; values: number[] }[];

  /** @throws `bad_input` when it would take longer than ten minutes */
  constructor(
    signals: Signal[],
    private readonly samples: number,
    private readonly done: (readings: Reading[]) => void,
    private readonly raw = false,
    private readonly gone: (why: FarrierError) => void = () => undefined,
  ) {
    const slowest = Math.min(...signals.map((s) => hz(s.group.rate)));
    if (samples / slowest > LONGEST_S)
      throw new FarrierError('bad_input', {
        what: `${samples} samples take ${Math.round(samples / slowest)} s at ${slowest} S/s.`,
        where: 'samples',
        next: `Ask for at most ${Math.floor(slowest * LONGEST_S)}, or record a take.`,
      });
    this.parts = signals.map((signal) => ({ signal, values: [] }));
  }

  /** Gives up when a channel is not measured any more. @returns whether it did */
  withoutOneOf(signals: Signal[]): boolean {
    if (this.parts.every(({ signal }) => signals.includes(signal))) return false;
    this.gone(
      new FarrierError('conflict', {
        what: 'The set-up was changed while it was read.',
        where: 'channel',
        next: 'Read it again.',
      }),
    );
    return true;
  }

  /** Takes what came in this step. @returns whether all is there */
  step(): boolean {
    for (const { signal, values } of this.parts)
      for (let i = 0; i < signal.group.count && values.length < this.samples; i++)
        values.push((this.raw ? signal.raw : signal.value)[i]);
    const lost = this.parts.some(({ signal }) => signal.trouble === 'lost');
    if (!lost && this.parts.some(({ values }) => values.length < this.samples)) return false;
    this.done(
      this.parts.map(({ signal, values }) => ({
        channelId: signal.channel!.id,
        rateHz: hz(signal.group.rate),
        values,
      })),
    );
    return true;
  }
}
