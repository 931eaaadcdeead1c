import { asFarrierError, type ErrorText } from '$core/errors';
import { firstFrom, lastUpTo, sampleS, type Sampled } from '$core/samples/sampled';
import { studyKind } from '$core/studies/registry';
import { joined } from '$core/studies/apart';
import { overTakes } from '$core/studies/over-takes';
import { thinned } from '$core/studies/thinned';
import type { StudyResult, TakeInputs } from '$core/studies/study';
import type { StudyBody } from '$contract/study';
import type { Sensor } from '$contract/sensor';
import { ResultStore } from '$store/results';
import { TakeReader } from '$store/take/reader';
import { takeUncertainties } from '../take-uncertainty';
import type { Watched } from '../watched';

/** A take of a task, and which of its signals (by their number in the file) stand in which role. */
export interface TaskTake {
  path: string;
  name: string;
  roles: Record<string, number[]>;
  /** Samples of them all. */
  samples: number;
  /** Why it cannot take part. */
  fault: string | null;
}
export interface StudyTask {
  kind: string;
  settings: Record<string, unknown>;
  takes: TaskTake[];
  /** The drawer: what certificates say of sensors without a calibration of their own. */
  sensors: Sensor[];
}
/** The findings, and the whole result as the bytes of its file: packed where it was computed. */
export type StudyOutcome =
  | { findings: StudyResult['findings']; rows?: StudyBody['rows']; file: Uint8Array; drawn?: Uint8Array }
  | { fault: ErrorText; cancelled: boolean };

/** Results up to this many bytes are sent and drawn whole. */
const LARGE = 30_000_000;

/** The file of a result, and where it is large what is drawn of it. */
function packed(result: StudyResult): { file: Uint8Array; drawn?: Uint8Array } {
  const file = ResultStore.bytes(result);
  return file.length > LARGE ? { file, drawn: ResultStore.bytes(thinned(result)) } : { file };
}

/** What was found in one take, or in some signals of it. */
export interface TakePart {
  id: string;
  name: string;
  result: StudyResult | null;
  fault: ErrorText | null;
}
export type PartOutcome = TakePart | { refused: ErrorText; cancelled: boolean };
/** A study’s takes as they were computed, a list for each: signals that have nothing to do with each other may come in several pieces. */
export interface JoinTask {
  kind: string;
  takes: TakePart[][];
}

/** Runs a study on take files. Faults come back as values, so that they keep their four sentences. */
export function runStudy(task: StudyTask, { progress, signal }: Watched): StudyOutcome {
  const kind = studyKind(task.kind);
  if (kind.takes) return comparing(task, { progress, signal });
  const share = 1 / task.takes.length;
  const takes: TakePart[][] = [];
  for (const [k, take] of task.takes.entries()) {
    const watched = { progress: (done: number) => progress((k + done) * share), signal };
    const part = runPart({ ...task, takes: [take] }, watched);
    if ('refused' in part) return { fault: part.refused, cancelled: part.cancelled };
    takes.push([part]);
  }
  return joinStudy({ kind: task.kind, takes });
}

/** Runs a study on one take, or on some of its signals. What it found against the take is part of the outcome; that somebody stopped it is not. */
export function runPart(task: StudyTask, { progress, signal }: Watched): PartOutcome {
  const [take] = task.takes;
  const none = { id: '', name: take.name, result: null };
  if (take.fault) return { ...none, fault: { what: take.fault } };
  const readers: TakeReader[] = [];
  try {
    const inputs = open(take, task.sensors, readers);
    const result = studyKind(task.kind).run([inputs], task.settings, progress, signal);
    return { id: inputs.id, name: take.name, result, fault: null };
  } catch (error) {
    const { code, text } = asFarrierError(error, take.name);
    return code === 'cancelled' ? { refused: text, cancelled: true } : { ...none, fault: text };
  } finally {
    for (const reader of readers) reader.close();
  }
}

/** Makes one result of all parts, packed as the bytes of its file. */
export function joinStudy({ takes }: JoinTask): StudyOutcome {
  const outcomes = takes.map((parts): TakePart => {
    const bad = parts.find((p) => p.fault);
    return bad ?? { ...parts[0], result: joined(parts.map((p) => p.result!)) };
  });
  const [front] = outcomes;
  if (outcomes.every((o) => o.fault))
    return { fault: { where: front.name, ...front.fault! }, cancelled: false };
  if (outcomes.length === 1) return { findings: front.result!.findings, ...packed(front.result!) };
  const result = overTakes(
    outcomes.map(({ fault, ...o }) => ({
      ...o,
      fault: fault && [fault.what, fault.next].filter(Boolean).join(' '),
    })),
  );
  const rows = outcomes.flatMap((o) => (o.result ? [{ take: o.id, findings: o.result.findings }] : []));
  return { findings: result.findings, rows, ...packed(result) };
}

/** A kind that compares takes looks at all of them at once. */
function comparing(task: StudyTask, { progress, signal }: Watched): StudyOutcome {
  const readers: TakeReader[] = [];
  try {
    const takes = task.takes.map((take) => open(take, task.sensors, readers));
    const result = studyKind(task.kind).run(takes, task.settings, progress, signal);
    return { findings: result.findings, ...packed(result) };
  } catch (error) {
    const fault = asFarrierError(error, task.kind);
    return { fault: fault.text, cancelled: fault.code === 'cancelled' };
  } finally {
    for (const reader of readers) reader.close();
  }
}

function open({ path, name, roles }: TaskTake, sensors: Sensor[], readers: TakeReader[]): TakeInputs {
  const reader = new TakeReader(path);
  readers.push(reader);
  return inputsFrom(reader, name, roles, sensors);
}

function inputsFrom(
  reader: TakeReader,
  name: string,
  roles: Record<string, number[]>,
  sensors: Sensor[],
): TakeInputs {
  const uncertainty = spanUncertainty(reader, sensors);
  const input = (id: number): Sampled => ({
    ...reader.sampled(id),
    uncertainty: (first, count) => uncertainty(id, first, count),
  });
  const { head, durationS } = reader;
  const signals = Object.fromEntries(Object.entries(roles).map(([key, ids]) => [key, ids.map(input)]));
  return { id: head.id, name, facts: head.facts, durationS, signals };
}

const BUCKETS = 256;

/** Uncertainty of a signal's mean over a span, by the calibrations of the take; computed channels by those of their inputs at the means of
 *  the same span. */
function spanUncertainty(reader: TakeReader, sensors: Sensor[]) {
  const of = takeUncertainties(reader, sensors);
  return (id: number, first: number, count: number): number | null => {
    const signal = reader.signal(id);
    const [fromS, toS] = [sampleS(signal, first), sampleS(signal, first + count)];
    const meanOf = (wanted: string): number => {
      const s = reader.signals.find((other) => other.channelId && other.name === wanted);
      if (!s) return NaN;
      // From the sample that holds as the span begins.
      const from = Math.max(0, lastUpTo(s, fromS));
      const to = Math.min(s.length, Math.max(from + 1, firstFrom(s, toS)));
      const { min, max } = reader.window(s.id, from, to, BUCKETS);
      let sum = 0;
      let n = 0;
      for (let i = 0; i < min.length; i++) {
        if (Number.isNaN(min[i])) continue;
        sum += (min[i] + max[i]) / 2;
        n++;
      }
      return sum / n;
    };
    try {
      return of.at(signal.name, meanOf)?.expanded ?? null;
    } catch {
      return null; // a formula that cannot be evaluated at the means has no uncertainty there
    }
  };
}
