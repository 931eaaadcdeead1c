import FFT from 'fft.js';
import { badInput, cancelled } from '../errors';
import { rateHz } from '../samples/sampled';
import { CHUNK, type CancelSignal, type Progress } from '../studies/study';
import { Powers, alike, impulses, responsesOf } from './answers';
import { windowDecay, type CorrelationBlock, type Correlations } from './correlations';
import { DECIMATING, Decimator } from './decimator';
import { commonSpan, conditions, isVelocity, scaleOf, watch, type Gathered, type Health, type ModalRecord } from './gather'; // prettier-ignore
import { findHits, standsAt, type Hit } from './hits';

/** Ways in which a structure is driven by forces that are measured. */
export const DRIVEN = ['hit by hit', 'by segments of a lasting force'] as const;
export type Driven = (typeof DRIVEN)[number];
export const isDriven = (way: string): way is Driven => (DRIVEN as readonly string[]).includes(way);

export interface DrivenOptions {
  method: Driven;
  /** So many of the records’ last signals are forces. */
  forces: number;
  /** Samples that an answer is followed for, after every `factor`th was kept. */
  lags: number;
  factor: number;
  /** Share that the window leaves at the end; hits alone. */
  left: number;
  /** How long after it began a hit’s force counts, s, and the share of the largest force from which on it is one. */
  keepS: number;
  level: number;
  /** Hits that count although something speaks against them, or do not although nothing does: `keyOf`. */
  turned: ReadonlySet<string>;
}

/** By what a hit is known when everything is made anew: its recording, and when it was, to 10 ms. */
export const keyOf = ({ record, atS }: Pick<Hit, 'record' | 'atS'>): string => `${record}@${atS.toFixed(2)}`;

/** A hit with what became of it. */
export interface TriedHit extends Hit {
  key: string;
  counts: boolean;
  /** Force over the frame, after one of so many samples was kept, without what it had before the hit. */
  course: Float32Array;
}
export interface Driving extends Gathered {
  hits: TriedHit[];
  /** Of each pair over the lines of the lags, shape [responses·forces][lags / 2 + 1]. */
  coherence: Float32Array;
  /** Frequency that each force reaches, Hz: there its power is a hundredth of its largest. */
  reachHz: number[];
  /** Samples of a frame that lie ahead of the hit. */
  ahead: number;
}

/** Groups of frames from which ± is found. */
const GROUPS = 8;
const HELD = 8e6;
/** Share of a frame that lies before the hit. */
const BEFORE = 1 / 64;
const LEAST_BEFORE = 8;
/** Samples at the end of an impulse response that hold what rings before its beginning: they belong to it, and say nothing of how it dies out. */
export const RINGS_BEFORE = 24;

/** Impulse responses of a structure to forces: from hits one by one, each force under its window and all under the same exponential one (whose damping
 *  is thereby added exactly), or from a force that goes on, by segments under a Hann window. What is given back is free of the exponential window.
 *  @throws `bad_input` where rates or units do not fit, no force acts, or nothing is left to count; `cancelled` */
export function driven(
  records: readonly ModalRecord[],
  options: DrivenOptions,
  progress: Progress,
  signal: CancelSignal,
): Driving {
  const { forces: m, lags, factor, method } = options;
  const [front] = records;
  const rate = rateHz(front.responses[0]);
  const l = front.responses.length - m;
  if (m === 0) throw badInput('forces', 'none', 'Choose a channel of force at least.');
  const moving = front.responses.slice(0, l);
  const names = moving.map((s) => s.name);
  const firstOf = (i: number) => front.responses[i < l ? 0 : l];
  const scales = records.map((r) => r.responses.map((s, i) => scaleOf(s, firstOf(i), rate)));
  const dtS = factor / rate;
  const numbers = l * m * lags;
  if (numbers > 2.5e6)
    throw badInput('forces', `${l} responses to ${m} over ${lags} samples`, 'That are too many numbers at once: choose fewer responses, or follow them for fewer samples.'); // prettier-ignore
  const says: string[] = [];
  if (factor > 1) says.push(`Before one sample of ${factor} was kept: ${DECIMATING}.`);
  const health: Health[] = names.map(() => ({ largest: 0, at: 0, energy: 0 }));
  const tools = { records, scales, l, m, rate, options, signal, health, progress };
  const parts = Math.max(1, Math.min(GROUPS, Math.floor(HELD / numbers)));
  const { groups, hits, taken, skipped, ahead, says: told } = method === 'hit by hit' ? struck(tools, parts) : shaken(tools, parts); // prettier-ignore
  const together = method !== 'hit by hit';
  const lines = groups[0].lines;
  const all = groups.reduce((sum, g) => sum.add(g), new Powers(l, m, lines));
  if (together) toldApart(all, front.responses.slice(l).map((s) => s.name)); // prettier-ignore
  const decay = together ? 0 : windowDecay(options.left, lags, dtS);
  const bare = (powers: Powers) => {
    const found = responsesOf(powers, together);
    const h = impulses(found, lines, lags, dtS);
    for (let k = 0; k < h.length; k++) h[k] *= Math.exp(decay * (k % lags) * dtS);
    return { found, h };
  };
  const { found, h } = bare(all);
  progress(0.9);
  // What a group adds is told by what is without it (pseudo-values; Tukey, 1958): leaving blocks out gives that back.
  const n = groups.length;
  const blocks: CorrelationBlock[] =
    n < 3
      ? [{ values: h, pieces: taken }]
      : groups.map((g) => {
          if (signal.aborted) throw cancelled('correlating');
          const without = bare(all.add(g, -1)).h;
          all.add(g);
          return { values: without.map((v, k) => n * h[k] - (n - 1) * v), pieces: taken / n };
        });
  says.push(...told, ...conditions(names, health, []));
  const every = (lines - 1) / (lags / 2);
  const coherence = Float32Array.from({ length: l * m * (lags / 2 + 1) }, (_, k) => {
    const [pair, line] = [Math.floor(k / (lags / 2 + 1)), k % (lags / 2 + 1)];
    return found.coherence[pair * lines + line * every];
  });
  const reachHz = found.reach.map((k) => k / (2 * (lines - 1) * dtS));
  front.responses.slice(l).forEach((s, q) => {
    if (reachHz[q] < 0.9 * (0.5 / dtS))
      says.push(`${s.name} reaches up to ${reachHz[q].toPrecision(3)} Hz: above, it has less than a hundredth of its largest power, and the answers are mostly noise.`); // prettier-ignore
  });
  progress(1);
  const set: Correlations = {
    ...{ responses: l, references: m, lags, dtS, values: h },
    driven: { resonant: isVelocity(moving[0]) ? 're' : 'im' },
  };
  const powers = { lines: lags / 2 + 1, stepHz: 1 / (lags * dtS), pieces: 0, second: new Float64Array(0), fourth: new Float64Array(0) }; // prettier-ignore
  const samples = records.reduce((sum, r) => sum + commonSpan(r).count, 0);
  return { set, blocks, powers, rateHz: rate / factor, pieces: taken, skipped, samples, units: front.responses.map((s) => s.unit), says, hits, coherence, reachHz, ahead }; // prettier-ignore
}

/** Coherence from which on two forces are taken for one. */
const SAME = 0.98;
/** @throws `bad_input` for forces that act as one */
function toldApart(powers: Powers, names: string[]): void {
  for (let a = 0; a < names.length; a++)
    for (let b = a + 1; b < names.length; b++)
      if (alike(powers, a, b) > SAME)
        throw badInput('forces', `${names[a]} and ${names[b]}`, 'They do the same all the time, so that what each causes cannot be told: take one out, or drive them by signals of their own.'); // prettier-ignore
}

interface Tools {
  records: readonly ModalRecord[];
  scales: number[][];
  l: number;
  m: number;
  rate: number;
  options: DrivenOptions;
  signal: CancelSignal;
  health: Health[];
  progress: Progress;
}
interface Collected {
  groups: Powers[];
  hits: TriedHit[];
  taken: number;
  skipped: number;
  ahead: number;
  says: string[];
}

/** Transforms real frames; the first half of their lines, interleaved. */
class Spectra {
  private readonly fft: FFT;
  private readonly packed: Float64Array;
  constructor(private readonly size: number) {
    this.fft = new FFT(size);
    this.packed = new Float64Array(2 * size);
  }
  of(values: Float64Array): Float64Array {
    for (let k = 0; k < this.size; k++) this.packed[2 * k] = values[k] ?? 0;
    const out = new Float64Array(2 * this.size);
    this.fft.transform(out, this.packed);
    return out.subarray(0, this.size + 2);
  }
}

/** Frames of hits, each under its windows, shared out into groups one after the other. */
function struck(
  { records, scales, l, m, rate, options, signal, health, progress }: Tools,
  parts: number,
): Collected {
  // prettier-ignore
  const { lags, factor, keepS, level, left, turned } = options;
  const dtS = factor / rate;
  const { reach } = new Decimator(factor);
  // The filter rings before a hit, too.
  const ahead = Math.max(LEAST_BEFORE, Math.round(lags * BEFORE), Math.ceil(reach / factor));
  const before = ahead * factor + reach;
  const frame = (lags - 1) * factor + 2 * reach + 1;
  const hits = records.flatMap((record, k) => {
    const { first, count } = commonSpan(record);
    const span = { first: first.slice(l), count, rate, fromS: record.fromS, record: k };
    const found = findHits(record.responses.slice(l), span, scales[k].slice(l), { level, frame, before }, signal); // prettier-ignore
    progress((0.3 * (k + 1)) / records.length);
    return found;
  });
  if (hits.length === 0)
    throw badInput('hits', 'none', 'No force stands out of its noise like a hit: choose other forces, another span, a lower level, or segments where the force lasts.'); // prettier-ignore
  const window = Float64Array.from({ length: lags }, (_, k) => Math.exp(-windowDecay(left, lags, dtS) * k * dtS)); // prettier-ignore
  // On the samples as they were recorded: what the filter makes of the force counts to its end.
  const kept = forceWindow(frame, before, keepS * rate);
  const spectra = new Spectra(lags);
  const means = records.map((r) => r.responses.map((s) => meanOf(s.read, samplesOf(r, s), signal)));
  const tried = hits.map((hit, at): TriedHit => {
    if (signal.aborted) throw cancelled('looking at hits');
    progress(0.3 + (0.2 * at) / hits.length);
    const record = records[hit.record];
    const { first } = commonSpan(record);
    const faults = [...hit.faults];
    record.responses.slice(0, l).forEach((s, i) => {
      if (faults.includes('cut short')) return;
      const read = s.read(first[i] + hit.at - before, frame);
      watch(health[i], read, Float64Array.from(read, (v) => scales[hit.record][i] * (v - means[hit.record][i].mean))); // prettier-ignore
      if (!faults.includes('a sample is missing') && read.some((v) => v !== v)) faults.push('a sample is missing'); // prettier-ignore
      if (!faults.includes('over range') && standsAt(read, means[hit.record][i].largest)) faults.push('over range'); // prettier-ignore
    });
    const key = keyOf(hit);
    const whole = !faults.some((f) => f === 'cut short' || f === 'a sample is missing');
    const counts = whole && turned.has(key) !== (faults.length === 0);
    const force = record.responses[l + hit.force];
    const bare = offQuiet(force.read(Math.max(0, first[l + hit.force] + hit.at - before), frame), before);
    const course = new Decimator(factor).push(bare);
    return { ...hit, faults, key, counts, course: Float32Array.from(course, (v) => v * scales[hit.record][l + hit.force]) }; // prettier-ignore
  });
  const counting = tried.filter((h) => h.counts);
  const of = (q: number) => counting.filter((h) => h.force === q).length;
  const few = Array.from({ length: m }, (_, q) => q).find((q) => of(q) === 0);
  if (few !== undefined)
    throw badInput('hits', `${tried.length}`, `None by ${records[0].responses[l + few].name} counts: ${tellFaults(tried.filter((h) => h.force === few))}. Let some count, follow them for fewer samples, strike again, or take that force out.`); // prettier-ignore
  const many = Math.min(parts, ...Array.from({ length: m }, (_, q) => of(q)));
  const groups = Array.from({ length: many }, () => new Powers(l, m, lags / 2 + 1));
  const turn = new Array<number>(m).fill(0);
  const already: number[] = [];
  counting.forEach((hit, at) => {
    if (signal.aborted) throw cancelled('looking at hits');
    const record = records[hit.record];
    const { first } = commonSpan(record);
    const y = record.responses.slice(0, l).map((s, i) => {
      const { mean } = means[hit.record][i];
      const read = Float64Array.from(s.read(first[i] + hit.at - before, frame), (v) => scales[hit.record][i] * (v - mean)); // prettier-ignore
      const quiet = Math.floor(0.75 * before);
      already.push(rms(read.subarray(0, quiet)) / rms(read.subarray(before, before + 4 * quiet)));
      return spectra.of(new Decimator(factor).push(read).map((v, k) => v * window[k]));
    });
    const bare = offQuiet(record.responses[l + hit.force].read(first[l + hit.force] + hit.at - before, frame), before); // prettier-ignore
    const force = new Decimator(factor).push(bare.map((v, k) => v * kept[k]));
    const f = spectra.of(force.map((v, k) => v * scales[hit.record][l + hit.force] * window[k]));
    groups[turn[hit.force]++ % many].alone(y, f, hit.force);
    progress(0.5 + (0.35 * at) / counting.length);
  });
  return {
    groups,
    hits: tried,
    taken: counting.length,
    skipped: tried.length - counting.length,
    ahead,
    says: tooSoon(already),
  };
}
const tellFaults = (hits: readonly Hit[]): string => {
  const counts = new Map<string, number>();
  for (const f of hits.flatMap((h) => h.faults)) counts.set(f, (counts.get(f) ?? 0) + 1);
  return [...counts].map(([f, n]) => `${n} ${f}`).join(', ') || (hits.length ? `${hits.length} left out by hand` : 'it strikes nothing'); // prettier-ignore
};

const rms = (x: Float64Array) => Math.sqrt(x.reduce((sum, v) => sum + v * v, 0) / Math.max(1, x.length));
/** Share of an answer that may be there before the hit. */
const ALREADY = 0.03;
/** What is said where the structure still moves, or its sensors are noisy. @param shares of all hits and responses */
function tooSoon(shares: number[]): string[] {
  const usual = [...shares].filter(Number.isFinite).sort((a, b) => a - b)[shares.length >> 1] ?? 0;
  return usual > ALREADY
    ? [`Before a hit the answers already have ${Math.round(100 * usual)} % of what they have after it: wait longer between hits, or hit harder.`] // prettier-ignore
    : [];
}

/** 1 until so many samples after the hit, then down over a quarter of them, then 0. */
const forceWindow = (frame: number, ahead: number, keep: number): Float64Array =>
  Float64Array.from({ length: frame }, (_, k) => {
    const over = k - ahead - keep;
    const fall = Math.max(2, keep / 4);
    return over <= 0 ? 1 : over >= fall ? 0 : 0.5 * (1 + Math.cos((Math.PI * over) / fall));
  });

/** Without the mean of what lies before the hit. */
function offQuiet(values: Float32Array, before: number): Float64Array {
  const some = Math.max(2, Math.floor(0.75 * before));
  let [sum, n] = [0, 0];
  for (let k = 0; k < Math.min(some, values.length); k++) if (values[k] === values[k]) [sum, n] = [sum + values[k], n + 1]; // prettier-ignore
  return Float64Array.from(values, (v) => v - (n ? sum / n : 0));
}

const samplesOf = (record: ModalRecord, s: ModalRecord['responses'][number]) => {
  const { first, count } = commonSpan(record);
  return { first: first[record.responses.indexOf(s)], count };
};
function meanOf(
  read: (first: number, count: number) => Float32Array,
  { first, count }: { first: number; count: number },
  signal: CancelSignal,
): { mean: number; largest: number } {
  let [n, sum, largest] = [0, 0, 0];
  for (let at = 0; at < count; at += CHUNK) {
    if (signal.aborted) throw cancelled('correlating');
    for (const v of read(first + at, Math.min(CHUNK, count - at)))
      if (v === v) [n, sum, largest] = [n + 1, sum + v, Math.max(largest, Math.abs(v))];
  }
  return { mean: n ? sum / n : 0, largest };
}

/** Segments of twice the lags under a Hann window, half overlapping, shared out into groups one after the other in time. */
function shaken(
  { records, scales, l, m, options, signal, health, progress }: Tools,
  parts: number,
): Collected {
  // prettier-ignore
  const { lags, factor } = options;
  const size = 2 * lags;
  const hann = Float64Array.from({ length: size }, (_, k) => 0.5 - 0.5 * Math.cos((2 * Math.PI * k) / size));
  const spectra = new Spectra(size);
  const frames: { record: number; from: number }[] = [];
  const thin = records.map((record) => Math.max(0, Math.floor((commonSpan(record).count - 2 * new Decimator(factor).reach - 1) / factor) + 1)); // prettier-ignore
  thin.forEach((n, record) => {
    for (let from = 0; from + size <= n; from += lags) frames.push({ record, from });
  });
  if (frames.length === 0)
    throw badInput('span', `${Math.max(...thin)} samples`, `A segment needs ${size}: choose a longer span, or follow the answers for fewer samples.`); // prettier-ignore
  const groups = Array.from({ length: Math.min(parts, frames.length) }, () => new Powers(l, m, lags + 1));
  let [taken, skipped] = [0, 0];
  const moves = new Float64Array(m);
  frames.forEach(({ record, from }, at) => {
    if (signal.aborted) throw cancelled('correlating');
    const { first } = commonSpan(records[record]);
    const { reach } = new Decimator(factor);
    const values = records[record].responses.map((s, i) => {
      const read = s.read(first[i] + from * factor, (size - 1) * factor + 2 * reach + 1);
      const own = new Decimator(factor).push(Float64Array.from(read, (v) => v * scales[record][i]));
      const mean = own.reduce((a, v) => a + v, 0) / size;
      const bare = own.map((v) => v - mean);
      if (i < l) watch(health[i], read, bare);
      else if (bare[0] === bare[0]) moves[i - l] += bare.reduce((a, v) => a + v * v, 0);
      return bare;
    });
    progress((0.85 * at) / frames.length);
    if (values.some((v) => v.some((x) => x !== x))) return void skipped++;
    taken++;
    const all = values.map((v) => spectra.of(v.map((x, k) => x * hann[k])));
    groups[Math.floor((at * groups.length) / frames.length)].together(all.slice(0, l), all.slice(l));
  });
  const dead = moves.findIndex((p) => !(p > 0));
  if (taken > 0 && dead >= 0)
    throw badInput('forces', records[0].responses[l + dead].name, 'It does not act at all: mend the sensor, or choose another.'); // prettier-ignore
  if (taken <= m)
    throw badInput('span', `${taken} whole segments`, `${m === 1 ? 'A force needs' : `${m} forces need`} more than ${m}${skipped ? ` (${skipped} have a gap)` : ''}: choose a longer span.`); // prettier-ignore
  return { groups: groups.filter((g) => g.frames[0] > 0), hits: [], taken, skipped, ahead: 0, says: [] };
}
