import { badInput } from '$core/errors';
import { convertUnit, quantityOf } from '$core/quantities/quantities';
import { voltsAt } from '$core/radio/levels';
import type { Sampled } from '$core/samples/sampled';
import { hz } from '$core/time/rate';
import type { ReceiverState } from '$contract/radio';

/** A recorded band: its samples from any place on, and what is known of it. */
export interface RecordedIq {
  state: ReceiverState;
  length: number;
  /** V rms over 50 Ω, I and Q in turn; NaN where nothing was recorded. */
  read(first: number, count: number): Float32Array;
}

/** Centre that a recording says of itself: in what stood beside it, or in its name (“Band at 868.6 MHz”). @returns Hz; null where nothing is said */
function centreOf(name: string, snapshot: unknown): number | null {
  const said = (snapshot as { receiver?: { centreHz?: number } } | null)?.receiver?.centreHz;
  if (typeof said === 'number') return said;
  const [, mhz] = / at ([\d.]+) MHz/.exec(name) ?? [];
  return mhz ? Number(mhz) * 1e6 : null;
}

/** Complex samples as a receiver’s. Those in volts have their level, others are read as shares of full scale, which counts as 0 dBm.
 *  @param snapshot what is known of the channel as it was recorded @param own centre where the recording says none, Hz @throws `bad_input` for samples that are not complex */
export function recordedIq(signal: Sampled, snapshot: unknown, own: number | null = null): RecordedIq {
  if (signal.width !== 2) throw badInput('signal', signal.name, 'It is not complex: choose one of I and Q.');
  const scaled = quantityOf(signal.unit) === 'voltage';
  const factor = scaled ? convertUnit(1, signal.unit, 'V') : voltsAt(0);
  const known = (snapshot as { receiver?: Partial<ReceiverState> } | null)?.receiver;
  return {
    state: {
      centreHz: centreOf(signal.name, snapshot) ?? own ?? 0,
      sampleRateHz: hz(signal.rate),
      gainDb: known?.gainDb ?? 0,
      tunes: null,
      accuracy: scaled ? (known?.accuracy ?? null) : null,
      noiseFigure: known?.noiseFigure ?? null,
      scaled: scaled && known?.scaled !== false,
    },
    length: signal.length,
    read: (first, count) => {
      const values = signal.read(first, count);
      if (factor === 1) return values;
      return values.map((v) => v * factor);
    },
  };
}
