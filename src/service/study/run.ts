import { asFarrierError, type ErrorText } from '$core/errors';
import { firstFrom, lastUpTo, sampleS, type Sampled } from '$core/samples/sampled';
import { studyKind } from '$core/studies/registry';
import type { StudyResult, TakeInputs } from '$core/studies/study';
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
  { findings: StudyResult['findings']; file: Uint8Array } | { fault: ErrorText; cancelled: boolean };

/** Runs a study on take files. Faults come back as values, so that they keep their four sentences. */
export function runStudy(task: StudyTask, { progress, signal }: Watched): StudyOutcome {
  const readers: TakeReader[] = [];
  try {
    const inputs = task.takes.map(({ path, name, roles }): TakeInputs => {
      const reader = new TakeReader(path);
      readers.push(reader);
      const uncertainty = spanUncertainty(reader, task.sensors);
      const input = (id: number): Sampled => ({
        ...reader.sampled(id),
        uncertainty: (first, count) => uncertainty(id, first, count),
      });
      const { head, durationS } = reader;
      const signals = Object.fromEntries(Object.entries(roles).map(([key, ids]) => [key, ids.map(input)]));
      return { id: head.id, name, facts: head.facts, durationS, signals };
    });
    const result = studyKind(task.kind).run(inputs, task.settings, progress, signal);
    return { findings: result.findings, file: ResultStore.bytes(result) };
  } catch (error) {
    const fault = asFarrierError(error, task.kind);
    return { fault: fault.text, cancelled: fault.code === 'cancelled' };
  } finally {
    for (const reader of readers) reader.close();
  }
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
