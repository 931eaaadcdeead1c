import { closeSync, openSync, rmSync, writeSync } from 'node:fs';
import { asFarrierError, cancelled, type ErrorText } from '$core/errors';
import { formatKind } from '$core/formats/registry';
import type { Piece, Recording } from '$core/formats/format';
import { after, bytesOf, isSeveral } from '$core/formats/zipped';
import { realParts } from '$core/samples/parts';
import { TakeReader } from '$store/take/reader';
import type { Watched } from './watched';

export interface WriteTakeTask {
  path: string;
  /** What the take is called now. */
  called: string;
  format: string;
  /** Numbers of signals; none means all channels. */
  signals: number[];
  options: Record<string, unknown>;
  /** What else is known of channels, by their ids. */
  about: [channel: string, pairs: [name: string, value: string][]][];
  to: string;
}

/** A take as formats see it. */
function recordingOf(reader: TakeReader, { called, signals, about }: Pick<WriteTakeTask, 'called' | 'signals' | 'about'>): Recording {
  const chosen = signals.length ? signals : reader.signals.filter((s) => s.channelId).map((s) => s.id);
  return {
    name: called,
    job: reader.head.job,
    start: new Date(Number(BigInt(reader.head.startNs) / 1_000_000n)).toISOString(),
    facts: Object.entries(reader.head.facts),
    signals: chosen.map((id) => reader.sampled(id)),
    about: new Map(about),
  };
} // prettier-ignore

/** The pieces of a take's file in an open format, whose library is loaded. @throws `bad_input` with the first piece */
export function piecesOf(reader: TakeReader, task: Omit<WriteTakeTask, 'to' | 'path'>): Generator<Piece> {
  const { writing } = formatKind(task.format);
  const recording = recordingOf(reader, task);
  const written = writing!.complex
    ? recording
    : { ...recording, signals: recording.signals.flatMap(realParts) };
  return writing!.write(written, task.options as never);
}

/** Writes a take in an open format. Done in a worker thread. A file that is not whole is taken away. */
export async function writeTake(
  task: WriteTakeTask,
  { progress, signal }: Watched,
): Promise<{ says: string[]; archive: boolean } | { fault: ErrorText }> {
  let reader: TakeReader | null = null;
  let file = -1;
  try {
    await formatKind(task.format).prepare?.();
    reader = new TakeReader(task.path);
    const all = reader.signals.reduce((sum, s) => sum + s.length * s.width * 4, 1);
    file = openSync(task.to, 'w');
    let written = 0;
    const pieces = piecesOf(reader, task);
    const first = pieces.next();
    for (const bytes of bytesOf(after(first, pieces))) {
      if (signal.aborted) throw cancelled(task.called);
      for (let done = 0; done < bytes.length;) done += writeSync(file, bytes, done);
      written += bytes.length;
      progress(Math.min(0.99, written / all));
    }
    closeSync(file);
    file = -1;
    return { says: [], archive: !first.done && isSeveral(first.value) };
  } catch (error) {
    if (file >= 0) closeSync(file);
    rmSync(task.to, { force: true });
    return { fault: asFarrierError(error, task.called).text };
  } finally {
    reader?.close();
  }
}
