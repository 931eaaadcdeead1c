import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { NEW_STATION } from '$contract/station';
import { seed } from './seed';
import { Person, folder, measured, openBrowser, removeFolder, startServer } from './world';

// `npm run screenshots`: the pictures of docs/screenshots anew, from the demo's data. Names of some choose those alone.
const into = resolve('docs/screenshots');
const wanted = process.argv.slice(2).filter((name) => /^[a-z-]+$/.test(name));
const data = join(folder, 'screens');
seed(data);
const server = await startServer(data);
const driver = await openBrowser();
const p = new Person(driver, server.base);
const { api } = p;
const seen = (seconds: number) => measured(server.base, seconds);

/** What plays instruments of the field, once a view wants them. */
const instruments: ChildProcess[] = [];
async function instrument(...args: string[]): Promise<string> {
  const child = spawn('node', ['scripts/run.mjs', ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
  instruments.push(child);
  return new Promise((done) => child.stdout.on('data', (d: Buffer) => /127[.\d]+:\d+/.test(String(d)) && done(/127[.\d]+:\d+/.exec(String(d))![0]))); // prettier-ignore
}
/** How each view is reached, in an order in which none spoils the next. */
const views: Record<string, () => Promise<unknown>> = {
  rig: () => p.go('/rig'),
  channels: () => p.go('/channels'),
  calibrate: () => p.go('/calibrate'),
  record: async () => {
    await p.go('/record');
    await seen(40);
  },
  board: async () => {
    await p.go('/record');
    await p.press('Control room');
    await seen(30);
  },
  inspect: () => p.go('/inspect'),
  report: async () => {
    await p.go('/report');
    await p.press('Proof test, blade set B');
    await p.clickAt('.leaf:nth-of-type(2)');
    await p.find('.block[data-kind=chart] svg path');
    await p.clickAt('.block[data-kind=chart]');
  },
  kinds: async () => {
    await p.go('/inspect');
    await p.press('Study this');
    await p.untilText('h1', 'A study of');
  },
  study: async () => {
    await p.go('/study/new');
    await p.clickAt('[data-kind=rainflow]');
    await p.find('.result[aria-busy=false]');
  },
  radio: async () => {
    await p.go('/radio');
    await p.untilText('[aria-label=Peaks]', /peaks/);
    await p.press('Highest');
    await p.clickAt('[aria-label^="Pin on 867.15"]');
    await new Promise((done) => setTimeout(done, 16_000));
  },
  pulses: async () => {
    await p.go('/radio/pulses');
    await p.until('its pulses', async () => /1\d pulses/.test(await p.text('[aria-label=Pulses] h2')));
  },
  emissions: async () => {
    await p.go('/radio/emissions');
    await p.untilText('[aria-label=Suspects]', 'over by');
  },
  modulation: async () => {
    await p.go('/radio/modulation');
    await p.until(
      'captures',
      async () => Number(/(\d+) captures/.exec(await p.text('.page-head'))?.[1] ?? 0) > 30,
    );
  },
  noise: async () => {
    // Where it is the first view, the receiver is still being found.
    await p.until('a receiver', async () => (await api<unknown[]>('GET', '/api/radio/noise')).length > 0);
    const [{ unit, hz }] = await api<{ unit: string; hz: number[] }[]>('GET', '/api/radio/noise');
    const hand = (control: string, value: number) => api('POST', `/api/units/${unit}`, { control, value });
    const measured = async (state: string) => {
      await api('POST', `/api/radio/${unit}/noise/measure`, { states: [state] });
      await p.until(
        state,
        async () =>
          (await api<{ done: Record<string, number> }[]>('GET', '/api/radio/noise'))[0].done[state] ===
          hz.length,
      );
    };
    await p.go('/radio/noise');
    await hand('input', 2);
    await hand('source', 0);
    await measured('through off');
    await hand('source', 1);
    await measured('through on');
    await hand('input', 0);
    await p.untilText('[aria-label=Steps] tbody', /1\.\d\d/);
  },
  night: async () => {
    await p.go('/record');
    await p.press('Night bench');
    await seen(30);
  },
  bridges: async () => {
    await p.go('/rig');
    await p.clickAt('.job');
    await p.press('Blade set C, root bridges');
    await p.untilText('.job', 'Blade set C');
    await p.go('/calibrate/bridges');
    await p.press('Check shunts of 12');
    await p.untilText('[role=status].aside', 'right');
  },
  compare: async () => {
    await p.go('/rig');
    await p.clickAt('.job');
    await p.press('Lap-shear coupons');
    await p.untilText('.job', 'Lap-shear');
    await p.go('/inspect');
    for (const n of [20, 21, 22, 23]) {
      await p.clickAt(`[data-take="CP-${n}"] input`);
      await p.untilText('.many', 'marked');
    }
    await p.choose('kept', 'coupon view', '.view');
    await p.press('series');
    await p.untilText('[data-testid=series] tfoot', 'that count');
  },
  modal: async () => {
    const { parts } = await api<{ parts: { jobs: { id: string; name: string }[] } }>('GET', '/api/overview?parts=jobs'); // prettier-ignore
    await api('POST', '/api/jobs', {
      id: parts.jobs.find((j) => j.name === 'Brinewheel II in the flow')!.id,
    });
    const [{ id }] = await api<{ id: string }[]>('GET', '/api/modal');
    await p.go(`/study/modal/${id}`);
    await p.untilText('[aria-label=Believe]', /all to/);
    await new Promise((done) => setTimeout(done, 1500));
  },
  field: async () => {
    const address = await instrument('src/engine/field/process.ts', '0', '1', '3');
    const station = await instrument('src/engine/field/station/process.ts', '0', '1', 'ST-9', '40');
    await api('PUT', '/api/field/cradles', { cradles: [address], fetches: true });
    for (const serial of ['PR4-0042', 'PR2-0131', 'PR2-0113', 'PR2-0107']) {
      await p.until(
        'the cradle',
        async () => (await api('POST', '/api/field/play', { do: 'put', serial })) === null,
      );
      await p.until(serial, async () => (await api<{ recorders: { serial: string; here: boolean }[] }>('GET', '/api/field')).recorders.some((r) => r.serial === serial && r.here)); // prettier-ignore
    }
    const { id } = await api<{ id: string }>('POST', '/api/field/stations', { wish: { ...NEW_STATION, name: 'Pier station', place: 'Harrow Quay, pier', address: station } }); // prettier-ignore
    await p.until('its rows', async () => (await api<{ tables: { takeId: string | null }[] }>('GET', `/api/field/stations/${id}`)).tables.every((t) => t.takeId) && (await api<{ fetch: unknown }>('GET', `/api/field/stations/${id}`)).fetch === null); // prettier-ignore
    await p.go(`/field?station=${id}`);
    await p.untilText('[data-testid=link]', 'connected');
    await p.clickAt('[data-table=quarter]');
    await p.find('[data-testid=graph] canvas');
    await new Promise((done) => setTimeout(done, 800));
  },
};

await p.go('/rig');
try {
  mkdirSync(into, { recursive: true });
  for (const [name, reach] of Object.entries(views)) {
    if (wanted.length && !wanted.includes(name)) continue;
    await reach();
    await seen(3);
    writeFileSync(join(into, `${name}.png`), await driver.takeScreenshot(), 'base64');
    console.log(name);
  }
} finally {
  for (const one of instruments) one.kill('SIGTERM');
  await driver.quit();
  await server.stop();
  removeFolder();
}
