import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { USUAL_BRIDGE_RUN } from '$contract/bridge-check';
import { openApp } from '$service/app';
import { addChannels } from '$service/setup/channels';
import { addUnit } from '$service/units';
import { report } from './report';
import { withServer } from './server';

const BRIDGES = 64;
const GOAL_S = 10;

/** Balance and shunt check of 64 bridges with the usual settings, settling and all, through the application as it runs. */
export async function bridges(folder: string): Promise<void> {
  if (!existsSync('build/index.js'))
    return console.error('bridges: build the application first (npm run build)');
  const data = join(folder, 'bridges');
  const app = openApp(data);
  const { serial } = await addUnit(app, 'bridge rack', 'bench');
  const channels = await addChannels(
    app,
    Array.from({ length: BRIDGES }, (_, k) => ({
      name: `Bridge ${k + 1}`,
      kind: 'strain bridge',
      wire: { unit: serial, terminal: `C${Math.floor(k / 4) + 1}/${(k % 4) + 1}` },
      settings: { arrangement: k % 4 === 3 ? 'full, bending' : 'quarter' },
    })),
    'bench',
  );
  app.db.$client.close();
  await withServer(data, async (base) => {
    const began = performance.now();
    const act = async (what: 'balance' | 'check') => {
      const answer = await fetch(`${base}/api/calibrate/bridges`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ do: what, channels: channels.map((c) => c.id), run: USUAL_BRIDGE_RUN }),
      });
      return (await answer.json()) as { rows: { finding: string }[] };
    };
    await act('balance');
    const { rows } = await act('check');
    const seconds = (performance.now() - began) / 1000;
    if (rows.filter((r) => r.finding === 'right').length !== BRIDGES - 2)
      throw new Error('bridges: other findings than the rack has faults');
    report({
      name: `balance and shunt check of ${BRIDGES} bridges at 2 kS/s`,
      value: seconds,
      unit: 's',
      reference: `the goal of ${GOAL_S} s`,
      ratio: seconds / GOAL_S,
    });
  });
}
