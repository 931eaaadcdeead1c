import type { AffectedTake } from '$contract/api/calibrate';
import { FarrierError, badInput, conflict } from '$core/errors';
import { compileExpression } from '$core/expression/expression';
import { endS } from '$core/samples/sampled';
import { samplesBefore, type Rate } from '$core/time/rate';
import { commonOf, conversionOf, type Channel } from '$contract/channel';
import { acquiredSignal, compute, computedSignals, type Group, type Signal } from '$engine/signals';
import { getChannel, listTakes } from '$store/entities';
import { correctTake, type Correction } from '$store/take/correct';
import { TakeReader, type StoredSignal } from '$store/take/reader';
import { jobOf, log, takePath, type App } from '../app';
import { calibrationText, channelThen, isComputed, openTake } from '../takes';

/** Takes of the job that hold a channel, newest first. Takes that cannot be read are left out: they say so on their own page. */
export function takesWith(app: App, channelId: string): AffectedTake[] {
  const now = getChannel(app.db, channelId);
  return listTakes(app.db, jobOf(app).id).flatMap((take) => {
    if (take.state === 'recording') return [];
    try {
      const signal = openTake(app, take.id).signals.find((s) => s.channelId === channelId);
      const then = signal && channelThen(signal);
      if (!then) return [];
      const next = JSON.stringify(conversionOf(asNow(then, now)));
      return [
        {
          id: take.id,
          name: take.name,
          startedAt: take.startedAt,
          calibration: calibrationText(then),
          revision: signal.revision,
          reason: signal.revision > 1 ? signal.reason : '',
          differs: next !== JSON.stringify(signal.conversion),
        },
      ];
    } catch {
      return [];
    }
  });
}

/** The channel as it was in a take, read as it is read now. Its own zero, unit and range of that day stay. */
function asNow(then: Channel, now: Channel): Channel {
  const { unit, range } = commonOf(then);
  const zero = 'zero' in then.settings ? { zero: then.settings.zero } : {};
  return {
    ...then,
    settings: { ...now.settings, unit, range, rateHz: commonOf(then).rateHz, ...zero },
    scale: now.scale,
    calibration: now.calibration,
    sensorSerial: now.sensorSerial,
  };
}

export interface Corrected {
  takes: number;
  /** Computed channels that were computed anew, and those that could not be. */
  recomputed: string[];
  left: string[];
}

/** Gives chosen takes the meaning that a channel has now: a new conversion with its reason, and all that was computed from the channel
 *  computed anew. Samples and former meanings stay. Each take is corrected whole or not at all.
 *  @throws `bad_input` without a reason or takes, `conflict` when the channel has become one of another kind */
export function correctTakes(
  app: App,
  channelId: string,
  takeIds: string[],
  reason: string,
  by: string,
): Corrected {
  const why = reason.trim();
  if (why.length < 3)
    throw badInput('reason', reason, 'Say why these takes are read differently from now on.');
  if (takeIds.length === 0) throw badInput('takes', 'none', 'Choose at least one.');
  const now = getChannel(app.db, channelId);
  const outcome: Corrected = { takes: 0, recomputed: [], left: [] };
  for (const id of takeIds) {
    const path = takePath(app, id);
    const reader = new TakeReader(path);
    try {
      const signal = reader.signals.find((s) => s.channelId === channelId);
      const then = signal && channelThen(signal);
      if (!then) throw badInput('take', reader.head.name, `${now.name} is not in it.`);
      if (reader.head.state === 'recording')
        throw conflict('take', `${reader.head.name} is still being recorded.`, 'Wait for its end.');
      if (then.kind !== now.kind)
        throw conflict(
          then.name,
          `It was a ${then.kind} in ${reader.head.name} and is a ${now.kind} now.`,
          'Only takes of the same kind of channel can be corrected by it.',
        );
      const corrections = correctionsOf(reader, signal, asNow(then, now), outcome);
      correctTake(path, corrections, why, by);
      app.takes.forget(takePath(app, id));
      outcome.takes++;
      log(
        app,
        'calibration',
        `${reader.head.name}: ${then.name} is read ${calibrationText(asNow(then, now))} from now on. ${why}`,
        {
          takeId: id,
          by,
        },
      );
    } finally {
      reader.close();
    }
  }
  return outcome;
}

function correctionsOf(
  reader: TakeReader,
  signal: StoredSignal,
  next: Channel,
  outcome: Corrected,
): Correction[] {
  const { unit } = commonOf(next);
  const own: Correction = { signal: signal.id, unit, conversion: conversionOf(next), snapshot: next };
  const corrected = new Map([[signal.id, next]]);
  return [
    own,
    ...dependents(reader, next.name).flatMap((computed): Correction[] => {
      const channel = channelThen(computed)!;
      try {
        const samples = computedAnew(reader, computed, corrected);
        outcome.recomputed.push(channel.name);
        return [
          {
            signal: computed.id,
            unit: computed.unit,
            conversion: computed.conversion,
            snapshot: channel,
            samples,
          },
        ];
      } catch (error) {
        outcome.left.push(
          `${channel.name} in ${reader.head.name}: ${(error as FarrierError).text?.what ?? 'it cannot be computed.'}`,
        );
        return [];
      }
    }),
  ];
}

/** Computed signals of a take that come from a channel, directly or through others. */
function dependents(reader: TakeReader, name: string): StoredSignal[] {
  const computed = reader.signals.filter(isComputed);
  const touched = new Set([name]);
  for (let grown = true; grown;) {
    grown = false;
    for (const s of computed) {
      if (touched.has(s.name)) continue;
      if (!compileExpression(String(channelThen(s)!.settings.formula)).inputs.some((i) => touched.has(i)))
        continue;
      touched.add(s.name);
      grown = true;
    }
  }
  return computed.filter((s) => touched.has(s.name));
}

const STEP_S = 0.5;

/** A computed signal of a take from its inputs, half a second at a time. @throws `unavailable` when an input is not in the take */
function computedAnew(
  reader: TakeReader,
  wanted: StoredSignal,
  corrected: Map<number, Channel>,
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
    const channel = corrected.get(s.id) ?? channelThen(s)!;
    return { stored: s, signal: acquiredSignal(channel, '', groupOf(s), null) };
  });
  const channels = stored.map((s) => corrected.get(s.id) ?? channelThen(s)!);
  let fault: unknown = null;
  const order = computedSignals(
    channels,
    inputs.map((i) => i.signal),
    (channel, error) => {
      if (channel.name === wanted.name) fault = error;
    },
  );
  const target = order.find((s) => s.name === wanted.name);
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
      for (const { stored: s, signal } of fed) {
        const count = Math.max(0, Math.min(signal.group.count, s.length - signal.group.first));
        const values = count > 0 ? reader.values(s.id, signal.group.first, count) : new Float32Array(0);
        const correctedAs = corrected.get(s.id);
        if (correctedAs && count > 0)
          signal.convert(
            reader.raw(s.id, signal.group.first, count),
            values,
            count,
            s.junction === null ? undefined : reader.raw(s.junction, signal.group.first, count),
          );
        signal.value = new Float32Array(signal.group.count).fill(NaN);
        signal.value.set(values);
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
