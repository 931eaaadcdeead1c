import { badInput } from '../errors';
import { sampledOf, type Sampled } from '../samples/sampled';
import { isUnit, quantityOf } from '../quantities/quantities';
import { rateFromHz, type Rate } from '../time/rate';

/** Share of a step by which a time may miss its place. */
export const JITTER = 0.25;
/** Samples of one signal, gaps among them. */
const SAMPLES_MOST = 200_000_000;

/** From the mean of all single steps, so that rounded times make no wrong rate; whole rates and whole seconds where it is nearly one. @param mean step, s */
export function rateOf(mean: number): Rate {
  const per = 1 / mean;
  if (Math.abs(per - Math.round(per)) < 1e-4 * per) return { num: Math.round(per), den: 1 };
  if (Math.abs(mean - Math.round(mean)) < 1e-4 * mean) return { num: 1, den: Math.round(mean) };
  return rateFromHz(per);
}

export interface ColumnOfNumbers {
  name: string;
  unit: string;
  values: ArrayLike<number>;
}

/** Columns beside each other as signals on one grid of times; rows that are missing are gaps (NaN).
 *  @param times of the rows, s; null: one after the other at `rateHz`
 *  @param rateHz samples a second; null: by the times
 *  @throws `bad_input` where times lie on no even steps, naming the row */
export function signalsOfColumns(
  columns: readonly ColumnOfNumbers[],
  times: ArrayLike<number> | null,
  rateHz: number | null,
): Sampled[] {
  const rows = Math.max(0, ...columns.map((c) => c.values.length));
  const grid =
    rateHz === null ? gridOf(times) : { rate: rateFromHz(rateHz), first: times?.[0] ?? 0, places: null };
  const length = grid.places ? (grid.places.at(-1) ?? -1) + 1 : rows;
  return columns.map(({ name, unit, values }, k) => {
    const placed = new Float32Array(length).fill(NaN);
    for (let i = 0; i < values.length; i++) placed[grid.places ? grid.places[i] : i] = values[i];
    const head = { id: `column-${k + 1}`, name, unit, quantity: isUnit(unit) ? quantityOf(unit) : '', rate: grid.rate, startNs: Math.round(grid.first * 1e9), width: 1 as const }; // prettier-ignore
    return sampledOf(head, placed);
  });
}

const NEXT = 'Give the sample rate instead.';

function gridOf(times: ArrayLike<number> | null): { rate: Rate; first: number; places: Float64Array | null } {
  if (!times) throw badInput('times', 'none', 'Give the sample rate.');
  if (times.length < 2) throw badInput('times', `${times.length} in all`, NEXT);
  const apart = Float64Array.from({ length: times.length - 1 }, (_, i) => times[i + 1] - times[i]);
  const wrong = apart.findIndex((step) => !(step > 0) || !Number.isFinite(step));
  if (wrong >= 0) throw badInput('times', `row ${wrong + 2} at ${times[wrong + 1]} s`, `It is not after the row before. ${NEXT}`); // prettier-ignore
  const step = apart.slice().sort()[(apart.length - 1) >> 1];
  const single = apart.filter((one) => Math.abs(one - step) <= JITTER * step);
  const rate = rateOf(single.reduce((sum, one) => sum + one, 0) / single.length);
  const perSecond = rate.num / rate.den;
  const [first, last] = [times[0], times[times.length - 1]];
  if ((last - first) * perSecond > SAMPLES_MOST)
    throw badInput('times', `${Math.round((last - first) * perSecond)} samples with their gaps`, 'Split the file where it pauses.'); // prettier-ignore
  const places = Float64Array.from({ length: times.length }, (_, i) => Math.round((times[i] - first) * perSecond)); // prettier-ignore
  for (let i = 0; i < places.length; i++)
    if (Math.abs((times[i] - first) * perSecond - places[i]) > JITTER || (i > 0 && places[i] <= places[i - 1]))
      throw badInput('times', `row ${i + 1} at ${times[i]} s`, `It is no step of ${Number(step.toPrecision(6))} s after the row before. ${NEXT}`); // prettier-ignore
  return { rate, first, places };
}

const TIME_NAME = /^(time|times|t|timestamp|elapsed|seconds)\b/i;
/** Whether a column holds the times of its rows, by its name. */
export const isTimeName = (name: string): boolean => TIME_NAME.test(name);
