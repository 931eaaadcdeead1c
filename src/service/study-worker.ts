import { isMainThread } from 'node:worker_threads';
import workerpool from 'workerpool';
import type { Watched } from './watched';
import { WORK } from './work';

/** Where this module lives: the file that worker threads load. Importing it on the main thread does nothing else. */
export const entry = import.meta.url;

/** What the thread tells of its progress, and the shared memory by which it is told to stop. */
function watched(buffer: SharedArrayBuffer): Watched {
  const stop = new Int32Array(buffer);
  return {
    progress: (share) => workerpool.workerEmit({ share }),
    signal: {
      get aborted() {
        return Atomics.load(stop, 0) !== 0;
      },
    },
  };
}

if (!isMainThread && process.env.FARRIER_STUDIES === 'worker') {
  const methods = Object.entries(WORK).map(([name, work]) => [
    name,
    (task: never, stop: SharedArrayBuffer) =>
      (work as (t: never, w: Watched) => unknown)(task, watched(stop)),
  ]);
  workerpool.worker(Object.fromEntries(methods));
}
