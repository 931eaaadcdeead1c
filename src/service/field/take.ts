import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import { IDENTITY } from '$core/conversion/conversion';
import { driftPpm, trueMs, type ClockRun } from '$core/field/clock';
import { readingText } from '$core/readings';
import { fromHundredths } from '$core/field/messages';
import { findings } from '$core/field/recorder/found';
import { recorderModel } from '$core/field/recorder/plan';
import type { RecorderState } from '$core/field/recorder/state';
import { CORE_VERSION } from '$core/version';
import { aheadText, spanText, type Placed } from '$contract/field';
import { EMPTY_PLAN } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { nextTakeNumber } from '$store/takes';
import { TakeWriter } from '$store/take/writer';
import { jobOf, log, takePath, type App } from '../app';
import { listed } from '../inspect/look-into';

const NS_A_MS = 1e6;

/** What its readings say, as facts of the take: papers and lists have them without more. */
function saidBy(readings: Int16Array, width: number, first: number, { setup }: RecorderState): Record<string, string> {
  const { high, low, settleS, intervalS } = setup!;
  const own = Float64Array.from({ length: Math.floor(readings.length / width) }, (_, i) => fromHundredths(readings[i * width]));
  const f = findings(own, intervalS, { high: high?.at ?? null, low: low?.at ?? null, from: Math.max(0, Math.ceil(settleS / intervalS) - first) });
  if (f.count === 0) return {};
  const celsius = (v: number) => `${readingText(v, { digits: 3 })} °C`;
  const beyond = (minutes: number, degrees: number) => (minutes > 0 ? `${spanText(minutes)}, ${readingText(degrees, { digits: 3 })} °C·min` : 'never');
  return {
    Lowest: celsius(f.lowest),
    Highest: celsius(f.highest),
    Mean: celsius(f.mean),
    'Mean kinetic': celsius(f.meanKinetic),
    ...(high && { [`Above ${celsius(high.at)}`]: beyond(f.minutesAbove, f.degreeMinutesAbove) }),
    ...(low && { [`Below ${celsius(low.at)}`]: beyond(f.minutesBelow, f.degreeMinutesBelow) }),
  };
} // prettier-ignore

/** Writes what a recorder has recorded as a take: at true times, as far as its clock tells; marks of its button are marks, breaks are gaps with their reason.
 *  @param readings in hundredths, from index `first` on @returns its id @throws `unavailable` where the disk does not take it */
export function takeOf(app: App, state: RecorderState, readings: Int16Array, first: number, readMs: number, placed: Placed | null = null): string {
  const { measures } = recorderModel(state.model)!;
  const setup = state.setup!;
  const width = measures.length;
  const count = Math.floor(readings.length / width);
  const clock: ClockRun = { setMs: state.clockSetMs, readMs, saidMs: state.saidMs };
  // A clock that ran evenly makes every interval longer or shorter by the same.
  const stretch = state.saidMs > state.clockSetMs && readMs > state.clockSetMs ? (readMs - state.clockSetMs) / (state.saidMs - state.clockSetMs) : 1; // prettier-ignore
  const den = Math.round(setup.intervalS * stretch * 1e9);
  const start = trueMs(state.startedMs! + first * setup.intervalS * 1000, clock);
  const id = randomUUID();
  const job = jobOf(app);
  const head: TakeHead = {
    id,
    jobId: job.id,
    job: job.name,
    number: nextTakeNumber(app.db, job.id) + (app.live.status.take ? 1 : 0),
    name: state.name,
    state: 'recording',
    startNs: String(BigInt(Math.round(start)) * BigInt(NS_A_MS)),
    lengthNs: null,
    facts: { Recorder: state.serial, Model: state.model, ...(placed?.place && { Place: placed.place }), ...(placed?.by && { 'Put there by': placed.by }), ...saidBy(readings, width, first, state) },
    plan: EMPTY_PLAN,
    planText: `Recorded by ${state.serial} (${state.model}) every ${setup.intervalS} s; ${aheadText((state.saidMs - readMs) / 1000)}${stretch === 1 ? '' : `, ${driftPpm(clock).toFixed(1)} ppm, and times are corrected evenly between setting and reading`}.`,
    planName: '',
    folder: 'Field',
    part: null,
    from: state.serial,
    coreVersion: CORE_VERSION,
  };
  const path = takePath(app, id);
  let writer: TakeWriter | null = null;
  try {
    writer = new TakeWriter(path, {
      head,
      by: 'the recorder',
      groups: [{ offsetNs: 0, rate: { num: 1_000_000_000, den } }],
      signals: measures.map(({ name, unit, quantity }) => ({
        channelId: `${state.serial} ${quantity}`,
        name,
        rawUnit: unit,
        unit,
        group: 0,
        junction: null,
        conversion: IDENTITY,
        snapshot: null,
      })),
    });
    measures.forEach((_, k) => writer!.append(k, 0, Float32Array.from({ length: count }, (_v, i) => fromHundredths(readings[i * width + k])))); // prettier-ignore
    const at = (ms: number) => Math.round((ms - start) * NS_A_MS);
    for (const { at: from, count: missing, why } of state.breaks) {
      const begin = Math.max(0, from - first);
      if (missing > 0 && begin < count) writer.gap(0, begin, Math.min(missing, count - begin), why);
      if (from >= first) writer.note(Math.max(0, at(trueMs(state.startedMs! + from * setup.intervalS * 1000, clock))), 'event', why, 'the recorder'); // prettier-ignore
    }
    const lengthNs = Math.round((count * den) / 1); // one interval for each reading
    for (const mark of state.marks) {
      const offset = at(trueMs(mark, clock));
      if (offset >= 0 && offset <= lengthNs) writer.note(offset, 'mark', 'Its button was pushed.', 'the recorder');
    }
    writer.commit();
    const hash = writer.close('complete', lengthNs);
    writer = null;
    listed(app, { ...head, state: 'complete', lengthNs }, lengthNs / NS_A_MS);
    log(app, 'take', `${state.name}: ${count} readings fetched from ${state.serial}.`, { takeId: id, by: 'the cradle' });
    log(app, 'seal', `${state.name} sealed, SHA-256 ${hash}.`, { takeId: id });
    return id;
  } catch (error) {
    writer?.abandon();
    for (const end of ['', '-wal', '-shm']) rmSync(path + end, { force: true });
    throw error;
  }
} // prettier-ignore
