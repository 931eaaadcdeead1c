import { join } from 'node:path';
import { linearConversion } from '$core/conversion/conversion';
import { LineWish, LINE_DEFAULTS, type RadioView } from '$contract/radio';
import { Air, AIR_CONTROLS } from '$engine/units/receiver/air';
import { jobOf, openApp, takePath } from '$service/app';
import { addUnit } from '$service/units';
import { TakeWriter } from '$store/take/writer';
import { putTake } from '$store/takes';
import { openBrowser, removeFolder } from '../e2e/world';
import { head } from '../unit/rig';
import { report } from './report';
import { withServer } from './server';

const SECONDS = 10;
const RATE = 1e6;

/** The page of a band in headless Chromium: pictures a second with six lines, density and waterfall; the first line after the receiver was tuned; a step of a slider over a
 *  recorded band. @param recordedS length of that recording, s */
export async function radioPage(folder: string, recordedS: number): Promise<void> {
  const data = join(folder, 'radio');
  const app = openApp(data);
  const { serial } = await addUnit(app, 'receiver', 'bench');
  const own = { ...head({}), id: 'band', jobId: jobOf(app).id };
  const writer = new TakeWriter(takePath(app, 'band'), {
    by: 'bench',
    head: own,
    groups: [{ offsetNs: 0, rate: { num: RATE, den: 1 } }],
    signals: [{ channelId: 'band', name: 'Quay at 868.6 MHz', rawUnit: 'V', unit: 'V', group: 0, width: 2, junction: null, conversion: linearConversion(1, 0), snapshot: null }], // prettier-ignore
  });
  const air = new Air(RATE, 3, (id) => AIR_CONTROLS.find((c) => c.id === id)!.value);
  const second = air.read(0, RATE, { centreHz: 868.6e6, gainDb: 20 });
  for (let s = 0; s < recordedS; s++) {
    writer.append(0, s * RATE, second);
    if (s % 20 === 19) writer.commit();
  }
  writer.close('complete', recordedS * 1e9);
  putTake(app.db, { ...own, state: 'complete', lengthNs: recordedS * 1e9 }, recordedS * 1000);
  app.db.$client.close();
  const driver = await openBrowser();
  try {
    await withServer(data, async (base) => {
      await driver.get(`${base}/radio`);
      const call = <T>(method: string, path: string, body: object) =>
        driver.executeAsyncScript<T>(
          `const [method, path, body, done] = arguments; fetch(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }).then((r) => r.json()).then(done)`,
          method,
          path,
          body,
        );
      const lines = [...LINE_DEFAULTS, ...(['lowest', 'average', 'highest'] as const).map((shows, k) => LineWish.parse({ id: `l${k}`, shows }))]; // prettier-ignore
      await call('PUT', `/api/radio/${serial}/lines`, { lines });
      await call('PUT', `/api/radio/${serial}/listening`, { resolving: (1.9 * 4000) / 4096 });
      await new Promise((done) => setTimeout(done, 15_000)); // until the waterfall is full
      await driver.executeScript(
        `window.draws = 0; const clear = CanvasRenderingContext2D.prototype.clearRect; CanvasRenderingContext2D.prototype.clearRect = function (...a) { if (this.canvas.getAttribute('aria-label')?.startsWith('The band')) window.draws++; return clear.apply(this, a); }`,
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
      const rate = (b.draws - a.draws) / (b.at - a.at);
      const share = (b.task - a.task) / (b.at - a.at);
      report({ name: 'pictures of a band of 4 MS/s, six lines, density and waterfall', value: rate, unit: '1/s', reference: 'the engine’s 20 steps a second', ratio: rate / 20 }); // prettier-ignore
      report({ name: 'the same, share of one core on the browser’s main thread', value: share, unit: 'cores', reference: 'the goal of half a core', ratio: share / 0.5 }); // prettier-ignore

      // From the question to the first picture of the new band, as the page gets it.
      const tuned = await driver.executeAsyncScript<number[]>(
        `const [serial, done] = arguments;
         (async () => {
           const times = [];
           for (let k = 0; k < 10; k++) {
             const at = 700 + 10 * k;
             const began = performance.now();
             await fetch('/api/radio/' + serial + '/listening', { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ span: 'around', around: at, wide: 3.2 }) });
             const before = window.draws;
             while (window.draws === before) await new Promise((r) => setTimeout(r, 2));
             times.push(performance.now() - began);
             await new Promise((r) => setTimeout(r, 300));
           }
           done(times.sort((x, y) => x - y));
         })()`,
        serial,
      );
      report({ name: 'tuned elsewhere: from the question to the first line, median of ten', value: tuned[5], unit: 'ms', reference: 'the goal of 100 ms', ratio: tuned[5] / 100 }); // prettier-ignore

      await driver.get(`${base}/radio?take=band`);
      await new Promise((done) => setTimeout(done, 3000));
      const views = await driver.executeAsyncScript<RadioView[]>(
        `fetch('/api/radio').then((r) => r.json()).then(arguments[0])`,
      );
      const recorded = views.find((v) => v.recorded)!;
      await driver.executeScript(`window.draws = 0; const clear = CanvasRenderingContext2D.prototype.clearRect; CanvasRenderingContext2D.prototype.clearRect = function (...a) { if (this.canvas.getAttribute('aria-label')?.startsWith('The band')) window.draws++; return clear.apply(this, a); }`); // prettier-ignore
      const steps = await driver.executeAsyncScript<number[]>(
        `const [unit, seconds, done] = arguments;
         (async () => {
           const times = [];
           for (let k = 1; k <= 40; k++) {
             const before = window.draws;
             const began = performance.now();
             await fetch('/api/radio/' + unit + '/playing', { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ atS: (seconds * k) / 42 }) });
             while (window.draws === before) await new Promise((r) => setTimeout(r, 1));
             times.push(performance.now() - began);
           }
           done(times.sort((x, y) => x - y));
         })()`,
        recorded.unit,
        recordedS,
      );
      report({ name: `a step in a recorded band of ${recordedS} s, 1 MS/s: from the question to its line, median of forty`, value: steps[20], unit: 'ms', reference: 'the goal of 50 ms', ratio: steps[20] / 50 }); // prettier-ignore
    });
  } finally {
    await driver.quit();
    removeFolder();
  }
}
