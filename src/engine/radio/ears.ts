import type { RadioWish, ReceiverState } from '$contract/radio';
import type { ListenSink } from '../units/driver';
import { Catches } from './catches';
import { Gathers, type GatherNow } from './gathers';
import { Listening } from './listening';
import type { IqBlock } from './source';

/** All that is made of a receiver’s samples for pages: pictures of its band, pictures over time, and what is gathered step by step. */
export class Ears {
  private readonly listening: Listening;
  private readonly catches: Catches;
  private readonly gathers: Gathers;

  constructor(told: ListenSink) {
    this.listening = new Listening(told);
    this.catches = new Catches(told);
    this.gathers = new Gathers((gathering) => told({ gathering }));
  }

  want({ band, catching }: RadioWish): void {
    this.listening.want(band);
    this.catches.want(catching);
  }

  /** A step is gathered, or none any more: meanwhile nothing else is heard. */
  gather(now: GatherNow | null): void {
    this.gathers.want(now);
  }

  /** @param timeMs of the block’s end */
  push(block: IqBlock, receiver: ReceiverState, timeMs: number): void {
    if (this.gathers.push(block, receiver)) return;
    this.listening.push(block, receiver, timeMs);
    this.catches.push(block, receiver, timeMs);
  }

  /** Samples that did not reach this place. */
  missed(count: number): void {
    this.listening.missed(count);
  }
}
