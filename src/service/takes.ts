import { compileConversion } from '$core/conversion/conversion';
import { Moments } from '$core/statistics/moments';
import { csv, type CsvOptions } from '$core/formats/csv/csv';
import type { Recording } from '$core/formats/format';
import { rangeDecimals } from '$core/readings';
import { NO_NAMES, sentenceText } from '$core/sentence/sentence';
import { channelKind, commonOf, roleOf, type Channel } from '$contract/channel';
import type { ProofRow, SealState, TakeSignal, TakeView } from '$contract/take';
import { FarrierError, badInput, notFound } from '$core/errors';
import { getTake, listSensors, listTakes, type TakeRow } from '$store/entities';
import { TakeReader, type Meaning, type StoredProof, type StoredSignal } from '$store/take/reader';
import { statSync } from 'node:fs';
import { jobOf, log, takePath, type App } from './app';
import { inWorker } from './pool';
import { takeUncertainties } from './take-uncertainty';

const MAX_OPEN = 8;
const MAX_BUCKETS = 4000;
const readers = new Map<string, TakeReader>();

/** A reader of a finished take, kept open for the next request; those not used for longest are closed. */
export function openTake(app: App, id: string, meaning: Meaning = 'as corrected'): TakeReader {
  const row = getTake(app.db, id);
  const key = meaning === 'as recorded' ? `${id} ${meaning}` : id;
  const known = readers.get(key);
  if (known && known.head.state !== 'recording') {
    readers.delete(key);
    readers.set(key, known);
    return known;
  }
  known?.close();
  const reader = new TakeReader(takePath(app, row.id), meaning);
  readers.set(key, reader);
  if (readers.size > MAX_OPEN) {
    const [oldest] = readers.keys();
    readers.get(oldest)!.close();
    readers.delete(oldest);
  }
  return reader;
}

/** Closes a take's readers: its file was given another meaning. */
export function forgetTake(id: string): void {
  for (const key of [id, `${id} as recorded`]) {
    readers.get(key)?.close();
    readers.delete(key);
  }
}

export const takeRows = (app: App): TakeRow[] => listTakes(app.db, jobOf(app).id);
export const takeFacts = (app: App) => (id: string) => openTake(app, id).head.facts;

/** The channel as it was when the take was made. */
export const channelThen = (signal: StoredSignal) => signal.snapshot as Channel | null;

export function describeSignal(signal: StoredSignal): TakeSignal {
  const channel = channelThen(signal);
  return {
    id: signal.id,
    channelId: signal.channelId,
    name: signal.name,
    unit: signal.unit,
    decimals: channel ? rangeDecimals(commonOf(channel).range.min, commonOf(channel).range.max) : 2,
    group: channel?.group ?? '',
    colour: channel?.colour ?? 0,
    role: channel ? roleOf(channel) : 'measured',
    rateHz: signal.rateHz,
    startS: signal.startS,
    length: signal.length,
    sentence: channel
      ? sentenceText(channelKind(channel.kind).sentence, channel.settings, NO_NAMES)
      : 'Temperature of the module’s terminals, to which its thermocouples refer.',
    calibration: channel ? calibrationText(channel) : 'of the module',
    corrected:
      signal.revision > 1
        ? `read anew since ${new Date(signal.at).toISOString().slice(0, 10)}, by ${signal.by}: ${signal.reason}`
        : null,
  };
}

export function calibrationText(channel: Channel): string {
  const { calibration: c } = channel;
  if (!c)
    return roleOf(channel) === 'computed' ? 'follows its inputs' : 'by sheet: the values of the sentence';
  const made = c.method === 'by points' ? `by ${c.points.length} points` : c.method;
  if (!c.applies)
    return `${made}, ${new Date(c.at).toISOString().slice(0, 10)}, by ${c.by}: the values of the sentence`;
  return `${made}, ${new Date(c.at).toISOString().slice(0, 16).replace('T', ' ')} UTC, by ${c.by}: slope ${c.slope.toPrecision(6)} ${c.unit}/${c.rawUnit}, offset ${c.offset.toPrecision(5)} ${c.unit}${c.points.length > 2 ? `, largest distance ${c.largestResidual.toPrecision(2)} ${c.unit}` : ''}`;
}

/** Everything about a take but its samples. @throws `not_found`, `damaged` */
export function viewTake(app: App, id: string, meaning: Meaning = 'as corrected'): TakeView {
  const reader = openTake(app, id, meaning);
  return {
    head: reader.head,
    durationS: reader.durationS,
    signals: reader.signals.filter((s) => s.channelId).map(describeSignal),
    notes: reader.notes(),
    gaps: reader.gaps(),
    meaning,
    corrected: openTake(app, id).signals.some((s) => s.revision > 1),
    proofs: proofRows(reader),
    timing: reader.timing(),
  };
}

const seals = new Map<string, { stamp: string; state: SealState }>();
/** Whether a take's file is still what it was closed with. Found once for each state of the file. @throws `not_found`, `damaged` */
export async function sealOf(app: App, id: string): Promise<SealState> {
  const path = takePath(app, openTake(app, id).head.id);
  const { mtimeMs, size } = statSync(path);
  const stamp = `${mtimeMs} ${size}`;
  const known = seals.get(id);
  if (known?.stamp === stamp) return known.state;
  const outcome = await inWorker('checkSeal', { path });
  if ('fault' in outcome) throw new FarrierError('damaged', outcome.fault);
  seals.set(id, { stamp, state: outcome.result });
  if (outcome.result.state === 'changed')
    log(
      app,
      'trouble',
      `${openTake(app, id).head.name} was changed since it was sealed: ${outcome.result.changed.join(', ')}.`,
      { takeId: id },
    );
  return outcome.result;
}

/** Zero and shunt of each bridge before and after, in its unit, and how far they moved. */
function proofRows(reader: TakeReader): ProofRow[] {
  const proofs = reader.proofs();
  const bySignal = new Map<number, StoredProof[]>();
  for (const p of proofs) bySignal.set(p.signal, [...(bySignal.get(p.signal) ?? []), p]);
  return [...bySignal].map(([id, own]) => {
    const signal = reader.signal(id);
    const convert = compileConversion(signal.conversion);
    const read = (moment: string, step: string) => {
      const found = own.find((p) => p.moment === moment && p.step === step);
      if (!found) return null;
      const m = new Moments();
      m.push(found.raw);
      const out = new Float64Array(1);
      convert([m.count ? m.mean : NaN], out, 1);
      return Number.isFinite(out[0]) ? out[0] : null;
    };
    const step = (moment: string) => {
      const [zero, shunt] = [read(moment, 'zero'), read(moment, 'shunt')];
      return zero === null || shunt === null ? null : shunt - zero;
    };
    const [before, after] = [step('before'), step('after')];
    const [zeroBefore, zeroAfter] = [read('before', 'zero'), read('after', 'zero')];
    return {
      name: signal.name,
      unit: signal.unit,
      zeroBefore,
      zeroAfter,
      stepBefore: before,
      stepAfter: after,
      zeroMoved: zeroBefore === null || zeroAfter === null ? null : zeroAfter - zeroBefore,
      stepMoved: before === null || after === null ? null : after / before - 1,
    };
  });
}

/** One drawn window: for each signal where its first bucket begins, how far apart they are, and their extremes. */
export interface WindowPart {
  signal: number;
  fromS: number;
  stepS: number;
  min: Float32Array;
  max: Float32Array;
}

/** Extremes of a span for drawing. @param fromS and toS seconds of the take @throws `bad_input` */
export function takeWindow(
  app: App,
  id: string,
  signals: number[],
  fromS: number,
  toS: number,
  buckets: number,
  meaning: Meaning = 'as corrected',
): WindowPart[] {
  if (!(toS > fromS)) throw badInput('span', `${fromS} to ${toS} s`, 'The end has to come after the start.');
  if (!(buckets >= 1 && buckets <= MAX_BUCKETS))
    throw badInput('width', buckets, `Give 1 to ${MAX_BUCKETS} buckets.`);
  const reader = openTake(app, id, meaning);
  return signals.map((signal) => {
    const s = reader.signal(signal);
    const first = Math.max(0, Math.floor((fromS - s.startS) * s.rateHz));
    const end = Math.min(s.length, Math.ceil((toS - s.startS) * s.rateHz) + 1);
    if (end <= first) return { signal, fromS, stepS: 1, min: new Float32Array(0), max: new Float32Array(0) };
    const { min, max } = reader.window(signal, first, end, buckets);
    return {
      signal,
      fromS: s.startS + first / s.rateHz,
      stepS: (end - first) / min.length / s.rateHz,
      min,
      max,
    };
  });
}

/** Values of signals at an instant: the last sample at or before it; null in a gap or outside. */
export function valuesAt(
  app: App,
  id: string,
  signals: number[],
  atS: number,
  meaning: Meaning = 'as corrected',
): (number | null)[] {
  const reader = openTake(app, id, meaning);
  return signals.map((signal) => {
    const s = reader.signal(signal);
    const index = Math.floor((atS - s.startS) * s.rateHz + 1e-6);
    if (index < 0 || index >= s.length) return null;
    const [value] = reader.values(signal, index, 1);
    return Number.isFinite(value) ? value : null;
  });
}

/** Expanded uncertainty (about 95 %) of signals at an instant; null where nothing says how certain they are. */
export function uncertaintiesAt(
  app: App,
  id: string,
  signals: number[],
  atS: number,
  meaning: Meaning = 'as corrected',
): (number | null)[] {
  const reader = openTake(app, id, meaning);
  const of = takeUncertainties(reader, listSensors(app.db));
  const named = new Map(reader.signals.filter((s) => s.channelId).map((s) => [s.name, s.id]));
  const valueOf = (name: string) => {
    const signal = named.get(name);
    return signal === undefined ? NaN : (valuesAt(app, id, [signal], atS, meaning)[0] ?? NaN);
  };
  return signals.map((signal) => of.at(reader.signal(signal).name, valueOf)?.expanded ?? null);
}

/** A take as formats see it. @param signals those to take along; none named means all channels */
export function recordingOf(app: App, id: string, signals: number[]): Recording {
  const reader = openTake(app, id);
  const chosen = signals.length
    ? signals.map((s) => reader.signal(s))
    : reader.signals.filter((s) => s.channelId);
  return {
    name: reader.head.name,
    start: new Date(Number(BigInt(reader.head.startNs) / 1_000_000n)).toISOString(),
    facts: Object.entries(reader.head.facts),
    signals: chosen.map((s) => ({
      name: s.name,
      unit: s.unit,
      sampleRateHz: s.rateHz,
      startS: s.startS,
      length: s.length,
      read: (first, count) => reader.values(s.id, first, count),
    })),
  };
}

/** A take as CSV, made while it is sent. @throws `bad_input` before anything is sent */
export function exportCsv(
  app: App,
  id: string,
  signals: number[],
  options: CsvOptions,
): { name: string; mediaType: string; body: ReadableStream<Uint8Array> } {
  const recording = recordingOf(app, id, signals);
  const pieces = csv.write(recording, options);
  const encoder = new TextEncoder();
  let next = pieces.next(); // the first piece shows whether the options suit
  return {
    name: `${recording.name}.${csv.extension}`,
    mediaType: csv.mediaType,
    body: new ReadableStream({
      pull(controller) {
        if (next.done) return controller.close();
        controller.enqueue(typeof next.value === 'string' ? encoder.encode(next.value) : next.value);
        next = pieces.next();
      },
    }),
  };
}

/** @throws `not_found` */
export function takeSignal(app: App, id: string, channelId: string): StoredSignal {
  const found = openTake(app, id).signals.find((s) => s.channelId === channelId);
  if (!found) throw notFound('channel in this take', channelId);
  return found;
}
