import { asFarrierError } from '$core/errors';
import { Catcher, type CatchRequest } from '$core/radio/catching';
import type { ReceiverState } from '$contract/radio';
import type { ListenSink } from '../units/driver';
import type { IqBlock } from './source';

/** Pictures over time that are told within a second at the most: more than an eye follows would only fill the line. */
const MOST_A_SECOND = 5;
/** Captures that are read within a second at the most. */
const READ_A_SECOND = 10;

/** Catches pictures over time and tells them as often as they can be looked at. */
export class Catches {
  private wish: CatchRequest | null = null;
  private catcher: Catcher | null = null;
  private builtFor = '';
  private number = 0;
  private toldS = -Infinity;
  private said = '';

  /** @param reading whether what is caught is to be read */
  constructor(
    private readonly told: ListenSink,
    private readonly reading = false,
  ) {}

  want(wish: CatchRequest | null): void {
    if (JSON.stringify(wish) === JSON.stringify(this.wish)) return;
    this.wish = wish;
    this.builtFor = this.said = '';
    this.number = 0;
  }

  push({ first, iq }: IqBlock, receiver: ReceiverState, timeMs: number): void {
    if (!this.wish) return;
    const key = `${receiver.centreHz} ${receiver.sampleRateHz}`;
    try {
      if (key !== this.builtFor) {
        this.builtFor = key;
        this.catcher = null;
        this.toldS = -Infinity;
        this.catcher = new Catcher(this.wish, receiver);
      }
    } catch (error) {
      const { text } = asFarrierError(error, 'the pictures');
      const says = [text.what, text.why].filter(Boolean).join(' ');
      if (says !== this.said) this.told({ says, next: text.next ?? '' });
      this.said = says;
    }
    this.catcher?.push(iq, first, (caught) => {
      this.number++;
      if (caught.fromS - this.toldS < 1 / (this.reading ? READ_A_SECOND : MOST_A_SECOND)) return;
      this.toldS = caught.fromS;
      const own = { ...caught, timeMs, number: this.number, wish: this.wish! };
      this.told(this.reading ? { ...own, reading: true } : own);
    });
  }
}
