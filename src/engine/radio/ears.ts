import type { RadioWish, ReceiverState } from '$contract/radio';
import type { ListenSink } from '../units/driver';
import { Catches } from './catches';
import { Listening } from './listening';
import type { IqBlock } from './source';

/** All that is made of a receiver’s samples for pages: pictures of its band, and pictures over time. */
export class Ears {
  private readonly listening: Listening;
  private readonly catches: Catches;

  constructor(told: ListenSink) {
    this.listening = new Listening(told);
    this.catches = new Catches(told);
  }

  want({ band, catching }: RadioWish): void {
    this.listening.want(band);
    this.catches.want(catching);
  }

  /** @param timeMs of the block’s end */
  push(block: IqBlock, receiver: ReceiverState, timeMs: number): void {
    this.listening.push(block, receiver, timeMs);
    this.catches.push(block, receiver, timeMs);
  }

  /** Samples that did not reach this place. */
  missed(count: number): void {
    this.listening.missed(count);
  }
}
