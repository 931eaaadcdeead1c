import { magnitudes } from '$core/signal/magnitude';
import { samplesBefore, type Rate } from '$core/time/rate';
import type { TakeGroupSetup, TakeSignalSetup, TakeWriter } from '$store/take/writer';
import type { Signal } from './signals';

const MS = 1_000_000n;

/** A slow log beside full rates: the mean of each signal's raw readings over equal times, as signals of their own. */
export class ThinnedLog {
  readonly rate: Rate;
  private readonly sums: Float64Array;
  private readonly counts: Float64Array;
  private readonly places: Float64Array;
  private readonly one = new Float32Array(1);

  /** @param everyS time of one value, s, a whole number of ms @param zeroNs begin of the take */
  constructor(
    everyS: number,
    private readonly chosen: Signal[],
    private readonly zeroNs: bigint,
    /** Number of the log's first signal in the take. */
    private readonly offset: number,
  ) {
    this.rate = { num: 1000, den: Math.round(everyS * 1000) };
    this.sums = new Float64Array(chosen.length);
    this.counts = new Float64Array(chosen.length);
    this.places = new Float64Array(chosen.length);
  }

  /** Its rate group; a mean stands in the middle of its time. */
  get group(): TakeGroupSetup {
    return { offsetNs: (this.rate.den / 1000) * 0.5e9, rate: this.rate };
  }

  /** Its signals, one for each of the take's. @param own how those stand in the take */
  signals(own: TakeSignalSetup[], group: number): TakeSignalSetup[] {
    return own.map((s) => ({
      ...s,
      channelId: s.channelId && logId(s.channelId),
      name: `${s.name}, log`,
      width: 1,
      group,
      junction: s.junction === null ? null : s.junction + this.offset,
    }));
  }

  /** Takes samples of one signal, in their order. */
  push(k: number, first: number, piece: Float32Array, writer: TakeWriter): void {
    const { group, width } = this.chosen[k];
    if (width === 2) piece = magnitudes(piece, 2);
    for (let i = 0; i < piece.length;) {
      const end = samplesBefore(group.rate, this.endOf(this.places[k]) - group.startNs) - first;
      const to = Math.min(piece.length, Math.max(i, end));
      for (; i < to; i++) {
        const v = piece[i];
        if (v === v) {
          this.sums[k] += v;
          this.counts[k]++;
        }
      }
      if (i >= end) this.emit(k, writer);
    }
  }

  private endOf(place: number): bigint {
    return this.zeroNs + BigInt(place + 1) * BigInt(this.rate.den) * MS;
  }

  private emit(k: number, writer: TakeWriter): void {
    if (this.counts[k] > 0) {
      this.one[0] = this.sums[k] / this.counts[k];
      writer.append(this.offset + k, this.places[k], this.one);
    }
    this.places[k]++;
    this.sums[k] = this.counts[k] = 0;
  }
}

const LOG = ':log';
/** Id of a channel's log in a take. */
const logId = (channelId: string) => `${channelId}${LOG}`;
