import { badInput, cancelled } from '../errors';
import type { Block } from '../mending/mending';
import type { Sampled } from '../samples/sampled';
import { CHUNK, type CancelSignal } from '../studies/study';

/** Samples without a longer gap; short ones are bridged by straight lines. */
interface Run {
  first: number;
  values: Float64Array;
  /** Spans of what was bridged, from and to after it. */
  bridged: [from: number, to: number][];
}

/** More than this are not worked on at once. */
const MOST = 20_000_000;

/** The runs of a signal. @param bridge gaps of more samples part them @throws `bad_input` for a run of more than 20 million samples */
export function* runsOf(source: Sampled, bridge: number, signal: CancelSignal): Generator<Run> {
  let values = new Float64Array(0);
  let first = 0;
  let length = 0;
  let last = -1;
  let bridged: [number, number][] = [];
  const take = (): Run => ({ first, values: values.subarray(0, length), bridged });
  for (let at = 0; at < source.length; at += CHUNK) {
    if (signal.aborted) throw cancelled(source.name);
    const block = source.read(at, Math.min(CHUNK, source.length - at));
    for (let i = 0; i < block.length; i++) {
      const value = block[i];
      if (value !== value) continue;
      const here = at + i;
      const gap = here - last - 1;
      if (length > 0 && gap > bridge) {
        yield take();
        length = 0;
        bridged = [];
      }
      if (length === 0) first = here;
      const place = here - first;
      if (place >= MOST)
        throw badInput(source.name, `more than ${MOST / 1e6} million samples without a gap`, 'Make it of a slower signal, or of a shorter take.'); // prettier-ignore
      if (place >= values.length) {
        const grown = new Float64Array(
          Math.min(MOST, Math.max(CHUNK, 2 * place, Math.min(source.length, 4 * CHUNK))),
        );
        grown.set(values.subarray(0, length));
        values = grown;
      }
      if (length > 0 && gap > 0) {
        bridged.push([length, place]);
        const from = values[length - 1];
        for (let k = 1; k <= gap; k++) values[length - 1 + k] = from + ((value - from) * k) / (gap + 1);
      }
      values[place] = value;
      length = place + 1;
      last = here;
    }
  }
  if (length > 0) yield take();
}

/** Each run worked on as a whole; what was missing is missing again. @param work may change the run in place
 *  @throws as runsOf */
export function* byRuns(
  source: Sampled,
  bridge: number,
  work: (run: Float64Array) => Float64Array,
  signal: CancelSignal,
): Generator<Block> {
  let at = 0;
  for (const { first, values, bridged } of runsOf(source, bridge, signal)) {
    yield* nothing(at, first);
    const out = work(values);
    for (const [from, to] of bridged) out.fill(NaN, from, to);
    for (let from = 0; from < out.length; from += CHUNK) {
      if (signal.aborted) throw cancelled(source.name);
      yield { first: first + from, values: Float32Array.from(out.subarray(from, from + CHUNK)) };
    }
    at = first + out.length;
  }
  yield* nothing(at, source.length);
}

function* nothing(from: number, to: number): Generator<Block> {
  for (let at = from; at < to; at += CHUNK)
    yield { first: at, values: new Float32Array(Math.min(CHUNK, to - at)).fill(NaN) };
}

/** Blocks made one by one from those of the inputs. @param of values of a chunk from its first index */
export function* byChunks(
  length: number,
  of: (first: number, count: number) => Float32Array,
  signal: CancelSignal,
  name: string,
): Generator<Block> {
  for (let first = 0; first < length; first += CHUNK) {
    if (signal.aborted) throw cancelled(name);
    yield { first, values: of(first, Math.min(CHUNK, length - first)) };
  }
}
