import { badInput, cancelled } from '../errors';
import { CHUNK, type CancelSignal } from '../studies/study';
import { Powers, Spectra } from './answers';
import { windowDecay } from './correlations';
import { Decimator } from './decimator';
import { keyOf, type Collected, type Tools, type TriedHit } from './driving';
import { commonSpan, watch, type ModalRecord } from './gather';
import { findHits, standsAt, type Hit } from './hits';

/** Share of a frame that lies before the hit. */
const BEFORE = 1 / 64;
const LEAST_BEFORE = 8;

/** Frames of hits, each under its windows, shared out into groups one after the other. */
export function struck(
  { records, scales, l, m, rate, options, signal, health, progress }: Tools,
  parts: number,
): Collected {
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
    const force = record.responses[l + hit.force];
    const bare = offQuiet(force.read(Math.max(0, first[l + hit.force] + hit.at - before), frame), before);
    const course = new Decimator(factor).push(bare);
    return { ...hit, faults, key: keyOf(hit), counts: false, course: Float32Array.from(course, (v) => v * scales[hit.record][l + hit.force]) }; // prettier-ignore
  });
  // By itself a hit counts that has nothing against it; where a force has none such, its whole ones do for want of others.
  const wanting = Array.from({ length: m }, (_, q) => q).filter((q) => {
    const own = tried.filter((h) => h.force === q && whole(h));
    return own.length > 0 && own.every((h) => h.faults.length > 0);
  });
  for (const hit of tried)
    hit.counts = whole(hit) && turned.has(hit.key) !== (hit.faults.length === 0 || wanting.includes(hit.force)); // prettier-ignore
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
    says: [...wanting.map((q) => forWant(records[0].responses[l + q].name, counting.filter((h) => h.force === q))), ...tooSoon(already)], // prettier-ignore
  };
}

/** Whether all of the frame is known, whatever else is against it. */
const whole = (hit: Hit): boolean =>
  !hit.faults.some((f) => f === 'cut short' || f === 'a sample is missing');

const forWant = (name: string, hits: readonly Hit[]): string =>
  `Each hit of ${name} has something against it (${tellFaults(hits)}); ${hits.length === 1 ? 'it counts' : `${hits.length} count`} for want of others: strike again, or follow them for fewer samples.`;

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
