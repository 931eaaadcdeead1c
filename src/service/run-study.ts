import { asFarrierError, type ErrorText } from '$core/errors';
import { studyKind } from '$core/studies/registry';
import type { Channel } from '$contract/channel';
import type { StudyResult } from '$core/studies/study';
import { TakeReader } from '$store/take/reader';

export interface StudyTask {
  path: string;
  kind: string;
  settings: Record<string, unknown>;
  signals: number[];
}
export type StudyOutcome = { result: StudyResult } | { fault: ErrorText };

/** Runs a study on a take file. Faults come back as values, so that they keep their four sentences. */
export function runStudy(task: StudyTask, progress: (share: number) => void): StudyOutcome {
  try {
    const reader = new TakeReader(task.path);
    try {
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
