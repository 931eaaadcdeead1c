import { cancelled } from '../errors';
import type { Sampled } from '../samples/sampled';
import { CHUNK, type CancelSignal } from '../studies/study';

/** What speaks against a hit. */
export type HitFault = 'struck twice' | 'over range' | 'cut short' | 'a sample is missing';

/** One strike of a hammer, as its force tells it. */
export interface Hit {
  /** Which of the records, and which of the forces. */
  record: number;
  force: number;
  /** Sample of the span at which the force rises over the level, and its time in the recording, s. */
  at: number;
  atS: number;
  /** Largest force, with its sign, and how long it was above half of it, s. */
  peak: number;
  widthS: number;
  faults: HitFault[];
}

export interface HitOptions {
  /** Share of the largest force of the recording from which on it is a hit. */
  level: number;
  /** Samples that a hit is followed for, and those before it that belong to it. */
  frame: number;
  before: number;
}

/** The rule in words. */
export const HIT_RULE =
  'Struck twice: once the force has fallen under a tenth of its peak, it rises over a tenth again before the frame ends, not counting what rings within four widths of the pulse. Over range: three samples or more in a row at the largest value that the channel has.';

/** So many samples in a row at the largest value are no chance. */
const FLAT = 3;

/** Whether a history stands at a value several samples in a row. @param largest of the channel; one that does not move stands nowhere */
export function standsAt(values: ArrayLike<number>, largest: number): boolean {
  if (!(largest > 0)) return false;
  let run = 0;
  for (let k = 0; k < values.length; k++) {
    run = Math.abs(values[k]) >= largest && (run === 0 || values[k] === values[k - 1]) ? run + 1 : Math.abs(values[k]) >= largest ? 1 : 0; // prettier-ignore
    if (run >= FLAT) return true;
  }
  return false;
}

/** Finds the strikes in forces that were recorded together. A hit begins where a force rises over the level; the next one is looked for after its frame.
 *  @param first sample of the span in each force @param scales what each is multiplied by @throws `cancelled` */
export function findHits(
  forces: readonly Sampled[],
  span: { first: readonly number[]; count: number; rate: number; fromS: number; record: number },
  scales: readonly number[],
  { level, frame, before }: HitOptions,
  signal: CancelSignal,
): Hit[] {
  const { first, count } = span;
  const stands = forces.map((s, q) => standing(s, first[q], count, signal));
  const found: Hit[] = [];
  // A force that never moves is struck by nothing; noise alone has no strikes that stand out of it, and a load that lasts is none.
  const levels = stands.map((s) =>
    s.largest > 8 * s.usual && s.above < SELDOM ? level * s.largest : Infinity,
  );
  let free = 0;
  for (let at = 0; at < count; at += CHUNK) {
    if (signal.aborted) throw cancelled('looking for hits');
    const some = Math.min(CHUNK, count - at);
    const blocks = forces.map((s, q) => s.read(first[q] + at, some));
    for (let k = 0; k < some; k++) {
      if (at + k < free) continue;
      const force = strongest(blocks, stands, levels, k);
      if (force < 0) continue;
      found.push(hitAt(forces[force], force, first[force], at + k, stands[force], scales[force], span, { level, frame, before })); // prettier-ignore
      free = at + k + frame - before;
    }
  }
  return found;
}

/** Hits are short: a force beyond half of its largest for more of the time is no hammer’s. */
const SELDOM = 0.05;
interface Standing {
  mean: number;
  /** Largest distance from the mean, and the usual one (rms of what lies under half of the largest). */
  largest: number;
  usual: number;
  /** Share of the samples beyond half of the largest. */
  above: number;
  /** Largest value as it was read. */
  raw: number;
}
function standing(s: Sampled, first: number, count: number, signal: CancelSignal): Standing {
  let [n, sum, low, high] = [0, 0, Infinity, -Infinity];
  const every = (work: (v: number) => void) => {
    for (let at = 0; at < count; at += CHUNK) {
      if (signal.aborted) throw cancelled('looking for hits');
      const block = s.read(first + at, Math.min(CHUNK, count - at));
      for (let k = 0; k < block.length; k++) if (block[k] === block[k]) work(block[k]);
    }
  };
  every((v) => {
    n++;
    sum += v;
    if (v < low) low = v;
    if (v > high) high = v;
  });
  const mean = n > 0 ? sum / n : 0;
  const largest = n > 0 ? Math.max(high - mean, mean - low) : 0;
  let [quiet, power] = [0, 0];
  every((v) => {
    const off = Math.abs(v - mean);
    if (off > largest / 2) return;
    quiet++;
    power += off * off;
  });
  return { mean, largest, usual: Math.sqrt(power / Math.max(1, quiet)), above: 1 - quiet / Math.max(1, n), raw: Math.max(Math.abs(low), Math.abs(high)) }; // prettier-ignore
}

/** The force that rises over its level at a sample, the one that does so by most where several do; −1 for none. */
function strongest(
  blocks: readonly ArrayLike<number>[],
  stands: Standing[],
  levels: number[],
  k: number,
): number {
  // prettier-ignore
  let [best, most] = [-1, 1];
  for (let q = 0; q < blocks.length; q++) {
    const share = Math.abs(blocks[q][k] - stands[q].mean) / levels[q];
    if (share >= most) [best, most] = [q, share];
  }
  return best;
}

function hitAt(
  s: Sampled,
  force: number,
  first: number,
  at: number,
  { mean, raw }: Standing,
  scale: number,
  span: { count: number; rate: number; fromS: number; record: number },
  { frame, before }: HitOptions,
): Hit {
  const end = Math.min(span.count, at + frame - before);
  const read = s.read(first + at, end - at);
  const v = Float64Array.from(read, (x) => x - mean);
  // The peak is that of the first pulse: until the force has fallen to a tenth of the largest so far.
  let [peak, fallen] = [0, v.length];
  for (let k = 0; k < v.length; k++) {
    if (Math.abs(v[k]) > Math.abs(peak)) peak = v[k];
    else if (Math.abs(v[k]) < Math.abs(peak) / 10) {
      fallen = k;
      break;
    }
  }
  const size = Math.abs(peak);
  const width = v.subarray(0, fallen).reduce((n, x) => n + (Math.abs(x) >= size / 2 ? 1 : 0), 0);
  const again = v.subarray(Math.min(v.length, fallen + 4 * width)).some((x) => Math.abs(x) > size / 10);
  const faults: HitFault[] = [];
  if (again) faults.push('struck twice');
  if (standsAt(read, raw)) faults.push('over range');
  if (at - before < 0 || at - before + frame > span.count) faults.push('cut short');
  if (read.some((x) => x !== x)) faults.push('a sample is missing');
  return { record: span.record, force, at, atS: span.fromS + at / span.rate, peak: peak * scale, widthS: width / span.rate, faults }; // prettier-ignore
}
