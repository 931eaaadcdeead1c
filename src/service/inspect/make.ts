import { FarrierError, conflict, notFound } from '$core/errors';
import { makingKind, type Making } from '$core/making/registry';
import { sentenceFields } from '$core/sentence/sentence';
import type { MadeIn } from '$contract/api/inspect';
import { removeSignal } from '$store/take/make';
import { getTake } from '$store/takes';
import { log, takePath, type App } from '../app';
import { check } from '../check';
import { openTake } from '../takes';
import { changed } from './keep';
import type { MakePreviewOutcome } from './makes';
import { inTurn } from './turns';

/** A making whose settings are what its kind allows. @throws `bad_input` */
function checked({ kind, settings }: Making): Making {
  const { sentence, defaults } = makingKind(kind);
  const own = Object.fromEntries(
    sentenceFields(sentence.schema).map(({ key }) => [
      key,
      settings[key] === undefined ? defaults[key as never] : settings[key],
    ]),
  );
  return { kind, settings: check(sentence.schema, own) };
}

/** Makes signals of takes and keeps them beside what was recorded; a take that lacks a source says so, the others go on.
 *  @throws `bad_input` where it suits none, `conflict` while a take is recorded, `cancelled` */
export async function makeInTakes(
  app: App,
  { takes, making }: { takes: string[]; making: Making },
  by: string,
  signal?: AbortSignal,
): Promise<MadeIn[]> {
  const wanted = checked(making);
  const out: MadeIn[] = [];
  for (const id of takes) {
    const { name } = getTake(app.db, id);
    const outcome = await inTurn(id, () => {
      const { head } = openTake(app, id);
      if (head.state === 'recording')
        throw conflict(
          'take',
          `${head.name} is still being recorded.`,
          'Make signals of it once it has ended.',
        );
      return app.workers.do('makeSignals', { path: takePath(app, id), making: wanted, by }, { signal });
    });
    if ('fault' in outcome) {
      if (takes.length === 1 || outcome.code === 'cancelled')
        throw new FarrierError(outcome.code, outcome.fault);
      out.push({
        take: id,
        name,
        made: [],
        known: [],
        fault: [outcome.fault.what, outcome.fault.next].join(' '),
      });
      continue;
    }
    changed(app, id);
    for (const made of outcome.made)
      log(app, 'take', `${name}, ${made.name} is made: ${made.says}`, { takeId: id, by });
    out.push({ take: id, name, made: outcome.made, known: outcome.known, fault: null });
  }
  return out;
}

/** What would be made, over a span; nothing is written. @throws `bad_input` where it does not suit */
export async function previewMaking(
  app: App,
  id: string,
  { making, from, to, width }: { making: Making; from: number; to: number; width: number },
): Promise<Exclude<MakePreviewOutcome, { fault: unknown }>> {
  openTake(app, id);
  const task = { path: takePath(app, id), making: checked(making), from, to, width };
  const outcome = await app.workers.do('previewMake', task);
  if ('fault' in outcome) throw new FarrierError(outcome.code, outcome.fault);
  return outcome;
}

/** Takes a made signal out of a take again. @throws `not_found`, `conflict` for one that was recorded or that others are made from */
export function takeOut(app: App, id: string, signal: number, by: string): Promise<void> {
  return inTurn(id, async () => {
    const found = openTake(app, id).signals.find((s) => s.id === signal);
    if (!found) throw notFound('signal of the take', String(signal));
    removeSignal(takePath(app, id), signal);
    changed(app, id);
    log(app, 'take', `${getTake(app.db, id).name}, ${found.name} is taken out: ${found.made!.says}`, {
      takeId: id,
      by,
    });
    return Promise.resolve();
  });
}
