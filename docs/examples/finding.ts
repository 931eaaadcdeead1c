// Fetches samples of the newest take as an Arrow stream and puts a finding back. Needs apache-arrow.
//
// npx tsx finding.ts http://127.0.0.1:4800 "$FARRIER_TOKEN" "Shaft torque"
import { tableFromIPC } from 'apache-arrow';

const [house, token, channel] = process.argv.slice(2);

async function ask(path: string, body?: object): Promise<Response> {
  const headers = { authorization: `Bearer ${token}`, 'content-type': 'application/json' };
  const response = await fetch(house + path, {
    method: body ? 'POST' : 'GET',
    headers,
    body: body && JSON.stringify(body),
  });
  if (!response.ok) throw new Error(JSON.stringify((await response.json()).error));
  return response;
}

const [newest] = (await (await ask('/api/overview?parts=takes')).json()).parts.takes;
const take = await (await ask(`/api/takes/${newest.id}`)).json();
const signal = take.signals.find((s: { name: string }) => s.name === channel);
const samples = await ask(`/api/takes/${newest.id}/export?format=arrow&signals=${signal.id}`);
const table = await tableFromIPC(samples);
const values = [...table.getChild(channel)!].filter((v) => v !== null).sort((a, b) => a - b);
const level = values[Math.floor(0.95 * values.length)];
const study = {
  kind: 'elsewhere',
  takeId: newest.id,
  name: 'By a script',
  settings: {
    findings: `${channel}, 95 % of the time below = ${level.toPrecision(5)} ${signal.unit}`,
    method: '95th percentile of all samples, finding.ts',
  },
};
console.log(await (await ask('/api/studies', study)).json());
