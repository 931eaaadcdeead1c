import { asFarrierError, badInput } from '$core/errors';
import { lastUpTo, rateHz, sampleS, samplesWithin } from '$core/samples/sampled';
import { CrossingFinder } from '$core/signal/crossings';
import { magnitudes } from '$core/signal/magnitude';
import { firstPeak } from '$core/signal/peaks';
import { Welch } from '$core/spectrum/welch';
import { Moments } from '$core/statistics/moments';
import type { BetweenRow } from '$contract/api/inspect';
import type { TakeReader } from '$store/take/reader';
import type { Meaning, StoredSignal } from '$store/take/signals';
import { takeWindow, uncertaintiesAt, valuesAt, viewTake, openTake } from '../takes';
import { getTake } from '$store/takes';
import type { App } from '../app';

const meaningOf = (recorded: boolean): Meaning => (recorded ? 'as recorded' : 'as corrected');

/** Everything about some takes but their samples; of one that cannot be read, why: the others are looked at all the same. @throws `not_found` */
export const takeViews = (app: App, ids: string[], recorded: boolean) =>
  ids.map((id) => {
    const { name } = getTake(app.db, id);
    try {
      return viewTake(app, id, meaningOf(recorded));
    } catch (error) {
      return { id, name, fault: asFarrierError(error, name).text };
    }
  });

export interface Ask {
  take: string;
  signals: number[];
  from: number;
  to: number;
}

/** Extremes of spans of several takes: the head of each signal, and its minima and maxima in the same order. */
export function windowsOf(app: App, asks: readonly Ask[], width: number, recorded: boolean) {
  const numbers: Float32Array[] = [];
  const head = asks.map(({ take, signals, from, to }) =>
    takeWindow(app, take, signals, from, to, width, meaningOf(recorded)).map((p) => {
      numbers.push(p.min, p.max);
      return { signal: p.signal, fromS: p.fromS, stepS: p.stepS, buckets: p.min.length };
    }),
  );
  return { head, numbers };
}

export const readingsOf = (
  app: App,
  asks: readonly { take: string; signals: number[]; s: number[] }[],
  uncertainty: boolean,
  recorded: boolean,
): (number | null)[][][] =>
  asks.map(({ take, signals, s }) =>
    s.map((at) => (uncertainty ? uncertaintiesAt : valuesAt)(app, take, signals, at, meaningOf(recorded))),
  );

/** Most samples that are read one by one while a page waits. */
const MOST_AT_ONCE = 4_000_000;
const CHUNK = 1 << 16;

/** Reads part of a signal for drawing or measuring: all of it, or, of what is too long to wait for, pieces spread evenly over it. */
function* pieces(
  reader: TakeReader,
  signal: StoredSignal,
  { first, end }: { first: number; end: number },
  most: number,
  piece = CHUNK,
): Generator<{ at: number; values: Float32Array }> {
  const all = Math.ceil((end - first) / piece);
  const read = Math.min(all, Math.max(1, Math.floor(most / piece)));
  for (let k = 0; k < read; k++) {
    const at = first + Math.floor((k * all) / read) * piece;
    const values = reader.values(signal.id, at, Math.min(piece, end - at));
    yield { at, values: magnitudes(values, signal.width) };
  }
}

const known = (value: number) => (Number.isFinite(value) ? value : null);

/** Statistics of what lies between two instants. Of very long spans the extremes come from the overview and are exact, the mean and scatter
 *  from samples spread evenly over it. */
export const betweenOf = (app: App, asks: readonly Ask[], recorded: boolean): BetweenRow[][] =>
  asks.map(({ take, signals, from, to }) => {
    const reader = openTake(app, take, meaningOf(recorded));
    return signals.map((id) => {
      const signal = reader.signal(id);
      const span = samplesWithin(signal, Math.min(from, to), Math.max(from, to));
      const m = new Moments();
      for (const { values } of pieces(reader, signal, span, MOST_AT_ONCE / Math.max(1, signals.length)))
        m.push(values);
      const n = span.end - span.first;
      const whole = m.count + m.missing >= n;
      const extremes = whole ? m : extremesOf(reader, signal, span);
      const [a, b] = [Math.min(from, to), Math.max(from, to)].map(
        (s) => valuesAt(app, take, [id], s, meaningOf(recorded))[0],
      );
      return {
        signal: id,
        count: n - Math.round((m.missing / Math.max(1, m.count + m.missing)) * n),
        missing: Math.round((m.missing / Math.max(1, m.count + m.missing)) * n),
        mean: m.count ? known(m.mean) : null,
        standardDeviation: known(m.standardDeviation),
        min: known(extremes.min),
        max: known(extremes.max),
        rms: known(m.rms),
        slope: a === null || b === null || from === to ? null : (b - a) / Math.abs(to - from),
      };
    });
  });

function extremesOf(
  reader: TakeReader,
  signal: StoredSignal,
  { first, end }: { first: number; end: number },
) {
  const { min, max } = reader.window(signal.id, first, end, 64);
  const out = { min: Infinity, max: -Infinity };
  for (let i = 0; i < min.length; i++) {
    if (min[i] < out.min) out.min = min[i];
    if (max[i] > out.max) out.max = max[i];
  }
  return out;
}

/** A sample or crossing that a cursor snaps to. @param at where several are found, the crossing nearest to it */
export function nearestOf(
  app: App,
  take: string,
  query: {
    signal: number;
    from: number;
    to: number;
    what: 'peak' | 'valley' | 'crossing';
    level?: number;
    at?: number;
  },
): { s: number | null; value: number | null } {
  const reader = openTake(app, take);
  const signal = reader.signal(query.signal);
  const span = samplesWithin(signal, query.from, query.to);
  const n = Math.min(span.end - span.first, MOST_AT_ONCE);
  if (n <= 0) return { s: null, value: null };
  const values = magnitudes(reader.values(signal.id, span.first, n), signal.width);
  if (query.what === 'crossing') {
    const level = query.level ?? 0;
    let best: number | null = null;
    for (const way of ['rising', 'falling'] as const)
      new CrossingFinder(level, 0, way).push(values, (place) => {
        const s = sampleS(signal, span.first + place);
        if (best === null || Math.abs(s - (query.at ?? s)) < Math.abs(best - (query.at ?? best))) best = s;
      });
    return { s: best, value: best === null ? null : level };
  }
  const m = new Moments();
  m.push(values);
  if (m.count === 0) return { s: null, value: null };
  const index = query.what === 'peak' ? m.maxIndex : m.minIndex;
  return { s: sampleS(signal, span.first + index), value: values[index] };
}

/** The next peak of a signal after an instant, or before it where `until` is earlier; it has to stand out by a share of the range between both.
 *  @returns null where there is none */
export function peakOf(
  app: App,
  take: string,
  { signal: id, at, until, least }: { signal: number; at: number; until: number; least: number },
): { s: number | null } {
  const reader = openTake(app, take);
  const signal = reader.signal(id);
  const backward = until < at;
  const span = samplesWithin(signal, Math.min(at, until), Math.max(at, until));
  const n = Math.min(span.end - span.first, MOST_AT_ONCE);
  const first = backward ? span.end - n : span.first;
  const values = magnitudes(reader.values(signal.id, first, n), signal.width);
  const m = new Moments();
  m.push(values);
  if (backward) values.reverse();
  const index = firstPeak(values, least * m.peakToPeak);
  return { s: index < 0 ? null : sampleS(signal, first + (backward ? n - 1 - index : index)) };
}

/** Signals against another one: of each stretch of samples the first, the lowest and the highest, so that no turn is lost. Times are s from
 *  `from`. */
export function pairsOf(
  app: App,
  asks: readonly (Ask & { x: number })[],
  points: number,
  recorded: boolean,
): { head: { signal: number; count: number }[][]; numbers: Float32Array[] } {
  const numbers: Float32Array[] = [];
  const head = asks.map(({ take, x, signals, from, to }) => {
    const reader = openTake(app, take, meaningOf(recorded));
    const across = reader.signal(x);
    return signals.map((id) => {
      const signal = reader.signal(id);
      if (signal.width === 2 || across.width === 2)
        throw badInput(signal.name, 'complex samples', 'Choose channels of real samples.');
      const span = samplesWithin(signal, from, to);
      const kept = turnsOf(reader, signal, span, points);
      const times = kept.map((k) => sampleS(signal, k.index));
      const at = readAt(reader, across, times);
      numbers.push(
        Float32Array.from(times, (t) => t - from),
        at,
        Float32Array.from(kept, (k) => k.value),
      );
      return { signal: id, count: kept.length };
    });
  });
  return { head, numbers };
}

function turnsOf(
  reader: TakeReader,
  signal: StoredSignal,
  span: { first: number; end: number },
  points: number,
) {
  const n = span.end - span.first;
  const stretch = Math.max(1, Math.ceil((3 * n) / points));
  const kept: { index: number; value: number }[] = [];
  const step = Math.max(stretch, Math.floor(CHUNK / stretch) * stretch);
  for (const { at, values } of pieces(reader, signal, span, MOST_AT_ONCE, step))
    for (let i = 0; i < values.length; i += stretch) {
      const end = Math.min(values.length, i + stretch);
      let [low, high] = [i, i];
      for (let k = i; k < end; k++) {
        if (values[k] < values[low] || values[low] !== values[low]) low = k;
        if (values[k] > values[high] || values[high] !== values[high]) high = k;
      }
      for (const k of [...new Set([i, low, high])].sort((a, b) => a - b))
        kept.push({ index: at + k, value: values[k] });
    }
  return kept;
}

/** Values of a signal at rising instants, straight between its samples. */
function readAt(reader: TakeReader, signal: StoredSignal, times: readonly number[]): Float32Array {
  const out = new Float32Array(times.length).fill(NaN);
  let first = 0;
  let block: Float32Array = new Float32Array(0);
  times.forEach((t, k) => {
    const i = lastUpTo(signal, t);
    if (i < 0 || i >= signal.length) return;
    if (i < first || i + 1 >= first + block.length) {
      first = i;
      block = reader.values(signal.id, i, Math.min(CHUNK, signal.length - i));
    }
    const [a, b] = [block[i - first], block[i - first + 1]];
    const share = Math.max(0, (t - sampleS(signal, i)) * rateHz(signal));
    out[k] = share < 1e-6 ? a : b === undefined ? NaN : a + share * (b - a);
  });
  return out;
}

/** Averaged spectra (Welch, Hann window, half overlapping) of spans: power spectral density, from 0 to half the rate. Of very long spans
 *  segments spread evenly over it are averaged. */
export function spectraOf(app: App, asks: readonly Ask[], lines: number, recorded: boolean) {
  const numbers: Float32Array[] = [];
  const head = asks.map(({ take, signals, from, to }) => {
    const reader = openTake(app, take, meaningOf(recorded));
    return signals.map((id) => {
      const signal = reader.signal(id);
      if (signal.width === 2)
        throw badInput(signal.name, 'complex samples', 'Choose channels of real samples.');
      const span = samplesWithin(signal, from, to);
      const n = span.end - span.first;
      // As fine as the span allows.
      const segment = 2 ** Math.floor(Math.log2(Math.max(16, Math.min(2 * lines, n))));
      const nothing = { signal: id, stepHz: 0, count: 0, segments: 0, skipped: 0 };
      if (n < segment) return nothing;
      const average = new Welch({ sampleRateHz: rateHz(signal), segmentLength: segment, window: 'Hann' });
      const most = MOST_AT_ONCE / Math.max(1, signals.length * asks.length);
      for (const { values } of pieces(reader, signal, span, most, Math.max(CHUNK, 4 * segment)))
        average.push(values);
      try {
        const { density, resolutionHz, segments, skipped } = average.result();
        numbers.push(Float32Array.from(density));
        return { signal: id, stepHz: resolutionHz, count: density.length, segments, skipped };
      } catch {
        return nothing; // all of it is gaps
      }
    });
  });
  return { head, numbers };
}
