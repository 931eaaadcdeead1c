import { FarrierError } from '$core/errors';
import { compileExpression } from '$core/expression/expression';
import { unitConversion } from '$core/quantities/quantities';
import { endS, type Sampled } from '$core/samples/sampled';
import { samplesBefore, type Rate } from '$core/time/rate';
import { commonOf, type Channel } from '$contract/channel';
import { acquiredSignal, compute, computedSignals, type Group, type Signal } from '$engine/signals';
import type { TakeReader } from '$store/take/reader';
import type { StoredSignal } from '$store/take/signals';
import { channelThen, isComputed } from './channel-then';

/** Computed signals of a take that come from a channel, directly or through others. @param name by which formulas call it */
export function dependents(reader: TakeReader, name: string): StoredSignal[] {
  const computed = reader.signals.filter(isComputed);
  const touched = new Set([name]);
  for (let grown = true; grown;) {
    grown = false;
    for (const s of computed) {
      if (touched.has(nameThen(s))) continue;
      if (!compileExpression(String(channelThen(s)!.settings.formula)).inputs.some((i) => touched.has(i)))
        continue;
      touched.add(nameThen(s));
      grown = true;
    }
  }
  return computed.filter((s) => touched.has(nameThen(s)));
}
/** What formulas call it. */
const nameThen = (s: StoredSignal) => channelThen(s)?.name ?? s.name;

/** A channel as it is read from now on. */
export interface Replacement {
  channel: Channel;
  /** Its values from the first to the last one: read forward only. */
  sampled(): Sampled;
}

const STEP_S = 0.5;

/** A computed signal of a take from its inputs, half a second at a time. @throws `unavailable` when an input is not in the take */
export function computedAnew(
  reader: TakeReader,
  wanted: StoredSignal,
  replaced: ReadonlyMap<number, Replacement>,
): Iterable<{ first: number; values: Float32Array }> {
  const groups = new Map<number, Group>();
  const groupOf = (s: StoredSignal): Group => {
    let group = groups.get(s.groupId);
    const startNs = BigInt(s.startNs);
    if (!group)
      groups.set(
        s.groupId,
        (group = { unit: '', rate: s.rate, startNs, base: 0, first: 0, count: 0, next: 0 }),
      );
    return group;
  };
  const stored = reader.signals.filter((s) => channelThen(s) && s.channelId);
  const measured = stored.filter((s) => !isComputed(s));
  const inputs = measured.map((s) => {
    const own = replaced.get(s.id);
    const channel = own?.channel ?? channelThen(s)!;
    const read = own?.sampled() ?? reader.sampled(s.id);
    // Formulas read it in the unit it was measured in.
    const into =
      read.unit === commonOf(channel).unit ? null : unitConversion(read.unit, commonOf(channel).unit);
    return { stored: s, read, into, signal: acquiredSignal(channel, '', groupOf(s), null) };
  });
  const channels = stored.map((s) => replaced.get(s.id)?.channel ?? channelThen(s)!);
  let fault: unknown = null;
  const order = computedSignals(
    channels,
    inputs.map((i) => i.signal),
    (channel, error) => {
      if (channel.name === nameThen(wanted)) fault = error;
    },
  );
  const target = order.find((s) => s.name === nameThen(wanted));
  if (!target) throw fault ?? new FarrierError('unavailable', { what: 'Its formula cannot be computed.' });
  const needed = new Set<Signal>();
  const need = (s: Signal) => {
    needed.add(s);
    s.computed?.inputs.forEach(need);
  };
  need(target);
  const fed = inputs.filter((i) => needed.has(i.signal));
  const computed = order.filter((s) => needed.has(s));
  const length = wanted.length;
  return (function* () {
    const end = endS(wanted);
    for (let t = 0; t < end + STEP_S; t += STEP_S) {
      const untilNs = BigInt(Math.round((t + STEP_S) * 1e9));
      for (const group of groups.values()) {
        group.first += group.count;
        group.count = Math.max(0, countBefore(group, untilNs) - group.first);
      }
      for (const { stored: s, read, into, signal } of fed) {
        const count = Math.max(0, Math.min(signal.group.count, s.length - signal.group.first));
        signal.value = new Float32Array(signal.group.count).fill(NaN);
        if (count > 0) signal.value.set(read.read(signal.group.first, count));
        if (into) signal.value = signal.value.map((v) => v * into.factor + into.offset);
      }
      for (const signal of computed) compute(signal);
      const { group } = target;
      const count = Math.min(group.count, length - group.first);
      if (count > 0) yield { first: group.first, values: target.value.slice(0, count) };
      for (const signal of [...fed.map((f) => f.signal), ...computed])
        if (signal.group.count > 0) signal.last = signal.value[signal.group.count - 1];
    }
  })();
}

const countBefore = ({ rate, startNs }: { rate: Rate; startNs: bigint }, untilNs: bigint) =>
  untilNs > startNs ? samplesBefore(rate, untilNs - startNs) : 0;
