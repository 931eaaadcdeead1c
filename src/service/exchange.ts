import { randomUUID } from 'node:crypto';
import { copyFileSync, renameSync, rmSync } from 'node:fs';
import { FarrierError, conflict } from '$core/errors';
import { FORMAT_KINDS, formatKind } from '$core/formats/registry';
import { after, bytesOf, isSeveral } from '$core/formats/zipped';
import { CORE_VERSION } from '$core/version';
import { nameText } from '$contract/name-text';
import { EMPTY_PLAN } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { openSource } from '$store/file-source';
import { changeTakes, nextTakeNumber } from '$store/takes';
import { jobOf, log, takePath, type App } from './app';
import { check } from './check';
import { listed } from './inspect/look-into';
import { madeNow } from './outgoing';
import { takeTask, type ExportAsk } from './take-task';
import { leaseTake } from './takes';
import { piecesOf } from './write-take';

/** The open formats, and what each can do. */
export const formats = () =>
  FORMAT_KINDS.map(({ kind, title, cannotCarry, writing, reading }) => ({
    kind,
    title,
    cannotCarry,
    writes: writing !== undefined,
    reads: reading !== undefined,
  }));

export interface Export {
  name: string;
  mediaType: string;
  body: ReadableStream<Uint8Array>;
}

/** A take in an open format: made while it is sent where the format allows it, else written first. What has several files is one archive.
 *  @throws `bad_input` before anything is sent, `not_found` */
export async function exportTake(app: App, id: string, ask: ExportAsk): Promise<Export> {
  const { name, ...task } = takeTask(app, id, ask);
  const { mediaType, prepare, writing } = formatKind(ask.format);
  if (writing!.whole) return { name, mediaType, body: (await madeNow(app, { what: 'take', take: id, signals: [], options: {}, ...ask }, null)).body }; // prettier-ignore
  await prepare?.();
  const { reader, release } = leaseTake(app, id);
  try {
    const pieces = piecesOf(reader, task);
    const first = pieces.next();
    const several = !first.done && isSeveral(first.value);
    const body = streamOf(bytesOf(after(first, pieces)), release);
    return several
      ? { name: `${reader.head.name}.zip`, mediaType: 'application/zip', body }
      : { name, mediaType, body };
  } catch (error) {
    release();
    throw error;
  }
}
/** Pieces as a stream, made as fast as they are taken. The first is made at once: it shows whether the options suit.
 *  @param end called when all was sent, or nobody wants more */
function streamOf(pieces: Generator<Uint8Array>, end: () => void): ReadableStream<Uint8Array> {
  let next = pieces.next();
  return new ReadableStream({
    pull(controller) {
      if (next.done) {
        end();
        return controller.close();
      }
      controller.enqueue(next.value);
      try {
        next = pieces.next();
      } catch (error) {
        end();
        throw error;
      }
    },
    cancel: end,
  });
}

interface Watch {
  progress?: (share: number) => void;
  signal?: AbortSignal;
}

/** Brings a file in as a take of the job: one of another program, or a take of another Farrier, which stays what it is.
 *  @param file its name, and where it lies: it is moved away or left there
 *  @throws `bad_input`, `damaged` naming the place in the file, `conflict` for a take that is here already */
export async function importTake(
  app: App,
  file: { name: string; path: string },
  { format, options = {} }: { format?: string; options?: Record<string, unknown> },
  by: string,
  watch: Watch = {},
): Promise<TakeHead> {
  const plain = file.name.split(/[/\\]/).at(-1)!;
  if (!format && isTakeFile(file.path)) return adoptTake(app, { name: plain, path: file.path }, by);
  const job = jobOf(app);
  const id = randomUUID();
  const head: TakeHead = {
    id,
    jobId: job.id,
    job: job.name,
    number: freeNumber(app),
    name: check(nameText(120), plain.replace(/\.[^.]*$/, '').slice(0, 120) || 'Brought in'),
    state: 'recording',
    startNs: String(BigInt(Date.now()) * 1_000_000n),
    lengthNs: null,
    facts: { 'Brought in from': plain },
    plan: EMPTY_PLAN,
    planText: '',
    planName: '',
    folder: 'Brought in',
    part: null,
    from: plain,
    coreVersion: CORE_VERSION,
  };
  const task = { name: plain, from: file.path, format, options, path: takePath(app, id), head, by };
  const outcome = await app.workers.do('bringIn', task, watch);
  if ('fault' in outcome) throw new FarrierError('bad_input', outcome.fault);
  // Another one may have come meanwhile.
  listed(app, { ...outcome.head, number: freeNumber(app) }, outcome.durationS * 1000);
  const { signals, durationS, says, hash } = outcome;
  log(app, 'take', `${head.name}: ${signals} ${signals === 1 ? 'channel' : 'channels'}, ${durationS.toFixed(1)} s. ${says}`, { takeId: id, by }); // prettier-ignore
  log(app, 'seal', `${head.name} sealed, SHA-256 ${hash}.`, { takeId: id });
  return outcome.head;
}

/** A number that no take of the job has; one that is armed has its number already. */
function freeNumber(app: App): number {
  const next = nextTakeNumber(app.db, jobOf(app).id);
  return app.live.status.take?.number === next ? next + 1 : next;
}

/** Whether a file is an SQLite database, as takes are. */
function isTakeFile(path: string): boolean {
  const source = openSource(path);
  try {
    return Buffer.from(source.read(0, 16)).toString('latin1') === 'SQLite format 3\0';
  } finally {
    source.close();
  }
}

/** Makes a take file of another Farrier one of this job: with its own facts, id and seal. */
async function adoptTake(
  app: App,
  { name, path }: { name: string; path: string },
  by: string,
): Promise<TakeHead> {
  const outcome = await app.workers.do('adopt', { path, name, by });
  if ('fault' in outcome) throw new FarrierError('damaged', outcome.fault);
  const { head, durationS, signals, seal } = outcome;
  const here = app.db.$client
    .prepare('SELECT name, binned_at binnedAt, gone_at goneAt FROM takes WHERE id = ?')
    .get(head.id) as { name: string; binnedAt: number | null; goneAt: number | null } | undefined;
  if (here && here.goneAt === null)
    throw conflict(
      name,
      `This take is here already, as ${here.name}.`,
      here.binnedAt ? 'Take it out of the bin.' : 'Open that one.',
    );
  moveFile(path, takePath(app, head.id));
  const own = { ...head, jobId: jobOf(app).id, number: freeNumber(app), folder: head.folder || 'Brought in' };
  listed(app, own, durationS * 1000, name);
  // It may have been here before.
  changeTakes(app.db, [head.id], { goneAt: null, binnedAt: null, binnedBy: null });
  const said = { sealed: 'Its seal holds.', changed: `It was changed since it was sealed: ${seal.changed.join(', ')}.`, 'not sealed': 'It is not sealed.' }[seal.state]; // prettier-ignore
  log(app, 'take', `${head.name}: ${signals} ${signals === 1 ? 'channel' : 'channels'}, ${durationS.toFixed(1)} s, brought in from ${name}, of the job ${head.job}. ${said}`, { takeId: head.id, by }); // prettier-ignore
  return own;
}

/** Within a disk a file changes its name; from one to another it is copied. */
function moveFile(from: string, to: string): void {
  try {
    renameSync(from, to);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EXDEV') throw error;
    copyFileSync(from, to);
    rmSync(from);
  }
}
