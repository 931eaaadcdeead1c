import { isMainThread } from 'node:worker_threads';
import workerpool from 'workerpool';
import { WORK } from './work';

/** Where this module lives: the file that worker threads load. Importing it on the main thread does nothing else. */
export const entry = import.meta.url;

const progress = (share: number) => workerpool.workerEmit({ share });

if (!isMainThread && process.env.FARRIER_STUDIES === 'worker') {
  workerpool.worker({
    runStudy: (task: Parameters<typeof WORK.runStudy>[0]) => WORK.runStudy(task, progress),
    rehearse: (task: Parameters<typeof WORK.rehearse>[0]) => WORK.rehearse(task, progress),
    checkSeal: (task: Parameters<typeof WORK.checkSeal>[0]) => WORK.checkSeal(task),
  });
}
