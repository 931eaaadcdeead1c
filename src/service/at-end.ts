import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asFarrierError } from '$core/errors';
import type { StudyBody } from '$contract/study';
import type { AtEnd } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { listStudies, listTakes } from '$store/entities';
import { log, type App } from './app';
import { startStudy } from './studies';
import { exportCsv, openTake } from './takes';

/** What can be done by itself with a take that has just ended. A further one is a further line here and in the plan's schema. */
const DEEDS: Record<AtEnd, (app: App, head: TakeHead) => Promise<string>> = {
  'repeat the studies of the take before': repeatStudies,
  'write a CSV file': writeCsv,
};

/** Does what the plan of a take wants done at its end; what fails is said, the rest is done. */
export async function atEnd(app: App, head: TakeHead): Promise<void> {
  for (const deed of head.plan.atEnd) {
    try {
      log(app, 'plan', `At the end of ${head.name}: ${await DEEDS[deed](app, head)}.`, { takeId: head.id });
    } catch (error) {
      log(app, 'trouble', `${deed}: ${asFarrierError(error, head.name).message}`, { takeId: head.id });
    }
  }
}

async function repeatStudies(app: App, head: TakeHead): Promise<string> {
  const before = listTakes(app.db, head.jobId).find(
    (t) => t.id !== head.id && listStudies(app.db, head.jobId).some((s) => s.takeId === t.id),
  );
  if (!before) return 'no take before it has studies';
  const studies = listStudies(app.db, head.jobId).filter((s) => s.takeId === before.id);
  for (const { kind, body } of studies) {
    const { name, settings } = body as StudyBody;
    await startStudy(app, { kind, takeId: head.id, settings, name }).done;
  }
  return `${studies.length} ${studies.length === 1 ? 'study' : 'studies'} of ${before.name} repeated`;
}

async function writeCsv(app: App, head: TakeHead): Promise<string> {
  const folder = join(app.folder, 'exports');
  mkdirSync(folder, { recursive: true });
  const signals = openTake(app, head.id).signals.filter((s) => s.channelId !== null && s.length > 0);
  const { body } = exportCsv(
    app,
    head.id,
    signals.map((s) => s.id),
    CSV_USUAL,
  );
  const name = `${head.number}-${head.name.replace(/[^\w.-]+/g, '-').slice(0, 80)}.csv`;
  await pipeline(Readable.fromWeb(body as never), createWriteStream(join(folder, name)));
  return `written to exports/${name}`;
}
/** As they were taken, for a spreadsheet. */
const CSV_USUAL = { stepS: null, decimal: '.' } as const;
