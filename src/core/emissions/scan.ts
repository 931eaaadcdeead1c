import { FarrierError } from '../errors';
import type { GatheredBand, GatherStep } from '../radio/gathering';
import { LINES_MOST, planBand } from '../radio/resolution';
import { shapeWidths } from '../radio/response';
import { hertzText } from '../radio/words';

/** A range of a look for emissions. */
export interface ScanRange {
  fromHz: number;
  toHz: number;
  /** 6 dB down, as CISPR 16-1-1 states bandwidths. */
  bandwidth6Hz: number;
  /** Time for which each step is heard, s. */
  dwellS: number;
  /** Gain of the receiver; null: as it stands. */
  gainDb: number | null;
}

/** Readings over a range, dBm, by all detectors. */
export interface ScanLine {
  startHz: number;
  stepHz: number;
  highest: Float32Array;
  rms: Float32Array;
  average: Float32Array;
}

const SHAPE = 'Blackman-Harris';
/** Shares of the rate around the centre: what is left of DC lies within the first, the receiver is flat within the second. */
const SKIP = 0.03;
const REACH = 0.39;
const STEPS_MOST = 4000;

/** Steps that a receiver takes through a range. Their lines lie on one grid, so that they join without a seam. */
export interface ScanPlan {
  steps: GatherStep[];
  startHz: number;
  stepHz: number;
  lines: number;
  /** Lines of a step. */
  each: number;
  /** Time that all steps take at the least, s. */
  seconds: number;
}

/** @throws `bad_input` for a range outside what the receiver reaches, or a resolution that it cannot have */
export function planScan(
  range: ScanRange,
  receiver: { sampleRateHz: number; tunes: { fromHz: number; toHz: number } | null; centreHz: number },
): ScanPlan {
  const { fromHz, toHz, bandwidth6Hz, dwellS } = range;
  const { sampleRateHz, tunes } = receiver;
  const cannot = (what: string, next: string) => new FarrierError('bad_input', { what, where: `${hertzText(fromHz)} to ${hertzText(toHz)}`, next }); // prettier-ignore
  if (!(toHz > fromHz)) throw cannot('A range has to end above its begin.', 'Give an end above its begin.');
  const { at3, at6 } = shapeWidths(SHAPE);
  const resolutionHz = (bandwidth6Hz * at3) / at6;
  const request = (centreHz: number, spanHz: number) => ({ centreHz, spanHz, resolutionHz, smoothingHz: null, shape: SHAPE }) as const; // prettier-ignore
  const trial = planBand(request(0, Math.min(sampleRateHz * 0.1, resolutionHz)), {
    centreHz: 0,
    sampleRateHz,
  });
  const { stepHz, windowLength } = trial;
  const lines = Math.floor((toHz - fromHz) / stepHz + 1e-9) + 1;
  const skip = Math.ceil((SKIP * sampleRateHz) / stepHz);
  const each = Math.max(1, Math.min(Math.floor((REACH * sampleRateHz) / stepHz) - skip, LINES_MOST - 2));
  const count = Math.ceil(lines / each);
  if (count > STEPS_MOST)
    throw cannot(
      `It would take ${count} steps.`,
      `At most ${STEPS_MOST}: narrow the range, or let the receiver take samples faster.`,
    );
  const steps = Array.from({ length: count }, (_, k): GatherStep => {
    const first = k * each;
    const last = Math.min(lines, first + each) - 1;
    const [low, high] = [fromHz + first * stepHz, fromHz + last * stepHz];
    const centreHz = place(low, high, skip * stepHz, stepHz, receiver, REACH * sampleRateHz);
    if (centreHz === null)
      throw cannot(
        'The receiver does not reach this range.',
        tunes
          ? `It reaches from ${hertzText(Math.max(0, tunes.fromHz - REACH * sampleRateHz))} to ${hertzText(tunes.toHz + REACH * sampleRateHz)}.`
          : 'A recording has only its own band: give a range within it.',
      );
    return {
      centreHz,
      ...(range.gainDb !== null && { gainDb: range.gainDb }),
      task: {
        does: 'band',
        request: request((low + high) / 2, high - low + stepHz / 2),
        sweepS: Math.max(dwellS, (2 * windowLength) / sampleRateHz),
        sweeps: 1,
      },
    };
  });
  return { steps, startHz: fromHz, stepHz, lines, each, seconds: count * Math.max(dwellS, (2 * windowLength) / sampleRateHz) }; // prettier-ignore
}

/** Where a receiver is tuned to hear lines [low, high] beside its centre: above them where it can, else as far down as it reaches, else below them. A recording stays
 *  where it is. @returns null where it cannot */
function place(
  low: number,
  high: number,
  skipHz: number,
  stepHz: number,
  {
    tunes,
    centreHz,
    sampleRateHz,
  }: { tunes: { fromHz: number; toHz: number } | null; centreHz: number; sampleRateHz: number },
  reachHz: number,
): number | null {
  const hears = (c: number) => Math.abs(low - c) <= reachHz && Math.abs(high - c) <= reachHz;
  if (!tunes) return Math.abs(low - centreHz) <= sampleRateHz * 0.4 && Math.abs(high - centreHz) <= sampleRateHz * 0.4 ? centreHz : null; // prettier-ignore
  const above = high + skipHz;
  const lowest = low + Math.ceil((tunes.fromHz - low) / stepHz) * stepHz;
  const centre = Math.max(above, lowest);
  if (centre <= tunes.toHz) return hears(centre) ? centre : null;
  const below = low - skipHz;
  return below >= tunes.fromHz && below <= tunes.toHz && hears(below) ? below : null;
}

/** A range that is filled step by step; what was not heard yet is NaN. */
export class ScanRecord implements ScanLine {
  readonly startHz: number;
  readonly stepHz: number;
  readonly highest: Float32Array;
  readonly rms: Float32Array;
  readonly average: Float32Array;
  /** Whether a step was overloaded. */
  overload = false;

  constructor(plan: Pick<ScanPlan, 'startHz' | 'stepHz' | 'lines'>) {
    this.startHz = plan.startHz;
    this.stepHz = plan.stepHz;
    const line = () => new Float32Array(plan.lines).fill(NaN);
    [this.highest, this.rms, this.average] = [line(), line(), line()];
  }

  /** @param got of one step, whose lines lie on this grid */
  put(got: GatheredBand & { overload: boolean }): void {
    const from = Math.round((got.startHz - this.startHz) / this.stepHz);
    for (let l = 0; l < got.rms.length; l++) {
      const at = from + l;
      if (at < 0 || at >= this.rms.length) continue;
      this.highest[at] = got.highest[l];
      this.rms[at] = got.rms[l];
      this.average[at] = got.average[l];
    }
    this.overload ||= got.overload;
  }
}
