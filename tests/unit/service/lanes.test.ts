import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from 'cbor2';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { cancelled } from '$core/errors';
import { STUDY_KINDS } from '$core/studies/registry';
import type { StudyResult } from '$core/studies/study';
import { closeApp, openApp, takePath, type App } from '$service/app';
import { compute, partsOf } from '$service/study/lanes';
import { runStudy, type StudyTask } from '$service/study/run';
import { openTake } from '$service/takes';
import { WORK } from '$service/work';
import { makeTake } from '../takes';

// A study on several threads finds what it finds on one.
let folder: string;
let app: App;
const takes: string[] = [];
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-lanes-'));
  app = openApp(folder);
  for (const t of [0, 1, 2])
    takes.push(
      makeTake(app, {
        name: `Take ${t}`,
        signals: Array.from({ length: 7 }, (_, k) => ({
          name: `Gauge ${k}`,
          unit: k === 4 ? 'kN' : 'µε',
          hz: 200,
          values: Float32Array.from(
            { length: t === 2 ? 300 : 9000 },
            (_, i) => k + t + Math.sin(i / (3 + k)),
          ),
        })),
      }),
    );
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const LARGE = 1e8;
const taskOf = (
  kind: string,
  ids: string[],
  settings: object,
  role = 'channels',
  samples = LARGE,
): StudyTask => ({
  kind,
  settings: settings as StudyTask['settings'],
  sensors: [],
  takes: ids.map((id) => {
    const all = openTake(app, id).signals.map((s) => s.id);
    return { path: takePath(app, id), name: id, fault: null, samples, roles: { [role]: role === 'channel' ? all.slice(0, 1) : all } }; // prettier-ignore
  }),
});
const SPECTRUM = { shown: 'rms amplitude', channels: [], from: 0, to: null, length: 256, window: 'Hann', overlap: 50, averaging: 'averaged', recent: 10, scale: 'values', reference: 1, fromHz: 0, upTo: null }; // prettier-ignore
const STATISTICS = { channels: [], from: 0, to: null };

/** Threads that are none: each piece of work is begun, and done some turns later. */
function threads(disturb: (nth: number, what: string) => void = () => undefined) {
  let [busy, most, begun] = [0, 0, 0];
  const done: string[] = [];
  const workers = {
    do: async (
      what: string,
      task: never,
      watch: { progress?: (s: number) => void; signal?: AbortSignal } = {},
    ) => {
      const nth = begun++;
      most = Math.max(most, ++busy);
      try {
        for (let k = 0; k < 3 + ((nth * 7) % 5); k++) await new Promise((resolve) => setImmediate(resolve));
        if (watch.signal?.aborted) throw cancelled('work');
        disturb(nth, what);
        const work = WORK[what as keyof typeof WORK] as (t: never, w: unknown) => unknown;
        return work(task, { progress: watch.progress ?? (() => undefined), signal: watch.signal ?? { aborted: false } }); // prettier-ignore
      } finally {
        busy--;
        done.push(what);
      }
    },
  } as unknown as App['workers'];
  return { workers, done, most: () => most };
}
const watch = (told: number[] = [], stop = new AbortController()) => ({
  progress: (share: number) => void told.push(share),
  signal: stop.signal,
});
const resultOf = (outcome: Awaited<ReturnType<typeof compute>>) => {
  if ('fault' in outcome) throw new Error(outcome.fault.what);
  return {
    findings: outcome.findings,
    rows: outcome.rows,
    result: (decode(outcome.file) as { result: StudyResult }).result,
  };
};
const alone = (task: StudyTask) => resultOf(runStudy(task, { progress: () => undefined, signal: { aborted: false } })); // prettier-ignore

describe('a study on several threads', () => {
  const cases: [name: string, make: () => StudyTask][] = [
    ...STUDY_KINDS.filter((k) => k.apart).map(
      (k): [string, () => StudyTask] => [`${k.title} in one take, by its channels`, () => taskOf(k.kind, takes.slice(0, 1), k.defaults, k.apart)], // prettier-ignore
    ),
    ['spectra of one take, by its channels', () => taskOf('spectrum', takes.slice(0, 1), SPECTRUM)],
    ['spectra of two takes, by take', () => taskOf('spectrum', takes.slice(0, 2), SPECTRUM)],
    ['a distribution over two takes', () => taskOf('distribution', takes.slice(0, 2), { channel: '', from: 0, to: null, bars: 20, percentiles: 'between two readings' }, 'channel')], // prettier-ignore
  ];
  test.each(cases)('%s: the result is the one of a single thread', async (_name, make) => {
    const task = make();
    for (const lanes of [2, 3]) {
      const told: number[] = [];
      const { workers, most, done } = threads();
      const found = resultOf(await compute(workers, task, watch(told), lanes));
      expect(found).toEqual(alone(task));
      expect(most()).toBe(Math.min(lanes, partsOf(task, lanes).length));
      expect(done.filter((w) => w === 'runPart').length).toBeGreaterThan(1);
      expect(done.at(-1)).toBe('joinStudy');
      for (let k = 1; k < told.length; k++) expect(told[k]).toBeGreaterThanOrEqual(told[k - 1] - 1e-12);
      expect(told.at(-1)).toBeCloseTo(1, 9);
    }
  });

  test('what is small, or looks at all takes at once, or has one channel, stays in one piece', () => {
    const one = (task: StudyTask, lanes = 2) => expect(partsOf(task, lanes)).toHaveLength(1);
    one(taskOf('statistics', takes.slice(0, 1), STATISTICS, 'channels', 1_000_000));
    one(taskOf('statistics', takes, STATISTICS, 'channels', 1_000_000));
    one(taskOf('statistics', takes.slice(0, 1), STATISTICS), 1);
    one(taskOf('rainflow', takes.slice(0, 1), {}, 'channel'));
    one(taskOf('damage', takes.slice(0, 2), {}, 'channel'));
  });

  test('every channel is in one part and in one only, in their order, whatever the threads', () => {
    const task = taskOf('statistics', takes.slice(0, 1), STATISTICS);
    for (let lanes = 2; lanes < 9; lanes++) {
      const parts = partsOf(task, lanes);
      expect(parts.flatMap((p) => p.task.takes[0].roles.channels)).toEqual(task.takes[0].roles.channels);
      expect(parts.reduce((sum, p) => sum + p.samples, 0)).toBeCloseTo(LARGE, 0);
      for (const p of parts) expect(p.task.takes[0].roles.channels.length).toBeGreaterThan(0);
    }
  });

  test('a take that does not suit has its reason in its row; where there is one take, that is the fault', async () => {
    const long = { ...SPECTRUM, length: 1024 };
    const outcome = resultOf(await compute(threads().workers, taskOf('spectrum', takes, long), watch(), 2));
    expect(outcome).toEqual(alone(taskOf('spectrum', takes, long)));
    expect(outcome.rows).toHaveLength(2);
    const byTake = outcome.result.tables[0];
    expect(String(byTake.rows[2].at(-1))).toContain('300 samples of Gauge 0');
    const none = await compute(threads().workers, taskOf('spectrum', takes.slice(2), long), watch(), 2);
    expect(none).toMatchObject({ cancelled: false, fault: { what: expect.stringContaining('300 samples') as string } }); // prettier-ignore
  });

  test('stopped in the middle, nothing more begins and nothing is put together', async () => {
    const stop = new AbortController();
    const { workers, done } = threads((nth) => nth === 1 && stop.abort());
    const outcome = compute(workers, taskOf('spectrum', takes.slice(0, 1), SPECTRUM), watch([], stop), 2);
    const said = await outcome.catch((error: unknown) => ({
      fault: (error as Error).message,
      cancelled: true,
    }));
    expect(said).toMatchObject({ cancelled: true });
    expect(done).not.toContain('joinStudy');
    expect(done.length).toBeLessThanOrEqual(3);
    const before = new AbortController();
    before.abort();
    const never = threads();
    await expect(compute(never.workers, taskOf('spectrum', takes.slice(0, 1), SPECTRUM), watch([], before), 2)).rejects.toThrow(); // prettier-ignore
    expect(never.done).not.toContain('joinStudy');
  });

  test('a thread that dies ends the others, and its error is the one that is told', async () => {
    const { workers, done } = threads((nth) => {
      if (nth === 0) throw new Error('the thread ended');
    });
    await expect(compute(workers, taskOf('statistics', takes.slice(0, 1), STATISTICS), watch(), 2)).rejects.toThrow('the thread ended'); // prettier-ignore
    expect(done).not.toContain('joinStudy');
  });
});
