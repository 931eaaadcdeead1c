import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { StudyResult } from '$core/studies/study';
import { rowsOf } from '$core/figures/table';
import { resultTables } from '$core/studies/study';
import type { TakeHead } from '$contract/take';
import { TakeFilter } from '$contract/take-list';
import { closeApp, openApp, takePath, type App } from '$service/app';
import { atEnd } from '$service/at-end';
import { addSeries, seriesTable } from '$service/inspect/series';
import { logPage } from '$service/logbook';
import { changeStudy, refreshStudies, startStudy, viewStudies, viewStudy } from '$service/study/studies';
import { trailOf } from '$service/study/trail';
import { undo } from '$service/setup/change';
import { openTake } from '$service/takes';
import { TakeReader } from '$store/take/reader';
import { makeTake } from '../takes';

// One study over several takes: named one by one, or by a filter, so that new ones join.
let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-standing-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

/** How many changes can be undone. */
const listRevisions = ({ db }: App) =>
  (db.$client.prepare('SELECT count(*) n FROM revisions').get() as { n: number }).n;

let round = 0;
let tag = '';
beforeEach(() => void (tag = `set ${++round}`));
/** A take whose channel has a known mean. */
const takeWith = (mean: number, name = 'Load', facts: Record<string, string> = {}) =>
  makeTake(app, {
    name: `${tag} of ${mean}`,
    facts: { set: tag, ...facts },
    startMs: 1_790_000_000_000 + mean * 60_000,
    signals: [
      {
        name,
        unit: 'kN',
        hz: 100,
        values: Float32Array.from({ length: 3000 }, (_, i) => mean + Math.sin(i / 10)),
      },
    ],
  });
const fits = () =>
  TakeFilter.parse({ conditions: [{ kind: 'fact', settings: { fact: 'set', test: 'is', value: tag } }] });
const resultOf = (id: string) => app.results.get<StudyResult>(viewStudy(app, id).resultId!);
const byTake = (id: string) => {
  const table = resultTables(resultOf(id)).find((t) => t.title === 'By take')!;
  return rowsOf(table).map((row) => Object.fromEntries(row.map((cell, k) => [table.columns[k].label, cell])));
};
const start = async (input: Partial<Parameters<typeof startStudy>[1]>) => {
  const { view, done } = startStudy(app, { kind: 'statistics', takeId: '', settings: {}, ...input }, 'Ada');
  await done;
  return viewStudy(app, view.id);
};
const channelOf = (take: string) => openTake(app, take).signals[0].channelId!;

test('a study runs over several takes: a row for each, the first stands out, the spread is found', async () => {
  const takes = [3, 1, 2].map((m) => takeWith(m));
  const study = await start({ takes, shown: [channelOf(takes[0])] });
  expect(study).toMatchObject({ state: 'done', takes, filterSays: null });
  const rows = byTake(study.id);
  expect(rows.map((r) => r.Take)).toEqual([`${tag} of 3`, `${tag} of 1`, `${tag} of 2`]);
  const label = Object.keys(rows[0]).find((l) => /mean/i.test(l))!;
  rows.forEach((row, k) => expect(row[label]).toBeCloseTo([3, 1, 2][k], 1));
  const spread = (what: string) => study.findings.find((f) => f.label === `${label}, ${what} of 3`)!;
  expect(spread('lowest').value).toBeCloseTo(1, 1);
  expect(spread('lowest').note).toBe(`${tag} of 1`);
  expect(spread('highest').value).toBeCloseTo(3, 1);
  expect(trailOf(app, study.id).filter((s) => s.what.startsWith('Take '))).toHaveLength(3);
  // The sentence speaks of the channel, though each take has its own of that name.
  expect(study.says).toContain('Load');
});

test('curves lie over each other, the others behind and muted', async () => {
  const takes = [1, 2].map((m) => takeWith(m));
  const study = await start({
    kind: 'spectrum',
    settings: { length: 1024 },
    takes,
    shown: [channelOf(takes[0])],
  });
  const [figure] = resultOf(study.id).figures;
  const lines = figure.marks.flatMap((m) => (m.mark === 'line' ? [m] : []));
  expect(lines.map((m) => [m.name, m.tone ?? 'trace'])).toEqual([
    [`${tag} of 2`, 'muted'],
    [`${tag} of 1`, 'trace'],
  ]);
});

test('a take that lacks the channel says so in its row, the others go on; where all lack it, it fails', async () => {
  const [good, bare] = [takeWith(1), takeWith(2, 'Tide')];
  const study = await start({ takes: [good, bare], shown: [channelOf(good)] });
  expect(study.state).toBe('done');
  const rows = byTake(study.id);
  expect(rows[1]['Why not']).toMatch(/none|not|Choose/i);
  expect(rows[0]['Why not']).toBe('');
  await changeStudy(app, study.id, { from: 1000 }, 'Ada').done;
  expect(viewStudy(app, study.id)).toMatchObject({ state: 'failed' });
  expect(viewStudy(app, study.id).fault!.what).toMatch(/span/);
});

describe('a standing study', () => {
  test('holds what its filter means, newest first; a new take makes it late, and the end of that take brings it up to date', async () => {
    const first = takeWith(1);
    takeWith(2);
    const study = await start({ filter: fits(), shown: [channelOf(first)] });
    expect(study.takes).toHaveLength(2);
    expect(study.filterSays).toContain(tag);
    expect(byTake(study.id).map((r) => r.Take)).toEqual([`${tag} of 2`, `${tag} of 1`]);
    expect(study.outOfDate).toBe(false);

    const changes = listRevisions(app);
    const third = takeWith(7);
    expect(viewStudy(app, study.id).outOfDate).toBe(true);
    const { head } = new TakeReader(takePath(app, third));
    const ended: TakeHead = { ...head, plan: { ...head.plan, atEnd: ['run the standing studies'] } };
    await atEnd(app, ended);
    expect(viewStudy(app, study.id).outOfDate).toBe(false);
    // Nobody changed anything: there is nothing to undo.
    expect(listRevisions(app)).toBe(changes);
    expect(byTake(study.id).map((r) => r.Take)[0]).toBe(`${tag} of 7`);
    expect(logPage(app)[0].says).toMatch(/At the end of .* run over it, too/);

    // A take of another kind leaves it alone, and says so.
    const other = makeTake(app, { name: 'Other', signals: [{ name: 'Load', hz: 10, values: [1, 2, 3] }] });
    const alone = new TakeReader(takePath(app, other)).head;
    await atEnd(app, { ...alone, plan: { ...alone.plan, atEnd: ['run the standing studies'] } });
    expect(logPage(app)[0].says).toMatch(/no standing study means this take/);
    expect(byTake(study.id)).toHaveLength(3);
  });

  test('one action brings all up to date', async () => {
    const first = takeWith(1);
    const made = [await start({ filter: fits(), shown: [channelOf(first)] }), await start({ kind: 'spectrum', settings: { length: 1024 }, filter: fits(), shown: [channelOf(first)] })]; // prettier-ignore
    takeWith(4);
    const late = () => viewStudies(app).filter((s) => made.some((m) => m.id === s.id) && s.outOfDate).length;
    expect(late()).toBe(2);
    await refreshStudies(app, 'Ada').done;
    expect(late()).toBe(0);
  });

  test('its findings are columns of a series: each take has its own', async () => {
    const first = takeWith(1);
    takeWith(5);
    const study = await start({ filter: fits(), shown: [channelOf(first)], name: `Means ${tag}` });
    const { label } = study.findings.find((f) => /mean/i.test(f.label))!;
    const { id } = addSeries(app, 'S', { filter: fits(), order: 'oldest', columns: [{ of: 'finding', study: `Means ${tag}`, label }] }, 'Ada'); // prettier-ignore
    const { rows } = await seriesTable(app, id);
    rows.forEach((r, k) => expect(r.cells[0].value).toBeCloseTo([1, 5][k], 1));
  });

  test('a filter that means nothing is refused; one that comes to mean nothing says so where it stands', async () => {
    expect(() =>
      startStudy(app, { kind: 'statistics', takeId: '', filter: fits(), settings: {} }, 'Ada'),
    ).toThrow(/None fits/);
    const first = takeWith(1);
    const study = await start({ filter: fits(), shown: [channelOf(first)] });
    expect(() => changeStudy(app, study.id, {}, 'Ada', undefined, TakeFilter.parse({ words: 'no such take anywhere' }))).toThrow(/None fits/); // prettier-ignore
    expect(viewStudy(app, study.id).state).toBe('done');
  });

  test('from a filter to named takes and back, by undo', async () => {
    const takes = [takeWith(1), takeWith(2)];
    const study = await start({ filter: fits(), shown: [channelOf(takes[0])] });
    await changeStudy(app, study.id, {}, 'Ada', [takes[0]]).done;
    expect(viewStudy(app, study.id)).toMatchObject({ takes: [takes[0]], filterSays: null });
    undo(app, 'Ada');
    expect(viewStudy(app, study.id).filterSays).toContain(tag);
  });
});
