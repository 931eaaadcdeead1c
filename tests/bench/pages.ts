import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { openApp } from '$service/app';
import { addChannels, type NewChannel } from '$service/setup/channels';
import { addUnit } from '$service/units';
import { exportSetup } from '$service/setup/travel';
import { edits } from './edits';
import { report } from './report';
import { withServer } from './server';

const UNITS = 40;
const CHANNELS = 500;
const GOAL_MS = 100;
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
    for (const page of [
      '/rig',
      '/channels',
      '/channels/sensors',
      '/calibrate',
      '/record',
      '/inspect',
      '/study',
      '/report',
      '/logbook',
    ]) {
      const times: number[] = [];
      for (let k = 0; k < 9; k++) {
        began = performance.now();
        await fetch(base + page).then((r) => r.text());
        times.push(performance.now() - began);
      }
      await firstLoad(base, page);
      const median = times.sort((a, b) => a - b)[4];
      report({
        name: `page ${page}, ${UNITS} units, ${wanted.length} channels`,
        value: median,
        unit: 'ms',
        reference: `the goal of ${GOAL_MS} ms`,
        ratio: median / GOAL_MS,
      });
    }
  });
}

const MOST_SCRIPT = 600_000;
const MOST_COMPRESSED = 180_000;

/** How much script a page asks for before it is used. */
async function firstLoad(base: string, page: string): Promise<void> {
  const answer = await fetch(base + page);
  const named = `${answer.headers.get('link') ?? ''} ${await answer.text()}`;
  const wanted = [...named.matchAll(/_app\/immutable\/[\w./-]+\.js/g)].map(
    ([path]) => new URL(path, `${base}/`).href,
  );
  const files = new Set<string>();
  let [plain, compressed] = [0, 0];
  for (let file = wanted.pop(); file; file = wanted.pop()) {
    if (files.has(file)) continue;
    files.add(file);
    const script = await (await fetch(file)).text();
    plain += Buffer.byteLength(script);
    compressed += gzipSync(script).length;
    // What it imports at once comes along; what it imports when it needs it does not.
    for (const [, path] of script.matchAll(/(?:from|import)\s*["'](\.[^"']+\.js)["']/g))
      wanted.push(new URL(path, file).href);
  }
  report({
    name: `script of ${page}, ${files.size} files, ${Math.round(compressed / 1000)} kB compressed`,
    value: plain / 1000,
    unit: 'kB',
    reference: `the goal of ${MOST_SCRIPT / 1000} kB and ${MOST_COMPRESSED / 1000} kB compressed, whichever is further off`,
    ratio: Math.max(plain / MOST_SCRIPT, compressed / MOST_COMPRESSED),
  });
}
