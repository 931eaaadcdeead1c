import { rmSync } from 'node:fs';
import { IDENTITY } from '$core/conversion/conversion';
import { asFarrierError, badInput, cancelled, type ErrorText } from '$core/errors';
import { formatKind, formatOf } from '$core/formats/registry';
import type { Recording, Source } from '$core/formats/format';
import { endS, type Sampled } from '$core/samples/sampled';
import { sentenceText } from '$core/sentence/sentence';
import { CHUNK } from '$core/studies/study';
import type { TakeHead } from '$contract/take';
import { openSource } from '$store/file-source';
import { TakeWriter, type TakeGroupSetup } from '$store/take/writer';
import { check } from './check';
import type { Watched } from './watched';

export interface BringInTask {
  name: string;
  /** Where the file lies. */
  from: string;
  /** Found by the file itself when it is not said. */
  format?: string;
  options: Record<string, unknown>;
  /** Where the take is written, and what is known of it already. */
  path: string;
  head: TakeHead;
  by: string;
}
export type BringInOutcome =
  { head: TakeHead; durationS: number; hash: string; signals: number; says: string } | { fault: ErrorText };

/** Numbers of all signals that are read at a time. */
const NUMBERS = 1 << 22;

/** Writes a file of another program as a take. Done in a worker thread: reading may take long. */
export async function bringIn(task: BringInTask, { progress, signal }: Watched): Promise<BringInOutcome> {
  const { name, path, by } = task;
  let writer: TakeWriter | null = null;
  let source: (Source & { close(): void }) | null = null;
  try {
    source = openSource(task.from, name);
    const format = task.format ? formatKind(task.format) : formatOf(source);
    const { reading } = format;
    if (!reading) throw badInput('format', format.title, 'It is only written, not read.');
    const options = check(reading.sentence.schema, { ...reading.defaults, ...task.options });
    await format.prepare?.();
    const recording = reading.read(source, options);
    if (recording.signals.every((s) => s.length === 0)) throw badInput('file', name, 'It holds no samples.');
    const says = `Brought in from ${name} (${format.title.split(',')[0]}). ${sentenceText(reading.sentence, options)}`;
    const head: TakeHead = {
      ...task.head,
      ...(recording.start && { startNs: String(BigInt(Date.parse(recording.start)) * 1_000_000n) }),
      facts: { ...task.head.facts, ...Object.fromEntries(recording.facts) },
      planText: says,
    };
    const { groups, groupOf } = groupsOf(recording);
    writer = new TakeWriter(path, {
      by,
      head,
      groups,
      signals: recording.signals.map((s, k) => ({
        channelId: `${head.id}-${k + 1}`,
        name: s.name,
        rawUnit: s.unit,
        unit: s.unit,
        group: groupOf(s),
        width: s.width,
        junction: null,
        conversion: IDENTITY,
        snapshot: null,
      })),
    });
    const all = recording.signals.reduce((sum, s) => sum + s.length, 0);
    let done = 0;
    // All signals together, chunk by chunk: a table holds their samples side by side.
    const longest = Math.max(...recording.signals.map((s) => s.length));
    const chunk = Math.max(1, Math.min(CHUNK, Math.floor(NUMBERS / recording.signals.length)));
    for (let at = 0; at < longest; at += chunk) {
      if (signal.aborted) throw cancelled(name);
      recording.signals.forEach((s, k) => {
        const n = Math.min(chunk, s.length - at);
        if (n <= 0) return;
        writer!.append(k, at, s.read(at, n));
        done += n;
      });
      writer.commit();
      progress(done / all);
    }
    const durationS = Math.max(...recording.signals.map(endS));
    const lengthNs = Math.round(durationS * 1e9);
    const hash = writer.close('complete', lengthNs);
    writer = null;
    return {
      head: { ...head, state: 'complete', lengthNs },
      durationS,
      hash,
      signals: recording.signals.length,
      says,
    };
  } catch (error) {
    writer?.abandon();
    for (const end of ['', '-wal', '-shm']) rmSync(path + end, { force: true });
    return { fault: asFarrierError(error, name).text };
  } finally {
    source?.close();
  }
}

/** Signals of one rate and start are one group. */
function groupsOf({ signals }: Recording): { groups: TakeGroupSetup[]; groupOf(s: Sampled): number } {
  const groups: TakeGroupSetup[] = [];
  const place = ({ rate, startNs }: Sampled) =>
    groups.findIndex((g) => g.offsetNs === startNs && g.rate.num === rate.num && g.rate.den === rate.den);
  for (const s of signals) if (place(s) < 0) groups.push({ offsetNs: s.startNs, rate: s.rate });
  return { groups, groupOf: place };
}
