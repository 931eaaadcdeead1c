import { FarrierError, asFarrierError, badInput } from '$core/errors';
import { signalsByRole } from '$core/studies/inputs';
import { studyKind } from '$core/studies/registry';
import { CORE_VERSION } from '$core/version';
import type { StudyBody } from '$contract/study';
import { filterTakes, filterText, orderTakes } from '$contract/take-list';
import type { StudyRow } from '$store/entities';
import type { StoredSignal } from '$store/take/signals';
import { getTake } from '$store/takes';
import type { App } from '../app';
import { takeLines } from '../inspect/list';
import { openTake } from '../takes';

export const bodyOf = (row: Pick<StudyRow, 'body'>) => row.body as StudyBody;

/** A study of one take runs over so many at the most, once for each. */
const MOST_OVER = 200;

/** Takes of a study now, the one it stands under first: those that its filter means, newest first, or those that were named. */
export function takesOf(app: App, { filter, takes }: Pick<StudyBody, 'filter' | 'takes'>): string[] {
  if (!filter) return takes;
  const found = filterTakes(takeLines(app), filter, Date.now()).filter((t) => t.state !== 'recording');
  return orderTakes(found, 'newest')
    .slice(0, MOST_OVER)
    .map((t) => t.id);
}

/** A take as it stands in a study: its signals by their role, or why it cannot take part. */
export interface TakeInput {
  take: string;
  name: string;
  roles: Record<string, StoredSignal[]>;
  fault: string | null;
}

/** Takes of a study with their signals by role. Where it runs over several, once for each, one that does not suit says why; else that is a fault.
 *  @throws `bad_input`, `not_found`, `damaged` */
export function inputsOf(app: App, row: StudyRow): TakeInput[] {
  const kind = studyKind(row.kind);
  const { settings, filter } = bodyOf(row);
  const takes = takesOf(app, bodyOf(row));
  const { least, most } = kind.takes ?? { least: 1, most: MOST_OVER };
  if (takes.length === 0 && filter)
    throw badInput(
      'takes',
      filterText(filter),
      'None fits now: say it another way, or name takes one by one.',
    );
  if (takes.length < least || takes.length > most)
    throw badInput(
      'takes',
      takes.length,
      least === most ? `It looks at ${least}.` : `It looks at ${least} to ${most} takes.`,
    );
  const [front] = takes;
  const called = new Map(openTake(app, front).signals.map((s) => [s.channelId, s.name]));
  const inputs = takes.map((take): TakeInput => {
    const name = getTake(app.db, take).name;
    try {
      const reader = openTake(app, take);
      const there = new Set(reader.signals.map((s) => s.channelId));
      const alias = new Map([...called].filter(([id]) => id && !there.has(id)).map(([id, of]) => [of, id!]));
      const offered = reader.signals
        .filter((s) => s.channelId)
        .map((signal) => ({
          // A take of another set-up has the channel of that name.
          id: (take === front ? undefined : alias.get(signal.name)) ?? signal.channelId!,
          name: signal.name,
          unit: signal.unit,
          width: signal.width,
          signal,
        }));
      const roles = signalsByRole(kind, settings, offered, name);
      return { take, name, fault: null, roles: Object.fromEntries(Object.entries(roles).map(([key, of]) => [key, of.map((o) => o.signal)])) }; // prettier-ignore
    } catch (error) {
      if (kind.takes || takes.length === 1) throw error;
      const { what, next } = asFarrierError(error, name).text;
      return { take, name, roles: {}, fault: [what, next].filter(Boolean).join(' ') };
    }
  });
  if (inputs.every((i) => i.fault))
    throw new FarrierError('bad_input', { what: inputs[0].fault!, where: 'takes' });
  return inputs;
}

/** What a result depends on: settings, takes, the conversion of each channel it reads, and how much there is of a take that grows. */
export function fingerprint(app: App, row: StudyRow): string {
  const { settings, filter } = bodyOf(row);
  const inputs = inputsOf(app, row);
  const meanings = inputs.flatMap(({ roles }) => Object.values(roles).flat().map(meaningOf));
  for (const { take, fault } of inputs) if (!fault && openTake(app, take).grows) meanings.push([openTake(app, take).durationS]); // prettier-ignore
  return JSON.stringify(
    inputs.length === 1 && !filter ? [settings, meanings] : [settings, meanings, inputs.map((i) => i.take)],
  );
}
/** A signal that was computed anew keeps its conversion, so its revision counts, too. */
const meaningOf = ({ conversion, revision }: StoredSignal): unknown =>
  revision > 1 ? [conversion, revision] : conversion;

export function isUpToDate(app: App, row: StudyRow): boolean {
  const { madeFrom, resultId } = bodyOf(row);
  return (
    resultId !== null &&
    app.results.has(resultId) &&
    madeFrom?.coreVersion === CORE_VERSION &&
    madeFrom.settings === fingerprint(app, row)
  );
}
