import { badInput, cancelled } from '../errors';
import { definition, isUnit, unitConversion } from '../quantities/quantities';
import { sameDimension } from '../quantities/symbols';
import { rateHz, samplesWithin, type Sampled } from '../samples/sampled';
import { CHUNK, type CancelSignal, type Progress } from '../studies/study';
import {
  Correlator,
  meanOfBlocks,
  type Correlating,
  type CorrelationBlock,
  type Correlations,
  type LinePowers,
} from './correlations';
import { DECIMATING, Decimator } from './decimator';

/** A part of a recording: all responses, in one order, of one rate. */
export interface ModalRecord {
  name: string;
  responses: readonly Sampled[];
  fromS: number;
  toS: number | null;
}
export interface GatherOptions {
  references: readonly number[];
  lags: number;
  /** One sample of so many is kept. */
  factor: number;
  detrend: 'its mean' | 'a straight line' | 'nothing';
  method: Correlating;
}
/** Correlations of histories, whole and in blocks. */
export interface Gathered {
  set: Correlations;
  blocks: CorrelationBlock[];
  powers: LinePowers;
  rateHz: number;
  pieces: number;
  skipped: number;
  samples: number;
  units: string[];
  /** What is doubtful of it, and how it was made, in sentences. */
  says: string[];
  notes: string[];
}

/** Blocks that a span is cut into, from which ± is found; fewer where there are so many pairs that they would not be held. */
const BLOCKS = 8;
const HELD = 8e6;
/** Numbers of all correlations together that are computed at once: so many pairs times lags. */
const MOST = 2.5e6;

/** Correlates the responses of one or several parts of recordings. They are read in chunks; each part is a piece of its own.
 *  @throws `bad_input` where rates or units do not fit, a reference does not move, or nothing is long enough; `cancelled` */
export function gathered(
  records: readonly ModalRecord[],
  options: GatherOptions,
  progress: Progress,
  signal: CancelSignal,
): Gathered {
  const [front] = records;
  const rate = rateHz(front.responses[0]);
  const units = front.responses.map((s) => s.unit);
  const scales = records.map((r) => r.responses.map((s) => scaleOf(s, front.responses[0], rate)));
  const says: string[] = [];
  const notes: string[] = [];
  const rescaled = front.responses.filter((s, i) => scales[0][i] !== 1 && s.unit !== units[0]);
  if (rescaled.length)
    notes.push(`${rescaled.map((s) => s.name).join(', ')}: brought to ${units[0]}, which the first response is in.`); // prettier-ignore
  const dtS = options.factor / rate;
  const numbers = units.length * options.references.length * options.lags;
  if (numbers > MOST)
    throw badInput(
      'references',
      `${units.length} responses with ${options.references.length} over ${options.lags} lags`,
      `That are ${(numbers / 1e6).toFixed(1)} million numbers, more than ${MOST / 1e6} million at once: choose fewer references, fewer lags or fewer responses.`,
    );
  const parts = Math.max(1, Math.min(BLOCKS, Math.floor(HELD / numbers)));
  const correlator = new Correlator({
    responses: units.length,
    references: options.references,
    lags: options.lags,
    dtS,
    method: options.method,
  });
  const spans = records.map((r) => commonSpan(r));
  const all = spans.reduce((sum, s) => sum + s.count, 0);
  if (options.factor > 1) notes.push(`Before one sample of ${options.factor} was kept: ${DECIMATING}.`);
  const lines = records.map((record, k) => trends(record, spans[k], scales[k], options.detrend, signal));
  progress(0.25);
  const health = units.map(() => ({ largest: 0, at: 0, energy: 0 }));
  const blocks: CorrelationBlock[] = [];
  // A block ends where a chunk does.
  const chunk = Math.max(1024, Math.min(CHUNK, Math.ceil(all / parts)));
  let done = 0;
  const due = () => Math.ceil(((blocks.length + 1) * all) / parts);
  records.forEach((record, k) => {
    correlator.cut();
    const thinner = units.map(() => new Decimator(options.factor));
    const { first, count } = spans[k];
    for (let at = 0; at < count; at += chunk) {
      if (signal.aborted) throw cancelled('correlating');
      const some = Math.min(chunk, count - at);
      const own = record.responses.map((s, i) => {
        const read = s.read(first[i] + at, some);
        const values = Float64Array.from(read, (v, n) => v * scales[k][i] - lines[k][i].at(at + n));
        watch(health[i], read, values);
        return thinner[i].push(values);
      });
      correlator.push(own);
      done += some;
      if (done >= due() && blocks.length < parts - 1 && correlator.counted.taken > 0)
        blocks.push(correlator.block());
      progress(0.25 + (0.7 * done) / all);
    }
  });
  blocks.push(correlator.block());
  const whole = blocks.filter((b) => b.pieces > 0);
  const pieces = whole.reduce((sum, b) => sum + b.pieces, 0);
  const { skipped } = correlator.counted;
  if (pieces === 0)
    throw badInput(
      'span',
      `${Math.round(all / rate)} s`,
      skipped
        ? `Each of its ${skipped} pieces has a gap: choose another span, or mend it first.`
        : `It is shorter than ${Number((3 * options.lags * dtS).toPrecision(3))} s, which ${options.lags} lags need: choose a longer span or fewer lags.`,
    );
  if (skipped) says.push(`${skipped} of ${skipped + pieces} pieces were left out because a sample is missing in them.`); // prettier-ignore
  const names = front.responses.map((s) => s.name);
  says.push(...conditions(names, health, options.references));
  const set: Correlations = {
    responses: units.length,
    references: options.references.length,
    lags: options.lags,
    dtS,
    values: meanOfBlocks(whole),
  };
  says.push(...blindReferences(set, names, options.references));
  progress(1);
  return { set, blocks: whole, powers: correlator.linePowers(), rateHz: rate / options.factor, pieces, skipped, samples: all, units, says, notes }; // prettier-ignore
}

/** What a response’s values are multiplied by to be in the unit of the first. */
export function scaleOf(s: Sampled, first: Sampled, rate: number): number {
  if (Math.abs(rateHz(s) - rate) > 1e-9 * rate)
    throw badInput(
      s.name,
      `${rateHz(s)} samples a second`,
      `${first.name} has ${rate}: choose responses of one rate, or bring them to one first.`,
    );
  if (s.unit === first.unit) return 1;
  if (
    !isUnit(s.unit) ||
    !isUnit(first.unit) ||
    !sameDimension(definition(s.unit).dimension, definition(first.unit).dimension)
  )
    // prettier-ignore
    throw badInput(
      s.name,
      `in ${s.unit}`,
      `${first.name} is in ${first.unit}: choose responses of one kind, or make one of the other first (its integral or derivative).`,
    );
  return unitConversion(s.unit, first.unit).factor;
}

/** Whether a signal is a velocity. */
export const isVelocity = (s: Sampled): boolean =>
  isUnit(s.unit) && sameDimension(definition(s.unit).dimension, definition('m/s').dimension);

/** Where all responses have samples: they may begin apart by less than one. */
export function commonSpan({ responses, fromS, toS, name }: ModalRecord): { first: number[]; count: number } {
  const spans = responses.map((s) => samplesWithin(s, fromS, toS));
  const count = Math.min(...spans.map((s) => s.end - s.first));
  if (count <= 0) throw badInput('span', `${fromS} s on`, `${name} has no samples there.`);
  return { first: spans.map((s) => s.first), count };
}

/** The line that is taken away from each response: mean and slope by least squares over the samples that are there. */
function trends(
  { responses }: ModalRecord,
  { first, count }: { first: number[]; count: number },
  scales: number[],
  detrend: GatherOptions['detrend'],
  signal: CancelSignal,
): { at(n: number): number }[] {
  if (detrend === 'nothing') return responses.map(() => ({ at: () => 0 }));
  return responses.map((s, i) => {
    let [n, sy, sxy, sx, sxx] = [0, 0, 0, 0, 0];
    const middle = count / 2;
    for (let at = 0; at < count; at += CHUNK) {
      if (signal.aborted) throw cancelled('correlating');
      const block = s.read(first[i] + at, Math.min(CHUNK, count - at));
      for (let k = 0; k < block.length; k++) {
        const v = block[k];
        if (v !== v) continue;
        const x = (at + k - middle) / count;
        n++;
        sy += v;
        sx += x;
        sxx += x * x;
        sxy += x * v;
      }
    }
    if (n === 0) return { at: () => 0 };
    const spread = sxx - (sx * sx) / n;
    const slope = detrend === 'a straight line' && spread > 0 ? (sxy - (sx * sy) / n) / spread : 0;
    const mean = (sy - slope * sx) / n;
    return { at: (k) => scales[i] * (mean + slope * ((k - middle) / count)) };
  });
}

/** What shows whether a channel is well: its largest value, how often it stands, and how much it moves. */
export interface Health {
  largest: number;
  at: number;
  energy: number;
}
/** How often the largest value stands, and what moves: a clipped channel stands at its end, a dead one does not move. */
export function watch(health: Health, read: Float32Array, own: Float64Array): void {
  for (let k = 0; k < read.length; k++) {
    const size = Math.abs(read[k]);
    if (size > health.largest) {
      health.largest = size;
      health.at = 1;
    } else if (size === health.largest) health.at++;
    if (own[k] === own[k]) health.energy += own[k] * own[k];
  }
}

/** So many samples at the very largest value are no chance. */
const CLIPPED = 20;

/** What is to be said of channels that do not move or are clipped. @throws `bad_input` for a reference that does not move */
export function conditions(names: string[], health: Health[], references: readonly number[]): string[] {
  const says: string[] = [];
  const energies = health.map((h) => h.energy).sort((a, b) => a - b);
  const usual = energies[Math.floor(energies.length / 2)];
  health.forEach(({ energy, at, largest }, i) => {
    if (!(energy > 1e-10 * usual)) {
      if (references.includes(i))
        throw badInput('references', names[i], 'It does not move at all: mend the sensor, or choose another.');
      says.push(`${names[i]} does not move: it says nothing of the shapes. Look at its sensor, or leave it out.`); // prettier-ignore
    } else if (at >= CLIPPED && largest > 0)
      says.push(`${names[i]} stands at its largest value ${at} times: it is clipped. Its range is too small; its part of the shapes is doubtful.`); // prettier-ignore
  });
  return says;
}

/** References that hardly anything else moves with. */
function blindReferences(set: Correlations, names: string[], references: readonly number[]): string[] {
  const { lags, references: m, responses, values } = set;
  const own = references.map((r, k) => values[(r * m + k) * lags]);
  return references.flatMap((r, k) => {
    let most = 0;
    for (let i = 0; i < responses; i++) {
      if (i === r) continue;
      const at = references.indexOf(i);
      const power = at >= 0 ? own[at] : NaN;
      let peak = 0;
      for (let n = 0; n < lags; n++) peak = Math.max(peak, Math.abs(values[(i * m + k) * lags + n]));
      // The power of a response that is no reference is not known: what it has in common with all references stands for it.
      const of = power > 0 ? power : Math.max(...references.map((_, q) => values[(i * m + q) * lags] ** 2 / own[q])); // prettier-ignore
      most = Math.max(most, peak / Math.sqrt(own[k] * of));
    }
    return most < 0.05
      ? [
          `${names[r]} sees next to nothing of what the others do (${Math.round(100 * most)} % at the most): choose another reference.`,
        ]
      : [];
  });
}
