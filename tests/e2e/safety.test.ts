import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { get } from 'node:http';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { FRAME_KINDS, FrameReader, decodeValues } from '$contract/live';
import { TakeReader } from '$store/take/reader';
import { copyData, folder, removeFolder, seedDemo, startServer, comesTrue, measured, pause } from './world';

afterAll(removeFolder);

const post = (base: string, path: string, body: unknown, headers: Record<string, string> = {}) =>
  fetch(base + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...headers },
    body: JSON.stringify(body),
  });

test('killed in the middle of a recording, the take is found, closed as interrupted, and holds all but the last 250 ms', async () => {
  const data = seedDemo('crash');
  const server = await startServer(data);
  await until(
    async () =>
      (
        await post(server.base, '/api/record', {
          do: 'arm',
          facts: { Operator: 'x', 'Blade set': 'A' },
          reason: 'a test',
        })
      ).ok,
  );
  expect((await post(server.base, '/api/record', { do: 'start' })).ok).toBe(true);
  // How far it has come by its own clock, as it tells every page: no slowness of the machine can change that.
  const live = await fetch(`${server.base}/api/live?strips=&waves=`);
  const frames = new FrameReader();
  let toldMs = 0;
  const listening = (async () => {
    for await (const piece of live.body!)
      for (const f of frames.push(piece as Uint8Array))
        if (f.kind === FRAME_KINDS.values) toldMs = decodeValues(f.payload).timeMs;
  })().catch(() => undefined); // its server is killed below
  await comesTrue(() => toldMs > 0);
  const heardMs = toldMs;
  await comesTrue(() => toldMs - heardMs > 3000);
  const cameMs = toldMs;
  // The engine is a child of its own: both are killed at once, as a power cut would.
  for (const pid of children(server.process.pid!)) process.kill(pid, 'SIGKILL');
  const gone = new Promise((resolve) => server.process.once('exit', resolve));
  server.process.kill('SIGKILL');
  await gone;
  const again = await startServer(copyData(data, 'crash-after'));
  const html = await (await fetch(`${again.base}/inspect`, { redirect: 'follow' })).text();
  expect(html).toContain('BW2-A-16');
  expect(html).toContain('interrupted');
  await again.stop();
  const takes = join(folder, 'crash-after', 'takes');
  const interrupted = readdirSync(takes)
    .filter((f) => f.endsWith('.take'))
    .map((f) => new TakeReader(join(takes, f)))
    .find((t) => t.head.state === 'interrupted')!;
  const beganMs = Number(BigInt(interrupted.head.startNs) / 1_000_000n);
  expect(cameMs).toBeGreaterThan(beganMs + 1500);
  expect(beganMs + interrupted.durationS * 1000).toBeGreaterThan(cameMs - 250);
  await listening;
  const speed = interrupted.signals.find((s) => s.name === 'Shaft speed')!;
  expect(interrupted.values(speed.id, 0, speed.length).every((v) => !Number.isNaN(v))).toBe(true);
  interrupted.close();
});

test('an engine that dies is started again, the take it wrote is closed, the pages go on', async () => {
  const server = await startServer(copyData(join(folder, 'crash-after'), 'engine'));
  await until(
    async () =>
      (
        await post(server.base, '/api/record', {
          do: 'arm',
          facts: { Operator: 'x', 'Blade set': 'B' },
          reason: 'a test',
        })
      ).ok,
  );
  await until(async () => (await post(server.base, '/api/record', { do: 'start' })).ok);
  await measured(server.base, 1);
  for (const pid of children(server.process.pid!)) process.kill(pid, 'SIGKILL');
  await until(async () =>
    (await (await fetch(`${server.base}/logbook`)).text()).includes('was started again'),
  );
  await until(async () =>
    (await (await fetch(`${server.base}/logbook`)).text()).includes('BW2-B-17 was interrupted'),
  );
  await until(
    async () =>
      (
        await post(server.base, '/api/record', {
          do: 'arm',
          facts: { Operator: 'x', 'Blade set': 'B' },
          reason: 'a test',
        })
      ).ok,
  );
  expect(await server.stop()).toBe(0);
});

test('an address that others can reach needs an access phrase; wrong ones are counted, the right one opens', async () => {
  await expect(startServer(join(folder, 'open'), { HOST: '0.0.0.0' })).rejects.toThrow(/set FARRIER_PHRASE/);
  const server = await startServer(join(folder, 'closed'), {
    HOST: '0.0.0.0',
    FARRIER_PHRASE: 'tide and current',
  });
  expect((await fetch(`${server.base}/api/live`)).status).toBe(401);
  expect((await fetch(`${server.base}/rig`, { redirect: 'manual' })).headers.get('location')).toBe('/enter');
  const guess = await fetch(`${server.base}/watch/guess`);
  expect(guess.status).toBe(404);
  expect(await guess.text()).not.toContain('First job');
  const enter = (phrase: string) =>
    fetch(`${server.base}/enter`, {
      method: 'POST',
      redirect: 'manual',
      headers: {
        'content-type': 'application/x-www-form-urlencoded',
        origin: server.base,
        accept: 'text/html',
      },
      body: `phrase=${encodeURIComponent(phrase)}`,
    });
  expect(await (await enter('guess')).text()).toContain('This is not the access phrase');
  const good = await enter('tide and current');
  const cookie = good.headers.getSetCookie().find((c) => c.startsWith('farrier='))!;
  expect(cookie).toMatch(/HttpOnly/i);
  expect(cookie).toMatch(/SameSite=Strict/i);
  expect((await fetch(`${server.base}/rig`, { headers: { cookie: cookie.split(';')[0] } })).status).toBe(200);
  for (let i = 0; i < 5; i++) await enter(`guess ${i}`);
  expect(await (await enter('tide and current')).text()).toContain('Too many wrong phrases');
  await server.stop();
});

test('what does not come from our pages or breaks a rule is refused in words, and the pages forbid foreign script', async () => {
  const server = await startServer(join(folder, 'rules'));
  expect((await post(server.base, '/api/undo', {}, { origin: 'http://elsewhere.example' })).status).toBe(403);
  const bad = await post(server.base, '/api/channels', { name: 'x', kind: 'no such kind', wire: null });
  expect(bad.status).toBe(400);
  expect((await bad.json()).error.what).toContain('no such kind');
  expect(
    (await post(server.base, '/api/channels', { name: 'x'.repeat(5000), kind: 'voltage', wire: null }))
      .status,
  ).toBe(400);
  expect((await fetch(`${server.base}/api/takes/..%2F..%2Ffarrier/export`)).status).toBe(404);
  const port = Number(new URL(server.base).port);
  const foreign = await new Promise<number>((resolve) =>
    get(
      { host: '127.0.0.1', port, path: '/rig', headers: { host: 'rebound.example' } },
      (r) => (r.resume(), resolve(r.statusCode!)),
    ),
  );
  expect(foreign).toBe(403);
  const page = await fetch(`${server.base}/rig`);
  expect(page.headers.get('content-security-policy')).toMatch(/script-src 'self' 'nonce-/);
  expect(await page.text()).toContain('Farrier');
  expect(existsSync(join(folder, 'rules', 'farrier.db'))).toBe(true);
  await server.stop();
});

async function until(holds: () => Promise<boolean>, ms = 60_000): Promise<void> {
  const end = Date.now() + ms;
  while (!(await holds().catch(() => false))) {
    if (Date.now() > end) throw new Error(`not within ${ms} ms: ${holds}`);
    await pause(100);
  }
}

/** Direct children of a process, from the kernel's list. */
function children(pid: number): number[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((child) => parentOf(child) === pid);
}
function parentOf(pid: number): number {
  try {
    const status = readFileSync(`/proc/${pid}/status`, 'utf8');
    return Number(/PPid:\s+(\d+)/.exec(status)?.[1]);
  } catch {
    return -1;
  }
}
