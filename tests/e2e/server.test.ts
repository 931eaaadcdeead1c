import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { By, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { StudyView } from '$contract/study';
import { Visitor } from './visitor';
import {
  Person,
  comesTrue,
  copyData,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
} from './world';

// The built server by itself: its threads, its engine, its names, and pages that lose it.
let seed: string;
let data: string;
let server: RunningServer;
let driver: WebDriver | undefined;
beforeAll(async () => {
  seed = seedDemo('server');
  data = copyData(seed, 'one');
  server = await startServer(data);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const read = async <T>(visitor: Visitor, path: string): Promise<T> =>
  (await (await visitor.ask('GET', path)).json()) as T;
/** Processes that a process started, by the kernel's own list. */
const childrenOf = (pid: number): number[] =>
  readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((child) => {
      try {
        return Number(/\) \S (\d+)/.exec(readFileSync(`/proc/${child}/stat`, 'utf8'))![1]) === pid;
      } catch {
        return false; // it ended meanwhile
      }
    });

test('a study is cancelled in its thread: it says so at once, its thread is free, the next one computes', async () => {
  const visitor = new Visitor(server.base);
  const inspect = await visitor.ask('GET', '/inspect');
  const takeId = inspect.headers.get('location')!.split('/').at(-1)!;
  const take = await read<{ signals: { channelId: string; name: string }[] }>(
    visitor,
    `/api/takes/${takeId}`,
  );
  const fast = take.signals.find((s) => s.name === 'Nacelle, fore–aft')!.channelId;
  const begin = async (settings: object) =>
    (await (
      await visitor.ask('POST', '/api/studies', { kind: 'spectrum', takeId, settings })
    ).json()) as StudyView;
  // Long windows that hardly move, over all fast channels: many seconds of work.
  const FAST = [
    'Blade 1 flap, root',
    'Blade 3 flap, root',
    'Shaft torque',
    'Nacelle, fore–aft',
    'Nacelle, side',
    'Power',
  ];
  const channels = take.signals.filter((s) => FAST.includes(s.name)).map((s) => s.channelId);
  const long = { channels, length: 65536, overlap: 95, from: 0 };
  const states = async (id: string) => (await read<StudyView>(visitor, `/api/studies/${id}`)).state;
  const running = await Promise.all([begin(long), begin(long)]);
  for (const { id } of running) await comesTrue(async () => (await states(id)) === 'running');
  const beganMs = Date.now();
  for (const { id } of running) await visitor.ask('POST', `/api/studies/${id}/cancel`);
  for (const { id } of running) await comesTrue(async () => (await states(id)) === 'cancelled');
  // Both threads of the pool were at work; the next study waits for neither.
  const { id } = await begin({ channels: [fast], length: 4096, overlap: 50 });
  await comesTrue(async () => (await states(id)) === 'done');
  expect(Date.now() - beganMs).toBeLessThan(30_000);
  const again = await visitor.ask('POST', `/api/studies/${running[0].id}/cancel`);
  expect(((await again.json()) as { error: { what: string } }).error.what).toContain('is not running');
});

test('an engine that hangs is started anew within the time that is promised; measuring goes on, and the logbook says it', async () => {
  const visitor = new Visitor(server.base);
  await comesTrue(async () => (await visitor.ask('POST', '/api/record', { do: 'rest' })).ok);
  const [engine] = childrenOf(server.process.pid!);
  process.kill(engine, 'SIGSTOP');
  await comesTrue(() => !childrenOf(server.process.pid!).includes(engine), 40_000);
  await comesTrue(async () =>
    (await (await visitor.ask('GET', '/logbook')).text()).includes('was started again'),
  );
  await comesTrue(async () => (await visitor.ask('POST', '/api/record', { do: 'rest' })).ok);
});

test('whoever does something stands in the logbook by name, whatever it is', async () => {
  const visitor = new Visitor(server.base);
  await visitor.ask('GET', '/rig');
  await visitor.ask('POST', '/api/controls', { do: 'name', name: 'Ada' });
  const { channels } = await read<{ channels: { id: string; name: string }[] }>(visitor, '/api/setup');
  const id = (name: string) => channels.find((c) => c.name === name)!.id;
  const beganMs = Date.now();
  const flow = id('Flow');
  const book = new Sqlite(join(data, 'farrier.db'), { readonly: true });
  const { lastEntry } = book.prepare('SELECT max(id) AS lastEntry FROM logbook').get() as {
    lastEntry: number;
  };
  book.close();
  const did = async (method: string, path: string, body?: unknown) => {
    const answer = await visitor.ask(method, path, body);
    expect(`${method} ${path}: ${answer.ok ? 'done' : await answer.text()}`).toBe(`${method} ${path}: done`);
    return (await answer.json()) as Record<string, unknown>;
  };
  await did('PATCH', `/api/channels/${flow}`, { name: 'Tide' });
  await did('POST', '/api/channels/cells', {
    cells: [{ id: flow, key: 'group', text: 'Pier' }],
    comma: null,
    apply: true,
  });
  await did('POST', '/api/channels', {
    name: 'Twice',
    kind: 'computed',
    wire: null,
    settings: { formula: '"Tide" * 2' },
  });
  await did('POST', '/api/channels/order', {
    ids: [...channels.map((c) => c.id)].reverse().concat(await newest(visitor)),
  });
  const scale = await did('POST', '/api/scales', {
    name: 'Slow',
    rawUnit: 'mA',
    unit: 'm/s',
    law: { kind: 'linear', slope: 1, offset: 0 },
  });
  await did('DELETE', `/api/scales/${String(scale.id)}`);
  const unit = await did('POST', '/api/units', { kind: 'bench chassis' });
  await did('PATCH', `/api/units/${String(unit.serial)}`, { name: 'Spare' });
  await did('DELETE', `/api/units/${String(unit.serial)}`);
  const plan = await did('POST', '/api/plans', { name: 'Evening' });
  await did('PATCH', `/api/plans/${String(plan.id)}`, { longest: 60 });
  const rule = await did('POST', '/api/rules', { off: true });
  await did('DELETE', `/api/rules/${String(rule.id)}`);
  await did('POST', '/api/sensors', { former: null, edit: { serial: 'X-1', kind: 'voltage' } });
  await did('DELETE', '/api/sensors/X-1');
  await did('POST', '/api/undo');
  await did('POST', '/api/undo?again');
  await did('POST', '/api/jobs', { name: 'Next campaign', place: 'Pier' });
  // All entries since the name was given, of both jobs: none stands as “bench”.
  const db = new Sqlite(join(data, 'farrier.db'), { readonly: true });
  const entries = db
    .prepare('SELECT kind, says, by FROM logbook WHERE id > ? ORDER BY id')
    .all(lastEntry) as { kind: string; says: string; by: string }[];
  const revisions = db.prepare('SELECT DISTINCT by FROM revisions WHERE at > ?').all(beganMs) as {
    by: string;
  }[];
  db.close();
  expect(entries.length).toBeGreaterThan(15);
  expect(entries.filter((e) => e.by === 'bench')).toEqual([]);
  expect(revisions).toEqual([{ by: 'Ada' }]);
});
const newest = async (visitor: Visitor): Promise<string[]> => {
  const { channels } = await read<{ channels: { id: string; name: string }[] }>(visitor, '/api/setup');
  return channels.filter((c) => c.name === 'Twice').map((c) => c.id);
};

test('a page that loses its server says so and its readings look old; it goes on by itself when the server is back', async () => {
  const lost = copyData(seed, 'lost');
  const first = await startServer(lost);
  driver = await openBrowser();
  const p = new Person(driver, first.base);
  await p.go('/channels');
  const now = 'tr[data-name="Blade 1 flap, root"] td.now';
  await p.untilText(now, /\d/);
  await p.untilText('header .state', 'Watching');
  const opacity = () =>
    driver!.executeScript<string>(
      'return getComputedStyle(document.querySelector(arguments[0])).opacity',
      now,
    );
  expect(await opacity()).toBe('1');
  // Killed just as the page is about to fetch what another has changed: it keeps what it has.
  const visitor = new Visitor(first.base);
  await visitor.ask('GET', '/rig');
  const { channels } = await read<{ channels: { id: string; name: string }[] }>(visitor, '/api/setup');
  const tide = channels.find((c) => c.name === 'Flow')!;
  await visitor.ask('PATCH', `/api/channels/${tide.id}`, { name: 'Tide' });
  first.process.kill('SIGKILL');
  await p.untilText('header .state', 'Not connected');
  await p.untilText('header .state', /readings are of \d\d:\d\d:\d\d/);
  await p.until('old readings to look old', async () => Number(await opacity()) < 0.6);
  const last = await p.text(now);
  await new Promise((resolve) => setTimeout(resolve, 1500));
  expect(await p.text(now)).toBe(last); // the last that was measured, and nothing made up since
  const second = await startServer(lost, {}, Number(new URL(first.base).port));
  try {
    await p.untilText('header .state', 'Watching');
    await p.until('readings to move again', async () => (await p.text(now)) !== last);
    // What changed meanwhile is fetched as soon as somebody answers.
    await p.find('tr[data-name="Tide"]');
    expect(await opacity()).toBe('1');
    expect(await driver.findElements(By.css('.frame.stale'))).toEqual([]);
  } finally {
    await driver.get('about:blank');
    expect(await second.stop()).toBe(0);
  }
});
