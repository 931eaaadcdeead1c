import { asFarrierError, type ErrorText } from '$core/errors';
import { studyKind } from '$core/studies/registry';
import type { Channel } from '$contract/channel';
import type { StudyResult } from '$core/studies/study';
import type { Sensor } from '$contract/sensor';
import { TakeReader } from '$store/take/reader';
import { takeUncertainties } from './take-uncertainty';

export interface StudyTask {
  path: string;
  kind: string;
  settings: Record<string, unknown>;
  signals: number[];
  /** The drawer: what certificates say of sensors without a calibration of their own. */
  sensors: Sensor[];
}
export type StudyOutcome = { result: StudyResult } | { fault: ErrorText };

/** Runs a study on a take file. Faults come back as values, so that they keep their four sentences. */
export function runStudy(task: StudyTask, progress: (share: number) => void): StudyOutcome {
  try {
    const reader = new TakeReader(task.path);
    try {
      const uncertainty = spanUncertainty(reader, task.sensors);
      const inputs = task.signals.map((id) => {
        const s = reader.signal(id);
        return {
          name: s.name,
          unit: s.unit,
          colour: (s.snapshot as Channel | null)?.colour,
          sampleRateHz: s.rateHz,
          startS: s.startS,
          length: s.length,
          read: (first: number, count: number) => reader.values(id, first, count),
          uncertainty: (first: number, count: number) => uncertainty(id, first, count),
        };
      });
      return { result: studyKind(task.kind).run(inputs, task.settings, progress, { aborted: false }) };
    } finally {
      reader.close();
    }
  } catch (error) {
    return { fault: asFarrierError(error, task.kind).text };
  }
}

const BUCKETS = 256;

/** Uncertainty of a signal's mean over a span, by the calibrations of the take; computed channels by those of their inputs at the means of
 *  the same span. */
function spanUncertainty(reader: TakeReader, sensors: Sensor[]) {
  const of = takeUncertainties(reader, sensors);
  return (id: number, first: number, count: number): number | null => {
    const { startS, rateHz, name } = reader.signal(id);
    const [fromS, toS] = [startS + first / rateHz, startS + (first + count) / rateHz];
    const meanOf = (wanted: string): number => {
      const s = reader.signals.find((other) => other.channelId && other.name === wanted);
      if (!s) return NaN;
      const from = Math.max(0, Math.floor((fromS - s.startS) * s.rateHz));
      const to = Math.min(s.length, Math.max(from + 1, Math.ceil((toS - s.startS) * s.rateHz)));
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
      return of.at(name, meanOf)?.expanded ?? null;
    } catch {
      return null; // a formula that cannot be evaluated at the means has no uncertainty there
    }
  };
}
