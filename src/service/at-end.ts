import {
  createReadStream,
  createWriteStream,
  existsSync,
  mkdirSync,
  readdirSync,
  renameSync,
  type ReadStream,
} from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asFarrierError, notFound } from '$core/errors';
import type { StudyBody } from '$contract/study';
import type { AtEnd } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { listStudies } from '$store/entities';
import { listTakes } from '$store/takes';
import { log, type App } from './app';
import { bodyOf, takesOf } from './study/inputs';
import { changeStudy, startStudy } from './study/studies';
import { exportTake } from './exchange';
import { madeNow } from './outgoing';
import { openTake } from './takes';

/** What can be done by itself with a take that has just ended. A further one is a further line here and in the plan's schema. */
const DEEDS: Record<AtEnd, (app: App, head: TakeHead) => Promise<string>> = {
  'run the standing studies': runStanding,
  'repeat the studies of the take before': repeatStudies,
  'write a CSV file': writeCsv,
  'write the spreadsheet': writeSpreadsheet,
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

/** Studies whose takes are said by a filter are standing ones: each that means the new take runs anew, with a row for it. */
async function runStanding(app: App, head: TakeHead): Promise<string> {
  const fitting = listStudies(app.db, head.jobId).filter((row) => {
    const body = bodyOf(row);
    return body.filter && takesOf(app, body).includes(head.id);
  });
  if (fitting.length === 0) return 'no standing study means this take';
  for (const { id } of fitting) await changeStudy(app, id, {}, 'Farrier').done;
  return `${fitting.map((row) => bodyOf(row).name).join(', ')} run over it, too`;
}

async function repeatStudies(app: App, head: TakeHead): Promise<string> {
  const before = listTakes(app.db, head.jobId).find(
    (t) =>
      t.id !== head.id && listStudies(app.db, head.jobId).some((s) => s.takeId === t.id && !bodyOf(s).filter),
  );
  if (!before) return 'no take before it has studies';
  const studies = listStudies(app.db, head.jobId).filter((s) => s.takeId === before.id && !bodyOf(s).filter);
  for (const { kind, body } of studies) {
    const { name, settings } = body as StudyBody;
    await startStudy(app, { kind, takeId: head.id, settings, name }, 'Farrier').done;
  }
  return `${studies.length} ${studies.length === 1 ? 'study' : 'studies'} of ${before.name} repeated`;
}

const plain = (text: string, most: number) => text.replace(/[^\w.-]+/g, '-').slice(0, most);
/** Jobs have names of their own, and may have the same: the number of each keeps their files apart. */
const folderOf = ({ job, jobId }: TakeHead) => `${plain(job, 60)}-${plain(jobId, 8)}`;
/** What the names of a take's files end with; it stays when the take is renamed. */
const endOf = ({ id }: Pick<TakeHead, 'id'>) => `-${plain(id, 8)}.csv`;

async function writeCsv(app: App, head: TakeHead): Promise<string> {
  const own = folderOf(head);
  const folder = join(app.folder, 'exports', own);
  mkdirSync(folder, { recursive: true });
  const signals = openTake(app, head.id).signals.filter((s) => s.channelId !== null && s.length > 0);
  const { body } = await exportTake(app, head.id, { format: 'csv', signals: signals.map((s) => s.id) });
  const name = `${head.number}-${plain(head.name, 80)}${endOf(head)}`;
  // What is not whole is not found: it gets its name at its end.
  const half = join(folder, `${name}.part`);
  await pipeline(Readable.fromWeb(body as never), createWriteStream(half));
  renameSync(half, join(folder, name));
  return `written to exports/${own}/${name}`;
}

/** By the first way that is kept. */
async function writeSpreadsheet(app: App, head: TakeHead): Promise<string> {
  const { name, body } = await madeNow(app, { what: 'spreadsheet', takes: [head.id] }, null);
  const folder = join(app.folder, 'exports', folderOf(head));
  mkdirSync(folder, { recursive: true });
  const ending = name.split('.').at(-1)!;
  const own = `${head.number}-${plain(name.slice(0, -ending.length - 1), 80)}-${plain(head.id, 8)}.${ending}`;
  const half = join(folder, `${own}.part`);
  await pipeline(Readable.fromWeb(body as never), createWriteStream(half));
  renameSync(half, join(folder, own));
  return `written to exports/${folderOf(head)}/${own}`;
}

/** Name of the file that was written at a take's end; null where there is none. */
export function writtenName(app: App, head: TakeHead): string | null {
  const folder = join(app.folder, 'exports', folderOf(head));
  if (!existsSync(folder)) return null;
  const [start, end] = [`${head.number}-`, endOf(head)];
  return readdirSync(folder).find((name) => name.startsWith(start) && name.endsWith(end)) ?? null;
}

/** The file that was written at a take's end. @throws `not_found` */
export function writtenFile(app: App, takeId: string): { name: string; open: () => ReadStream } {
  const { head } = openTake(app, takeId);
  const name = writtenName(app, head);
  if (!name) throw notFound('file', `of ${head.name}`);
  return { name, open: () => createReadStream(join(app.folder, 'exports', folderOf(head), name)) };
}
