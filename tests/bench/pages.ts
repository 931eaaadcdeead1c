import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { openApp } from '$service/app';
import { addChannels, type NewChannel } from '$service/setup/channels';
import { addUnit } from '$service/units';
import { exportSetup } from '$service/setup/travel';
import { edits } from './edits';
import { firstLoads } from './first-load';
import { report } from './report';
import { withServer } from './server';

const UNITS = 40;
const CHANNELS = 500;
const GOAL_MS = 100;
const PAGES = [
  '/rig',
  '/channels',
  '/channels/sensors',
  '/calibrate',
  '/record',
  '/inspect',
  '/study',
  '/report',
  '/logbook',
];
const KINDS: [kind: string, terminals: string[]][] = [
  ['strain bridge', ['B1/1', 'B1/2', 'B1/4']],
  ['bridge sensor', ['B1/3']],
  ['thermocouple', ['B2/1', 'B2/2']],
  ['platinum sensor', ['B2/3', 'B2/4']],
  ['voltage', ['B4/1', 'B4/2', 'B4/3']],
  ['current loop', ['B5/1']],
  ['potentiometer', ['B6/1']],
];

/** How long pages take with 40 units and 500 channels that all measure. Needs the built application. */
export async function pages(folder: string): Promise<void> {
  if (!existsSync('build/index.js'))
    return console.error('pages: build the application first (npm run build)');
  const data = join(folder, 'pages');
  const app = openApp(data);
  const wanted: NewChannel[] = [];
  for (let u = 0; u < UNITS; u++) {
    const { serial } = await addUnit(app, 'bench chassis', 'bench');
    for (const [kind, terminals] of KINDS)
      for (const terminal of terminals)
        if (wanted.length < CHANNELS)
          wanted.push({
            name: `${kind} ${u + 1} ${terminal}`,
            kind,
            group: `Unit ${u + 1}`,
            wire: { unit: serial, terminal },
            settings: { rateHz: 10 },
          });
  }
  await addChannels(app, wanted, 'bench');
  let began = performance.now();
  JSON.stringify(exportSetup(app));
  report({
    name: `export of ${wanted.length} channels`,
    value: performance.now() - began,
    unit: 'ms',
    reference: 'the goal of 1 s',
    ratio: (performance.now() - began) / 1000,
  });
  app.db.$client.close();
  await withServer(data, async (base) => {
    await edits(base);
    for (const page of PAGES) {
      const times: number[] = [];
      for (let k = 0; k < 9; k++) {
        began = performance.now();
        await fetch(base + page).then((r) => r.text());
        times.push(performance.now() - began);
      }
      const median = times.sort((a, b) => a - b)[4];
      report({
        name: `page ${page}, ${UNITS} units, ${wanted.length} channels`,
        value: median,
        unit: 'ms',
        reference: `the goal of ${GOAL_MS} ms`,
        ratio: median / GOAL_MS,
      });
    }
    await firstLoads(base, PAGES);
  });
}
