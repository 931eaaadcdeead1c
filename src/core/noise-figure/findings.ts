import type { GatheredBand } from '../radio/gathering';
import type { PointInputs, PointResult, Scattered } from './budget';
import { T0 } from './sources';

/** Power of a point in one state. */
export interface PointPower extends Scattered {
  /** How far the highest line stands over the middle one, dB. */
  aboveDb: number;
  /** Whether that is more than noise does: a carrier leaks in. */
  carrier: boolean;
  overload: boolean;
}

/** Level to which the response of a receiver may change over the width of a point, dB: no carrier yet. */
const UNEVEN = 1;

/** Mean power of a point over its sweeps and the scatter of that mean; a line that stands out of the noise farther than its averages allow is a carrier.
 *  @param independent transforms that the line of each sweep is the mean of */
export function pointPower(band: GatheredBand & { overload: boolean }, independent: number): PointPower {
  const { sweeps, rms } = band;
  const n = sweeps.length;
  const mean = sweeps.reduce((a, v) => a + v, 0) / n;
  const spread = Math.sqrt(sweeps.reduce((a, v) => a + (v - mean) ** 2, 0) / Math.max(1, n - 1));
  // Of very few sweeps the scatter is not known from themselves: noise of the lines says what it is at least.
  const lines = (rms.length * band.stepHz) / band.noiseBandwidthHz;
  const least = 1 / Math.sqrt(Math.max(1, n * independent * lines));
  const order = [...rms].sort((a, b) => a - b);
  const aboveDb = order[order.length - 1] - order[order.length >> 1];
  const noise = 10 * Math.log10(1 + 6 / Math.sqrt(n * independent));
  return {
    mw: mean,
    relative: Math.max(least, n > 3 ? spread / mean / Math.sqrt(n) : 0),
    aboveDb,
    carrier: aboveDb > UNEVEN + noise,
    overload: band.overload,
  };
}

/** What is wrong with a point; `leaves` whether its result is left out. */
export interface Finding {
  says: string;
  leaves: boolean;
}

/** Faults that the powers themselves show. */
export function findings(
  powers: Record<'own' | 'through', { on: PointPower; off: PointPower }>,
  inputs: PointInputs,
  result: PointResult,
  covered: boolean,
): Finding[] {
  const out: Finding[] = [];
  const say = (says: string, leaves = true) => void out.push({ says, leaves });
  const all = [powers.own.on, powers.own.off, powers.through.on, powers.through.off];
  if (all.some((p) => p.overload)) say('the receiver is overloaded: take gain away');
  if (all.some((p) => p.carrier))
    say(
      `a carrier leaks in, ${Math.max(...all.filter((p) => p.carrier).map((p) => p.aboveDb)).toFixed(1)} dB over the noise`,
    );
  for (const [where, name] of [
    ['own', 'straight into the receiver'],
    ['through', 'through the device'],
  ] as const) {
    const { on, off } = powers[where];
    const y = on.mw / off.mw;
    const told = 3 * Math.hypot(on.relative, off.relative);
    if (y < 1 - told) say(`${name} there is more noise with the source off than on: was it switched?`);
    else if (y - 1 < told) say(`${name} Y is ${decibels(y)} dB: not to be told from the noise`);
  }
  if (out.length === 0) {
    const share = result.receiverK / (10 ** (result.gainDb / 10) * result.totalK);
    if (share > 0.8)
      say(
        `gain is too low to correct: ${Math.round(100 * Math.min(share, 1))} % of the noise is the receiver’s`,
        false,
      );
    if (!(result.deviceK > -T0) || !Number.isFinite(result.figureDb)) say('no noise figure comes of it');
    else if (result.figureDb < -result.figureExpanded)
      say('less noise than none: losses, temperature or the source’s table are not as stated');
  }
  if (!covered) say('outside the source’s table: the nearest of its points is taken', false);
  return out;
}

const decibels = (y: number): string => (10 * Math.log10(y)).toFixed(2);

/** Whether a source seems to have been left as it was, from all points of a pair: `on` means that it was on both times, or off both times, `swapped` that on and off
 *  are the wrong way round. Null where nothing is odd. */
export function sourceLeft(pairs: readonly { on: Scattered; off: Scattered }[]): 'same' | 'swapped' | null {
  if (pairs.length === 0) return null;
  const told = pairs.map(({ on, off }) => ({
    db: 10 * Math.log10(on.mw / off.mw),
    least: (30 / Math.LN10) * Math.hypot(on.relative, off.relative),
  }));
  const most = (test: (p: (typeof told)[number]) => boolean) => told.filter(test).length > 0.8 * told.length;
  if (most((p) => p.db < -p.least)) return 'swapped';
  if (most((p) => Math.abs(p.db) <= Math.max(p.least, 0.05))) return 'same';
  return null;
}
