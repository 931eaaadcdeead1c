import type { AffectedTake } from '$contract/api/calibrate';
import { badInput, conflict } from '$core/errors';
import { commonOf, conversionOf, type Channel } from '$contract/channel';
import { getChannel } from '$store/entities';
import { listTakes } from '$store/takes';
import { correctTake } from '$store/take/correct';
import { TakeReader } from '$store/take/reader';
import { jobOf, log, takePath, type App } from '../app';
import { changed } from '../inspect/keep';
import { followSources } from '../inspect/makes';
import { correctionsFor } from '../inspect/mends';
import { calibrationText, openTake } from '../takes';
import { channelThen } from '../channel-then';

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
          differs: next !== JSON.stringify(signal.plain.conversion),
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
      const next = asNow(then, now);
      const meant = {
        signal,
        conversion: conversionOf(next),
        unit: commonOf(next).unit,
        snapshot: next,
        mends: signal.mends,
      };
      const { corrections, followed, left } = correctionsFor(reader, [meant]);
      correctTake(path, corrections, why, by);
      const made = followSources(path, { progress: () => undefined, signal: { aborted: false } });
      changed(app, id);
      outcome.recomputed.push(...followed, ...made.followed);
      outcome.left.push(...left, ...made.left);
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
