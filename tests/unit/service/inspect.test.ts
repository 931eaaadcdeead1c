import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { TakeFilter, type Condition } from '$contract/take-list';
import { closeApp, openApp, takePath, type App } from '$service/app';
import { alignTakes } from '$service/inspect/align';
import { drawingsOf, forgetDrawing, keepDrawing } from '$service/inspect/drawings';
import { beginImport, endImport, importState, takePiece } from '$service/inspect/imports';
import { binTakes, emptyBin, judgeTakes, restoreTakes, tagTakes, writeNote } from '$service/inspect/keep';
import { binned, findTakes, offeredBy } from '$service/inspect/list';
import {
  betweenOf,
  nearestOf,
  pairsOf,
  readingsOf,
  spectraOf,
  takeViews,
  windowsOf,
} from '$service/inspect/read';
import {
  addSeries,
  changeSeries,
  judgeRow,
  removeSeries,
  seriesCsv,
  seriesTable,
} from '$service/inspect/series';
import { stripsOf } from '$service/inspect/strips';
import { logPage } from '$service/logbook';
import { renameTake, sealOf, viewTake } from '$service/takes';
import { startStudy } from '$service/study/studies';
import { USUAL_DRAWING } from '$contract/drawing';
import { IDENTITY } from '$core/conversion/conversion';
import { TakeWriter } from '$store/take/writer';
import { changeTakes, putTake } from '$store/takes';
import { makeTake } from '../takes';

let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-inspect-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const NOW = Date.UTC(2026, 10, 20);
const DAY = 86_400_000;
const ramp = (n: number, top: number) => Float32Array.from({ length: n }, (_, i) => (top * i) / (n - 1));

const find = (words: string, conditions: Condition[] = [], order = 'newest', group = 'nothing') =>
  findTakes(app, { filter: TakeFilter.parse({ words, conditions }), order, group, from: 0, count: 100 }, NOW);
const names = (...args: Parameters<typeof find>) => find(...args).takes.map((t) => t.name);

describe('the list of takes', () => {
  let ids: string[];
  beforeAll(() => {
    const made = [
      { name: 'CP-10', batch: '4', days: 1, seconds: 30, channel: 'Load' },
      { name: 'CP-2', batch: '4', days: 2, seconds: 90, channel: 'Load' },
      { name: 'CP-1', batch: '3', days: 20, seconds: 120, channel: 'Torque' },
      { name: 'Été <b>é</b>', batch: '', days: 30, seconds: 5, channel: 'Torque' },
    ];
    ids = made.map(({ name, batch, days, seconds, channel }) =>
      makeTake(app, {
        name,
        facts: batch ? { Batch: batch, Operator: 'Ada' } : {},
        folder: batch ? `Batch ${batch}` : '',
        plan: 'Pull',
        startMs: NOW - days * DAY,
        signals: [{ name: channel, unit: 'kN', hz: 10, values: ramp(seconds * 10, 8) }],
        notes: [{ atS: 1, says: `clamped by ${name}` }],
      }),
    );
  });

  test('words are looked for in names, facts, notes, tags and channels, without case or accents; all of them have to be there', () => {
    expect(names('')).toEqual(['CP-10', 'CP-2', 'CP-1', 'Été <b>é</b>']);
    expect(names('ete')).toEqual(['Été <b>é</b>']);
    expect(names('ADA load')).toEqual(['CP-10', 'CP-2']);
    expect(names('clamped cp-1')).toEqual(['CP-10', 'CP-1']);
    expect(names('nothing of that')).toEqual([]);
  });
  test('conditions: a fact, its size, a channel, how long, how long ago, the folder', () => {
    const is = (kind: string, settings: Record<string, unknown>) => names('', [{ kind, settings }]);
    expect(is('fact', { fact: 'batch', test: 'is', value: '4' })).toEqual(['CP-10', 'CP-2']);
    expect(is('fact', { fact: 'Batch', test: 'is not', value: '4' })).toEqual(['CP-1', 'Été <b>é</b>']);
    expect(is('fact', { fact: 'Batch', test: 'is below', value: '3,5' })).toEqual(['CP-1']);
    expect(is('channel', { channel: 'torque' })).toEqual(['CP-1', 'Été <b>é</b>']);
    expect(is('length', { test: 'longer than', seconds: 60 })).toEqual(['CP-2', 'CP-1']);
    expect(is('last days', { days: 7 })).toEqual(['CP-10', 'CP-2']);
    expect(is('between', { from: '2026-10-01', to: '2026-10-31' })).toEqual(['CP-1', 'Été <b>é</b>']);
    expect(is('folder', { test: 'is', folder: 'Batch 3' })).toEqual(['CP-1']);
    expect(is('origin', { test: 'is', origin: 'recorded here' })).toHaveLength(4);
  });
  test('ordered as people count, grouped, with those that have none last', () => {
    expect(names('', [], 'name')).toEqual(['CP-1', 'CP-2', 'CP-10', 'Été <b>é</b>']);
    expect(names('', [], 'length')).toEqual(['CP-1', 'CP-2', 'CP-10', 'Été <b>é</b>']);
    expect(names('', [], 'oldest')[0]).toBe('Été <b>é</b>');
    expect(names('', [], 'fact:Batch')).toEqual(['CP-1', 'CP-10', 'CP-2', 'Été <b>é</b>']);
    const { groups, ids: all } = find('', [], 'newest', 'folder');
    expect(groups).toEqual([{ name: 'Batch 4', count: 2 }, { name: 'Batch 3', count: 1 }, { name: '', count: 1 }]); // prettier-ignore
    expect(all).toEqual(ids);
  });
  test('a part of the list is a part of the whole order', () => {
    const all = findTakes(
      app,
      { filter: TakeFilter.parse({}), order: 'name', group: 'nothing', from: 1, count: 2 },
      NOW,
    );
    expect(all).toMatchObject({ all: 4, from: 1, takes: [{ name: 'CP-2' }, { name: 'CP-10' }] });
    expect(all.ids).toHaveLength(4);
  });
  test('what filters can be made of is offered', () => {
    expect(offeredBy(app)).toMatchObject({
      facts: { Batch: ['3', '4'], Operator: ['Ada'] },
      folders: ['Batch 3', 'Batch 4'],
      plans: ['Pull'],
      channels: [
        { name: 'Load', unit: 'kN', takes: 2 },
        { name: 'Torque', takes: 2 },
      ],
    });
  });
  test('a condition that there is not is refused', () => {
    expect(TakeFilter.safeParse({ conditions: [{ kind: 'shoe size', settings: {} }] }).success).toBe(false);
    expect(TakeFilter.safeParse({ conditions: [{ kind: 'length', settings: { test: 'longer than', seconds: 'x' } }] }).success).toBe(false); // prettier-ignore
  });

  test('tags are put on and taken off; the list finds by them', () => {
    tagTakes(app, ids.slice(0, 2), ['for the report', ' odd '], [], 'Ada');
    tagTakes(app, ids.slice(0, 1), [], ['odd'], 'Ada');
    expect(find('').takes.map((t) => t.tags)).toEqual([
      ['for the report'],
      ['for the report', 'odd'],
      [],
      [],
    ]);
    expect(names('odd')).toEqual(['CP-2']);
    expect(names('', [{ kind: 'tag', settings: { test: 'is not', tag: 'Odd' } }])).toHaveLength(3);
    expect(logPage(app)[0].says).toBe('1 take: no longer tagged odd.');
  });
  test('a take of another name stays under it after a restart, and on the list', () => {
    renameTake(app, ids[2], 'CP-1 again', 'Ada');
    expect(names('again')).toEqual(['CP-1 again']);
    const again = openApp(folder);
    expect(viewTake(again, ids[2]).head.name).toBe('CP-1 again');
    again.db.$client.close();
    renameTake(app, ids[2], 'CP-1', 'Ada');
  });

  test('small pictures: made once, the lowest and highest of each part; none of a channel that is not there', () => {
    const first = stripsOf(app, ids, 'Load');
    expect(first[ids[2]]).toBeNull();
    const { min, max } = first[ids[0]]!;
    expect(min).toHaveLength(48);
    expect([min[0], max[47]]).toEqual([1, 255]);
    expect([...max].sort((a, b) => a - b)).toEqual(max); // a ramp rises
    rmSync(takePath(app, ids[0]) + '-shm', { force: true });
    expect(stripsOf(app, ids, 'Load')).toEqual(first);
  });
});

describe('verdicts', () => {
  let id: string;
  beforeAll(
    () => (id = makeTake(app, { name: 'J-1', signals: [{ name: 'x', hz: 10, values: ramp(50, 1) }] })),
  );
  const found = () => find('J-1').takes[0];

  test('two people judge at once: both stand in the record, the later one counts; the seal holds', async () => {
    expect(found().judgement).toBeNull();
    judgeTakes(app, [id], 'good', '', 'Ada');
    judgeTakes(app, [id], 'doubtful', 'the clamp slipped', 'Bo');
    expect(viewTake(app, id).judgements).toMatchObject([
      { verdict: 'good', by: 'Ada' },
      { verdict: 'doubtful', reason: 'the clamp slipped', by: 'Bo' },
    ]);
    expect(found().judgement).toMatchObject({ verdict: 'doubtful', by: 'Bo' });
    expect(names('', [{ kind: 'verdict', settings: { test: 'is', verdict: 'doubtful' } }])).toEqual(['J-1']);
    expect(names('slipped')).toEqual(['J-1']);
    expect((await sealOf(app, id)).state).toBe('sealed');
  });
  test('what is not good wants a reason', () => {
    expect(() => judgeTakes(app, [id], 'void', ' ', 'Ada')).toThrow(/Say what is wrong/);
  });
  test('a take that is gone cannot be judged, and says so', () => {
    expect(() => judgeTakes(app, ['nobody'], 'good', '', 'Ada')).toThrow(/nobody/);
  });
});

describe('notes afterwards', () => {
  let id: string;
  beforeAll(() => {
    id = makeTake(app, { name: 'N-1', signals: [{ name: 'x', hz: 10, values: ramp(100, 1) }], notes: [{ atS: 2, says: 'By hand' }, { atS: 3, says: 'Started', kind: 'started' }] }); // prettier-ignore
  });
  const note = (of: Partial<Parameters<typeof writeNote>[2]>, by = 'Ada') =>
    writeNote(app, id, { atS: 1, untilS: null, says: 'x', replaces: null, ...of }, by);
  const notes = () => viewTake(app, id).notes;

  test('at a moment and over a span; the list finds by their words; the seal holds', async () => {
    note({ atS: 4, says: 'a knock' });
    note({ atS: 5, untilS: 6.5, says: 'steady' });
    expect(notes()).toMatchObject([{ says: 'By hand', untilS: null, written: null }, { says: 'Started' }, { says: 'a knock', atS: 4 }, { says: 'steady', untilS: 6.5, by: 'Ada' }]); // prettier-ignore
    expect(names('knock')).toEqual(['N-1']);
    expect((await sealOf(app, id)).state).toBe('sealed');
  });
  test('one is written anew or taken back: what stood there before stays in the file', () => {
    const first = notes().find((n) => n.says === 'a knock')!;
    note({ atS: 4.2, says: 'two knocks', replaces: first.id }, 'Bo');
    expect(notes().map((n) => n.says)).toEqual(['By hand', 'Started', 'two knocks', 'steady']);
    expect(() => note({ says: 'three', replaces: first.id })).toThrow(/changed it meanwhile/);
    const second = notes().find((n) => n.says === 'two knocks')!;
    note({ says: '', replaces: second.id });
    expect(notes().map((n) => n.says)).toEqual(['By hand', 'Started', 'steady']);
    const file = new Sqlite(takePath(app, id), { readonly: true });
    expect(file.prepare('SELECT says FROM note ORDER BY id').pluck().all()).toEqual(expect.arrayContaining(['a knock', 'two knocks'])); // prettier-ignore
    file.close();
  });
  test('what was written by itself, what lies outside and what says nothing is refused', () => {
    const own = notes().find((n) => n.says === 'Started')!;
    expect(() => note({ says: 'no', replaces: own.id })).toThrow(/stays as it is/);
    expect(() => note({ atS: 11 })).toThrow(/from 0 to 10 s/);
    expect(() => note({ atS: 5, untilS: 5 })).toThrow(/after the beginning/);
    expect(() => note({ says: '  ' })).toThrow(/Write something/);
    expect(() => note({ replaces: 999 })).toThrow(/not in this take/);
  });
});

describe('the bin', () => {
  test('a take in it is on no list and comes back as it was; emptied, its file is gone and its line says so', async () => {
    const id = makeTake(app, { name: 'B-1', signals: [{ name: 'x', hz: 10, values: ramp(5000, 1) }] });
    binTakes(app, [id], 'Ada');
    expect(names('B-1')).toEqual([]);
    const size = statSync(takePath(app, id)).size;
    expect(binned(app)).toMatchObject({ takes: [{ name: 'B-1' }], bytes: size });
    restoreTakes(app, [id], 'Ada');
    expect(names('B-1')).toEqual(['B-1']);
    binTakes(app, [id], 'Ada');

    // While a study computes on it nothing is deleted.
    app.workers.do = (
      (run) =>
      async (...args: Parameters<typeof run>) => {
        await new Promise((resolve) => setTimeout(resolve, 50));
        return run.apply(app.workers, args);
      }
    )(app.workers.do) as never;
    const { done } = startStudy(app, { kind: 'statistics', takeId: id }, 'Ada');
    expect(() => emptyBin(app, 'Ada')).toThrow(/is computing on B-1/);
    expect(existsSync(takePath(app, id))).toBe(true);
    await done;

    const lease = app.takes.lease(takePath(app, id));
    expect(() => emptyBin(app, 'Ada')).toThrow(/being read/);
    lease.release();
    expect(emptyBin(app, 'Ada')).toEqual({ takes: 1, bytes: size });
    expect(existsSync(takePath(app, id))).toBe(false);
    expect(binned(app).takes).toEqual([]);
    expect(() => restoreTakes(app, [id], 'Ada')).toThrow(/deleted when the bin was emptied/);
    // Numbers are not given twice.
    const next = makeTake(app, { name: 'B-2', signals: [{ name: 'x', hz: 10, values: [1] }] });
    expect(viewTake(app, next).head.number).toBeGreaterThan(find('').takes.length);
  });
});

describe('several takes read at once', () => {
  const sine = (hz: number, n: number, late = 0) =>
    Float32Array.from({ length: n }, (_, i) => Math.sin(2 * Math.PI * 2 * (i / hz - late)));
  let a: string;
  let b: string;
  beforeAll(() => {
    a = makeTake(app, { name: 'R-A', startMs: NOW, signals: [{ name: 'y', hz: 100, values: sine(100, 1000) }, { name: 'x', hz: 10, values: ramp(101, 10) }], notes: [{ atS: 2, says: 'Go' }] }); // prettier-ignore
    b = makeTake(app, { name: 'R-B', startMs: NOW + 7000, signals: [{ name: 'y', hz: 50, values: sine(50, 600, 0.1) }], notes: [{ atS: 5, says: 'Go now' }] }); // prettier-ignore
  });
  test('windows of both, each in its own buckets', () => {
    const { head, numbers } = windowsOf(app, [{ take: a, signals: [0, 1], from: 0, to: 5 }, { take: b, signals: [0], from: 1, to: 2 }], 100, false); // prettier-ignore
    expect(head.map((h) => h.length)).toEqual([2, 1]);
    expect(numbers).toHaveLength(6);
    expect(Math.max(...numbers[1])).toBeCloseTo(1, 2);
    expect(head[1][0].fromS).toBeCloseTo(1, 9);
  });
  test('values at instants; in no take there is none', () => {
    const [[at], [outside]] = readingsOf(app, [{ take: a, signals: [0, 1], s: [0.125] }, { take: b, signals: [0], s: [99] }], false, false); // prettier-ignore
    expect(at[0]).toBeCloseTo(Math.sin(2 * Math.PI * 2 * 0.12), 5);
    expect(outside).toEqual([null]);
  });
  test('what lies between: mean, scatter and extremes of the sine, the slope of the ramp', () => {
    const [[y, x]] = betweenOf(app, [{ take: a, signals: [0, 1], from: 1, to: 3 }], false);
    expect(y).toMatchObject({ count: 200, missing: 0 });
    expect(y.mean).toBeCloseTo(0, 6);
    expect(y.rms).toBeCloseTo(Math.SQRT1_2, 6);
    expect(x.slope).toBeCloseTo(1, 6);
    const [[none]] = betweenOf(app, [{ take: a, signals: [0], from: 50, to: 60 }], false);
    expect(none).toMatchObject({ count: 0, mean: null, min: null, slope: null });
  });
  test('a cursor snaps to the highest, the lowest, the crossing that is nearest', () => {
    expect(nearestOf(app, a, { signal: 0, from: 0, to: 0.3, what: 'peak' }).s).toBeCloseTo(0.125, 1);
    expect(nearestOf(app, a, { signal: 0, from: 0, to: 0.5, what: 'valley' }).s).toBeCloseTo(0.375, 1);
    expect(nearestOf(app, a, { signal: 0, from: 0.1, to: 0.9, what: 'crossing', level: 0, at: 0.7 }).s).toBeCloseTo(0.75, 2); // prettier-ignore
    expect(nearestOf(app, a, { signal: 0, from: 20, to: 21, what: 'peak' })).toEqual({
      s: null,
      value: null,
    });
  });
  test('one channel against another: x is read at the times of y, no turn is lost', () => {
    const { head, numbers } = pairsOf(app, [{ take: a, x: 1, signals: [0], from: 0, to: 10 }], 300, false);
    const [times, x, y] = numbers;
    expect(head[0][0].count).toBe(y.length);
    expect(y.length).toBeLessThanOrEqual(310);
    for (let i = 0; i < y.length; i++) expect(x[i]).toBeCloseTo(times[i], 4); // the ramp is the time
    expect(Math.max(...y)).toBeCloseTo(Math.sin(2 * Math.PI * 2 * 0.12), 5); // its highest sample
    expect([...times].sort((p, q) => p - q)).toEqual([...times]);
  });
  test('the spectrum of a window has its power at the tone', () => {
    const { head, numbers } = spectraOf(app, [{ take: a, signals: [0], from: 0, to: 10 }], 128, false);
    const { stepHz, count, segments } = head[0][0];
    expect(count).toBe(129);
    expect(segments).toBeGreaterThan(4);
    const density = numbers[0];
    const top = density.indexOf(Math.max(...density));
    expect(top * stepHz).toBeCloseTo(2, 0);
    // A sine of amplitude 1 has half a unit² of power.
    expect(density.reduce((sum, d) => sum + d * stepHz, 0)).toBeCloseTo(0.5, 2);
    expect(spectraOf(app, [{ take: a, signals: [0], from: 0, to: 0.05 }], 128, false).head[0][0].count).toBe(
      0,
    );
  });

  const align = (by: 'start' | 'clock' | 'mark' | 'crossing' | 'best fit', rest = {}) =>
    alignTakes(app, {
      takes: [a, b],
      by,
      mark: '',
      channel: 'y',
      level: 0.5,
      hysteresis: 0.2,
      way: 'rises',
      ...rest,
    });
  test('aligned by start, clock, mark', () => {
    expect(align('start').map((t) => t.atS)).toEqual([0, 0]);
    expect(align('clock').map((t) => t.atS)).toEqual([0, -7]);
    expect(align('mark', { mark: 'Go' }).map((t) => t.atS)).toEqual([2, 5]);
    const [, late] = align('mark', { mark: 'Go now' });
    expect(late.atS).toBe(5);
    expect(align('mark', { mark: 'Go now' })[0].fault).toMatch(/R-A has none/);
  });
  test('by the crossing of a level, whatever the rate: the sine that is 0.1 s late lies 0.1 s later', () => {
    const [first, second] = align('crossing');
    expect(second.atS! - first.atS!).toBeCloseTo(0.1, 2);
    expect(align('crossing', { level: 9 })[0].fault).toMatch(/never rises through 9 V in R-A/);
    expect(align('crossing', { channel: 'x' })[1].fault).toMatch(/R-B does not hold it/);
  });
  test('by the best fit, with its coefficient', () => {
    const [, { atS, coefficient }] = align('best fit');
    // A sine repeats every half second: any whole number of them fits as well.
    const turns = (atS! - 0.1) / 0.5;
    expect(turns).toBeCloseTo(Math.round(turns), 1);
    expect(coefficient).toBeGreaterThan(0.98);
  });

  test('a take whose file is gone, or damaged, says so; the others are looked at', () => {
    const gone = makeTake(app, { name: 'R-gone', signals: [{ name: 'y', hz: 10, values: [1, 2] }] });
    const broken = makeTake(app, { name: 'R-broken', signals: [{ name: 'y', hz: 10, values: [1, 2] }] });
    app.takes.closeAll();
    rmSync(takePath(app, gone));
    writeFileSync(takePath(app, broken), 'no take at all');
    const views = takeViews(app, [a, gone, broken], false);
    expect(views[0]).toMatchObject({ head: { name: 'R-A' } });
    expect(views[1]).toMatchObject({
      id: gone,
      name: 'R-gone',
      fault: { what: expect.stringContaining('take file') },
    });
    expect(views[2]).toMatchObject({
      name: 'R-broken',
      fault: { what: expect.stringMatching(/cannot be read|no take/) },
    });
    binTakes(app, [gone, broken], 'Ada');
    expect(emptyBin(app, 'Ada').takes).toBe(2); // one file was gone already
  });
  test('fifty takes of different rates and starts are aligned, drawn and read in one go', () => {
    const ids = Array.from({ length: 50 }, (_, k) => {
      const hz = [10, 25, 100, 333, 1000][k % 5];
      // Each rises through 5 one second after it was two seconds in, and k hundredths later.
      const at = 2 + k / 100;
      const values = Float32Array.from({ length: 6 * hz }, (_, i) =>
        i / hz < at ? 0 : Math.min(10, 5 * (i / hz - at)),
      );
      return makeTake(app, { name: `F-${k}`, startMs: NOW + 977 * k, signals: [{ name: 'y', unit: 'kN', hz, values, startS: (k % 3) / 10 }] }); // prettier-ignore
    });
    const found = alignTakes(app, { takes: ids, by: 'crossing', mark: '', channel: 'y', level: 5, hysteresis: 1, way: 'rises' }); // prettier-ignore
    found.forEach((t, k) => expect(t.atS).toBeCloseTo(3 + k / 100 + (k % 3) / 10, 1));
    const { head, numbers } = windowsOf(app, ids.map((take, k) => ({ take, signals: [0], from: found[k].atS! - 1, to: found[k].atS! + 1 })), 200, false); // prettier-ignore
    expect(head).toHaveLength(50);
    expect(numbers.every((n) => n.length > 0)).toBe(true);
    const at = readingsOf(app, ids.map((take, k) => ({ take, signals: [0], s: [found[k].atS!] })), false, false); // prettier-ignore
    // The sample at or before the crossing is at most one step of its rate below it.
    at.forEach(([[value]], k) => expect(5 - value!).toBeLessThan(5 / [10, 25, 100, 333, 1000][k % 5] + 1e-3));
    binTakes(app, ids, 'Ada');
    emptyBin(app, 'Ada');
  });
  test('a take that is being written is drawn as far as it is; it is on no list and cannot be judged, mended or thrown away yet', () => {
    const id = 'being-written-1';
    const head = {
      ...viewTake(app, a).head,
      id,
      name: 'R-now',
      state: 'recording' as const,
      lengthNs: null,
      number: 999,
    };
    const writer = new TakeWriter(takePath(app, id), { by: 'test', head, groups: [{ offsetNs: 0, rate: { num: 10, den: 1 } }], signals: [{ channelId: 'c', name: 'y', rawUnit: 'V', unit: 'V', group: 0, junction: null, conversion: IDENTITY, snapshot: null }] }); // prettier-ignore
    putTake(app.db, head, 0);
    writer.append(0, 0, ramp(20, 1));
    writer.commit();
    const buckets = () =>
      windowsOf(app, [{ take: id, signals: [0], from: 0, to: 100 }], 500, false).head[0][0].buckets;
    expect(buckets()).toBe(20);
    writer.append(0, 20, ramp(30, 1));
    writer.commit();
    expect(buckets()).toBe(50);
    expect(names('R-now')).toEqual([]);
    expect(() => judgeTakes(app, [id], 'good', '', 'Ada')).toThrow(/still being recorded/);
    expect(() => binTakes(app, [id], 'Ada')).toThrow(/still being recorded/);
    expect(() => writeNote(app, id, { atS: 0, untilS: null, says: 'x', replaces: null }, 'Ada')).toThrow(/still being recorded/); // prettier-ignore
    writer.close('complete', 5e9);
    app.takes.forget(takePath(app, id));
    changeTakes(app.db, [id], { goneAt: 1 });
  });
  test('one sample, none, only NaN: all are drawn and read as what they are', () => {
    const odd = makeTake(app, { name: 'R-odd', signals: [{ name: 'one', hz: 10, values: [3] }, { name: 'none', hz: 10, values: [] }, { name: 'gaps', hz: 10, values: [NaN, NaN, NaN] }] }); // prettier-ignore
    const { head, numbers } = windowsOf(app, [{ take: odd, signals: [0, 1, 2], from: 0, to: 1 }], 50, false);
    expect(head[0].map((h) => h.buckets)).toEqual([1, 0, 3]);
    expect([...numbers[0]]).toEqual([3]);
    expect([...numbers[4]].every(Number.isNaN)).toBe(true);
    expect(readingsOf(app, [{ take: odd, signals: [0, 1, 2], s: [0] }], false, false)).toEqual([
      [[3, null, null]],
    ]);
    expect(betweenOf(app, [{ take: odd, signals: [0, 1, 2], from: 0, to: 1 }], false)[0].map((r) => r.count)).toEqual([1, 0, 0]); // prettier-ignore
    expect(stripsOf(app, [odd], 'none')[odd]).toBeNull();
    expect(spectraOf(app, [{ take: odd, signals: [0, 2], from: 0, to: 1 }], 64, false).head[0].map((h) => h.count)).toEqual([0, 0]); // prettier-ignore
  });
});

describe('series', () => {
  const pull = (name: string, top: number, batch = 'S') =>
    makeTake(app, {
      name,
      facts: { Batch: batch },
      startMs: NOW,
      signals: [
        {
          name: 'Load',
          unit: 'kN',
          hz: 100,
          values: Float32Array.from({ length: 601 }, (_, i) => (i <= 500 ? (top * i) / 500 : 0.1)),
        },
        { name: 'Travel', unit: 'mm', hz: 100, values: ramp(601, 6) },
      ],
    });
  const filter = {
    words: '',
    conditions: [{ kind: 'fact', settings: { fact: 'Batch', test: 'is', value: 'S' } }],
  };
  const highest = { of: 'measure' as const, title: '', measure: { kind: 'level', settings: { which: 'highest', channel: 'Load', from: null, to: null } } }; // prettier-ignore
  let id: string;
  let specimens: string[];
  beforeAll(() => {
    specimens = [10, 10.2, 9.8, 6].map((top, k) => pull(`S-${k + 1}`, top));
    ({ id } = addSeries(
      app,
      'Pulls',
      { filter, order: 'name', columns: [{ of: 'fact', name: 'Batch' }, highest] },
      'Ada',
    ));
  });
  const table = () => seriesTable(app, id);

  test('takes as rows, facts and measures as columns, statistics over those that count', async () => {
    const { rows, columns, says } = await table();
    expect(says).toBe('Batch is S');
    expect(rows.map((r) => r.name)).toEqual(['S-1', 'S-2', 'S-3', 'S-4']);
    expect(rows[0].cells[0]).toMatchObject({ value: 'S' });
    expect(rows[0].cells[1]).toMatchObject({ value: 10, atS: 5 });
    expect(columns[0].statistics).toBeNull();
    expect(columns[1]).toMatchObject({
      title: 'highest Load',
      unit: 'kN',
      says: 'The highest Load from the start to the end.',
    });
    expect(columns[1].statistics).toMatchObject({ n: 4, mean: expect.closeTo(9, 5) });
  });
  test('a row is judged out with a reason: it stays, and the statistics leave it out; both words are kept', async () => {
    expect(() => judgeRow(app, id, { take: specimens[3], counts: false, reason: '' }, 'Ada')).toThrow(
      /Say why/,
    );
    judgeRow(app, id, { take: specimens[3], counts: false, reason: 'flaw in the bond' }, 'Ada');
    const { rows, columns } = await table();
    expect(rows[3]).toMatchObject({ name: 'S-4', counts: false, reason: 'flaw in the bond', by: 'Ada' });
    expect(rows[3].cells[1].value).toBe(6);
    expect(columns[1].statistics).toMatchObject({ n: 3, mean: expect.closeTo(10, 5) });
    judgeRow(app, id, { take: specimens[3], counts: true, reason: 'seen again: no flaw' }, 'Bo');
    expect((await table()).rows[3].words.map((w) => [w.by, w.counts])).toEqual([['Ada', false], ['Bo', true]]); // prettier-ignore
    judgeRow(app, id, { take: specimens[3], counts: false, reason: 'flaw in the bond' }, 'Ada');
  });
  test('a new specimen joins by itself; a void one does not count; one that leaves the filter leaves', async () => {
    const fifth = pull('S-5', 10.4);
    expect((await table()).columns[1].statistics).toMatchObject({ n: 4 });
    judgeTakes(app, [fifth], 'void', 'wrong grip', 'Ada');
    const { rows, columns } = await table();
    expect(rows[4]).toMatchObject({ name: 'S-5', counts: false, reason: 'wrong grip' });
    expect(columns[1].statistics).toMatchObject({ n: 3 });
    binTakes(app, [fifth], 'Ada');
    expect((await table()).rows).toHaveLength(4);
  });
  test('Grubbs’ test hints at the one that lies far out, and judges nothing', async () => {
    const many = addSeries(app, 'Many', { filter: { words: '', conditions: [{ kind: 'fact', settings: { fact: 'Batch', test: 'is', value: 'G' } }] }, order: 'name', columns: [highest] }, 'Ada'); // prettier-ignore
    [10, 10.1, 9.9, 10.05, 9.95, 10.02, 6].forEach((top, k) => pull(`G-${k + 1}`, top, 'G'));
    const { columns, rows } = await seriesTable(app, many.id);
    expect(columns[0].hint).toMatchObject({ name: 'G-7' });
    expect(columns[0].hint!.distance).toBeGreaterThan(columns[0].hint!.critical1);
    expect(rows.every((r) => r.counts)).toBe(true);
    removeSeries(app, many.id, 'Ada');
    await expect(seriesTable(app, many.id)).rejects.toThrow(/series/);
  });
  test('a take without the channel says why its cell is empty; other columns change the table', async () => {
    const slope = { of: 'measure' as const, title: 'stiffness', measure: { kind: 'slope', settings: { y: 'Load', x: 'Travel', low: 2, high: 5 } } }; // prettier-ignore
    const missing = { of: 'measure' as const, title: '', measure: { kind: 'level', settings: { which: 'mean', channel: 'Nowhere', from: null, to: null } } }; // prettier-ignore
    const none = { of: 'finding' as const, study: 'No such', label: 'x' };
    changeSeries(app, id, { name: 'Pulls of S', series: { filter, order: 'name', columns: [slope, missing, none, highest] } }, 'Ada'); // prettier-ignore
    const { name, columns, rows } = await table();
    expect(name).toBe('Pulls of S');
    expect(columns[0]).toMatchObject({ title: 'stiffness', unit: 'kN/mm' });
    expect(rows[0].cells[0].value).toBeCloseTo(2, 3); // 10 kN over 5 mm
    expect(rows[0].cells[1].fault).toMatch(/S-1 does not hold it/);
    expect(rows[0].cells[2].fault).toMatch(/No study “No such”/);
  });
  test('findings of studies are columns, too', async () => {
    const { done } = startStudy(app, { kind: 'statistics', takeId: specimens[0], name: 'Stat' }, 'Ada');
    await done;
    const finding = (label: string) => ({ of: 'finding' as const, study: 'Stat', label });
    const labels = app.db.$client.prepare("SELECT body FROM studies WHERE take_id = ?").pluck().all(specimens[0]).map((b) => JSON.parse(b as string).findings[0].label as string); // prettier-ignore
    changeSeries(
      app,
      id,
      { series: { filter, order: 'name', columns: [finding(labels[0]), highest] } },
      'Ada',
    );
    const { rows, columns } = await table();
    expect(typeof rows[0].cells[0].value).toBe('number');
    expect(columns[0].statistics).toMatchObject({ n: 1 });
  });
  test('as a table for spreadsheets: rows with their judgement, then the statistics', async () => {
    const { text, name } = await seriesCsv(app, id);
    const lines = text.replace('\ufeff', '').split('\r\n');
    expect(name).toBe('Pulls of S');
    expect(lines[0]).toContain('highest Load [kN],counts,why,judged by');
    expect(lines[4]).toContain('S-4');
    expect(lines[4]).toContain(',6,out,flaw in the bond,Ada');
    expect(lines.find((l) => l.startsWith('n,'))).toMatch(/^n,1,3,/);
  });
});

test('a view is kept by name, written over by the same name, and forgotten', () => {
  const drawing = { ...USUAL_DRAWING, channels: ['Load'] };
  const { id } = keepDrawing(app, 'Coupons', drawing, 'Ada');
  expect(keepDrawing(app, 'coupons', { ...drawing, as: 'one plot' }, 'Ada').id).toBe(id);
  expect(drawingsOf(app)).toMatchObject([
    { name: 'coupons', drawing: { as: 'one plot', channels: ['Load'] } },
  ]);
  // One that cannot be read any more keeps the others from nothing.
  const { id: odd } = keepDrawing(app, 'Odd', drawing, 'Ada');
  app.db.$client.prepare('UPDATE drawings SET body = ? WHERE id = ?').run('{"as":"a dream"}', odd);
  expect(drawingsOf(app).map((d) => d.name)).toEqual(['coupons']);
  app.db.$client.prepare('DELETE FROM drawings WHERE id = ?').run(odd);
  forgetDrawing(app, id, 'Ada');
  expect(drawingsOf(app)).toEqual([]);
  expect(() => forgetDrawing(app, id, 'Ada')).toThrow();
});

describe('bringing files in, piece by piece', () => {
  const until = async (id: string) => {
    for (;;) {
      const state = importState(app, id);
      if (state.state === 'done' || state.state === 'failed') return state;
      await new Promise((resolve) => setTimeout(resolve, 5));
    }
  };
  const send = (name: string, bytes: Uint8Array, piece = 1000) => {
    const { id } = beginImport(app, { name, size: bytes.length, options: {} }, 'Ada');
    for (let at = 0; at < bytes.length; at += piece) takePiece(app, id, at, bytes.subarray(at, at + piece));
    return until(id);
  };
  const left = () => (existsSync(join(folder, 'incoming')) ? readdirSync(join(folder, 'incoming')) : []);

  test('a table becomes a take that is marked as brought in and sealed', async () => {
    const text = `Time [s];Load [kN]\n${Array.from({ length: 500 }, (_, i) => `${(i / 10).toFixed(1)};${i}`).join('\n')}\n`;
    const { state, takeId, fault } = await send('..\\C\\Pull 7.csv', new TextEncoder().encode(text), 777);
    expect(fault).toBeNull();
    expect(state).toBe('done');
    expect(viewTake(app, takeId!).head).toMatchObject({ name: 'Pull 7', from: 'Pull 7.csv' });
    expect((await sealOf(app, takeId!)).state).toBe('sealed');
    expect(find('Pull 7').takes[0].from).toBe('Pull 7.csv');
    expect(names('', [{ kind: 'origin', settings: { test: 'is', origin: 'brought in' } }])).toContain(
      'Pull 7',
    );
  });
  test('a piece that does not follow, or more than was said, is refused; the file goes on where it was', async () => {
    const { id } = beginImport(app, { name: 'x.csv', size: 10, options: {} }, 'Ada');
    takePiece(app, id, 0, new Uint8Array(4));
    expect(() => takePiece(app, id, 8, new Uint8Array(2))).toThrow(/goes on at byte 4/);
    expect(() => takePiece(app, id, 4, new Uint8Array(9))).toThrow(/said to have 10/);
    endImport(app, id);
    expect(() => importState(app, id)).toThrow(/import/);
  });
  test('what is no recording is refused with the next step, and nothing of it stays', async () => {
    const before = find('').all;
    expect((await send('words.csv', new TextEncoder().encode('only words\n'))).fault?.what).toMatch(
      /no rows of numbers|words/,
    );
    expect((await send('data.xyz', new Uint8Array(2000))).fault).toMatchObject({ next: expect.stringContaining('Choose one of these') }); // prettier-ignore
    expect(find('').all).toBe(before);
    expect(left()).toEqual([]);
  });

  test('one that is stopped while it is read leaves neither a take nor a file', async () => {
    const before = [find('').all, readdirSync(join(folder, 'takes')).length];
    const bytes = new TextEncoder().encode(
      `Time [s];A [V]\n${Array.from({ length: 900 }, (_, i) => `${i};1`).join('\n')}\n`,
    );
    const { id } = beginImport(app, { name: 'stopped.csv', size: bytes.length, options: {} }, 'Ada');
    takePiece(app, id, 0, bytes);
    expect(importState(app, id).state).toBe('reading');
    endImport(app, id);
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect([find('').all, readdirSync(join(folder, 'takes')).length]).toEqual(before);
    expect(left()).toEqual([]);
  });
  test('several at once get numbers of their own, in the job that is open', async () => {
    const bytes = (k: number) => new TextEncoder().encode(`Time [s];A [V]\n0;${k}\n1;${k}\n2;${k}\n`);
    const states = await Promise.all([1, 2, 3].map((k) => send(`Par ${k}.csv`, bytes(k), 11)));
    expect(states.map((s) => s.state)).toEqual(['done', 'done', 'done']);
    const numbers = states.map((s) => viewTake(app, s.takeId!).head.number);
    expect(new Set(numbers).size).toBe(3);
    expect(states.map((s, k) => readingsOf(app, [{ take: s.takeId!, signals: [0], s: [1] }], false, false)[0][0][0] === k + 1)).toEqual([true, true, true]); // prettier-ignore
  });
  test('how it is read can be said; a name with a path keeps only its last part', async () => {
    const bytes = new TextEncoder().encode('A;B\n1,5;2\n2,5;3\n3,5;4\n');
    const { id } = beginImport(app, { name: '/home/somebody/../Rates.csv', size: bytes.length, format: 'csv', options: { rateHz: 50 } }, 'Ada'); // prettier-ignore
    takePiece(app, id, 0, bytes);
    const { takeId } = await until(id);
    expect(viewTake(app, takeId!)).toMatchObject({ head: { name: 'Rates' }, signals: [{ name: 'A', rate: { num: 50, den: 1 } }, { name: 'B' }] }); // prettier-ignore
    const wrong = beginImport(
      app,
      { name: 'x.csv', size: bytes.length, format: 'csv', options: { rateHz: -1 } },
      'Ada',
    );
    takePiece(app, wrong.id, 0, bytes);
    expect((await until(wrong.id)).fault?.what).toMatch(/Sample rate/);
  });
  test('where there is no room for it, it is not begun', () => {
    expect(() => beginImport(app, { name: 'huge.take', size: 1e12, options: {} }, 'Ada')).toThrow(/no room for huge.take.*Free some space/s); // prettier-ignore
    expect(left()).toEqual([]);
  });

  describe('a take of another Farrier', () => {
    let other: App;
    let otherFolder: string;
    let bytes: Buffer;
    let id: string;
    beforeAll(() => {
      otherFolder = mkdtempSync(join(tmpdir(), 'farrier-other-'));
      other = openApp(otherFolder);
      id = makeTake(other, { name: 'Far-1', facts: { Hull: 'blue' }, signals: [{ name: 'Load', unit: 'kN', hz: 1000, values: ramp(20_000, 9) }] }); // prettier-ignore
      judgeTakes(other, [id], 'good', '', 'Cy');
      other.takes.closeAll();
      bytes = readFileSync(takePath(other, id));
    });
    afterAll(async () => {
      await closeApp(other);
      other.db.$client.close();
      rmSync(otherFolder, { recursive: true });
    });

    test('comes with its facts, its verdict, its seal; a second time it is said to be here', async () => {
      const { takeId, state, fault } = await send('Far 1.take', bytes, 30_000);
      expect(fault).toBeNull();
      expect({ takeId, state }).toEqual({ takeId: id, state: 'done' });
      expect(viewTake(app, id)).toMatchObject({ head: { name: 'Far-1', facts: { Hull: 'blue' }, from: 'Far 1.take' }, judgements: [{ by: 'Cy' }] }); // prettier-ignore
      expect((await sealOf(app, id)).state).toBe('sealed');
      expect((await send('Far 1.take', bytes)).fault?.what).toMatch(/here already, as Far-1/);
      binTakes(app, [id], 'Ada');
      expect((await send('Far 1.take', bytes)).fault?.next).toMatch(/out of the bin/);
      emptyBin(app, 'Ada');
      expect((await send('Far 1.take', bytes)).state).toBe('done');
      expect(names('Far-1')).toEqual(['Far-1']);
    });
    test('cut off, scrambled, newer, or another database: refused, and nothing stays', async () => {
      const before = find('').all;
      const cut = bytes.subarray(0, Math.floor(bytes.length * 0.6));
      expect((await send('cut.take', cut)).fault?.what).toMatch(/damaged|cannot be read/);
      const scrambled = Buffer.from(bytes);
      scrambled.fill(0xa5, 3 * 16384, 5 * 16384);
      expect((await send('scrambled.take', scrambled)).state).toBe('failed');
      const newer = Buffer.from(bytes);
      newer.writeUInt32BE(99, 60); // user_version
      expect((await send('newer.take', newer)).fault?.what).toMatch(/version 99/);
      const path = join(otherFolder, 'plain.db');
      new Sqlite(path).exec('CREATE TABLE t (x); INSERT INTO t VALUES (1)').close();
      expect((await send('plain.take', readFileSync(path))).fault?.what).toMatch(/no take/);
      expect(find('').all).toBe(before);
      expect(left()).toEqual([]);
    });
  });
});
