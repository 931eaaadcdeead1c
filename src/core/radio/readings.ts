import { BandListener } from './band';
import { dbm } from './levels';
import { highestLine, peakAt } from './peaks';
import { planBand, USABLE_SHARE, type BandPlan } from './resolution';
import { shapeWidths } from './response';
import { channelPower } from './widths';

/** What is read of a band again and again: the power in it, or the level of its highest peak, or
 *  that peak’s distance from the middle of the band, Hz: samples are single precision, which a whole radio frequency would not go into. */
export interface BandReading {
  reads: 'power' | 'peak level' | 'peak frequency';
  fromHz: number;
  toHz: number;
}

const SHAPE = 'Blackman-Harris';
const LONGEST = 8192;

/** Readings of bands at a steady rate, one for each so many samples: powers averaged over these. Bands that lie outside what is received read NaN. */
export class BandReadings {
  private readonly listener: BandListener;
  private readonly plan: BandPlan;
  /** Samples of a reading that are there already. */
  private next = -1;

  /** @param each samples of one reading */
  constructor(
    readonly readings: readonly BandReading[],
    receiver: { centreHz: number; sampleRateHz: number },
    private readonly each: number,
  ) {
    const { sampleRateHz } = receiver;
    // As fine as a twentieth of the narrowest band, as far as a reading has samples for it.
    const narrowest = Math.min(...readings.map((r) => r.toHz - r.fromHz), sampleRateHz);
    const wanted = (20 * shapeWidths(SHAPE).at3 * sampleRateHz) / narrowest;
    const length = Math.max(32, Math.min(LONGEST, wanted, each));
    const plan = planBand(
      {
        centreHz: receiver.centreHz,
        spanHz: sampleRateHz * USABLE_SHARE,
        resolutionHz: (shapeWidths(SHAPE).at3 * sampleRateHz) / Math.floor(length),
        smoothingHz: null,
        shape: SHAPE,
      },
      receiver,
    );
    // Windows side by side: powers are averaged over many of them, and half the work is saved.
    this.plan = { ...plan, step: plan.windowLength };
    this.listener = new BandListener(this.plan, null, 'rms');
  }

  /** @param iq V rms over 50 Ω @param first index of the first sample @param told each reading that is whole: its index, and its values in the order asked for */
  push(iq: Float32Array, first: number, told: (index: number, values: number[]) => void): void {
    const { each } = this;
    if (this.next >= 0 && first !== this.next) this.listener.look(); // half a reading is none
    for (let at = 0; at < iq.length / 2;) {
      const place = first + at;
      const end = (Math.floor(place / each) + 1) * each;
      const count = Math.min(iq.length / 2 - at, end - place);
      this.listener.push(iq.subarray(2 * at, 2 * (at + count)), place);
      at += count;
      if (place + count === end) told(end / each - 1, this.read());
    }
    this.next = first + iq.length / 2;
  }

  private read(): number[] {
    const picture = this.listener.look();
    if (!picture) return this.readings.map(() => NaN);
    const levels = picture.powers.rms.map(dbm);
    const { startHz, stepHz, noiseBandwidthHz } = this.plan;
    return this.readings.map(({ reads, fromHz, toHz }) => {
      if (reads === 'power') return channelPower(levels, this.plan, noiseBandwidthHz, fromHz, toHz);
      const from = Math.ceil((fromHz - startHz) / stepHz);
      const to = Math.floor((toHz - startHz) / stepHz);
      if (from < 1 || to > levels.length - 2 || to < from) return NaN;
      const line = from + highestLine(levels.subarray(from, to + 1));
      const peak = peakAt(levels, line, this.plan);
      return reads === 'peak level' ? peak.level : peak.hz - (fromHz + toHz) / 2;
    });
  }
}
