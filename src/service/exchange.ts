import { randomUUID } from 'node:crypto';
import { FarrierError, badInput } from '$core/errors';
import { FORMAT_KINDS, formatKind } from '$core/formats/registry';
import { realParts } from '$core/samples/parts';
import type { Recording } from '$core/formats/format';
import { CORE_VERSION } from '$core/version';
import { nameText } from '$contract/name-text';
import { EMPTY_PLAN } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { nextTakeNumber, putTake } from '$store/entities';
import type { TakeReader } from '$store/take/reader';
import { jobOf, log, takePath, type App } from './app';
import { check } from './check';
import { leaseTake } from './takes';

/** The open formats, and what each can do. */
export const formats = () =>
  FORMAT_KINDS.map(({ kind, title, cannotCarry, writing, reading }) => ({
    kind,
    title,
    cannotCarry,
    writes: writing !== undefined,
    reads: reading !== undefined,
  }));

/** A take as formats see it. @param signals those to take along; none named means all channels */
function recordingOf(reader: TakeReader, signals: number[]): Recording {
  const chosen = signals.length ? signals : reader.signals.filter((s) => s.channelId).map((s) => s.id);
  return {
    name: reader.head.name,
    start: new Date(Number(BigInt(reader.head.startNs) / 1_000_000n)).toISOString(),
    facts: Object.entries(reader.head.facts),
    signals: chosen.map((id) => reader.sampled(id)),
  };
}

export interface Export {
  name: string;
  mediaType: string;
  body: ReadableStream<Uint8Array>;
}

/** A take in an open format, made while it is sent. @throws `bad_input` before anything is sent, `not_found` */
export function exportTake(
  app: App,
  id: string,
  {
    format,
    signals = [],
    options = {},
  }: { format: string; signals?: number[]; options?: Record<string, unknown> },
): Export {
  const { title, extensions, mediaType, writing } = formatKind(format);
  if (!writing) throw badInput('format', title, 'It is only read, not written.');
  const wanted = check(writing.sentence.schema, { ...writing.defaults, ...options });
  const { reader, release } = leaseTake(app, id);
  try {
    const recording = recordingOf(reader, signals);
    const written = writing.complex
      ? recording
      : { ...recording, signals: recording.signals.flatMap(realParts) };
    const body = streamOf(writing.write(written, wanted), release);
    return { name: `${recording.name}.${extensions[0]}`, mediaType, body };
  } catch (error) {
    release();
    throw error;
  }
}

/** Pieces as a stream, made as fast as they are taken. The first is made at once: it shows whether the options suit.
 *  @param end called when all was sent, or nobody wants more */
function streamOf(pieces: Generator<string | Uint8Array>, end: () => void): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let next = pieces.next();
  return new ReadableStream({
    pull(controller) {
      if (next.done) {
        end();
        return controller.close();
      }
      controller.enqueue(typeof next.value === 'string' ? encoder.encode(next.value) : next.value);
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

/** Brings a file of another program in as a take of the job. @throws `bad_input`, `damaged` naming the place in the file */
export async function importTake(
  app: App,
  file: { name: string; content: Uint8Array },
  { format, options = {} }: { format?: string; options?: Record<string, unknown> },
  by: string,
): Promise<TakeHead> {
  const job = jobOf(app);
  const id = randomUUID();
  const plain = file.name.split(/[/\\]/).at(-1)!;
  const next = nextTakeNumber(app.db, job.id);
  const head: TakeHead = {
    id,
    jobId: job.id,
    job: job.name,
    // One that is armed has its number already.
    number: app.live.status.take?.number === next ? next + 1 : next,
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
    coreVersion: CORE_VERSION,
  };
  const task = { ...file, name: plain, format, options, path: takePath(app, id), head, by };
  const outcome = await app.workers.do('bringIn', task);
  if ('fault' in outcome) throw new FarrierError('bad_input', outcome.fault);
  putTake(app.db, outcome.head, outcome.durationS * 1000);
  const { signals, durationS, says, hash } = outcome;
  log(app, 'take', `${head.name}: ${signals} ${signals === 1 ? 'channel' : 'channels'}, ${durationS.toFixed(1)} s. ${says}`, { takeId: id, by }); // prettier-ignore
  log(app, 'seal', `${head.name} sealed, SHA-256 ${hash}.`, { takeId: id });
  return outcome.head;
}
