import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Random } from '$core/random';
import { FRAME_KINDS, FrameReader, decodeBuckets } from '$contract/live';
import { steadyClock } from '$engine/clock';
import { COUNT_MODULUS, openCountingSource } from '$engine/units/counting-source/driver';
import { LiveHub } from '$service/live-hub';
import { recoverTake } from '$store/take/recover';
import { TakeReader } from '$store/take/reader';
import type { Database } from 'better-sqlite3';
import { build } from 'vite';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { rooms } from '../../../scripts/rooms.mjs';
import { UNIT, bench, channel } from '../rig';

// What must hold whatever happens: every sample that was taken is there once, in its place, or said to be missing.

const folder = mkdtempSync(join(tmpdir(), 'farrier-trust-'));
// Beside the packages it needs, so that they are found.
const out = mkdtempSync(join(import.meta.dirname, '../../../node_modules/.farrier-trust-'));
beforeAll(async () => {
  await build({
    configFile: false,
    logLevel: 'error',
    resolve: { alias: rooms },
    build: { ssr: 'tests/trust/recording.ts', outDir: out, target: 'node20', emptyOutDir: false },
  });
});
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
  rmSync(out, { recursive: true, force: true });
});

/** Checks every sample of a take against the counter: from its first value on each is one more. @returns samples that are there */
function countThrough(path: string): number {
  const take = new TakeReader(path);
  let there = 0;
  const CHUNK = 1 << 18;
  for (const s of take.signals.filter((x) => x.channelId)) {
    let from: number | null = null;
    for (let first = 0; first < s.length; first += CHUNK) {
      const values = take.raw(s.id, first, Math.min(CHUNK, s.length - first));
      for (let i = 0; i < values.length; i++) {
        if (values[i] !== values[i]) continue;
        from ??= values[i] - (first + i);
        const expected = (((first + i + from) % COUNT_MODULUS) + COUNT_MODULUS) % COUNT_MODULUS;
        if (values[i] !== expected)
          throw new Error(`${s.name}: sample ${first + i} is ${values[i]}, not ${expected}`);
        there++;
      }
    }
  }
  take.close();
  return there;
}

test('32 channels of 51.2 kS/s (1.64 MS/s): nothing is lost or reordered, in uneven steps too', () => {
  const channels = Array.from({ length: 32 }, (_, k) =>
    channel(`Count ${k + 1}`, 'voltage', `C1/${k + 1}`, {
      rateHz: 51_200,
      range: { min: 0, max: COUNT_MODULUS },
    }),
  );
  const b = bench(openCountingSource(UNIT, 'count', 32), channels);
  const path = join(folder, 'full.take');
  b.run(0.1);
  b.arm({ before: 0, longest: 10 }, path);
  b.acquisition.start();
  for (const [seconds, stepMs] of [
    [3, 50],
    [3, 7],
    [3, 190],
    [2, 50],
  ])
    b.run(seconds, stepMs);
  expect(countThrough(path)).toBe(32 * 51_200 * 10);
  const take = new TakeReader(path);
  expect(take.gaps()).toEqual([]);
  expect(take.sealState()).toMatchObject({ state: 'sealed' });
  take.close();
});

/** Starts a recording in a process of its own. */
function record(name: string, limitKb?: number) {
  const path = join(folder, `${name}.take`);
  const program = [join(out, 'recording.js'), path, '4', '10000'];
  const child = limitKb
    ? spawn('bash', ['-c', `ulimit -f ${limitKb}; exec node "$@"`, 'bash', ...program])
    : spawn(process.execPath, program);
  let said = '';
  child.stdout.on('data', (d: Buffer) => (said += d.toString()));
  child.stderr.on('data', (d: Buffer) => (said += d.toString()));
  const ended = new Promise<number | null>((resolve) => child.once('exit', (code) => resolve(code)));
  return { path, child, ended, said: () => said };
}
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
async function until(holds: () => boolean, ms = 60_000): Promise<void> {
  for (const end = Date.now() + ms; !holds();) {
    if (Date.now() > end) throw new Error('it did not come true in time');
    await pause(20);
  }
}

test('the computer’s clock jumps while it runs: the engine’s does not', () => {
  const now = steadyClock();
  const before = now();
  vi.useFakeTimers({ toFake: ['Date'] });
  try {
    for (const to of ['2030-01-01', '2001-01-01', '2026-06-01']) {
      vi.setSystemTime(new Date(to));
      const step = now() - before;
      expect(step).toBeGreaterThanOrEqual(0n);
      expect(step).toBeLessThan(5_000_000_000n);
    }
  } finally {
    vi.useRealTimers();
  }
});

test('20 pages come and go, one never reads: those that do miss no bucket, and the recording no sample', async () => {
  const hub = new LiveHub();
  const channels = [
    channel('Count 1', 'voltage', 'C1/1', { rateHz: 10_000, range: { min: 0, max: COUNT_MODULUS } }),
  ];
  const b = bench(openCountingSource(UNIT, 'count', 1), channels);
  hub.setup(['count-1']);
  const path = join(folder, 'watched.take');
  b.arm({ before: 0, longest: 30 }, path);
  b.acquisition.start();
  hub.stream({ strips: ['count-1'], waves: ['count-1'] }); // never read
  const look = async (from: number) => {
    const reader = hub.stream({ strips: ['count-1'], waves: [] }).getReader();
    const frames = new FrameReader();
    const ends: number[] = [];
    for (let i = 0; i < 40; i++) {
      for (const f of frames.push((await reader.read()).value!))
        if (f.kind === FRAME_KINDS.buckets) ends.push(decodeBuckets(f.payload).endMs);
    }
    await reader.cancel();
    return { from, ends };
  };
  const looking: ReturnType<typeof look>[] = [];
  for (let step = 0; step < 620; step++) {
    b.run(0.05);
    hub.push(b.frames.at(-1)!);
    if (step % 25 === 10 && looking.length < 20) looking.push(look(step));
    await new Promise((r) => setImmediate(r));
  }
  for (const { ends } of await Promise.all(looking))
    expect(ends.slice(2).every((t, i) => t - ends[i + 1] === 50)).toBe(true);
  expect(countThrough(path)).toBe(300_000);
});

describe('power cuts and full disks', () => {
  test('killed at 20 random moments, every take opens, holds all but its last moment, and says that it was interrupted', async () => {
    const random = new Random(20);
    const waits = Array.from({ length: 20 }, () => 200 + Math.floor(random.uniform() * 1300));
    const one = async (wait: number, k: number) => {
      const { path, child, ended, said } = record(`kill-${k}`);
      await until(() => said().includes('recording'));
      await pause(wait);
      child.kill('SIGKILL');
      await ended;
      const head = recoverTake(path);
      expect(head.state).toBe('interrupted');
      const there = countThrough(path);
      const take = new TakeReader(path);
      expect(take.notes().at(-1)!.kind).toBe('interrupted');
      expect(take.sealState().state).toBe('sealed');
      take.close();
      // How far it had come by its own account, which no slowness of the machine can change.
      const cameMs = Number([...said().matchAll(/at (\d+)\n/g)].at(-1)?.[1] ?? 0);
      return there / (4 * 10) - cameMs;
    };
    const kept: number[] = [];
    for (let k = 0; k < waits.length; k += 4)
      kept.push(...(await Promise.all(waits.slice(k, k + 4).map((w, i) => one(w, k + i)))));
    expect(Math.min(...kept)).toBeGreaterThan(-250); // ms, as promised
  }, 180_000);

  test('when the disk takes no more, what was written stays, the end is said, and the file opens', async () => {
    const { path, ended, said } = record('full-disk', 2048);
    expect(await ended).toBe(3);
    expect(said()).toMatch(/The disk does not take the recording/);
    expect(said()).toMatch(/what was written before is kept/);
    expect(said()).toMatch(/take interrupted/); // and not listed as running for ever
    if (new TakeReader(path).head.state === 'recording') recoverTake(path);
    expect(countThrough(path)).toBeGreaterThan(50_000);
  }, 120_000);

  test('a take that the disk stops is closed and sealed at once in the room that was held, with all but the last commit', () => {
    // The held room is what is free once the open file has let go: a limit of one connection is just that.
    const path = join(folder, 'held', 'stopped.take');
    mkdirSync(join(folder, 'held'));
    const channels = [1, 2].map((k) =>
      channel(`Count ${k}`, 'voltage', `C1/${k}`, { rateHz: 51_200, range: { min: 0, max: COUNT_MODULUS } }),
    );
    const b = bench(openCountingSource(UNIT, 'count', 2), channels);
    b.run(0.1);
    b.arm({ before: 0, longest: 60 }, path);
    b.acquisition.start();
    b.run(1);
    const { keeper } = b.acquisition as unknown as {
      keeper: { recorder: { take: { writer: { db: Database } } } | null };
    };
    const { db } = keeper.recorder!.take.writer;
    const pages = db.pragma('page_count', { simple: true }) as number;
    db.pragma(`max_page_count = ${pages + 200}`);
    b.run(10);
    expect(keeper.recorder).toBeNull();
    expect(b.notes.find((n) => n.kind === 'trouble')?.says).toMatch(
      /Take-1 stopped\. The disk does not take the recording/,
    );
    expect(b.heads.at(-1)).toMatchObject({ state: 'interrupted' });
    const there = countThrough(path);
    const take = new TakeReader(path);
    expect(take.head.state).toBe('interrupted');
    expect(take.sealState().state).toBe('sealed');
    expect(take.notes().at(-1)?.says).toMatch(/interrupted here: the disk is full/);
    // 200 pages of 4 kB are 1 s of both channels at most; what came before them is there.
    expect(there).toBeGreaterThan(2 * 51_200 * 0.75);
    expect(b.heads.at(-1)!.lengthNs! / 1e9).toBeCloseTo(there / 2 / 51_200, 2);
    take.close();
    // The next take goes as ever.
    const next = join(folder, 'held', 'next.take');
    b.arm({ before: 0, longest: 1 }, next);
    b.acquisition.start();
    b.run(2);
    expect(countThrough(next)).toBe(2 * 51_200);
  });
});
