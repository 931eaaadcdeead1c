import { IDENTITY, type Conversion } from '$core/conversion/conversion';
import { asFarrierError, badInput, cancelled, type ErrorText } from '$core/errors';
import type { Block, MendedAs, Tally } from '$core/mending/mending';
import { mendAll, mended, type Mending } from '$core/mending/registry';
import { samplesWithin, type Sampled } from '$core/samples/sampled';
import { minMaxBuckets } from '$core/signal/envelope';
import type { Channel } from '$contract/channel';
import { correctTake, type Correction, type PlainMeaning, type StoredMend } from '$store/take/correct';
import { TakeReader } from '$store/take/reader';
import type { StoredSignal } from '$store/take/signals';
import { computedAnew, dependents, type Replacement } from '../recompute';
import type { Watched } from '../watched';
import { followSources } from './makes';
import { channelThen } from '../channel-then';

/** What a channel of a take is to be from now on: a conversion, and what is mended of it. */
export interface Meant {
  signal: StoredSignal;
  conversion: Conversion;
  unit: string;
  snapshot: unknown;
  mends: StoredMend[];
}

/** The same channel with other mendings. */
const meantAs = (signal: StoredSignal, mends: StoredMend[]): Meant => ({
  signal,
  conversion: signal.plain.conversion,
  unit: signal.plain.unit,
  snapshot: signal.snapshot,
  mends,
});

interface Prepared {
  plain: PlainMeaning;
  /** Signal whose samples are read. */
  source: number;
  name: string;
  unit: string;
  steps: MendedAs[];
  /** Its values after the mendings, from the first to the last. @param tallies one a step */
  blocks(tallies: readonly Tally[]): Iterable<Block>;
}

/** @throws `bad_input` where a mending does not suit the channel */
function prepare(reader: TakeReader, { signal, conversion, unit, mends }: Meant): Prepared {
  const list = mends.map((m) => m.mending);
  if (signal.width === 2 && list.some((m) => m.kind !== 'rename'))
    throw badInput(signal.name, 'complex samples', 'They can be renamed; nothing else is mended of them.');
  const { steps, ...called } = mendAll(list, { ...signal, name: signal.firstName, unit });
  const partner = steps.findLast((s) => s.swappedWith !== undefined)?.swappedWith;
  const own = signal.plain.source;
  const source = partner === undefined ? own : partnerOf(reader, signal, partner).plain.source;
  const read = reader.plain(signal.id, { conversion, source, unit });
  const blocks = (tallies: readonly Tally[]) => mended(read, steps, tallies);
  return { plain: { conversion, source: own, unit }, source, ...called, steps, blocks };
}

/** The channel that one is swapped with. @throws `bad_input` where they cannot have been wired crosswise */
export function partnerOf(reader: TakeReader, signal: StoredSignal, name: string): StoredSignal {
  const partner = reader.signals.find((s) => s.channelId && s.id !== signal.id && (s.name === name || s.firstName === name)); // prettier-ignore
  if (!partner) throw badInput('Changed places with', name || 'none', 'Choose another channel of this take.');
  if (partner.groupId !== signal.groupId || partner.width !== signal.width)
    throw badInput('Changed places with', name, 'Both have to be sampled together, at one rate.');
  if (partner.rawUnit !== signal.rawUnit)
    throw badInput('Changed places with', `${name}, read in ${partner.rawUnit}`, `${signal.firstName} is read in ${signal.rawUnit}: they cannot have been on each other’s terminals.`); // prettier-ignore
  if (channelThen(signal)?.settings.formula || channelThen(partner)?.settings.formula)
    throw badInput('Changed places with', name, 'A computed channel has no wires.');
  return partner;
}

export interface Corrections {
  corrections: Correction[];
  /** Of the first channel, one for each mending: filled while its samples are made. */
  tallies: Tally[];
  /** Computed channels that follow, and those that cannot, with the reason. */
  followed: string[];
  left: string[];
}

/** What has to be written so that channels are what they are meant to be: their own conversions, mended samples where a straight line does not
 *  do, and all that is computed from them. @throws `bad_input` where a mending does not suit */
export function correctionsFor(reader: TakeReader, meants: readonly Meant[]): Corrections {
  const out: Corrections = { corrections: [], tallies: [], followed: [], left: [] };
  const replaced = new Map<number, Replacement>();
  meants.forEach((meant, k) => {
    const { signal, snapshot, mends } = meant;
    const { plain, source, name, unit, steps, blocks } = prepare(reader, meant);
    const tallies = steps.map(() => ({ changed: 0 }));
    if (k === 0) out.tallies = tallies;
    const stored = steps.some((s) => s.blocks);
    out.corrections.push({
      signal: signal.id,
      ...(name !== signal.firstName && { name }),
      unit,
      snapshot,
      mends: { list: mends, plain },
      ...(stored
        ? { conversion: IDENTITY, samples: blocks(tallies) }
        : { conversion: lined(plain.conversion, steps), source }),
    });
    const channel = snapshot as Channel | null;
    if (channel)
      replaced.set(signal.id, {
        channel,
        sampled: () =>
          forward({ ...reader.sampled(signal.id), unit }, blocks(steps.map(() => ({ changed: 0 })))),
      });
  });
  const touched = new Map(
    [...replaced.values()].flatMap(({ channel }) => dependents(reader, channel.name)).map((s) => [s.id, s]),
  );
  for (const signal of reader.signals.filter((s) => touched.has(s.id) && !replaced.has(s.id))) {
    const { id, unit, conversion, snapshot, mends, plain } = signal;
    const { name } = channelThen(signal)!;
    try {
      if (mends.length)
        throw badInput(name, 'mended itself', 'Take its own mendings back first, then it follows.');
      const samples = computedAnew(reader, signal, replaced);
      out.corrections.push({
        signal: id,
        unit,
        conversion,
        snapshot,
        samples,
        mends: { list: mends, plain },
      });
      out.followed.push(name);
    } catch (error) {
      out.left.push(`${name} in ${reader.head.name}: ${asFarrierError(error, name).text.what}`);
    }
  }
  return out;
}

/** A conversion with straight lines after it. */
function lined({ unit, ...rest }: Conversion, steps: readonly MendedAs[]): Conversion {
  const after = steps.reduce(
    ({ factor, offset }, { line }) => (line ? { factor: factor * line.factor, offset: offset * line.factor + line.offset } : { factor, offset }), // prettier-ignore
    unit,
  );
  return { ...rest, unit: after };
}

/** Blocks in their order as samples that are read from the first to the last one. */
function forward(head: Sampled, blocks: Iterable<Block>): Sampled {
  const rest = blocks[Symbol.iterator]();
  let held: Block = { first: 0, values: new Float32Array(0) };
  return {
    ...head,
    read(first, count) {
      const out = new Float32Array(count).fill(NaN);
      for (;;) {
        const from = Math.max(first, held.first);
        const to = Math.min(first + count, held.first + held.values.length);
        if (to > from) out.set(held.values.subarray(from - held.first, to - held.first), from - first);
        if (held.first + held.values.length >= first + count) return out;
        const next = rest.next();
        if (next.done) return out;
        held = next.value;
      }
    },
  };
}

export interface MendTask {
  path: string;
  lists: { signal: number; mends: StoredMend[] }[];
  reason: string;
  by: string;
}
export type MendOutcome =
  | { changed: number; followed: string[]; left: string[] }
  | { fault: ErrorText; code: 'bad_input' | 'cancelled' | 'unavailable' };

const faultOf = (error: unknown, where: string) => {
  const { text, code } = asFarrierError(error, where);
  return {
    fault: text,
    code: code === 'cancelled' || code === 'unavailable' ? code : ('bad_input' as const),
  };
};

/** Gives channels other mendings. Done in a worker thread: it may read and write whole channels. */
export function mend({ path, lists, reason, by }: MendTask, { progress, signal }: Watched): MendOutcome {
  const reader = new TakeReader(path);
  try {
    const meants = lists.map((l) => meantAs(reader.signal(l.signal), l.mends));
    const { corrections, tallies, followed, left } = correctionsFor(reader, meants);
    const watched = corrections.map((c, k) => ({
      ...c,
      ...(c.samples && { samples: told(c.samples, reader.signal(c.signal).length, (share) => progress((k + share) / corrections.length), signal) }), // prettier-ignore
    }));
    correctTake(path, watched, reason, by);
    const made = followSources(path, { progress: () => undefined, signal });
    const after = { followed: [...followed, ...made.followed], left: [...left, ...made.left] };
    return { changed: tallies.at(-1)?.changed ?? 0, ...after };
  } catch (error) {
    return faultOf(error, path);
  } finally {
    reader.close();
  }
}

function* told(
  blocks: Iterable<Block>,
  length: number,
  progress: (share: number) => void,
  signal: { readonly aborted: boolean },
): Generator<Block> {
  // prettier-ignore
  for (const block of blocks) {
    if (signal.aborted) throw cancelled('mending');
    yield block;
    progress((block.first + block.values.length) / length);
  }
}

export interface PreviewTask {
  path: string;
  signal: number;
  mending: Mending;
  from: number;
  to: number;
  width: number;
}
export type PreviewOutcome =
  | {
      changed: number;
      samples: number;
      follow: string[];
      unit: string;
      name: string;
      fromS: number;
      stepS: number;
      before: { min: Float32Array; max: Float32Array };
      after: { min: Float32Array; max: Float32Array };
    }
  | { fault: ErrorText; code: 'bad_input' | 'cancelled' | 'unavailable' };

/** What a mending would do, counted over the whole channel and drawn over a span; nothing is written. */
export function previewMend(task: PreviewTask, { progress, signal }: Watched): PreviewOutcome {
  const reader = new TakeReader(task.path);
  try {
    const own = reader.signal(task.signal);
    const next = { id: 'next', mending: task.mending, at: 0, by: '', why: '' };
    const { name, unit, steps, blocks } = prepare(reader, meantAs(own, [...own.mends, next]));
    const span = samplesWithin(own, task.from, task.to);
    const n = span.end - span.first;
    const drawn = new Float32Array(n).fill(NaN);
    const tallies = steps.map(() => ({ changed: 0 }));
    for (const { first, values } of told(blocks(tallies), own.length, progress, signal)) {
      const from = Math.max(span.first, first);
      const to = Math.min(span.end, first + values.length);
      if (to > from) drawn.set(values.subarray(from - first, to - first), from - span.first);
    }
    const buckets = Math.max(1, Math.min(task.width, n));
    const before = reader.values(own.id, span.first, n);
    const { rate, startNs } = own;
    const swapped = steps.at(-1)?.swappedWith;
    return {
      changed: swapped === undefined ? (tallies.at(-1)?.changed ?? 0) : own.length,
      samples: own.length,
      follow: dependents(reader, channelThen(own)?.name ?? own.name).map((s) => s.name),
      unit,
      name,
      fromS: startNs / 1e9 + (span.first * rate.den) / rate.num,
      stepS: (n / buckets) * (rate.den / rate.num),
      before: minMaxBuckets(before, before, buckets),
      after: minMaxBuckets(drawn, drawn, buckets),
    };
  } catch (error) {
    return faultOf(error, task.path);
  } finally {
    reader.close();
  }
}
