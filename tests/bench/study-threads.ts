import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { StudyView } from '$contract/study';
import { openApp } from '$service/app';
import { openTake } from '$service/takes';
import { Visitor } from '../e2e/visitor';
import { makeTake } from '../unit/takes';
import { report } from './report';
import { withServer } from './server';

const CHANNELS = 16;
const HZ = 25_600;
const PAGE_MS = 100;
const GOAL_MB = 300;

/** Studies of a large take in the built application: what a second thread brings, what they hold, how soon pages come meanwhile. */
export async function studyThreads(folder: string, samples: number): Promise<void> {
  const data = join(folder, 'threads');
  mkdirSync(data, { recursive: true });
  const app = openApp(data);
  const each = Math.floor(samples / CHANNELS);
  const values = Float32Array.from({ length: each }, (_, i) => Math.sin(i / 7) + (i % 97) / 500);
  const takeId = makeTake(app, {
    name: 'Large',
    signals: Array.from({ length: CHANNELS }, (_, k) => ({ name: `Channel ${k + 1}`, unit: 'µε', hz: HZ, values })), // prettier-ignore
  });
  const channels = openTake(app, takeId).signals.map((s) => s.channelId!);
  app.db.$client.close();
  await withServer(data, async (base, pid) => {
    const visitor = new Visitor(base);
    await visitor.ask('GET', '/study');
    const resident = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024; // prettier-ignore
    /** Until it is done, s; the most that the server held meanwhile, MB. */
    const study = async (of: string[], meanwhile: () => Promise<unknown> = async () => undefined) => {
      const began = performance.now();
      let most = 0;
      let now = (await (await visitor.ask('POST', '/api/studies', { kind: 'spectrum', takeId, settings: { channels: of, length: 8192 } })).json()) as StudyView; // prettier-ignore
      while (now.state === 'running') {
        most = Math.max(most, resident());
        await Promise.all([meanwhile(), new Promise((done) => setTimeout(done, 10))]);
        now = (await (await visitor.ask('GET', `/api/studies/${now.id}`)).json()) as StudyView;
      }
      if (now.state !== 'done') throw new Error(`the study is ${now.state}: ${JSON.stringify(now.fault)}`);
      return { seconds: (performance.now() - began) / 1000, most };
    };
    await study(channels.slice(0, 1));
    const before = resident();
    // One channel is one thread's work; twelve are what a spectrum takes.
    const alone = await study(channels.slice(0, 1));
    const all = await study(channels.slice(0, 12));
    report({ name: `spectra of 12 channels of ${(each / 1e6).toFixed(1)} million samples, in threads`, value: all.seconds, unit: 's', reference: `twelve times one channel, ${(12 * alone.seconds).toFixed(1)} s`, ratio: all.seconds / (12 * alone.seconds) }); // prettier-ignore
    report({ name: 'the same, memory of the server meanwhile', value: all.most - before, unit: 'MB', reference: `the goal of ${GOAL_MB} MB`, ratio: (all.most - before) / GOAL_MB }); // prettier-ignore
    const pages: number[] = [];
    await study(channels.slice(0, 12), async () => {
      const began = performance.now();
      await (await visitor.ask('GET', '/study')).text();
      pages.push(performance.now() - began);
    });
    pages.sort((a, b) => a - b);
    const median = pages[Math.floor(pages.length / 2)];
    report({ name: `page /study while they run, median of ${pages.length}, slowest ${pages.at(-1)!.toFixed(0)} ms`, value: median, unit: 'ms', reference: `the goal of ${PAGE_MS} ms`, ratio: median / PAGE_MS }); // prettier-ignore
  });
}
