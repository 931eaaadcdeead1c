import { createHash } from 'node:crypto';
import { asFarrierError, badInput, cancelled, type ErrorText } from '$core/errors';
import type { Block } from '$core/mending/mending';
import type { Made } from '$core/making/making';
import { makingKind, makingText, type Making } from '$core/making/registry';
import { samplesWithin, type Sampled } from '$core/samples/sampled';
import { minMaxBuckets } from '$core/signal/envelope';
import { signalsByRole } from '$core/studies/inputs';
import { addSignals, makeAnew, type NewSignal, type StoredMaking } from '$store/take/make';
import { TakeReader } from '$store/take/reader';
import type { StoredSignal } from '$store/take/signals';
import type { Watched } from '../watched';

/** A signal that can be made of a take now. */
interface Makeable {
  made: Made;
  making: Making;
  part: number;
  from: StoredSignal[];
  says: string;
}

/** What a making brings from a take: one by one where it takes several channels, so that each stands for itself. @param read how a signal is read
 *  @throws `bad_input` where it does not suit */
function makeable(
  reader: TakeReader,
  making: Making,
  read = (s: StoredSignal) => reader.sampled(s.id),
): Makeable[] {
  const kind = makingKind(making.kind);
  const channels = reader.signals.filter((s) => s.channelId);
  const offered = channels.map((signal) => ({ id: signal.channelId!, name: signal.name, unit: signal.unit, width: signal.width, signal })); // prettier-ignore
  const names = { channel: (id: string) => channels.find((s) => s.channelId === id) };
  const several = kind.roles.find((r) => r.takes === 'several');
  const each = several
    ? signalsByRole(kind, making.settings, offered, reader.head.name)[several.key].map((o) => ({
        ...making.settings,
        [several.key]: [o.id],
      }))
    : [making.settings];
  return each.flatMap((settings) => {
    const own = { kind: making.kind, settings };
    const roles = signalsByRole(kind, settings, offered, reader.head.name);
    const from = new Set(Object.values(roles).flatMap((of) => of.map((o) => o.signal)));
    const inputs = Object.fromEntries(
      Object.entries(roles).map(([key, of]) => [key, of.map((o) => read(o.signal))]),
    );
    const named = (name: string) => {
      const found = channels.find((s) => s.name === name);
      if (found) from.add(found);
      return found && read(found);
    };
    const all = kind.make(inputs, settings, { named });
    const says = makingText(own, names);
    return all.map((made, part) => ({ made, making: own, part, from: [...from], says }));
  });
}

/** The same making of the same channels has the same name for the house in every take: a study of one finds it in the others. */
const channelIdOf = ({ making, part }: Makeable) =>
  `made-${createHash('sha256').update(JSON.stringify([making.kind, Object.entries(making.settings).sort(), part])).digest('hex').slice(0, 24)}`; // prettier-ignore

const madeFrom = ({ making, part, from, says }: Makeable, by: string): StoredMaking => ({
  making,
  part,
  says,
  from: from.map(({ id, revision }) => ({ signal: id, revision })),
  at: Date.now(),
  by,
});

export interface MakeTask {
  path: string;
  making: Making;
  by: string;
}
export type MakeOutcome =
  | { made: { channelId: string; name: string; says: string }[]; known: string[] }
  | { fault: ErrorText; code: 'bad_input' | 'cancelled' | 'unavailable' };

const faultOf = (error: unknown, where: string) => {
  const { text, code } = asFarrierError(error, where);
  return {
    fault: text,
    code: code === 'cancelled' || code === 'unavailable' ? code : ('bad_input' as const),
  };
};

function* told(blocks: Iterable<Block>, length: number, progress: (share: number) => void): Generator<Block> {
  for (const block of blocks) {
    yield block;
    progress((block.first + block.values.length) / length);
  }
}

/** Makes signals of a take and puts them beside those they are made from. Done in a worker thread: it reads and writes whole channels. */
export function makeSignals({ path, making, by }: MakeTask, { progress, signal }: Watched): MakeOutcome {
  const reader = new TakeReader(path);
  try {
    const taken = new Set(reader.signals.map((s) => s.name));
    const known: string[] = [];
    const wanted = makeable(reader, making).filter((m) => {
      const there = reader.signals.find((s) => s.channelId === channelIdOf(m));
      if (there) known.push(there.name);
      return !there;
    });
    const fresh = wanted.map((m, k): NewSignal => {
      const { unit, rate, startNs, length } = m.made;
      if (length === 0) throw badInput(m.made.name, 'no samples', 'What it is made from is empty.');
      let name = m.made.name.slice(0, 110);
      for (let n = 2; taken.has(name); n++) name = `${m.made.name.slice(0, 110)} ${n}`;
      taken.add(name);
      const samples = told(m.made.blocks(signal), length, (share) => progress((k + share) / wanted.length));
      return { name, unit, rate, startNs, length, channelId: channelIdOf(m), made: madeFrom(m, by), samples };
    });
    if (fresh.length) addSignals(path, fresh);
    return { made: fresh.map(({ channelId, name, made }) => ({ channelId, name, says: made.says })), known };
  } catch (error) {
    return faultOf(error, path);
  } finally {
    reader.close();
  }
}

/** Brings made signals up to date with what they are made from. @returns names of those that were made anew, and those that could not, with the reason */
export function followSources(
  path: string,
  { progress, signal }: Watched,
): { followed: string[]; left: string[] } {
  const out = { followed: [] as string[], left: [] as string[] };
  let reader = new TakeReader(path);
  try {
    for (const { id, made, name, by } of reader.signals) {
      if (!made) continue;
      const isStale = made.from.some(
        (f) => reader.signals.find((s) => s.id === f.signal)?.revision !== f.revision,
      );
      if (!isStale) continue;
      if (signal.aborted) throw cancelled(name);
      try {
        const anew = makeable(reader, made.making)[made.part];
        makeAnew(path, id, madeFrom(anew, by), anew.made.blocks(signal));
        out.followed.push(name);
        // What is made from it sees its new revision.
        reader.close();
        reader = new TakeReader(path);
      } catch (error) {
        out.left.push(`${name} in ${reader.head.name}: ${asFarrierError(error, name).text.what}`);
      }
    }
    progress(1);
    return out;
  } finally {
    reader.close();
  }
}

export interface MakePreviewTask {
  path: string;
  making: Making;
  from: number;
  to: number;
  width: number;
}
interface Curve {
  name: string;
  unit: string;
  fromS: number;
  stepS: number;
  min: Float32Array;
  max: Float32Array;
}
export type MakePreviewOutcome =
  | { before: Curve[]; after: Curve[]; rateHz: number; gaps: string }
  | { fault: ErrorText; code: 'bad_input' | 'cancelled' | 'unavailable' };

/** Samples that are worked on for a look at the most. */
const MOST_SEEN = 2_000_000;

/** What would be made, drawn over a span: worked out from what lies within it and as much on either side. */
export function previewMake(task: MakePreviewTask, { signal }: Watched): MakePreviewOutcome {
  const reader = new TakeReader(task.path);
  const { from, to, width } = task;
  try {
    const margin = to - from;
    const part = (s: StoredSignal): Sampled => {
      const whole = reader.sampled(s.id);
      const span = samplesWithin(whole, Math.max(0, from - margin), to + margin);
      const first = Math.min(span.first, Math.max(0, span.end - 1));
      const length = Math.min(span.end - first, MOST_SEEN);
      const startNs = Math.round(whole.startNs + (first * 1e9 * whole.rate.den) / whole.rate.num);
      return { ...whole, startNs, length, read: (at, n) => whole.read(first + at, n) };
    };
    const all = makeable(reader, task.making, part);
    const curve = (
      of: Pick<Made, 'rate' | 'startNs' | 'length' | 'unit' | 'name'>,
      read: (first: number, end: number) => Float32Array,
    ): Curve => {
      const { first, end } = samplesWithin(of, from, to);
      const values = read(first, end);
      const buckets = Math.max(1, Math.min(width, values.length));
      return {
        name: of.name,
        unit: of.unit,
        fromS: of.startNs / 1e9 + (first * of.rate.den) / of.rate.num,
        stepS: (values.length / buckets) * (of.rate.den / of.rate.num),
        ...minMaxBuckets(values, values, buckets),
      };
    };
    const sources = [...new Map(all.flatMap((m) => m.from.map((s) => [s.id, s] as const))).values()];
    const before = sources.map((s) => curve(s, (first, end) => reader.values(s.id, first, end - first)));
    const after = all.map(({ made }) =>
      curve(made, (first, end) => {
        const out = new Float32Array(end - first).fill(NaN);
        for (const block of made.blocks(signal)) {
          const low = Math.max(first, block.first);
          const high = Math.min(end, block.first + block.values.length);
          if (high > low) out.set(block.values.subarray(low - block.first, high - block.first), low - first);
        }
        return out;
      }),
    );
    const [{ rate }] = sources.length ? sources : reader.signals;
    return { before, after, rateHz: rate.num / rate.den, gaps: makingKind(task.making.kind).gaps };
  } catch (error) {
    return faultOf(error, task.path);
  } finally {
    reader.close();
  }
}
