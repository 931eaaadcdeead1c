import { badInput } from '$core/errors';
import type { Extremes, Parts } from '$core/figures/forms';
import { magnitudes } from '$core/signal/magnitude';
import { samplesWithin } from '$core/samples/sampled';
import type { TakeSignal } from '$contract/take';
import type { App } from '../app';
import { pairsOf } from '../inspect/read';
import { openTake, takeWindow } from '../takes';

const MOST_POINTS = 4000;
/** Pairs of a curve against another one. */
const MOST_PAIRS = 3000;
/** Samples of a curve that are read while a page is drawn. */
const MOST_READ = 8_000_000;
const AT_ONCE = 262_144;

/** Curves by their extremes: no peak is lost, however long the take. @param points how many places a curve may have */
export function curvesOf(app: App, takeId: string, signals: readonly TakeSignal[], fromS: number, toS: number, points: number): Extremes[] {
  const ids = signals.map((s) => s.id);
  return takeWindow(app, takeId, ids, fromS, toS, Math.min(MOST_POINTS, points)).map((part, k) => {
    const { name, unit, colour } = signals[k];
    // Extremes stand in the middle of their time.
    const x = { from: part.fromS + part.stepS / 2, step: part.stepS, length: part.min.length };
    return { name, unit, colour, x, low: part.min, high: part.max };
  });
} // prettier-ignore

/** Of equal parts of a span the mean, the highest or the lowest of each signal, from its samples; a part without any has none.
 *  @throws `bad_input` where that would be too many samples for a page */
export function partsOf(app: App, takeId: string, signals: readonly TakeSignal[], fromS: number, toS: number, parts: number, of: 'mean' | 'highest' | 'lowest'): Parts[] {
  const reader = openTake(app, takeId);
  const step = (toS - fromS) / parts;
  return signals.map(({ id, name, unit, colour }) => {
    const signal = reader.signal(id);
    const whole = samplesWithin(signal, fromS, toS);
    if (whole.end - whole.first > MOST_READ)
      throw badInput(name, `${whole.end - whole.first} samples`, `A page reads up to ${MOST_READ} of each channel: choose a shorter time, or draw the study “statistics by blocks”.`); // prettier-ignore
    const values = new Float64Array(parts).fill(NaN);
    let first = whole.first;
    for (let k = 0; k < parts; k++) {
      const end = k + 1 === parts ? whole.end : samplesWithin(signal, fromS, fromS + (k + 1) * step).end;
      let [sum, n, best] = [0, 0, NaN];
      for (let at = first; at < end; at += AT_ONCE)
        for (const v of magnitudes(reader.values(id, at, Math.min(AT_ONCE, end - at)), signal.width)) {
          if (v !== v) continue;
          sum += v;
          n++;
          if (!(of === 'lowest' ? best <= v : best >= v)) best = v;
        }
      if (n > 0) values[k] = of === 'mean' ? sum / n : best;
      first = end;
    }
    return { name, unit, colour, from: fromS, step, values };
  });
} // prettier-ignore

/** Signals against another one: pairs in the order of time, no turn of the signals lost. */
export function pairsFor(app: App, takeId: string, across: TakeSignal, signals: readonly TakeSignal[], fromS: number, toS: number) {
  const { numbers } = pairsOf(app, [{ take: takeId, x: across.id, signals: signals.map((s) => s.id), from: fromS, to: toS }], MOST_PAIRS, false); // prettier-ignore
  return signals.map(({ name, unit, colour }, k) => ({ name, unit, colour, x: numbers[3 * k + 1], y: numbers[3 * k + 2] })); // prettier-ignore
} // prettier-ignore
