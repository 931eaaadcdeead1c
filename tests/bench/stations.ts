import { mkdtempSync, rmSync } from 'node:fs';
import { connect, createServer, type AddressInfo, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { stationModel } from '$core/field/station/model';
import { programmeOf } from '$core/field/station/text';
import type { StationState } from '$core/field/station/state';
import { NEW_STATION } from '$contract/station';
import { StationDoor } from '$engine/field/station/door';
import { Station } from '$engine/field/station/instrument';
import { closeApp, openApp } from '$service/app';
import { openTcp } from '$service/field/lines';
import { FieldLink } from '$service/field/link';
import { StationDesk } from '$service/field/stations/desk';
import { fetchRows } from '$service/field/stations/rows';
import { takeWindow, viewTake } from '$service/takes';
import { report } from './report';

const MIN = 60_000;
const KEEPS = ['average', 'lowest', 'highest', 'sample', 'total', 'deviation'];
/** A station that has kept so many one-minute rows of 6 columns for each of so many values. */
function filled(serial: string, rows: number, values: number) {
  let now = Date.parse('2025-11-01T00:00:00Z');
  const names = Array.from({ length: values }, (_, k) => `Value ${k}`);
  const text = `station ST-9 wakes every 1 min, rejects 50 Hz
${names.map((n, k) => `measure "${n}" in "V": volts "5 V" on U${k + 1}`).join('\n')}
keep in "minute" every 1 min, ${rows} rows: ${names.flatMap((n) => KEEPS.map((as) => `${as} of "${n}"`)).join('; ')}
`;
  const station = new Station({ model: { ...stationModel('ST-9')!, memory: 1e9 }, serial, now: () => now, sources: new Map(names.map((_, k) => [`U${k + 1}`, { is: 'volts' as const, at: (ms: number) => Math.sin(ms / 1e7 + k) * 4 }])), supply: () => 12.5, board: () => 12 }); // prettier-ignore
  station.begin(text, programmeOf(text).programme, 7);
  now += rows * MIN;
  station.state();
  return new StationDoor(station);
}
/** The best of some runs: the others were disturbed. */
async function fastest(run: () => Promise<number>): Promise<number> {
  let best = 0;
  for (let k = 0; k < 5; k++) best = Math.max(best, await run());
  return best;
}

/** A plain copy of so many bytes over TCP on this machine, MB/s. */
async function plainCopy(bytes: number): Promise<number> {
  const block = Buffer.alloc(61_440, 7);
  const server = createServer((line) => {
    line.on('error', () => undefined);
    line.on('data', () => {
      let left = bytes;
      const more = () => {
        while (left > 0) {
          left -= block.length;
          if (!line.write(block)) return void line.once('drain', more);
        }
      };
      more();
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const line = connect({ port: (server.address() as AddressInfo).port, host: '127.0.0.1', noDelay: true });
  line.on('error', () => undefined);
  const once = () =>
    new Promise<number>((done) => {
      const began = performance.now();
      let got = 0;
      const hear = (piece: Buffer) => {
        got += piece.length;
        if (got < bytes) return;
        line.off('data', hear);
        done(bytes / (performance.now() - began) / 1e3);
      };
      line.on('data', hear);
      line.write('x');
    });
  await once();
  const rate = await fastest(once);
  line.destroy();
  server.close();
  return rate;
}

/** Fetching rows, twenty stations side by side, and opening what was fetched. */
export async function stations(): Promise<void> {
  const door = filled('ST9-0001', 200_000, 5);
  const { server, port } = await door.listen();
  const link = new FieldLink(await openTcp('127.0.0.1', port), { ms: 2000, tries: 5 });
  const state = await link.state<StationState>();
  const fetch = async () => {
    let bytes = 0;
    await fetchRows(link, state.tables[0], state.run, 0, ({ times, width }) => void (bytes += times.length * (8 + 4 * width))); // prettier-ignore
    return bytes;
  };
  let bytes = await fetch();
  const own = await fastest(async () => {
    const began = performance.now();
    bytes = await fetch();
    return bytes / (performance.now() - began) / 1e3;
  });
  link.close();
  server.close();
  const reference = await plainCopy(bytes);
  report({ name: 'fetching rows of a station', value: own, unit: 'MB/s', reference: `a plain copy of as many bytes over TCP, ${reference.toFixed(0)} MB/s`, ratio: own / reference }); // prettier-ignore

  const folder = mkdtempSync(join(tmpdir(), 'farrier-bench-'));
  const app = openApp(folder);
  const desk = new StationDesk(app);
  const servers: Server[] = [];
  try {
    const ids: string[] = [];
    for (let k = 0; k < 20; k++) {
      const own = await filled(`ST9-${1000 + k}`, 10_000, 1).listen();
      servers.push(own.server);
      ids.push(desk.add({ ...NEW_STATION, name: `Station ${k}`, address: `127.0.0.1:${own.port}`, everyMin: null, setsClock: null }, 'bench').id); // prettier-ignore
    }
    const start = performance.now();
    await Promise.all(ids.map((id) => desk.fetch(id, undefined, 'bench')));
    const s = (performance.now() - start) / 1000;
    report({ name: '20 stations with 200 000 rows fetched into takes', value: s, unit: 's', reference: 'a goal of 10 s', ratio: s / 10 }); // prettier-ignore

    const year = await filled('ST9-2000', 525_600, 5).listen();
    servers.push(year.server);
    const { id } = desk.add({ ...NEW_STATION, name: 'A year', address: `127.0.0.1:${year.port}`, everyMin: null, setsClock: null }, 'bench'); // prettier-ignore
    const from = performance.now();
    await desk.fetch(id, undefined, 'bench');
    const fetched = (performance.now() - from) / 1000;
    const { takeId } = desk.view(id).tables[0];
    app.takes.closeAll();
    const opened = performance.now();
    const take = viewTake(app, takeId!);
    takeWindow(app, takeId!, take.signals.map((x) => x.id), 0, take.durationS, 700); // prettier-ignore
    const ms = performance.now() - opened;
    report({ name: 'a year of one-minute rows with 30 columns opened and drawn', value: ms, unit: 'ms', reference: `a goal of 200 ms; fetching it took ${fetched.toFixed(1)} s`, ratio: ms / 200 }); // prettier-ignore
  } finally {
    desk.end();
    for (const one of servers) one.close();
    await closeApp(app);
    app.db.$client.close();
    rmSync(folder, { recursive: true });
  }
}
