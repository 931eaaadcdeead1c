import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { closeApp, openApp, takePath, type App } from '$service/app';
import { exportTake, importTake } from '$service/exchange';
import { findTakes } from '$service/inspect/list';
import { makeInTakes, previewMaking, takeOut } from '$service/inspect/make';
import { mendTake } from '$service/inspect/mend';
import { makeSignals } from '$service/inspect/makes';
import { logPage } from '$service/logbook';
import { changeStudy, startStudy, viewStudy } from '$service/study/studies';
import { trailOf } from '$service/study/trail';
import { openTake, sealOf, viewTake } from '$service/takes';
import { TakeReader } from '$store/take/reader';
import { makeTake } from '../takes';

let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-makes-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const HZ = 500;
const N = 5000;
const slow = (t: number) => 3 * Math.sin(2 * Math.PI * 2 * t);
const load = Float32Array.from({ length: N }, (_, i) => slow(i / HZ) + Math.sin((2 * Math.PI * 90 * i) / HZ));
const signals = [
  { name: 'Load', unit: 'kN', hz: HZ, values: load },
  { name: 'Speed', unit: 'rad/s', hz: 50, values: new Float32Array(500).fill(2) },
];
let id: string;
beforeEach(() => {
  id = makeTake(app, { name: 'M-1', signals });
});
const channelOf = (name: string, take = id) =>
  openTake(app, take).signals.find((s) => s.name === name)!.channelId!;
const make = async (kind: string, settings: Record<string, unknown>, takes = [id]) =>
  makeInTakes(app, { takes, making: { kind, settings } }, 'Ada');
const lowPass = (channel = 'Load', takes = [id]) =>
  make('filter', { channels: [channelOf(channel)], edge: 20 }, takes);
const valuesOf = (name: string, take = id) => {
  const reader = openTake(app, take);
  const signal = reader.signals.find((s) => s.name === name)!;
  return Float32Array.from(reader.values(signal.id, 0, signal.length));
};
const NAME = 'Load, low pass 20 Hz';

test('a filtered channel stands beside its source, with its sentence; the seal holds, the list knows it, the logbook says it', async () => {
  expect(await lowPass()).toMatchObject([{ made: [{ name: NAME }], known: [], fault: null }]);
  const got = valuesOf(NAME);
  for (let i = 500; i < 4500; i++) expect(got[i]).toBeCloseTo(slow(i / HZ), 2);
  const signal = viewTake(app, id).signals.at(-1)!;
  expect(signal).toMatchObject({ name: NAME, unit: 'kN', role: 'computed', corrected: null });
  expect(signal.sentence).toBe(
    'Load through a Butterworth low pass at 20 Hz of order 4, both ways, without delay.',
  );
  // The overview that is drawn is its own.
  const { max } = openTake(app, id).window(signal.id, 0, N, 5);
  expect(Math.max(...max)).toBeLessThan(3.05);
  expect((await sealOf(app, id)).state).toBe('sealed');
  expect(findTakes(app, { filter: { words: 'low pass 20', conditions: [] }, order: 'newest', group: 'nothing', from: 0, count: 9 }).ids).toContain(id); // prettier-ignore
  expect(logPage(app)[0].says).toMatch(/low pass 20 Hz is made: Load through/);
});

test('asked for twice it is made once; what it is made from can be made from, too; another rate keeps the seal', async () => {
  await lowPass();
  expect(await lowPass()).toMatchObject([{ made: [], known: [NAME] }]);
  await make('resample', { channels: [channelOf(NAME)], rate: 100 });
  const name = `${NAME}, 100 samples/s`;
  expect(valuesOf(name)).toHaveLength(1000);
  expect(valuesOf(name)[500]).toBeCloseTo(slow(5), 2);
  expect((await sealOf(app, id)).state).toBe('sealed');
  expect(viewTake(app, id).signals.map((s) => s.name)).toEqual(['Load', 'Speed', NAME, name]);
});

test('it can be counted, with its trail back to the sensor; the same study runs on another take that has it made', async () => {
  const other = makeTake(app, { name: 'M-2', signals });
  // Recorded by one set-up, channels have one id in all takes; here each take has its own, so that both are made for themselves.
  await lowPass();
  const { view, done } = startStudy(
    app,
    { kind: 'time-at-level', takeId: id, shown: [channelOf(NAME)], settings: {} },
    'Ada',
  );
  await done;
  const study = viewStudy(app, view.id);
  expect(study).toMatchObject({ state: 'done' });
  expect(study.says).toContain(NAME);
  expect(study.findings.find((f) => /highest/i.test(f.label))?.value ?? 3).toBeLessThan(3.1);
  const trail = trailOf(app, view.id);
  expect(trail.map((s) => s.what)).toEqual(expect.arrayContaining([`Channel ${NAME}`, 'Channel Load']));
  expect(other).not.toBe(id);
});

test('its source is mended: it follows, and so does what is made from it; a study on it is out of date', async () => {
  await lowPass();
  await make('integrate', { channels: [channelOf(NAME)], corner: null });
  const { view, done } = startStudy(app, { kind: 'statistics', takeId: id, shown: [channelOf(NAME)], settings: {} }, 'Ada'); // prettier-ignore
  await done;
  expect(viewStudy(app, view.id).outOfDate).toBe(false);
  const before = valuesOf(`${NAME}, integral`);
  const outcome = await mendTake(app, id, { signal: 0, mending: { kind: 'offset', settings: { value: 10 } }, why: 'it was not zeroed' }, 'Bo'); // prettier-ignore
  expect(outcome).toEqual({ changed: 0, followed: [NAME, `${NAME}, integral`], left: [] });
  expect(valuesOf(NAME)[2500]).toBeCloseTo(slow(5) - 10, 2);
  expect(valuesOf(`${NAME}, integral`)[4999] - before[4999]).toBeCloseTo(-10 * (4999 / HZ), 1);
  expect(viewStudy(app, view.id).outOfDate).toBe(true);
  await changeStudy(app, view.id, {}, 'Ada').done;
  expect(viewStudy(app, view.id).outOfDate).toBe(false);
  expect((await sealOf(app, id)).state).toBe('sealed');
});

test('it is not mended itself, but may be called by another name', async () => {
  await lowPass();
  const signal = viewTake(app, id).signals.at(-1)!.id;
  const mend = (kind: string, settings: Record<string, unknown>) =>
    mendTake(app, id, { signal, mending: { kind, settings }, why: 'as it is' }, 'Bo');
  await expect(mend('polarity', {})).rejects.toThrow(/made from others/);
  await mend('rename', { name: 'Calm load' });
  expect(valuesOf('Calm load')[2500]).toBeCloseTo(slow(5), 2);
});

test('taken out it is gone; not while something is made from it, and never what was recorded', async () => {
  await lowPass();
  await make('formula', { formula: `"${NAME}" * "Speed"`, name: 'Power' });
  const signal = (name: string) => openTake(app, id).signals.find((s) => s.name === name)!.id;
  await expect(takeOut(app, id, signal(NAME), 'Ada')).rejects.toThrow(/Power is made from it/);
  await expect(takeOut(app, id, 0, 'Ada')).rejects.toThrow(/recorded/);
  await expect(takeOut(app, id, 99, 'Ada')).rejects.toThrow(/signal of the take/);
  await takeOut(app, id, signal('Power'), 'Ada');
  await takeOut(app, id, signal(NAME), 'Ada');
  expect(viewTake(app, id).signals.map((s) => s.name)).toEqual(['Load', 'Speed']);
  expect((await sealOf(app, id)).state).toBe('sealed');
  await lowPass();
  expect(valuesOf(NAME)[2500]).toBeCloseTo(slow(5), 2);
});

test('it travels with the take, and is written into tables', async () => {
  await lowPass();
  await make('resample', { channels: [channelOf('Load')], rate: 125 });
  const { body } = await exportTake(app, id, { format: 'csv', signals: [2] });
  expect((await new Response(body as never).text()).slice(0, 400)).toContain(NAME);
  const other = mkdtempSync(join(tmpdir(), 'farrier-away-'));
  const away = openApp(other);
  try {
    app.takes.closeAll();
    const copy = join(other, 'copy');
    copyFileSync(takePath(app, id), copy);
    await importTake(away, { name: 'M-1.take', path: copy }, {}, 'Cy');
    const { signals: there } = viewTake(away, id);
    expect(there.map((s) => [s.name, s.made !== null, s.rate.num])).toEqual([
      ['Load', false, 500],
      ['Speed', false, 50],
      [NAME, true, 500],
      ['Load, 125 samples/s', true, 125],
    ]);
    expect((await sealOf(away, id)).state).toBe('sealed');
  } finally {
    await closeApp(away);
    away.db.$client.close();
    rmSync(other, { recursive: true });
  }
});

describe('faults', () => {
  test('over several takes one that lacks the source says so, the others go on', async () => {
    const bare = makeTake(app, {
      name: 'Bare',
      signals: [{ name: 'Tide', unit: 'm', hz: 10, values: [1, 2, 3] }],
    });
    const got = await make('formula', { formula: '"Load" * 2', name: 'Twice' }, [bare, id]);
    expect(got[0]).toMatchObject({
      name: 'Bare',
      made: [],
      fault: expect.stringMatching(/no such channel/i) as unknown,
    });
    expect(got[1].made).toHaveLength(1);
    expect(valuesOf('Twice')[7]).toBeCloseTo(2 * load[7], 5);
    await expect(make('formula', { formula: '"Load" * 2', name: 'Twice' }, [bare])).rejects.toThrow(/Load/);
  });

  test('two at once on one take both come to be', async () => {
    await Promise.all([lowPass(), make('smooth', { channels: [channelOf('Load')], span: 0.05 }), lowPass()]);
    expect(viewTake(app, id).signals.map((s) => s.name).sort()).toEqual(['Load', NAME, 'Load, mean over 0.05 s', 'Speed'].sort()); // prettier-ignore
  });

  test('two that would have one name get two', async () => {
    await make('formula', { formula: '"Load" * 2', name: 'Load' });
    expect(viewTake(app, id).signals.map((s) => s.name)).toEqual(['Load', 'Speed', 'Load 2']);
  });

  test.each([
    ['filter', { edge: 400 }, /between 0 and 250 Hz/],
    ['filter', { channels: ['gone'] }, /not|none/i],
    ['filter', { order: 99 }, /Order/],
    ['magic', {}, /Choose one of the list/],
    ['rosette', {}, /Gauge a|µε/],
  ])('%s with %j is refused, and nothing is written', async (kind, settings, why) => {
    await expect(make(kind, { channels: [channelOf('Load')], ...settings })).rejects.toThrow(why);
    expect(viewTake(app, id).signals).toHaveLength(2);
  });

  test('cancelled in the middle, the take is as it was', async () => {
    const signal = { aborted: false };
    const progress = () => void (signal.aborted = true);
    const big = makeTake(app, { name: 'Big', signals: [{ name: 'Load', unit: 'kN', hz: 1000, values: new Float32Array(300_000).fill(1) }] }); // prettier-ignore
    const making = { kind: 'filter', settings: { channels: [channelOf('Load', big)], family: 'Butterworth', band: 'low pass', edge: 10, upper: 100, order: 4, ripple: 0.5, attenuation: 60, taps: 201, ways: 'both ways, without delay' } }; // prettier-ignore
    expect(makeSignals({ path: takePath(app, big), making, by: 'Ada' }, { progress, signal })).toMatchObject({ code: 'cancelled' }); // prettier-ignore
    expect(new TakeReader(takePath(app, big)).signals).toHaveLength(1);
    expect((await sealOf(app, big)).state).toBe('sealed');
  });
});

test('a look at it over a span is what it will be there', async () => {
  const making = { kind: 'filter', settings: { channels: [channelOf('Load')], edge: 20 } };
  const { before, after, rateHz, gaps } = await previewMaking(app, id, {
    making,
    from: 4,
    to: 5,
    width: 4000,
  });
  expect(rateHz).toBe(HZ);
  expect(gaps).toMatch(/bridged/);
  expect(before).toMatchObject([{ name: 'Load', unit: 'kN' }]);
  expect(after[0].fromS).toBeCloseTo(4, 9);
  expect(after[0].min).toHaveLength(500);
  after[0].min.forEach((v, i) => expect(v).toBeCloseTo(slow(4 + i / HZ), 2));
  expect(before[0].max[3]).toBeCloseTo(load[2003], 5);
  expect(viewTake(app, id).signals).toHaveLength(2);
  await expect(previewMaking(app, id, { making: { kind: 'filter', settings: { channels: [channelOf('Load')], edge: 300 } }, from: 4, to: 5, width: 100 })).rejects.toThrow(/250 Hz/); // prettier-ignore
});
