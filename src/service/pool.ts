import { fileURLToPath } from 'node:url';
import workerpool from 'workerpool';
import { WORK } from './work';

let pool: workerpool.Pool | null = null;

/** Worker threads for what reads whole takes. From sources and in scripts (FARRIER_STUDIES=inline) it is done in this thread. */
async function threads(): Promise<workerpool.Pool | null> {
  const { entry } = await import('./study-worker');
  if (entry.endsWith('.ts') || process.env.FARRIER_STUDIES === 'inline') return null;
  pool ??= workerpool.pool(fileURLToPath(entry), {
    maxWorkers: 2,
    workerType: 'thread',
    workerThreadOpts: { env: { ...process.env, FARRIER_STUDIES: 'worker' } },
  });
  return pool;
}

export const wasCancelled = (error: unknown) => error instanceof workerpool.Promise.CancellationError;

export const closePool = async () => void (await pool?.terminate(true));

type Work = typeof WORK;
interface Watch {
  progress?: (share: number) => void;
  /** Given what cancels the work. */
  cancellable?: (cancel: () => void) => void;
}

/** Does a piece of work in a worker thread. */
export async function inWorker<K extends keyof Work>(
  what: K,
  task: Parameters<Work[K]>[0],
  { progress = () => undefined, cancellable }: Watch = {},
): Promise<ReturnType<Work[K]>> {
  const workers = await threads();
  if (!workers)
    return (WORK[what] as (t: typeof task, p: (share: number) => void) => ReturnType<Work[K]>)(
      task,
      progress,
    );
  const promise = workers.exec(what, [task], { on: (event: { share: number }) => progress(event.share) });
  cancellable?.(() => void promise.cancel());
  return (await promise) as ReturnType<Work[K]>;
}
