import {
  readModulation,
  type Measure,
  type ModulationRead,
  type ModulationWish,
} from '$core/modulation/read';
import { Catcher, type CatchRequest } from '$core/radio/catching';
import type { ReceiverState } from '$contract/radio';
import type { IqBlock } from './source';

/** One way in which modulation is read for channels. */
export interface NumbersWish {
  key: string;
  capture: CatchRequest;
  wish: ModulationWish;
  /** Time from one reading to the next at the least, s. */
  everyS: number;
}
/** Numbers of a capture, by the way it was read. */
export interface NumbersTold {
  key: string;
  numbers: Record<Measure, number>;
  /** Index of the receiver’s sample at which the capture ends, more or less: what the filter delays counts for nothing here. */
  endsAt: number;
}

/** Time from a capture in which nothing was found to the next that is tried, s. */
const TRY_EACH_S = 0.1;

/** Reads modulation for channels, each way as often as its channels want it: captures between are not even looked for. */
export class NumberReads {
  private ways: { own: NumbersWish; catcher: Catcher | null; builtFor: string; freeAt: number }[] = [];

  constructor(private readonly told: (numbers: NumbersTold) => void) {}

  want(wishes: readonly NumbersWish[]): void {
    this.ways = wishes.map(
      (own) =>
        this.ways.find((w) => JSON.stringify(w.own) === JSON.stringify(own)) ?? {
          own,
          ...{ catcher: null, builtFor: '', freeAt: -Infinity },
        },
    );
  }

  push({ first, iq }: IqBlock, receiver: ReceiverState): void {
    const end = first + iq.length / 2;
    for (const way of this.ways) {
      const { own } = way;
      const tuned = `${receiver.centreHz} ${receiver.sampleRateHz}`;
      if (tuned !== way.builtFor) [way.builtFor, way.catcher] = [tuned, catcherOf(own.capture, receiver)];
      if (!way.catcher || end < way.freeAt) continue;
      let read: ReturnType<typeof readModulation> | null = null;
      way.catcher.push(iq, first, ({ iq: caught, sampleRateHz }) => {
        read ??= readModulation(caught, sampleRateHz, own.wish);
      });
      if (!read) continue;
      const every = own.everyS * receiver.sampleRateHz;
      if ('fault' in read) {
        way.freeAt = end + Math.min(every, TRY_EACH_S * receiver.sampleRateHz);
        continue;
      }
      way.freeAt = (end - way.freeAt < every ? way.freeAt : end) + every;
      this.told({ key: own.key, numbers: (read as ModulationRead).numbers, endsAt: end });
    }
  }
}

/** None where the channel lies outside what is received now: its numbers are then not there. */
function catcherOf(capture: CatchRequest, receiver: ReceiverState): Catcher | null {
  try {
    return new Catcher(capture, receiver);
  } catch {
    return null;
  }
}
