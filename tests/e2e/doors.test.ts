import { afterAll, describe, expect, test } from 'vitest';
import {
  freePort,
  removeFolder,
  folder,
  seedDemo,
  startServer,
  comesTrue,
  type RunningServer,
} from './world';
import { API, type Key } from '$contract/api';
import { addressOf } from '$contract/api/address';
import { Visitor } from './visitor';
import { join } from 'node:path';
import ModbusRTU, { type ServerTCP } from 'modbus-serial';

afterAll(removeFolder);

const endpoints = (Object.keys(API) as Key[]).map((key) => ({
  key,
  method: key.split(' ')[0],
  address: addressOf(key, { params: { id: 'x', serial: 'x', terminal: 'x' } }),
  need: API[key].need,
}));

describe('doors', () => {
  let server: RunningServer;
  const PHRASE = 'tide and current';
  const open = async (name: string, env: Record<string, string> = {}) =>
    (server = await startServer(join(folder, name), env));

  test('a link that can only watch changes nothing, however its addresses are written; neither does who does not hold the controls', async () => {
    seedDemo('doors');
    await open('doors', { HOST: '127.0.0.1', FARRIER_PHRASE: PHRASE });
    const ana = new Visitor(server.base);
    await ana.ask('POST', '/enter', `phrase=${encodeURIComponent(PHRASE)}`, {
      'content-type': 'application/x-www-form-urlencoded',
      origin: server.base,
    });
    expect((await ana.ask('GET', '/rig')).status).toBe(200);
    const feed = await ana.look();
    const { path } = (await (await ana.ask('POST', '/api/controls', { do: 'link' })).json()) as { path: string };
    const hall = new Visitor(server.base);
    expect((await hall.ask('GET', path)).status).toBe(303);
    expect((await hall.ask('GET', '/record')).status).toBe(200);
    const rest = { do: 'mark', says: 'from the hall' };
    for (const written of ['/api/record', '/%61pi/record', '/api/%72ecord', '/api//record', '/API/record', '/api/record/', '/api/./record', '/api/record?x=/enter', '/%2561pi/record']) {
      const { status } = await hall.ask('POST', written, rest);
      expect([403, 404, 405, 308], `${written} gave ${status}`).toContain(status);
    }
    for (const [method, address, body] of [['POST', '/api/sensors', {}], ['POST', '/api/layout', {}], ['POST', '/api/live/reset', {}], ['POST', '/api/controls', { do: 'link' }], ['POST', '/api/hosts', {}], ['DELETE', '/api/documents/1', undefined], ['POST', '/api/logbook', {}], ['POST', '/api/alarms', {}]] as const)
      expect((await hall.ask(method, address, body)).status, address).toBe(403);
    for (const { key, method, address, need } of endpoints)
      if (need !== 'look') expect((await hall.ask(method, address, {})).status, `${key}, by a link that can only watch`).toBe(403);
    // Another who was let in, while Ana holds the controls.
    expect((await ana.ask('POST', '/api/record', { do: 'mark', says: 'mine' })).status).toBe(200);
    const ben = new Visitor(server.base);
    ben.set('farrier', ana.cookie('farrier'));
    await ben.ask('GET', '/rig');
    const his = await ben.look();
    for (const address of ['/api/record', '/%61pi/record', '/api/sensors', '/api/layout', '/api/live/reset'])
      expect((await ben.ask('POST', address, rest)).status, address).toBe(403);
    for (const { key, method, address, need } of endpoints)
      if (need === 'controls') expect((await ben.ask(method, address, {})).status, `${key}, without the controls`).toBe(403);
    expect((await ben.ask('POST', '/api/record', { do: 'rest' })).status).toBe(200); // everyone may bring outputs to rest
    // The holder cannot be played: what everyone is told of her is no key to anything.
    await comesTrue(() => his.people().holder !== null);
    const { id } = his.people().holder!;
    expect(his.text()).not.toContain(ana.cookie('farrier-viewer'));
    expect(his.text()).not.toContain(ana.cookie('farrier-viewer').split('.')[0]);
    for (const forged of [id, `${id}.${id}`, `${id}.${ana.cookie('farrier-viewer').split('.')[1]}`]) {
      const mallory = new Visitor(server.base);
      mallory.set('farrier', ana.cookie('farrier'));
      mallory.set('farrier-viewer', forged);
      expect((await mallory.ask('POST', '/api/record', rest)).status).toBe(403);
    }
    feed.leave();
    his.leave();
    await server.stop();
  }); // prettier-ignore

  test('without the phrase nothing of the job is answered, whatever the address begins like', async () => {
    await open('doors', { HOST: '127.0.0.1', FARRIER_PHRASE: PHRASE });
    const stranger = new Visitor(server.base);
    for (const path of ['/enterx', '/enter/x', '/mark.svgz', '/watch', '/watchx/1', '/_app/x', '/_app/immutable/../../rig', '/%65nter/../rig', '/nothing', '/api/nothing', '/api/units', '/rig/__data.json', '/record/__data.json', '/enter/__data.json', '/watch/guess', '/watch/guess/__data.json']) {
      const response = await stranger.ask('GET', path);
      const text = await response.text();
      for (const secret of ['Harrow Quay', 'Blade', 'Shaft torque', 'Brinewheel'])
        expect(text, `${path} (${response.status})`).not.toContain(secret);
    }
    for (const { key, method, address } of endpoints)
      expect((await stranger.ask(method, address, method === 'GET' ? undefined : {})).status, `${key}, by a stranger`).toBe(401);
    expect((await stranger.ask('GET', '/enter')).status).toBe(200);
    expect((await stranger.ask('GET', '/mark.svg')).status).toBe(200);
    await server.stop();
  }); // prettier-ignore

  test('what nobody foresaw is answered in words', async () => {
    await open('words');
    const visitor = new Visitor(server.base);
    const words = async (response: Response) => {
      const { error } = (await response.json()) as { error: { what: string; next?: string } };
      expect(error.what.length).toBeGreaterThan(5);
      expect(error.next).toBeTruthy();
      expect(response.status).toBeGreaterThanOrEqual(400);
      expect(response.status).toBeLessThan(500);
    };
    await words(await visitor.ask('POST', '/api/sensors/list', { text: 'null' }));
    await words(await visitor.ask('POST', '/api/sensors/list', { text: '{"format":"farrier-sensors","sensors":[null]}' }));
    await words(await visitor.ask('POST', '/api/channels', '['.repeat(100_000)));
    await words(await visitor.ask('POST', '/api/channels', `${'{"a":'.repeat(100_000)}1${'}'.repeat(100_000)}`));
    await words(await visitor.ask('POST', '/api/setup', { text: '['.repeat(100_000) }));
    await words(await visitor.ask('POST', '/api/logbook', { says: 'no form' }));
    await words(await visitor.ask('POST', '/api/pictures', 'x', { 'x-file-name': '%', 'content-type': 'image/png' }));
    await words(await visitor.ask('POST', '/api/units/none/file', 'x', { 'x-file-name': '%E0%A4%A', 'content-type': 'application/octet-stream' }));
    await words(await visitor.ask('GET', `/api/takes/x/window?signals=${'1,'.repeat(2000)}1&from=0&to=1&width=10`));
    await server.stop();
  }); // prettier-ignore
});

// The library's server hangs on its default export.
const { ServerTCP: Slave } = ModbusRTU as unknown as { ServerTCP: typeof ServerTCP };

test('when the server is stopped, or killed, what it drives over a connection is at rest', async () => {
  for (const signal of ['SIGTERM', 'SIGKILL'] as const) {
    const port = await freePort();
    const registers = new Map<number, number>();
    const slave = new Slave(
      {
        getHoldingRegister: (address: number) => registers.get(address) ?? 0,
        setRegister: async (address: number, value: number) => {
          await new Promise((done) => setTimeout(done, 150));
          registers.set(address, value);
        },
      } as never,
      { host: '127.0.0.1', port, unitID: 1 },
    );
    const server = await startServer(join(folder, `rest-${signal}`));
    const visitor = new Visitor(server.base);
    const { serial } = (await (await visitor.ask('POST', '/api/units', { kind: 'Modbus TCP' })).json()) as {
      serial: string;
    };
    const source = { id: 'speed', name: 'Speed', table: 'holding registers', register: 7, type: 'uint16', order: 'high word first', slope: 1, offset: 0, unit: '', use: 'write', timeout: 2 }; // prettier-ignore
    expect(
      (
        await visitor.ask('PATCH', `/api/units/${serial}`, {
          settings: { host: '127.0.0.1', tcpPort: port, station: 1, pollEvery: 0.1 },
          sources: [source],
        })
      ).status,
    ).toBe(200);
    let id = '';
    await comesTrue(async () => {
      const made = await visitor.ask('POST', '/api/channels', {
        name: 'Speed',
        kind: 'driven value',
        wire: { unit: serial, terminal: 'R/speed' },
        settings: { rest: 20, range: { min: 0, max: 1000 } },
      });
      if (made.ok) ({ id } = (await made.json()) as { id: string });
      return made.ok;
    });
    await comesTrue(
      async () => (await visitor.ask('POST', '/api/record', { do: 'output', channelId: id, value: 640 })).ok,
    );
    await comesTrue(() => registers.get(7) === 640);
    server.process.kill(signal);
    await comesTrue(() => registers.get(7) === 20);
    await new Promise<void>((done) => slave.close(() => done()));
  }
});
