import { Random } from '../random';
import { meanOfBlocks, type CorrelationBlock } from './correlations';
import type { Pole } from './shape';

/** Standard deviation of an estimate from what it becomes without each of n blocks: √((n − 1)/n·Σ(x_i − x̄)²) (jackknife; Efron and Tibshirani,
 *  An Introduction to the Bootstrap, 11). NaN for fewer than 3. */
export function jackknife(values: readonly number[]): number {
  const n = values.length;
  if (n < 3) return NaN;
  const mean = values.reduce((s, v) => s + v, 0) / n;
  return Math.sqrt(((n - 1) / n) * values.reduce((s, v) => s + (v - mean) ** 2, 0));
}

/** Sample standard deviation; NaN for fewer than 3. */
export function deviation(values: readonly number[]): number {
  const n = values.length;
  if (n < 3) return NaN;
  const mean = values.reduce((s, v) => s + v, 0) / n;
  return Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / (n - 1));
}

/** Correlations with each block left out in turn. */
export const leftOut = (blocks: readonly CorrelationBlock[]): Float64Array[] =>
  blocks.map((_, k) => meanOfBlocks(blocks.filter((_, i) => i !== k)));

/** Correlations of as many blocks as there are, drawn with replacement, so many times. */
export function drawn(blocks: readonly CorrelationBlock[], times: number, seed = 1): Float64Array[] {
  const random = new Random(seed);
  return Array.from({ length: times }, () =>
    meanOfBlocks(blocks.map(() => blocks[Math.floor(random.uniform() * blocks.length)])),
  );
}

/** ± at about 95 % of a mode’s numbers. */
export interface Spread {
  hz: number;
  damping: number;
}

/** From how the pole scatters over the orders of its cluster and over blocks of the span: twice the root of the sum of squares; what is not known
 *  counts as nothing, both unknown is NaN. @param overBlocks standard deviation over blocks */
export function spreadOf(members: readonly Pole[], overBlocks: Spread | null): Spread {
  const part = (key: keyof Spread) => {
    const [a, b] = [deviation(members.map((m) => m[key])), overBlocks?.[key] ?? NaN];
    if (Number.isNaN(a) && Number.isNaN(b)) return NaN;
    return 2 * Math.hypot(Number.isNaN(a) ? 0 : a, Number.isNaN(b) ? 0 : b);
  };
  return { hz: part('hz'), damping: part('damping') };
}
