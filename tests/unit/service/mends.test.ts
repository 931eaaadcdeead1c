import { copyFileSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { IDENTITY } from '$core/conversion/conversion';
import { closeApp, openApp, takePath, type App } from '$service/app';
import { exportTake, importTake } from '$service/exchange';
import { logPage } from '$service/logbook';
import { mendTake, previewOf, undoMend } from '$service/inspect/mend';
import { findTakes } from '$service/inspect/list';
import { startStudy, viewStudy } from '$service/study/studies';
import { openTake, sealOf, valuesAt, viewTake } from '$service/takes';
import { correctTake } from '$store/take/correct';
import { correctionsFor } from '$service/inspect/mends';
import { TakeReader } from '$store/take/reader';
import { ALL_TAKES } from '$contract/take-list';
import { makeTake } from '../takes';

let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-mends-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const N = 2000;
const torque = Float32Array.from({ length: N }, (_, i) => 2 + Math.sin(i / 50) + (i === 777 ? 40 : 0));
const speed = Float32Array.from({ length: N }, (_, i) => 10 + (i % 7) / 10);
const power = torque.map((t, i) => t * speed[i]);
let id: string;
beforeEach(() => {
  id = makeTake(app, {
    name: 'M-1',
    signals: [
      { name: 'Torque', unit: 'kN·m', hz: 100, values: torque },
      { name: 'Speed', unit: 'rad/s', hz: 100, values: speed },
      { name: 'Power', unit: 'kW', hz: 100, values: power, formula: '"Torque" * "Speed"' },
    ],
    gaps: [{ signal: 1, first: 5, count: 2, reason: 'the wire came off' }],
  });
});
// Signals of one group can be swapped: these share the group of the first.
const mend = (
  signal: number,
  kind: string,
  settings: Record<string, unknown> = {},
  why = 'seen in the plot',
  by = 'Ada',
) => mendTake(app, id, { signal, mending: { kind, settings }, why }, by);
const at = (signal: number, index: number) => valuesAt(app, id, [signal], index / 100)[0];
const mendOf = (signal: number, k = -1) => viewTake(app, id).signals[signal].mends.at(k)!;

test('a spike is counted before, taken out with all that is computed from it, and comes back when that is undone; the seal holds', async () => {
  const settings = { window: 21, times: 8 };
  const preview = await previewOf(app, id, {
    signal: 0,
    mending: { kind: 'spikes', settings },
    from: 7,
    to: 8,
    width: 100,
  });
  expect(preview).toMatchObject({ changed: 1, samples: N, follow: ['Power'], unit: 'kN·m' });
  expect(Math.max(...preview.before.max)).toBeGreaterThan(40);
  expect(Math.max(...preview.after.max)).toBeLessThan(4);
  expect(at(0, 777)).toBeGreaterThan(40); // nothing was written

  expect(await mend(0, 'spikes', settings)).toEqual({ changed: 1, followed: ['Power'], left: [] });
  const clean = 2 + Math.sin(777 / 50);
  expect(at(0, 777)).toBeCloseTo(clean, 2);
  expect(at(2, 777)).toBeCloseTo(clean * speed[777], 1);
  expect(at(0, 700)).toBe(torque[700]);
  expect(mendOf(0)).toMatchObject({ kind: 'spikes', why: 'seen in the plot', by: 'Ada' });
  expect(mendOf(0).says).toMatch(/8 times the usual scatter/);
  // The overview, from which is drawn, is without it, too.
  expect(Math.max(...openTake(app, id).window(0, 0, N, 10).max)).toBeLessThan(4);
  expect(openTake(app, id, 'as recorded').values(0, 777, 1)[0]).toBeGreaterThan(40);
  expect((await sealOf(app, id)).state).toBe('sealed');

  expect((await undoMend(app, id, mendOf(0).id, 'Bo')).followed).toEqual(['Power']);
  expect(at(0, 777)).toBe(torque[777]);
  expect(at(2, 777)).toBeCloseTo(power[777], 2);
  expect(viewTake(app, id).signals[0].mends).toEqual([]);
  expect((await sealOf(app, id)).state).toBe('sealed');
  await expect(undoMend(app, id, 'nothing', 'Bo')).rejects.toThrow(/mending/);
});

test('several, one after the other; an early one is taken back, the later ones stay', async () => {
  await mend(0, 'offset', { value: 2 });
  await mend(0, 'polarity');
  await mend(0, 'missing', { from: 3, to: 4 }, 'the door was open');
  expect(at(0, 100)).toBeCloseTo(-(torque[100] - 2), 5);
  expect(at(0, 350)).toBeNull();
  expect(viewTake(app, id).gaps).toMatchObject([{ reason: 'the wire came off', signals: [1] }, { fromS: 3, toS: 4, reason: 'called missing: the door was open', signals: [0] }]); // prettier-ignore
  await undoMend(app, id, mendOf(0, 0).id, 'Ada');
  expect(at(0, 100)).toBeCloseTo(-torque[100], 5);
  expect(at(0, 350)).toBeNull();
  await undoMend(app, id, mendOf(0, 1).id, 'Ada');
  expect(at(0, 350)).toBeCloseTo(-torque[350], 5);
});

test('a straight line stores no sample anew: the file hardly grows', async () => {
  const blocks = () => openTake(app, id).signals.map((s) => s.source);
  await mend(1, 'offset', { value: 1 });
  expect(blocks().slice(0, 2)).toEqual([0, 1]);
  expect(at(1, 10)).toBeCloseTo(speed[10] - 1, 5);
});

test('another name and another unit; formulas go on reading it in the unit it was measured in', async () => {
  await mend(1, 'rename', { name: 'Shaft speed' });
  await mend(1, 'unit', { to: 'rpm' });
  const [, s] = viewTake(app, id).signals;
  expect(s).toMatchObject({ name: 'Shaft speed', unit: 'rpm' });
  expect(at(1, 10)).toBeCloseTo((speed[10] * 60) / (2 * Math.PI), 3);
  expect(at(2, 10)).toBeCloseTo(power[10], 2);
  expect(findTakes(app, { filter: { words: 'Shaft speed', conditions: [] }, order: 'newest', group: 'nothing', from: 0, count: 9 }).ids).toContain(id); // prettier-ignore
  // A unit that was wrong: the values stay, what is computed from them does not.
  await mend(0, 'unit', { to: 'N·m', how: 'as they are: the unit was wrong' });
  expect(at(0, 10)).toBe(torque[10]);
  expect(at(2, 10)).toBeCloseTo(power[10] / 1000, 4);
});

test('a later calibration keeps what is mended: the mendings are made anew on it', async () => {
  await mend(0, 'spikes', { window: 21, times: 8 });
  const reader = new TakeReader(takePath(app, id));
  const signal = reader.signal(0);
  const doubled = { ...IDENTITY, correction: { slope: 2, offset: 0 } };
  const meant = {
    signal,
    conversion: doubled,
    unit: signal.unit,
    snapshot: signal.snapshot,
    mends: signal.mends,
  };
  correctTake(takePath(app, id), correctionsFor(reader, [meant]).corrections, 'found wrong', 'Ada');
  reader.close();
  app.takes.forget(takePath(app, id));
  expect(at(0, 10)).toBeCloseTo(2 * torque[10], 4);
  expect(at(0, 777)).toBeCloseTo(2 * (2 + Math.sin(777 / 50)), 1);
  expect(at(2, 10)).toBeCloseTo(2 * power[10], 2);
  expect(viewTake(app, id).signals[0].mends).toHaveLength(1);
  await undoMend(app, id, mendOf(0).id, 'Ada');
  expect(at(0, 777)).toBeCloseTo(2 * torque[777], 3);
});

describe('two that were wired crosswise', () => {
  test('are each what the other one read, and are again what they were when one is undone', async () => {
    const crossed = makeTake(app, { signals: [{ name: 'Left', hz: 10, values: [1, 2, 3] }, { name: 'Right', hz: 10, values: [7, 8, 9] }] }); // prettier-ignore
    // Both are sampled together.
    const file = takePath(app, crossed);
    const { default: Sqlite } = await import('better-sqlite3');
    const db = new Sqlite(file);
    db.exec('UPDATE signal SET group_id = 0');
    db.close();
    app.takes.forget(file);
    const read = () => [0, 1].map((k) => valuesAt(app, crossed, [k], 0.1)[0]);
    await mendTake(
      app,
      crossed,
      { signal: 0, mending: { kind: 'swap', settings: { with: 'Right' } }, why: 'cables' },
      'Ada',
    );
    expect(read()).toEqual([8, 2]);
    await mendTake(
      app,
      crossed,
      { signal: 0, mending: { kind: 'offset', settings: { value: 5 } }, why: 'zero' },
      'Ada',
    );
    expect(read()).toEqual([3, 2]);
    expect(viewTake(app, crossed).signals.map((s) => s.mends.length)).toEqual([2, 1]);
    await undoMend(app, crossed, viewTake(app, crossed).signals[1].mends[0].id, 'Ada');
    expect(read()).toEqual([-3, 8]);
  });
  test('not with one of another rate, with itself, with what is computed', async () => {
    await expect(mend(0, 'swap', { with: 'Speed' })).rejects.toThrow(/sampled together/);
    await expect(mend(0, 'swap', { with: 'Torque' })).rejects.toThrow(/Choose another channel/);
  });
});

test('two mend one channel at once: both stand', async () => {
  await Promise.all([
    mend(0, 'offset', { value: 1 }, 'zero drifted', 'Ada'),
    mend(0, 'polarity', {}, 'wires', 'Bo'),
  ]);
  expect(viewTake(app, id).signals[0].mends.map((m) => m.by)).toEqual(['Ada', 'Bo']);
  expect(at(0, 10)).toBeCloseTo(-(torque[10] - 1), 5);
});

test('studies on it are out of date, and the list says that it is mended', async () => {
  const channels = [viewTake(app, id).signals[0].channelId!];
  const { view, done } = startStudy(app, { kind: 'statistics', takeId: id, settings: { channels } }, 'Ada');
  await done;
  expect(viewStudy(app, view.id).outOfDate).toBe(false);
  await mend(0, 'offset', { value: 1 });
  expect(viewStudy(app, view.id).outOfDate).toBe(true);
  const found = findTakes(app, { filter: ALL_TAKES, order: 'newest', group: 'nothing', from: 0, count: 99 });
  expect(found.takes.find((t) => t.id === id)!.mended).toBe(true);
});

test('what does not suit is refused in words, and changes nothing', async () => {
  await expect(mend(0, 'missing', { from: 90, to: 91 })).rejects.toThrow(/no sample/);
  await expect(mend(0, 'unit', { to: '°C' })).rejects.toThrow();
  await expect(mend(0, 'rename', { name: '' })).rejects.toThrow(/Give a name/);
  await expect(mend(0, 'nonsense')).rejects.toThrow(/Choose one/);
  await expect(mend(9, 'polarity')).rejects.toThrow(/signal/);
  expect(viewTake(app, id).signals.every((s) => s.mends.length === 0)).toBe(true);
});

test('what leaves the house is what is mended: an export, a study, and the take itself in another Farrier', async () => {
  await mend(0, 'spikes', { window: 21, times: 8 });
  await mend(0, 'rename', { name: 'Shaft torque' });
  await mend(1, 'missing', { from: 1, to: 1.05 }, 'the lamp was off');
  const { body } = await exportTake(app, id, { format: 'csv', signals: [0, 1] });
  const rows = (await new Response(body).text()).replace('\ufeff', '').split('\r\n');
  expect(rows[0]).toBe('Time [s],Shaft torque [kN·m],Speed [rad/s]');
  expect(Number(rows[1 + 777].split(',')[1])).toBeCloseTo(2 + Math.sin(777 / 50), 2);
  expect(rows[1 + 102].split(',')[2]).toBe('');
  const { view, done } = startStudy(app, { kind: 'statistics', takeId: id, settings: { channels: [viewTake(app, id).signals[0].channelId!] } }, 'Ada'); // prettier-ignore
  await done;
  for (const { value } of viewStudy(app, view.id).findings) expect(Math.abs(value)).toBeLessThan(10); // no 42 among them

  const other = mkdtempSync(join(tmpdir(), 'farrier-away-'));
  const away = openApp(other);
  try {
    app.takes.closeAll();
    const copy = join(other, 'copy');
    copyFileSync(takePath(app, id), copy);
    await importTake(away, { name: 'M-1.take', path: copy }, {}, 'Cy');
    const { signals, gaps } = viewTake(away, id);
    expect(signals[0]).toMatchObject({
      name: 'Shaft torque',
      mends: [{ kind: 'spikes', by: 'Ada' }, { kind: 'rename' }],
    });
    expect(gaps.map((g) => g.reason)).toContain('called missing: the lamp was off');
    expect(valuesAt(away, id, [0], 7.77)[0]).toBeCloseTo(2 + Math.sin(777 / 50), 2);
    expect((await sealOf(away, id)).state).toBe('sealed');
    // And can be taken back there.
    await undoMend(away, id, signals[0].mends[0].id, 'Cy');
    expect(valuesAt(away, id, [0], 7.77)[0]).toBeGreaterThan(40);
  } finally {
    await closeApp(away);
    away.db.$client.close();
    rmSync(other, { recursive: true });
  }
});

test('a mended channel is mended again: bridged after its spikes were called missing, and in that order only', async () => {
  await mend(0, 'spikes', { window: 21, times: 8, by: 'nothing: they are missing' });
  expect(at(0, 777)).toBeNull();
  expect(await mend(0, 'bridge', { most: 3 })).toMatchObject({ changed: 1 });
  expect(at(0, 777)).toBeCloseTo(2 + Math.sin(777 / 50), 2);
  // Without the first there is nothing to be bridged, and the spike stands.
  await undoMend(app, id, mendOf(0, 0).id, 'Ada');
  expect(at(0, 777)).toBeGreaterThan(40);
});

test('of a preview nothing stays: neither in the file nor on the list', async () => {
  const before = readFileSync(takePath(app, id));
  await previewOf(app, id, {
    signal: 0,
    mending: { kind: 'polarity', settings: {} },
    from: 0,
    to: 20,
    width: 50,
  });
  await expect(previewOf(app, id, { signal: 0, mending: { kind: 'missing', settings: { from: 90, to: 91 } }, from: 0, to: 1, width: 50 })).rejects.toThrow(/no sample/); // prettier-ignore
  expect(readFileSync(takePath(app, id)).equals(before)).toBe(true);
});

test('the logbook says who mended what and why, and who took it back', async () => {
  await mend(0, 'offset', { value: 1.5 }, 'zero before the test', 'Ada');
  expect(logPage(app)[0]).toMatchObject({ by: 'Ada', takeId: id, says: 'M-1, Torque: It read too high by 1.5 kN·m all along. zero before the test' }); // prettier-ignore
  await undoMend(app, id, mendOf(0).id, 'Bo');
  expect(logPage(app)[0]).toMatchObject({ by: 'Bo', says: 'M-1, Torque: taken back: It read too high by 1.5 kN·m all along.' }); // prettier-ignore
});

test('a take whose file is gone says so', async () => {
  rmSync(takePath(app, id));
  await expect(mend(0, 'polarity')).rejects.toThrow(/take file/);
});
