import { randomUUID } from 'node:crypto';
import { closeSync, mkdirSync, openSync, rmSync, statfsSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { FarrierError, asFarrierError, badInput, conflict, notFound } from '$core/errors';
import type { ImportState } from '$contract/api/inspect';
import type { App } from '../app';
import { importTake } from '../exchange';
import type { ImportJob } from './import-job';

const folderOf = (app: Pick<App, 'folder'>) => join(app.folder, 'incoming');
/** One that nobody sends on for so long is forgotten. */
const FORGOTTEN_MS = 30 * 60_000;
/** Share of the file that the take beside it may need: samples, and their overview. */
const ROOM = 2.5;

const stateOf = ({ id, name, size, received, state, share, takeId, fault }: ImportJob): ImportState => ({
  id,
  name,
  size,
  received,
  state,
  share,
  takeId,
  fault,
});

function jobOf(app: App, id: string): ImportJob {
  const found = app.imports.get(id);
  if (!found) throw notFound('import', id);
  return found;
}

/** Begins to bring a file in. @throws `unavailable` where there is no room for it */
export function beginImport(
  app: App,
  {
    name,
    size,
    format,
    options,
  }: { name: string; size: number; format?: string; options: Record<string, unknown> },
  by: string,
): ImportState {
  for (const job of app.imports.values()) if (Date.now() - job.heard > FORGOTTEN_MS) endImport(app, job.id);
  const folder = folderOf(app);
  mkdirSync(folder, { recursive: true });
  const { bavail, bsize } = statfsSync(folder);
  if (bavail * bsize < ROOM * size)
    throw new FarrierError('unavailable', {
      what: `There is no room for ${name}.`,
      where: folder,
      why: `It takes about ${Math.ceil((ROOM * size) / 1e6)} MB to bring it in, ${Math.floor((bavail * bsize) / 1e6)} MB are free.`,
      next: 'Free some space, then bring it in again.',
    });
  const id = randomUUID();
  const path = join(folder, id);
  closeSync(openSync(path, 'w'));
  const job: ImportJob = {
    id,
    name: name.split(/[/\\]/).at(-1)!.slice(0, 200) || 'file',
    size,
    received: 0,
    state: 'receiving',
    share: 0,
    takeId: null,
    fault: null,
    path,
    format,
    options,
    by,
    stop: new AbortController(),
    heard: Date.now(),
  };
  app.imports.set(id, job);
  return stateOf(job);
}

/** Takes the next piece of a file; with the last one it is read, which goes on by itself.
 *  @param at place in the file: the one after what is there @throws `conflict` for any other place, `bad_input` for more than the file has */
export function takePiece(app: App, id: string, at: number, bytes: Uint8Array): ImportState {
  const job = jobOf(app, id);
  job.heard = Date.now();
  if (job.state !== 'receiving' || at !== job.received)
    throw conflict(
      'import',
      `${job.name} goes on at byte ${job.received}.`,
      'Send the piece that begins there.',
    );
  if (at + bytes.length > job.size)
    throw badInput('file', `${at + bytes.length} bytes`, `It was said to have ${job.size}.`);
  const file = openSync(job.path, 'r+');
  try {
    for (let done = 0; done < bytes.length;)
      done += writeSync(file, bytes, done, bytes.length - done, at + done);
  } finally {
    closeSync(file);
  }
  job.received += bytes.length;
  if (job.received === job.size) void read(app, job);
  return stateOf(job);
}

async function read(app: App, job: ImportJob): Promise<void> {
  job.state = 'reading';
  try {
    const { id } = await importTake(app, job, job, job.by, {
      progress: (share) => (job.share = share),
      signal: job.stop.signal,
    });
    Object.assign(job, { state: 'done', takeId: id, share: 1 });
  } catch (error) {
    Object.assign(job, { state: 'failed', fault: asFarrierError(error, job.name).text });
  } finally {
    for (const end of ['', '-wal', '-shm']) rmSync(job.path + end, { force: true });
    job.heard = Date.now();
  }
}

/** How far a file is. @throws `not_found` */
export const importState = (app: App, id: string): ImportState => stateOf(jobOf(app, id));

/** Ends bringing a file in; of one that is done the take stays. @throws `not_found` */
export function endImport(app: App, id: string): void {
  const job = jobOf(app, id);
  job.stop.abort();
  app.imports.delete(id);
  if (job.state === 'receiving') rmSync(job.path, { force: true });
}
