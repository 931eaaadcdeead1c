import { magnitudes } from '$core/signal/magnitude';
import { compileConversion } from '$core/conversion/conversion';
import { Moments } from '$core/statistics/moments';
import { rangeDecimals } from '$core/readings';
import { firstFrom, lastUpTo, rateHz, sampleS } from '$core/samples/sampled';
import { mendText } from '$core/mending/registry';
import { NO_NAMES, sentenceText } from '$core/sentence/sentence';
import { channelKind, commonOf, roleOf, type Channel } from '$contract/channel';
import type { ProofRow, SealState, TakeSignal, TakeView } from '$contract/take';
import { FarrierError, badInput, conflict } from '$core/errors';
import { nameText } from '$contract/name-text';
import { TRACES } from '$contract/palette';
import { listSensors } from '$store/entities';
import { changeTakes, getTake, listTakes, type TakeRow } from '$store/takes';
import type { StoredProof, TakeReader } from '$store/take/reader';
import type { Meaning, StoredSignal } from '$store/take/signals';
import { statSync } from 'node:fs';
import { jobOf, log, takePath, type App } from './app';
import { check } from './check';
import type { Lease } from './take-leases';
import { takeUncertainties } from './take-uncertainty';
import { channelThen } from './channel-then';

const MAX_BUCKETS = 4000;
const MAX_SIGNALS = 500;

/** A reader of a take for this turn of the event loop; what goes on longer leases one. @throws `not_found`, `damaged` */
export function openTake(app: App, id: string, meaning: Meaning = 'as corrected'): TakeReader {
  const row = getTake(app.db, id);
  return named(app.takes.now(takePath(app, row.id), meaning), row);
}

/** A reader of a take until it is given back. @throws `not_found`, `damaged` */
export function leaseTake(app: App, id: string): Lease {
  const row = getTake(app.db, id);
  const lease = app.takes.lease(takePath(app, row.id));
  named(lease.reader, row);
  return lease;
}

/** A take may have been renamed since, or brought in; its sealed file says what it was called first. */
function named(reader: TakeReader, { name, number, folder, about }: TakeRow): TakeReader {
  Object.assign(reader.head, { name, number, folder, from: about?.from ?? undefined });
  return reader;
}

/** Calls a take by another name; the former one stays in the logbook and in its file. @throws `not_found`, `bad_input`, `conflict` while it
 *  is recorded */
export function renameTake(app: App, id: string, name: string, by: string): void {
  const row = getTake(app.db, id);
  const next = check(nameText(120), name);
  if (next === row.name) return;
  if (row.state === 'recording')
    throw conflict('take', `${row.name} is still being recorded.`, 'Rename it once it has ended.');
  changeTakes(app.db, [id], { name: next });
  log(app, 'take', `${row.name} is called “${next}” from now on.`, { takeId: id, by });
}

/** Whether a take's file can be read now. */
export function canRead(app: App, id: string): boolean {
  try {
    openTake(app, id);
    return true;
  } catch {
    return false;
  }
}

export const takeRows = (app: App): TakeRow[] => listTakes(app.db, jobOf(app).id);
export const takeFacts = (app: App) => (id: string) => openTake(app, id).head.facts;

export function describeSignal(signal: StoredSignal): TakeSignal {
  const channel = channelThen(signal);
  return {
    id: signal.id,
    channelId: signal.channelId,
    name: signal.name,
    unit: signal.unit,
    decimals: channel ? rangeDecimals(commonOf(channel).range.min, commonOf(channel).range.max) : 2,
    group: channel?.group ?? '',
    colour: channel?.colour ?? signal.id % TRACES.length,
    role: channel ? roleOf(channel) : signal.made ? 'computed' : 'measured',
    made: signal.made?.says ?? null,
    quantity: signal.quantity,
    rate: signal.rate,
    startNs: signal.startNs,
    width: signal.width,
    length: signal.length,
    sentence: channel
      ? sentenceText(channelKind(channel.kind).sentence, channel.settings, NO_NAMES)
      : signal.made
        ? signal.made.says
        : signal.channelId
          ? 'As the file has it that was brought in.'
          : 'Temperature of the module’s terminals, to which its thermocouples refer.',
    calibration: channel
      ? calibrationText(channel)
      : signal.made
        ? 'of what it is made from; no uncertainty is claimed'
        : signal.channelId
          ? 'of the file'
          : 'of the module',
    mends: signal.mends.map(({ id, mending, why, by, at }) => ({
      id,
      kind: mending.kind,
      says: mendText(mending, signal),
      why,
      by,
      at,
    })),
    corrected:
      signal.revision > 1 && !signal.made
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
    judgements: reader.judgements(),
    gaps: reader.gaps(),
    meaning,
    corrected: openTake(app, id).signals.some((s) => s.revision > 1 && !s.made),
    proofs: proofRows(reader),
    timing: reader.timing(),
  };
}

/** Whether a take's file is still what it was closed with. Found once for each state of the file. @throws `not_found`, `damaged` */
export async function sealOf(app: App, id: string): Promise<SealState> {
  const path = takePath(app, openTake(app, id).head.id);
  const { mtimeMs, size } = statSync(path);
  const stamp = `${mtimeMs} ${size}`;
  const known = app.seals.get(id);
  if (known?.stamp === stamp) return known.state;
  const outcome = await app.workers.do('checkSeal', { path });
  if ('fault' in outcome) throw new FarrierError('damaged', outcome.fault);
  app.seals.set(id, { stamp, state: outcome.result });
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
  const wanted = [...new Set(signals)];
  if (wanted.length > MAX_SIGNALS)
    throw badInput('signals', wanted.length, `Ask for at most ${MAX_SIGNALS} at once.`);
  const reader = openTake(app, id, meaning);
  return wanted.map((signal) => {
    const s = reader.signal(signal);
    const first = Math.max(0, lastUpTo(s, fromS));
    const end = Math.min(s.length, firstFrom(s, toS) + 1);
    if (end <= first) return { signal, fromS, stepS: 1, min: new Float32Array(0), max: new Float32Array(0) };
    const { min, max } = reader.window(signal, first, end, buckets);
    return {
      signal,
      fromS: sampleS(s, first),
      stepS: (end - first) / min.length / rateHz(s),
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
    const index = lastUpTo(s, atS);
    if (index < 0 || index >= s.length) return null;
    const [value] = magnitudes(reader.values(signal, index, 1), s.width);
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
