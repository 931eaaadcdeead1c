import { randomUUID } from 'node:crypto';
import { createReadStream, mkdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { FarrierError, asFarrierError, cancelled, conflict, notFound, type ErrorText } from '$core/errors';
import type { OutgoingState } from '$contract/outgoing';
import { log, type App } from './app';
import type { OutgoingJob } from './outgoing-job';
import { takeTask } from './take-task';
import { reportMaking, type ReportAsk } from './report/out/written';
import { sheetsTask, type SheetsAsk } from './sheets/presets';

/** What can be asked for. */
export type OutgoingAsk =
  | ({ what: 'spreadsheet' } & SheetsAsk)
  | ({ what: 'report' } & ReportAsk)
  | { what: 'take'; take: string; format: string; signals: number[]; options: Record<string, unknown> };

/** One that nobody takes for so long is forgotten. */
const FORGOTTEN_MS = 30 * 60_000;
/** Files that are kept for being taken, at the most. */
const MOST = 50;

const stateOf = ({ id, name, state, share, bytes, says, fault }: OutgoingJob): OutgoingState => ({ id, name, state, share, bytes, says, fault }); // prettier-ignore

function jobOf(app: App, id: string): OutgoingJob {
  const found = app.outgoing.get(id);
  if (!found) throw notFound('file', id);
  return found;
}

interface Making {
  name: string;
  run(to: string, watch: { progress(share: number): void; signal: AbortSignal }): Promise<Made>;
}
type Made = { says: string[]; archive?: boolean } | { fault: ErrorText };

/** What is to be done for an ask. @throws `bad_input`, `not_found`, `damaged`: whatever can be said before it begins */
async function makingOf(app: App, ask: OutgoingAsk, by: string): Promise<Making> {
  if (ask.what === 'report') return reportMaking(app, ask, by);
  if (ask.what === 'spreadsheet') {
    const { name, ...task } = await sheetsTask(app, ask);
    return { name, run: (to, watch) => app.workers.do('writeSheets', { ...task, to }, watch) };
  }
  const { name, ...task } = takeTask(app, ask.take, ask);
  return { name, run: (to, watch) => app.workers.do('writeTake', { ...task, to }, watch) };
}

/** Begins to make a file. @throws `bad_input`, `not_found`, `damaged` */
export async function beginOutgoing(app: App, ask: OutgoingAsk, by: string): Promise<OutgoingState> {
  const { name, run } = await makingOf(app, ask, by);
  for (const job of app.outgoing.values())
    if (job.state !== 'making' && (Date.now() - job.heard > FORGOTTEN_MS || app.outgoing.size >= MOST))
      endOutgoing(app, job.id);
  mkdirSync(join(app.folder, 'outgoing'), { recursive: true });
  const id = randomUUID();
  const path = join(app.folder, 'outgoing', id);
  const job: OutgoingJob = { id, name, state: 'making', share: 0, bytes: null, says: [], fault: null, path, stop: new AbortController(), heard: Date.now() }; // prettier-ignore
  app.outgoing.set(id, job);
  void make(app, job, run, by);
  return stateOf(job);
}

/** A file gets its name when it is whole; of one that is not, nothing stays. */
async function make(app: App, job: OutgoingJob, run: Making['run'], by: string): Promise<void> {
  const half = `${job.path}.part`;
  try {
    const made = await run(half, { progress: (share) => (job.share = share), signal: job.stop.signal });
    if ('fault' in made) throw new FarrierError('unavailable', made.fault);
    if (job.stop.signal.aborted) throw cancelled(job.name);
    renameSync(half, job.path);
    // Several files of a format come as one archive.
    if (made.archive) job.name = job.name.replace(/\.[^.]*$/, '.zip');
    Object.assign(job, { state: 'ready', share: 1, bytes: statSync(job.path).size, says: made.says });
    log(app, 'report', `${job.name} was written. ${made.says.join(' ')}`.trim(), { by });
  } catch (error) {
    rmSync(half, { force: true });
    Object.assign(job, { state: 'failed', fault: asFarrierError(error, job.name).text });
  } finally {
    job.heard = Date.now();
  }
}

/** How far a file is. @throws `not_found` */
export const outgoingState = (app: App, id: string): OutgoingState => stateOf(jobOf(app, id));

/** A file that is ready. @throws `not_found`, `conflict` while it is made or where it failed */
export function outgoingFile(app: App, id: string): { name: string; bytes: number; body: ReadableStream<Uint8Array> } {
  const job = jobOf(app, id);
  if (job.state !== 'ready')
    throw conflict('file', `${job.name} is ${job.state === 'failed' ? 'not made' : 'being made'}.`, 'Ask how far it is, then take it.'); // prettier-ignore
  job.heard = Date.now();
  return { name: job.name, bytes: job.bytes!, body: Readable.toWeb(createReadStream(job.path)) as ReadableStream<Uint8Array> }; // prettier-ignore
} // prettier-ignore

/** Ends making a file, or forgets one that is ready. @throws `not_found` */
export function endOutgoing(app: App, id: string): void {
  const job = jobOf(app, id);
  job.stop.abort();
  app.outgoing.delete(id);
  rmSync(job.path, { force: true });
}

/** Makes a file and waits for it: for programs that ask by address. It is gone once it was sent. @param by whom the logbook names; null where it is said elsewhere @throws what made it fail */
export async function madeNow(app: App, ask: OutgoingAsk, by: string | null): Promise<{ name: string; says: string[]; body: ReadableStream<Uint8Array> }> {
  const { name, run } = await makingOf(app, ask, by ?? '');
  mkdirSync(join(app.folder, 'outgoing'), { recursive: true });
  const path = join(app.folder, 'outgoing', randomUUID());
  const made = await run(path, { progress: () => undefined, signal: new AbortController().signal });
  if ('fault' in made) throw new FarrierError('unavailable', made.fault);
  if (by !== null) log(app, 'report', `${name} was written. ${made.says.join(' ')}`.trim(), { by });
  const file = createReadStream(path);
  // An open file is read to its end, whatever becomes of its name.
  file.once('close', () => rmSync(path, { force: true }));
  return { name, says: made.says, body: Readable.toWeb(file) as ReadableStream<Uint8Array> };
} // prettier-ignore
