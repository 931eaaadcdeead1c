import { asFarrierError, badInput, FarrierError } from '$core/errors';
import { endS, rateHz, sampleS, startS } from '$core/samples/sampled';
import { CrossingFinder } from '$core/signal/crossings';
import { bestLag } from '$core/signal/lag';
import { magnitudes } from '$core/signal/magnitude';
import type { AlignedTake } from '$contract/api/inspect';
import type { BodyOut } from '$contract/api';
import { getTake } from '$store/takes';
import type { TakeReader } from '$store/take/reader';
import type { StoredSignal } from '$store/take/signals';
import type { App } from '../app';
import { openTake } from '../takes';

type Alignment = BodyOut<'POST /api/align'>;

/** Where each take is laid over the others. A take without such a place says why; the others are aligned all the same.
 *  @throws `not_found`, and whatever is wrong with the first take of a best fit */
export function alignTakes(app: App, wanted: Alignment): AlignedTake[] {
  const first = wanted.by === 'best fit' ? gridOf(openTake(app, wanted.takes[0]), wanted.channel) : null;
  const zeroNs = BigInt(openTake(app, wanted.takes[0]).head.startNs);
  return wanted.takes.map((take, k) => {
    const { name } = getTake(app.db, take);
    const none = { take, atS: null, coefficient: null, fault: null };
    try {
      const reader = openTake(app, take);
      switch (wanted.by) {
        case 'start':
          return { ...none, atS: 0 };
        case 'clock':
          return { ...none, atS: Number(zeroNs - BigInt(reader.head.startNs)) / 1e9 };
        case 'mark':
          return { ...none, atS: markOf(reader, wanted.mark) };
        case 'crossing':
          return { ...none, atS: crossingOf(reader, wanted) };
        case 'best fit':
          return k === 0
            ? { ...none, atS: 0, coefficient: 1 }
            : { ...none, ...fitOf(reader, wanted.channel, first!) };
      }
    } catch (error) {
      return { ...none, fault: asFarrierError(error, name).message };
    }
  });
}

function channelOf(reader: TakeReader, name: string): StoredSignal {
  const found = reader.signals.find((s) => s.channelId && s.name === name);
  if (!found)
    throw badInput('channel', name || 'none', `${reader.head.name} does not hold it: choose another one.`);
  return found;
}

function markOf(reader: TakeReader, words: string): number {
  const notes = reader
    .notes()
    .filter((n) => (words ? n.says.startsWith(words) : n.kind === 'mark' || n.kind === 'note'));
  if (notes.length === 0)
    throw badInput('mark', words || 'none', `${reader.head.name} has none that begins so.`);
  return notes[0].atS;
}

const CHUNK = 1 << 16;
function crossingOf(reader: TakeReader, { channel, level, hysteresis, way }: Alignment): number {
  const signal = channelOf(reader, channel);
  const finder = new CrossingFinder(level, hysteresis, way === 'rises' ? 'rising' : 'falling');
  let place: number | null = null;
  for (let at = 0; at < signal.length && place === null; at += CHUNK) {
    const values = reader.values(signal.id, at, Math.min(CHUNK, signal.length - at));
    finder.push(magnitudes(values, signal.width), (found) => ((place = found), false));
  }
  if (place === null)
    throw new FarrierError('bad_input', {
      what: `${channel} never ${way} through ${level} ${signal.unit} in ${reader.head.name}.`,
      where: reader.head.name,
      next: 'Choose another level, or count from the start.',
    });
  return sampleS(signal, place);
}

/** A channel at even instants, few enough to be compared at once. */
interface Grid {
  values: Float64Array;
  stepS: number;
  fromS: number;
}
const GRID_POINTS = 16_384;
/** Longer signals are compared by their overview: to a step of the grid, not to the sample. */
const MOST_READ = 4_000_000;

/** @param stepS of another grid, so that both have the same steps */
function gridOf(reader: TakeReader, channel: string, stepS?: number): Grid {
  const signal = channelOf(reader, channel);
  const long = endS(signal) - startS(signal);
  const step = stepS ?? Math.max(1 / rateHz(signal), long / GRID_POINTS);
  const count = Math.min(4 * GRID_POINTS, Math.max(1, Math.floor(long / step + 1e-9)));
  const per = step * rateHz(signal);
  const used = Math.min(signal.length, Math.ceil(count * per));
  if (used > MOST_READ) {
    const { min, max } = reader.window(signal.id, 0, used, count);
    return {
      values: Float64Array.from(min, (low, i) => (low + max[i]) / 2),
      stepS: step,
      fromS: startS(signal),
    };
  }
  const samples = magnitudes(reader.values(signal.id, 0, used), signal.width);
  const values = Float64Array.from({ length: count }, (_, k) => {
    const first = Math.min(used - 1, Math.floor(k * per + 1e-9));
    const end = Math.min(used, Math.max(first + 1, Math.floor((k + 1) * per + 1e-9)));
    let sum = 0;
    let n = 0;
    for (let i = first; i < end; i++)
      if (samples[i] === samples[i]) {
        sum += samples[i];
        n++;
      }
    return sum / n;
  });
  return { values, stepS: step, fromS: startS(signal) };
}

function fitOf(reader: TakeReader, channel: string, first: Grid): { atS: number; coefficient: number } {
  const own = gridOf(reader, channel, first.stepS);
  const { samples, coefficient } = bestLag(first.values, own.values);
  // What stands at 0 of the first stands that much later here.
  return { atS: samples * first.stepS + own.fromS - first.fromS, coefficient };
}
