import { asFarrierError, type ErrorText } from '$core/errors';
import type { Rehearsal } from '$contract/rehearsal';
import type { SealState } from '$contract/take';
import { rehearse, type RehearsalTask } from '$engine/rehearsal';
import { TakeReader } from '$store/take/reader';
import { runStudy } from './run-study';

export type Outcome<T> = { result: T } | { fault: ErrorText };

/** Faults come back from a worker as values, so that they keep their four sentences. */
function told<T>(where: string, work: () => T): Outcome<T> {
  try {
    return { result: work() };
  } catch (error) {
    return { fault: asFarrierError(error, where).text };
  }
}

/** What worker threads do: all that reads a whole take. */
export const WORK = {
  runStudy,
  rehearse: (task: RehearsalTask, progress: (share: number) => void): Outcome<Rehearsal> =>
    told('rehearsal', () => rehearse(task, progress)),
  checkSeal: ({ path }: { path: string }): Outcome<SealState> =>
    told(path, () => {
      const reader = new TakeReader(path);
      try {
        return reader.sealState();
      } finally {
        reader.close();
      }
    }),
};
