import {
  closeSync,
  copyFileSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import type { WebDriver } from 'selenium-webdriver';
import type { ImportState } from '$contract/api/inspect';
import { openApp, takePath, type App } from '$service/app';
import { findTakes } from '$service/inspect/list';
import { readingsOf } from '$service/inspect/read';
import { openBrowser, removeFolder } from '../e2e/world';
import { makeTake } from '../unit/takes';
import { report, shortest } from './report';
import { withServer } from './server';

const TAKES = 2000;
const FIRST_MS = 150;
const FILTER_MS = 50;
const READING_MS = 20;
const PICTURE_MS = 150;
const PICTURES_A_SECOND = 30;
const MOST_BUSY = 0.6;
const CHANNELS = 16;
const HZ = 51_200;

const wave = (n: number, k: number) =>
  Float32Array.from({ length: n }, (_, i) => Math.sin(i / (7 + k)) + (i % 97) / 500);

/** Goals are what the numbers are held against: a ratio above 1 misses one. */
const against = (name: string, value: number, goal: number, unit = 'ms') =>
  report({ name, value, unit, reference: `the goal of ${goal} ${unit}`, ratio: value / goal });

function manyTakes(app: App): void {
  for (let k = 0; k < TAKES; k++)
    makeTake(app, {
      name: `Coupon ${k}`,
      facts: { Batch: String(k % 40), Operator: ['Ada', 'Bo', 'Cy'][k % 3], Adhesive: 'epoxy EP-7' },
      folder: `Batch ${k % 40}`,
      plan: 'Pull',
      startMs: 1_780_000_000_000 + k * 600_000,
      signals: [{ name: 'Load', unit: 'kN', hz: 10, values: wave(60, k % 5) }],
      notes: [{ atS: 2, says: `clamp no. ${k % 11} holds` }],
    });
}

/** A long take: so many samples in sixteen channels. */
function longTake(app: App, samples: number): string {
  const block = wave(HZ, 3);
  const each = Math.floor(samples / CHANNELS);
  return makeTake(app, {
    name: 'Long',
    startMs: 1_900_000_000_000,
    signals: Array.from({ length: CHANNELS }, (_, k) => ({
      name: `Channel ${k + 1}`,
      hz: HZ,
      values: repeated(block, each),
    })),
  });
}
function repeated(block: Float32Array, length: number): Float32Array {
  const out = new Float32Array(length);
  for (let at = 0; at < length; at += block.length)
    out.set(block.subarray(0, Math.min(block.length, length - at)), at);
  return out;
}

/** Finding among 2,000 takes, the first picture of a long one, panning and zooming, cursors, bringing in. */
export async function inspecting(folder: string, samples: number, importBytes: number): Promise<void> {
  const data = join(folder, 'inspect');
  mkdirSync(data, { recursive: true });
  const app = openApp(data);
  manyTakes(app);
  const search = (words: string) =>
    findTakes(app, {
      filter: { words, conditions: [] },
      order: 'newest',
      group: 'folder',
      from: 0,
      count: 100,
    });
  const began = performance.now();
  search('');
  against(`first list of ${TAKES} takes, on the server`, performance.now() - began, FIRST_MS);
  search('clamp');
  against(
    `${TAKES} takes filtered by words, on the server`,
    shortest(7, () => search('ada clamp no. 7')),
    FILTER_MS,
  );
  const long = longTake(app, samples);
  const many = Array.from(
    { length: 50 },
    (_, k) =>
    makeTake(app, { name: `Over ${k}`, folder: 'Over', startMs: 1_890_000_000_000 + k, signals: Array.from({ length: 2 }, (_, c) => ({ name: `Channel ${c + 1}`, hz: 2000, values: wave(120_000, k + c) })) }), // prettier-ignore
  );
  const thirtyTwo = makeTake(app, { name: 'Wide', signals: Array.from({ length: 32 }, (_, k) => ({ name: `C${k}`, hz: 5000, values: wave(50_000, k) })) }); // prettier-ignore
  const signals = Array.from({ length: 32 }, (_, k) => k);
  against('readings of 32 channels at a cursor, on the server', shortest(9, () => readingsOf(app, [{ take: thirtyTwo, signals, s: [4.321] }], false, false)), READING_MS); // prettier-ignore
  app.takes.closeAll();
  app.db.$client.close();
  if (existsSync('build/index.js'))
    await withServer(data, async (base, pid) => {
      await inBrowser(base, long, many.length);
      await bringing(base, pid, folder, importBytes);
    });
  rmSync(data, { recursive: true, force: true });
}

/** A take of another Farrier and a table, sent and read as the page does it, against plain copying of the same file. */
async function bringing(base: string, pid: number, folder: string, bytes: number): Promise<void> {
  const other = openApp(join(folder, 'other'));
  const id = longTake(other, Math.floor(bytes / 4.54));
  other.takes.closeAll();
  other.db.$client.close();
  const table = join(folder, 'long.csv');
  writeTable(table, bytes);
  for (const [name, path] of [
    ['take', takePath(other, id)],
    ['table', table],
  ] as const) {
    const mb = statSync(path).size / 1e6;
    const copy = join(folder, 'copy');
    const copyMs = timed(() => {
      copyFileSync(path, copy);
      const file = openSync(copy, 'r');
      fsyncSync(file);
      closeSync(file);
    });
    rmSync(copy);
    const before = ownMemory(pid);
    let most = before;
    const watch = setInterval(() => (most = Math.max(most, ownMemory(pid))), 50);
    const began = performance.now();
    const ending = name === 'take' ? 'take' : 'csv';
    await sent(base, path, `long.${ending}`);
    const ms = performance.now() - began;
    clearInterval(watch);
    report({ name: `bringing in a ${name} of ${mb.toFixed(0)} MB`, value: mb / (ms / 1000), unit: 'MB/s', reference: `plain copying, ${(mb / (copyMs / 1000)).toFixed(0)} MB/s`, ratio: ms / copyMs }); // prettier-ignore
    against(`memory of the server for it, beside what it had`, (most - before) / 1e6, 200, 'MB');
    rmSync(path);
  }
}

/** Memory of a process that is its own, bytes: files that it looks into are not counted. */
const ownMemory = (pid: number): number =>
  1024 * Number(/RssAnon:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0);

/** Sixteen columns at 1000 S/s as text. */
function writeTable(path: string, bytes: number): void {
  const file = openSync(path, 'w');
  writeSync(
    file,
    `Time [s];${Array.from({ length: CHANNELS }, (_, k) => `Channel ${k + 1} [V]`).join(';')}\n`,
  );
  let [written, row] = [0, 0];
  while (written < bytes) {
    let text = '';
    for (let k = 0; k < 4000; k++, row++) {
      text += (row / 1000).toFixed(3);
      for (let c = 0; c < CHANNELS; c++) text += `;${((row * (c + 3)) % 2000) / 100}`;
      text += '\n';
    }
    written += writeSync(file, text);
  }
  closeSync(file);
}

const PIECE = 8 << 20;
/** Sends a file piece by piece, and waits until it is a take. */
async function sent(base: string, path: string, name: string): Promise<void> {
  const headers = { origin: base, 'content-type': 'application/json' };
  const size = statSync(path).size;
  const begun = await fetch(`${base}/api/imports`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ name, size }),
  });
  const { id } = (await begun.json()) as { id: string };
  const file = openSync(path, 'r');
  for (let at = 0; at < size; at += PIECE) {
    const piece = new Uint8Array(Math.min(PIECE, size - at));
    readSync(file, piece, 0, piece.length, at);
    const answer = await fetch(`${base}/api/imports/${id}?at=${at}`, { method: 'PUT', headers: { origin: base, 'content-type': 'application/octet-stream' }, body: piece }); // prettier-ignore
    if (!answer.ok) throw new Error(await answer.text());
  }
  closeSync(file);
  for (;;) {
    const state = (await (await fetch(`${base}/api/imports/${id}`)).json()) as ImportState;
    if (state.state === 'done') return;
    if (state.state === 'failed') throw new Error(state.fault!.what);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}
function timed(work: () => void): number {
  const began = performance.now();
  work();
  return performance.now() - began;
}

async function inBrowser(base: string, long: string, takes: number): Promise<void> {
  const driver = await openBrowser();
  const jobs = (await (await fetch(`${base}/api/overview?parts=jobs`)).json()) as {
    parts: { jobs: { id: string; name: string }[] };
  };
  const first = jobs.parts.jobs.find((j) => j.name === 'First job')!;
  try {
    await driver.get(`${base}/inspect`);
    await driver.executeAsyncScript(
      `const done = arguments[arguments.length - 1]; fetch('/api/jobs', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ id: '${first.id}' }) }).then(done, done)`,
    );
    await driver.get(`${base}/inspect/${long}`);
    await drawn(driver);
    await driver.get(`${base}/inspect/${long}`);
    const picture = await driver.executeAsyncScript<{ page: number; asked: number }>(`
      const done = arguments[0];
      const look = setInterval(() => {
        const [mark] = performance.getEntriesByName('first picture');
        if (!mark) return;
        clearInterval(look);
        const asked = performance.getEntriesByType('resource').find((r) => r.name.endsWith('/api/windows'));
        done({ page: mark.startTime, asked: mark.startTime - asked.startTime });
      }, 10);`);
    against('first picture of the long take, from the address to the curves', picture.page, PICTURE_MS);
    against('first picture of the long take, from the question to the curves', picture.asked, PICTURE_MS);
    const typed = await driver.executeAsyncScript<number>(`
      const done = arguments[0];
      const field = document.querySelector('[aria-label="Find a take or fact"]');
      const rows = () => document.querySelector('.drawer .rows').dataset.count;
      const before = rows(), began = performance.now();
      field.value = 'clamp no. 7'; field.dispatchEvent(new Event('input', { bubbles: true }));
      const look = () => (rows() !== before ? done(performance.now() - began) : requestAnimationFrame(look)); look();`);
    against(`${TAKES} takes filtered, from the letter to the list`, typed, 100);

    const channels = Array.from({ length: 8 }, (_, k) => `Channel ${k + 1}`);
    await driver.get(
      `${base}/inspect/${long}?view=${encodeURIComponent(JSON.stringify({ channels }))}&window=2~5`,
    );
    await drawn(driver);
    await moving(driver, '8 strips of the long take');
    const { ids } = (await (
      await fetch(`${base}/api/takes?count=0&filter=${encodeURIComponent('{"words":"over"}')}`)
    ).json()) as { ids: string[] };
    const { takes: lines } = (await (
      await fetch(`${base}/api/takes?count=${takes}&filter=${encodeURIComponent('{"words":"over"}')}`)
    ).json()) as { takes: { number: number }[] };
    await driver.get(
      `${base}/inspect/${ids[0]}?with=${lines
        .map((l) => l.number)
        .slice(1)
        .join()}&window=10~40`,
    );
    await drawn(driver);
    await moving(driver, `${takes} takes over each other`);
  } finally {
    await driver.quit();
    removeFolder();
  }
}

const drawn = (driver: WebDriver) =>
  driver.wait(
    () =>
      driver.executeScript<boolean>(
        `return performance.getEntriesByName('first picture').length > 0 && document.querySelector('.stage')?.getAttribute('aria-busy') === 'false'`,
      ),
    60_000,
  );

/** Pans and zooms for three seconds: pictures a second, and how busy the main thread is. */
async function moving(driver: WebDriver, what: string): Promise<void> {
  const devtools = driver as unknown as {
    sendAndGetDevToolsCommand(
      name: string,
      args?: object,
    ): Promise<{ metrics: { name: string; value: number }[] }>;
  };
  const metric = async (name: string) =>
    (await devtools.sendAndGetDevToolsCommand('Performance.getMetrics')).metrics.find((m) => m.name === name)!
      .value;
  await devtools.sendAndGetDevToolsCommand('Performance.enable');
  const [busy, at] = [await metric('TaskDuration'), await metric('Timestamp')];
  const pictures = await driver.executeAsyncScript<number>(`
    const done = arguments[0];
    const over = document.querySelector('.over'), box = over.getBoundingClientRect();
    const began = performance.now();
    let frames = 0;
    const step = () => {
      const t = performance.now() - began;
      if (t > 3000) return done(frames / (t / 1000));
      frames++;
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
      const pan = frames % 3 !== 0;
      over.dispatchEvent(new WheelEvent('wheel', { bubbles: true, cancelable: true, clientX: x, clientY: y, deltaY: pan ? 6 * (Math.sin(t / 500) > 0 ? 1 : -1) : 12 * (Math.sin(t / 700) > 0 ? 1 : -1), shiftKey: pan }));
      requestAnimationFrame(step);
    };
    requestAnimationFrame(step);`);
  const share = ((await metric('TaskDuration')) - busy) / ((await metric('Timestamp')) - at);
  report({ name: `panning and zooming ${what}`, value: pictures, unit: 'pictures/s', reference: `the goal of ${PICTURES_A_SECOND}`, ratio: PICTURES_A_SECOND / pictures }); // prettier-ignore
  against(`main thread meanwhile, ${what}`, share * 100, MOST_BUSY * 100, '%');
}
