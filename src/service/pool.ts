import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import workerpool from 'workerpool';
import { cancelled } from '$core/errors';
import type { Watched } from './watched';
import { WORK } from './work';

type Work = typeof WORK;
interface Watch {
  progress?: (share: number) => void;
  /** Aborted when the work is not wanted any more. */
  signal?: AbortSignal;
}

/** How long work may go on after it was told to stop, before its thread is ended. */
const GRACE_MS = 1000;

/** How many threads one piece of work may use at once. */
export const LANES = Math.min(4, Math.max(1, availableParallelism()));

/** Worker threads for what reads whole takes. From sources and in scripts (FARRIER_STUDIES=inline) it is done in this thread. */
export class Workers {
  private pool: workerpool.Pool | null = null;

  private async threads(): Promise<workerpool.Pool | null> {
    const { entry } = await import('./study-worker');
    if (entry.endsWith('.ts') || process.env.FARRIER_STUDIES === 'inline') return null;
    this.pool ??= workerpool.pool(fileURLToPath(entry), {
      // One more than a piece of work takes: what is small need not wait for what is large.
      maxWorkers: LANES + 1,
      workerType: 'thread',
      workerThreadOpts: { env: { ...process.env, FARRIER_STUDIES: 'worker' } },
    });
    return this.pool;
  }

  close = async (): Promise<void> => void (await this.pool?.terminate(true));

  /** Does a piece of work in a worker thread. Work that is not wanted any more is told so, and hears it while it computes; a thread that does
   *  not listen is ended. @throws `cancelled` when the signal is aborted */
  async do<K extends keyof Work>(
    what: K,
    task: Parameters<Work[K]>[0],
    { progress = () => undefined, signal }: Watch = {},
  ): Promise<Awaited<ReturnType<Work[K]>>> {
    // A thread that computes gets no messages: it looks at shared memory.
    const stop = new Int32Array(new SharedArrayBuffer(4));
    const workers = await this.threads();
    if (signal?.aborted) throw cancelled(what);
    if (!workers) {
      // Lets whoever began it cancel it before it begins.
      const work = WORK[what] as (t: typeof task, w: Watched) => ReturnType<Work[K]>;
      return await work(task, { progress, signal: signal ?? { aborted: false } });
    }
    const promise = workers.exec(what, [task, stop.buffer], {
      on: (event: { share: number }) => progress(event.share),
    });
    let late: ReturnType<typeof setTimeout> | undefined;
    const onAbort = () => {
      Atomics.store(stop, 0, 1);
      late = setTimeout(() => void promise.cancel(), GRACE_MS);
    };
    signal?.addEventListener('abort', onAbort, { once: true });
    try {
      return (await promise) as Awaited<ReturnType<Work[K]>>;
    } catch (error) {
      if (error instanceof workerpool.Promise.CancellationError) throw cancelled(what);
      throw error;
    } finally {
      clearTimeout(late);
      signal?.removeEventListener('abort', onAbort);
    }
  }
}
