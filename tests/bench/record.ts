import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { when } from '$core/condition/condition';
import { EMPTY_RULE, newDeed } from '$contract/rule';
import { openDockChassis } from '$engine/units/dock-chassis/driver';
import { openCountingSource } from '$engine/units/counting-source/driver';
import { openApp } from '$service/app';
import { addBoard, changeBoard } from '$service/boards';
import { addChannels, type NewChannel } from '$service/setup/channels';
import { addUnit } from '$service/units';
import { openBrowser, removeFolder } from '../e2e/world';
import { UNIT, START_NS, bench, channel } from '../unit/rig';
import { report } from './report';
import { withServer } from './server';

const BLOCK_MS = 50;

/** From the sample that passes the level to the output that is set, in the engine's own time; the longest of many. */
export function ruleLatency(): void {
  const unit = openDockChassis(UNIT, 'dock', START_NS, { brakeA: 6 });
  let nowNs = START_NS;
  const set: bigint[] = [];
  const setOutput = unit.setOutput.bind(unit);
  unit.setOutput = (terminal, value) => (set.push(nowNs), setOutput(terminal, value));
  const rule = {
    ...EMPTY_RULE,
    when: when('wire', 'rises above', 120, { hysteresis: 10 }),
    deeds: [newDeed({ do: 'set', output: 'brake', value: 2 })],
  };
  const b = bench(
    unit,
    [
      channel('Wire', 'voltage', 'A4/1', { slope: 40, unit: 'mm', range: { min: 0, max: 200 } }),
      channel('Brake', 'driven', 'A6/1', { rest: 6, range: { min: 0, max: 10 } }),
    ],
    [{ id: 'r', rule, says: 'r' }],
  );
  let longest = 0;
  for (let i = 1; i <= 4000; i++) {
    nowNs = START_NS + BigInt(i * BLOCK_MS) * 1_000_000n;
    unit.setControl!('wireMm', i % 40 < 20 ? 150 : 60);
    const before = set.length;
    b.acquisition.step(nowNs);
    const { lastMs } = b.acquisition.status.rules[0];
    if (set.length > before && lastMs !== null)
      longest = Math.max(longest, Number(nowNs / 1_000_000n) - lastMs);
    b.frames.length = 0;
  }
  report({
    name: 'rule, from the sample to its output, longest of 100',
    value: longest,
    unit: 'ms',
    reference: 'two blocks, 100 ms',
    ratio: longest / (2 * BLOCK_MS),
  });
}

/** An hour of 8 channels at 1 kS/s, as fast as it goes: memory at its end against memory after ten minutes. */
export function hourOfMemory(folder: string, minutes: number): void {
  const channels = Array.from({ length: 8 }, (_, k) =>
    channel(`c${k}`, 'voltage', `C1/${k + 1}`, { rateHz: 1000, range: { min: 0, max: 2 ** 20 } }),
  );
  const b = bench(openCountingSource(UNIT, 'count', 8), channels);
  b.arm({ before: 2, longest: null, parts: 'a new part every', partEvery: 600 }, join(folder, 'hour.take'));
  b.acquisition.start();
  const used = () => (globalThis.gc?.(), process.memoryUsage().rss / 1e6);
  let early = 0;
  for (let m = 1; m <= minutes; m++) {
    for (let s = 0; s < 60; s++) {
      b.run(1);
      b.frames.length = b.notes.length = 0;
    }
    if (m === Math.ceil(minutes / 6)) early = used();
  }
  const late = used();
  b.acquisition.end();
  report({
    name: `memory after ${minutes} simulated minutes of recording`,
    value: late,
    unit: 'MB',
    reference: `after a sixth of it, ${early.toFixed(0)} MB`,
    ratio: late / early,
  });
}

const SECONDS = 10;
const FAST_HZ = 25_600;

/** 16 strips on one board, 8 of them of fast channels: redraws a second and the browser's main thread; then 20 more pages looking on. */
export async function liveBoard(folder: string): Promise<void> {
  const data = join(folder, 'board');
  const app = openApp(data);
  const { serial: fast } = await addUnit(app, 'bench chassis', 'bench');
  const { serial: slow } = await addUnit(app, 'bench chassis', 'bench');
  const wanted: NewChannel[] = [1, 2, 3, 4, 5, 6, 7, 8].flatMap((k) => [
    {
      name: `Fast ${k}`,
      kind: k <= 4 ? 'vibration' : 'voltage',
      wire: {
        unit: k % 2 ? fast : slow,
        terminal: k <= 4 ? `B3/${Math.ceil(k / 2)}` : `B4/${Math.ceil((k - 4) / 2)}`,
      },
      settings: { rateHz: FAST_HZ },
    },
    {
      name: `Slow ${k}`,
      kind: k <= 4 ? 'thermocouple' : 'platinum sensor',
      wire: { unit: k % 2 ? fast : slow, terminal: `B2/${Math.ceil(k / 2)}` },
      settings: { rateHz: 10 },
    },
  ]);
  const channels = await addChannels(app, wanted, 'bench');
  const board = addBoard(app, 'All');
  changeBoard(app, board.id, {
    put: channels.map((c, k) => ({
      id: `v${k}`,
      kind: 'strip' as const,
      channels: [c.id],
      x: (k % 4) * 6,
      y: Math.floor(k / 4) * 4,
      w: 6,
      h: 4,
      span: 60,
      range: null,
      level: 0,
      title: '',
      text: '',
      picture: null,
      spots: [],
      style: 'slider' as const,
    })),
  });
  app.db.$client.close();
  const driver = await openBrowser();
  try {
    await withServer(data, async (base, pid) => {
      await driver.get(`${base}/record/boards/${board.id}`);
      await new Promise((done) => setTimeout(done, 65_000)); // until the strips are full
      await driver.executeScript(
        `window.draws = 0; const clear = CanvasRenderingContext2D.prototype.clearRect; CanvasRenderingContext2D.prototype.clearRect = function (...a) { window.draws++; return clear.apply(this, a); }`,
      );
      const devtools = driver as unknown as {
        sendAndGetDevToolsCommand(
          name: string,
          args: object,
        ): Promise<{ metrics: { name: string; value: number }[] }>;
      };
      await devtools.sendAndGetDevToolsCommand('Performance.enable', {});
      const look = async () => {
        const { metrics } = await devtools.sendAndGetDevToolsCommand('Performance.getMetrics', {});
        const of = (name: string) => metrics.find((m) => m.name === name)!.value;
        return {
          task: of('TaskDuration'),
          at: of('Timestamp'),
          draws: await driver.executeScript<number>('return window.draws'),
        };
      };
      const a = await look();
      await new Promise((done) => setTimeout(done, SECONDS * 1000));
      const b = await look();
      const redraws = (b.draws - a.draws) / (b.at - a.at) / channels.length;
      report({
        name: '16 live strips, 8 of 25.6 kS/s: redraws of each',
        value: redraws,
        unit: '1/s',
        reference: 'the goal of 20/s',
        ratio: redraws / 20,
      });
      const share = (b.task - a.task) / (b.at - a.at);
      report({
        name: 'the same, share of one core on the browser’s main thread',
        value: share,
        unit: 'cores',
        reference: 'the goal of half a core',
        ratio: share / 0.5,
      });

      const alone = await cpuShare(pid);
      const streams = await Promise.all(
        Array.from({ length: 20 }, () =>
          watch(
            base,
            channels.map((c) => c.id),
          ),
        ),
      );
      const crowded = await cpuShare(pid);
      const least = Math.min(...streams.map((s) => s.bytes()));
      for (const s of streams) s.stop();
      report({
        name: '20 more pages of 16 strips each: the server beside the engine',
        value: crowded,
        unit: 'cores',
        reference: `with one page ${alone.toFixed(3)} cores; the slowest page got ${(least / 1e6).toFixed(2)} MB`,
        ratio: crowded / alone,
      });
    });
  } finally {
    await driver.quit();
    removeFolder();
  }
}

/** Processor time of one process, not of its children, over some seconds. */
async function cpuShare(pid: number): Promise<number> {
  const ticks = () => {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
    return (Number(fields[11]) + Number(fields[12])) / 100;
  };
  const [from, began] = [ticks(), performance.now()];
  await new Promise((done) => setTimeout(done, SECONDS * 1000));
  return (ticks() - from) / ((performance.now() - began) / 1000);
}

async function watch(base: string, ids: string[]) {
  const abort = new AbortController();
  const response = await fetch(`${base}/api/live?strips=${ids.join()}&waves=`, { signal: abort.signal });
  let bytes = 0;
  void (async () => {
    try {
      for await (const piece of response.body!) bytes += (piece as Uint8Array).length;
    } catch {
      // stopped below
    }
  })();
  return { bytes: () => bytes, stop: () => abort.abort() };
}
