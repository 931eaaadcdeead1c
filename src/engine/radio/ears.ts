import type { RadioWish, ReceiverState } from '$contract/radio';
import type { ListenSink } from '../units/driver';
import { Catches } from './catches';
import { Gathers, type GatherNow } from './gathers';
import { Listening } from './listening';
import { NumberReads, type NumbersTold, type NumbersWish } from './number-reads';
import type { IqBlock } from './source';

/** What ears are for: pages, and channels that are numbers of a modulation. */
export type EarWish = RadioWish & { numbers?: NumbersWish[] };
export type EarSink = (heard: Parameters<ListenSink>[0] | { numbers: NumbersTold }) => void;

/** All that is made of a receiver’s samples for pages: pictures of its band, pictures over time, captures, and what is gathered step by step. */
export class Ears {
  private readonly listening: Listening;
  private readonly catches: Catches;
  private readonly captures: Catches;
  private readonly gathers: Gathers;
  private readonly numbers: NumberReads;

  private listens = false;
  private busy = false;

  constructor(private readonly told: EarSink) {
    this.listening = new Listening(told);
    this.catches = new Catches(told);
    this.captures = new Catches(told, true);
    this.gathers = new Gathers((gathering) => told({ gathering }));
    this.numbers = new NumberReads((numbers) => told({ numbers }));
  }

  want({ band, catching, reading, numbers }: EarWish): void {
    const former = this.listens;
    this.listens = band !== null || catching !== null || !!reading;
    if (!former) this.excuse();
    this.listening.want(band);
    this.catches.want(catching);
    this.captures.want(reading ?? null);
    this.numbers.want(numbers ?? []);
  }

  /** A step is gathered, or none any more: meanwhile nothing else is heard. */
  gather(now: GatherNow | null): void {
    // Said once: steps follow one another.
    const begins = now !== null && !this.busy;
    this.busy = now !== null;
    if (begins) this.excuse();
    this.gathers.want(now);
  }
  private excuse(): void {
    if (this.busy && this.listens)
      this.told({
        says: 'The receiver is measuring something else.',
        next: 'What is heard goes on once that is done.',
      });
  }

  /** @param timeMs of the block’s end */
  push(block: IqBlock, receiver: ReceiverState, timeMs: number): void {
    if (this.gathers.push(block, receiver)) return;
    this.listening.push(block, receiver, timeMs);
    this.catches.push(block, receiver, timeMs);
    this.captures.push(block, receiver, timeMs);
    this.numbers.push(block, receiver);
  }

  /** Samples that did not reach this place. */
  missed(count: number): void {
    this.listening.missed(count);
  }
}
