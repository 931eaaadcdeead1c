import { isMainThread } from 'node:worker_threads';
import workerpool from 'workerpool';
import { runStudy, type StudyTask } from './run-study';

/** Where this module lives: the file that worker threads load. Importing it on the main thread does nothing else. */
export const entry = import.meta.url;

if (!isMainThread && process.env.FARRIER_STUDIES === 'worker') {
  workerpool.worker({
    runStudy: (task: StudyTask) => runStudy(task, (share) => workerpool.workerEmit({ share })),
  });
}
