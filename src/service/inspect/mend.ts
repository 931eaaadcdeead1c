import { randomUUID } from 'node:crypto';
import { FarrierError, conflict, notFound } from '$core/errors';
import { mendText, mendingKind, type Mending } from '$core/mending/registry';
import { sentenceFields } from '$core/sentence/sentence';
import type { StoredMend } from '$store/take/correct';
import { getTake } from '$store/takes';
import { log, takePath, type App } from '../app';
import { check } from '../check';
import { openTake } from '../takes';
import { changed } from './keep';
import { inTurn } from './turns';
import { partnerOf, type MendTask, type PreviewOutcome } from './mends';

/** A mending whose settings are what its kind allows. @throws `bad_input` */
function checked({ kind, settings }: Mending): Mending {
  const found = mendingKind(kind);
  const own = Object.fromEntries(
    sentenceFields(found.sentence.schema).map(({ key }) => [
      key,
      settings[key] ?? found.defaults[key as never],
    ]),
  );
  return { kind, settings: check(found.sentence.schema, own) };
}

/** Mends a channel of a take beside what was recorded: a revision with who, when and why, and all that is computed from it anew.
 *  @throws `bad_input` where it does not suit, `conflict` while the take is recorded, `unavailable` when its file cannot be written */
export function mendTake(
  app: App,
  id: string,
  { signal, mending, why }: { signal: number; mending: Mending; why: string },
  by: string,
): Promise<{ changed: number; followed: string[]; left: string[] }> {
  return inTurn(id, async () => {
    const reader = openTake(app, id);
    if (reader.head.state === 'recording')
      throw conflict('take', `${reader.head.name} is still being recorded.`, 'Mend it once it has ended.');
    const own = reader.signal(signal);
    if (own.made && mending.kind !== 'rename')
      throw conflict(own.name, 'It is made from others.', 'Mend what it is made from: it follows by itself.');
    const made: StoredMend = { id: randomUUID(), mending: checked(mending), at: Date.now(), by, why };
    const lists = [{ signal, mends: [...own.mends, made] }];
    if (mending.kind === 'swap') {
      const partner = partnerOf(reader, own, String(made.mending.settings.with));
      const back = { ...made, mending: { kind: 'swap', settings: { with: own.firstName } } };
      lists.push({ signal: partner.id, mends: [...partner.mends, back] });
    }
    const outcome = await write(app, id, lists, why, by);
    const says = mendText(made.mending, own);
    log(app, 'take', `${getTake(app.db, id).name}, ${own.name}: ${says} ${why}`, { takeId: id, by });
    return outcome;
  });
}

/** Takes a mending back: the channel is read without it, whatever came after it. @throws `not_found` */
export function undoMend(
  app: App,
  id: string,
  mend: string,
  by: string,
): Promise<{ followed: string[]; left: string[] }> {
  return inTurn(id, async () => {
    const reader = openTake(app, id);
    const touched = reader.signals.filter((s) => s.mends.some((m) => m.id === mend));
    if (touched.length === 0) throw notFound('mending', mend);
    const says = mendText(touched[0].mends.find((m) => m.id === mend)!.mending, touched[0]);
    const lists = touched.map((s) => ({ signal: s.id, mends: s.mends.filter((m) => m.id !== mend) }));
    const { followed, left } = await write(app, id, lists, `Taken back: ${says}`, by);
    log(
      app,
      'take',
      `${getTake(app.db, id).name}, ${touched.map((s) => s.name).join(' and ')}: taken back: ${says}`,
      { takeId: id, by },
    );
    return { followed, left };
  });
}

async function write(app: App, id: string, lists: MendTask['lists'], reason: string, by: string) {
  const outcome = await app.workers.do('mend', { path: takePath(app, id), lists, reason, by });
  if ('fault' in outcome) throw new FarrierError(outcome.code, outcome.fault);
  changed(app, id);
  return outcome;
}

/** What a mending would change; nothing is written. @throws `bad_input` where it does not suit */
export async function previewOf(
  app: App,
  id: string,
  task: { signal: number; mending: Mending; from: number; to: number; width: number },
): Promise<Exclude<PreviewOutcome, { fault: unknown }>> {
  openTake(app, id).signal(task.signal);
  const outcome = await app.workers.do('previewMend', {
    ...task,
    mending: checked(task.mending),
    path: takePath(app, id),
  });
  if ('fault' in outcome) throw new FarrierError(outcome.code, outcome.fault);
  return outcome;
}
