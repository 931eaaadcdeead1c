import { studyKind } from '$core/studies/registry';
import { LANES, type Workers } from '../pool';
import type { Watched } from '../watched';
import type { JoinTask, StudyOutcome, StudyTask, TakePart } from './run';

/** Fewer samples are computed sooner in one thread than they are shared among several. */
const WORTH_SHARING = 4_000_000;

/** A part of a study: the take it is of, by its place in the task, and how many samples it reads. */
interface Part {
  take: number;
  task: StudyTask;
  samples: number;
}

/** Parts of a study that can be computed beside each other: its takes, and in a single take the signals that have nothing to do with each other.
 *  One part where it is not worth it. @param lanes threads that are there */
export function partsOf(task: StudyTask, lanes: number): Part[] {
  const kind = studyKind(task.kind);
  const samples = task.takes.reduce((sum, take) => sum + take.samples, 0);
  if (lanes < 2 || kind.takes || samples < WORTH_SHARING) return [{ take: 0, task, samples }];
  return task.takes.flatMap((take, at): Part[] => {
    const all = (kind.apart && take.roles[kind.apart]) || [];
    const pieces = task.takes.length >= lanes ? 1 : Math.min(all.length, 2 * lanes);
    if (pieces < 2) return [{ take: at, task: { ...task, takes: [take] }, samples: take.samples }];
    return Array.from({ length: pieces }, (_, k) => {
      const some = all.slice(Math.round((k * all.length) / pieces), Math.round(((k + 1) * all.length) / pieces)); // prettier-ignore
      const own = (take.samples * some.length) / all.length;
      const piece = { ...take, roles: { ...take.roles, [kind.apart!]: some }, samples: own };
      return { take: at, task: { ...task, takes: [piece] }, samples: own };
    });
  });
}

/** Computes a study on as many threads as are worth it. */
export async function compute(
  workers: Pick<Workers, 'do'>,
  task: StudyTask,
  { progress, signal }: { progress: Watched['progress']; signal: AbortSignal },
  lanes = LANES,
): Promise<StudyOutcome> {
  const parts = partsOf(task, lanes);
  if (parts.length === 1) return workers.do('runStudy', task, { progress, signal });
  const takes: JoinTask['takes'] = task.takes.map(() => []);
  const done = parts.map(() => 0);
  const all = parts.reduce((sum, p) => sum + p.samples, 0) || 1;
  // One that is stopped stops the others.
  const stop = new AbortController();
  const onAbort = () => stop.abort();
  signal.addEventListener('abort', onAbort, { once: true });
  if (signal.aborted) stop.abort();
  const found: (TakePart | undefined)[] = [];
  let refused: Extract<StudyOutcome, { fault: unknown }> | null = null;
  let next = 0;
  const lane = async () => {
    while (next < parts.length && !refused) {
      const at = next++;
      const told = (share: number) => {
        done[at] = share;
        progress(parts.reduce((sum, p, k) => sum + done[k] * p.samples, 0) / all);
      };
      const part = await workers.do('runPart', parts[at].task, { progress: told, signal: stop.signal });
      if ('refused' in part) refused ??= { fault: part.refused, cancelled: part.cancelled };
      else found[at] = part;
      told(1);
    }
  };
  try {
    await Promise.all(
      Array.from({ length: Math.min(lanes, parts.length) }, () =>
        lane().catch((error: unknown) => {
          stop.abort();
          throw error;
        }),
      ),
    );
  } finally {
    signal.removeEventListener('abort', onAbort);
  }
  if (refused) return refused;
  parts.forEach((p, k) => takes[p.take].push(found[k]!));
  return workers.do('joinStudy', { kind: task.kind, takes }, { signal });
}
