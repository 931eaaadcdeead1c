import { mkdtempSync, rmSync } from 'node:fs';
import type { Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { NEW_STATION } from '$contract/station';
import type { StudyResult } from '$core/studies/study';
import { World } from '$engine/field/play';
import { PIER_PROGRAMME, PlayedStation, pier } from '$engine/field/station/pier';
import { closeApp, openApp, type App } from '$service/app';
import { StationDesk } from '$service/field/stations/desk';
import { piecesOf } from '$service/write-take';
import { makeReport } from '$service/report/report';
import { refreshStudies, startStudy, viewStudy } from '$service/study/studies';
import { leaseTake, openTake, takeWindow, viewTake } from '$service/takes';
import { formatKind } from '$core/formats/registry';

// What a station kept is a take like any other: found, drawn, studied, reported, exported – and it goes on growing.
const DAY = 86_400_000;
let folder: string;
let app: App;
let desk: StationDesk;
let world: World;
let server: Server;
let station: PlayedStation;
let id: string;
let quarter: string;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-pier-'));
  app = openApp(folder);
  world = new World(1, Date.parse('2026-11-27T09:00:00Z'));
  station = new PlayedStation('ST9-0021', 'ST-9', world).runSince(PIER_PROGRAMME, 20);
  const heard = await station.listen();
  server = heard.server;
  desk = new StationDesk(app);
  id = desk.add({ ...NEW_STATION, name: 'Pier station', place: 'Harrow Quay', address: `127.0.0.1:${heard.port}`, everyMin: null, setsClock: null }, 'Ada').id; // prettier-ignore
  await desk.fetch(id, undefined, 'Ada');
  quarter = desk.view(id).tables.find((t) => t.name === 'quarter')!.takeId!;
});
afterAll(async () => {
  desk.end();
  station.cut();
  server.close();
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});
const signal = (name: string) => openTake(app, quarter).signals.find((s) => s.name === name)!;
const values = (name: string) => openTake(app, quarter).values(signal(name).id, 0, signal(name).length);
const startMs = () => Number(BigInt(openTake(app, quarter).head.startNs) / 1_000_000n);

describe('what the pier was like', () => {
  test('each row is the mean of the quarter of an hour before it, as the water was then', () => {
    const level = values('Water level, average');
    for (let i = 10; i < level.length; i += 97) {
      const at = startMs() + i * 900_000;
      // Ninety wakings ten seconds apart.
      const mean = Array.from({ length: 90 }, (_, k) => pier.level(at - k * 10_000)).reduce((a, b) => a + b, 0) / 90; // prettier-ignore
      expect(level[i]).toBeCloseTo(mean, 2);
    }
  });
  test('the lowest never lies above the highest, and both within the air of that quarter', () => {
    const [low, high, after] = ['Air temperature, lowest', 'Air temperature, highest', 'Air temperature, lowest, after'].map(values); // prettier-ignore
    low.forEach((v, i) => expect(v).toBeLessThanOrEqual(high[i]));
    for (const s of after) expect(s).toBeGreaterThan(0);
    expect(Math.max(...after)).toBeLessThanOrEqual(900);
  });
  test('wind comes from directions that there are, and its mean vector is no longer than its samples', () => {
    const from = values('Wind direction, mean vector');
    const speed = values('Wind speed, mean vector');
    from.forEach((d) => expect(d >= 0 && d <= 360).toBe(true));
    speed.forEach((v) => expect(v >= 0 && v < 20).toBe(true));
    values('Wind direction, spread').forEach((s) => expect(s >= 0 && s <= 104).toBe(true));
  });
  test('a thermocouple and a serial sensor tell the water’s temperature and salt as they are', () => {
    const i = 500;
    const at = startMs() + i * 900_000;
    expect(values('Water temperature, average')[i]).toBeCloseTo(pier.water(at - 450_000), 1);
    expect(values('Salinity, average')[i]).toBeCloseTo(pier.salinity(at - 450_000), 1);
  });
});

describe('a take like any other', () => {
  test('drawn: a window of it has the extremes of its rows', () => {
    const { durationS } = viewTake(app, quarter);
    const [part] = takeWindow(app, quarter, [signal('Water level, average').id], 0, durationS, 50);
    const level = values('Water level, average');
    expect(Math.max(...part.max)).toBe(Math.max(...level));
    expect(Math.min(...part.min)).toBe(Math.min(...level));
  });
  test('exported: as CSV it has its columns with their units, a row for each row', async () => {
    await formatKind('csv').prepare?.();
    const { reader, release } = leaseTake(app, quarter);
    const pieces = [...piecesOf(reader, { called: 'Pier', format: 'csv', signals: [], options: formatKind('csv').writing!.defaults, about: [] })]; // prettier-ignore
    release();
    const text = pieces.map((p) => (typeof p === 'string' ? p : p instanceof Uint8Array ? Buffer.from(p).toString() : '')).join(''); // prettier-ignore
    const lines = text.trimEnd().split('\n');
    const rows = lines.filter((l) => /^[\d.]+,/.test(l));
    const level = values('Water level, average');
    expect(lines.some((l) => l.includes('"Water level, average') && l.includes('Salinity'))).toBe(true);
    expect(rows).toHaveLength(level.length);
    const cells = rows.at(-1)!.split(',').map(Number);
    expect(cells[0]).toBe((level.length - 1) * 900);
    expect(cells[1]).toBeCloseTo(level.at(-1)!, 5);
  });
  test('reported, with the facts of where it comes from', async () => {
    const { pdf } = await makeReport(app, quarter, { signals: null, studies: [] });
    expect(pdf.length).toBeGreaterThan(5000);
    expect(viewTake(app, quarter).head.facts).toMatchObject({ Station: 'Pier station', Place: 'Harrow Quay', Serial: 'ST9-0021', Table: 'quarter', Programme: 'version 1' }); // prettier-ignore
  });
  test('studied: its statistics are those of its rows; once it has grown they are out of date, and anew they are those of all', async () => {
    const channel = signal('Water level, average').channelId!;
    const { view, done } = startStudy(app, { kind: 'statistics', takeId: quarter, shown: [channel], settings: {} }, 'Ada'); // prettier-ignore
    await done;
    const found = () => app.results.get<StudyResult>(viewStudy(app, view.id).resultId!).findings;
    const mean = () => {
      const level = values('Water level, average');
      return level.reduce((a, b) => a + b, 0) / level.length;
    };
    const meanFound = () => found().find((f) => f.label === 'Water level, average, mean')!.value;
    expect(meanFound()).toBeCloseTo(mean(), 5);
    expect(viewStudy(app, view.id).outOfDate).toBe(false);
    const before = values('Water level, average').length;
    // Nothing new: nothing is out of date.
    await desk.fetch(id, undefined, 'Ada');
    expect(viewStudy(app, view.id).outOfDate).toBe(false);
    world.pass(2.3 * DAY);
    await desk.fetch(id, undefined, 'Ada');
    expect(values('Water level, average').length).toBe(before + Math.floor(2.3 * 96));
    expect(viewStudy(app, view.id).outOfDate).toBe(true);
    await refreshStudies(app, 'Ada').done;
    expect(viewStudy(app, view.id).outOfDate).toBe(false);
    expect(meanFound()).toBeCloseTo(mean(), 5);
  });
  test('one that reads on while it grows has what it began with; who asks then has all', async () => {
    const { reader, release } = leaseTake(app, quarter);
    const { length } = reader.signals[0];
    const before = reader.values(reader.signals[0].id, 0, length);
    world.pass(DAY);
    await desk.fetch(id, undefined, 'Ada');
    expect(reader.signals[0].length).toBe(length);
    expect([...reader.values(reader.signals[0].id, 0, length)]).toEqual([...before]);
    release();
    expect(openTake(app, quarter).signals[0].length).toBe(length + 96);
    expect(openTake(app, quarter).sealState().state).toBe('sealed');
  });
});
