import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { differingFields, findingRows } from '$core/studies/variants';
import { closeApp, openApp, type App } from '$service/app';
import { forgetRecipe, keepRecipe, recipesFor } from '$service/study/recipes';
import { changeStudy, startStudy, variantsOf, viewStudy } from '$service/study/studies';
import { markSpans } from '$service/study/marks';
import { openTake, viewTake } from '$service/takes';
import { makeTake } from '../takes';

let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-recipes-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});
const wave = Float32Array.from({ length: 20_000 }, (_, i) => Math.sin(i / 5) + 0.2 * Math.sin(i / 2));
const take = (name: string, channel = 'Flap') =>
  makeTake(app, {
    name,
    signals: [
      { name: 'Tide', unit: 'm', hz: 10, values: [1, 2] },
      { name: channel, unit: 'µε', hz: 1000, values: wave },
    ],
  });
const channelOf = (id: string, name: string) =>
  openTake(app, id).signals.find((s) => s.name === name)!.channelId!;
const begin = async (input: Partial<Parameters<typeof startStudy>[1]>) => {
  const { view, done } = startStudy(app, { kind: 'spectrum', takeId: '', settings: {}, ...input }, 'Ada');
  await done;
  return viewStudy(app, view.id);
};

describe('a recipe', () => {
  test('is a study without its take: offered where its channels are, with theirs', async () => {
    const [one, two, bare] = [take('One'), take('Two'), take('Bare', 'Edge')];
    const study = await begin({
      takeId: one,
      shown: [channelOf(one, 'Flap')],
      settings: { length: 1024, from: 3 },
    });
    const { id } = keepRecipe(app, { study: study.id, name: 'Flap lines' }, 'Ada');
    const [there] = recipesFor(app, two);
    expect(there).toMatchObject({ id, name: 'Flap lines', kind: 'spectrum', lacks: null });
    expect(there.settings).toMatchObject({ length: 1024, channels: [channelOf(two, 'Flap')] });
    expect(there.settings).not.toHaveProperty('from');
    expect(there.says).toContain('Flap');
    expect(recipesFor(app, bare)[0].lacks).toMatch(/Bare/);
    const made = await begin({ kind: there.kind, takeId: two, settings: there.settings });
    expect(made).toMatchObject({ state: 'done', settings: { length: 1024, from: 0 } });
  });

  test('of the same name is written over, not kept twice; taken away it is gone', async () => {
    const one = take('Three');
    const study = await begin({ takeId: one, shown: [channelOf(one, 'Flap')], settings: { length: 512 } });
    const before = recipesFor(app, one).length;
    const { id } = keepRecipe(app, { study: study.id, name: 'Flap lines' }, 'Bo');
    expect(recipesFor(app, one)).toHaveLength(before);
    expect(recipesFor(app, one).find((r) => r.id === id)!.settings.length).toBe(512);
    expect(() => keepRecipe(app, { study: study.id, name: ' ' }, 'Bo')).toThrow();
    forgetRecipe(app, id, 'Bo');
    expect(recipesFor(app, one)).toHaveLength(before - 1);
    expect(() => forgetRecipe(app, id, 'Bo')).toThrow(/recipe/);
  });
});

describe('variants', () => {
  test('stand beside each other, from whichever one looks; what differs, and by how much', async () => {
    const one = take('Four');
    const first = await begin({ takeId: one, shown: [channelOf(one, 'Flap')], settings: { length: 1024 } });
    const vary = (settings: Record<string, unknown>, of = first.id) =>
      begin({ takeId: one, settings: { ...first.settings, ...settings }, variantOf: of });
    const second = await vary({ window: 'flat top' });
    const third = await vary({ window: 'rectangular', length: 2048 });
    await begin({ takeId: one, shown: [channelOf(one, 'Flap')] });
    const ids = [first, second, third].map((v) => v.id);
    for (const id of ids) expect(variantsOf(app, id).map((v) => v.id)).toEqual(ids);
    const all = variantsOf(app, first.id);
    expect([...differingFields(all.map((v) => v.settings))].sort()).toEqual(['length', 'window']);
    const rows = findingRows(all.map((v) => v.findings));
    const row = rows.find((r) => r.cells.every((c) => c !== null))!;
    expect(row.cells[0]).not.toHaveProperty('difference');
    expect(row.cells[1]!.difference).toBeCloseTo(row.cells[1]!.value - row.cells[0]!.value, 12);
    await changeStudy(app, third.id, { window: 'flat top', length: 1024 }, 'Ada').done;
    const after = variantsOf(app, first.id);
    expect(after[2].findings.map((f) => f.value)).toEqual(after[1].findings.map((f) => f.value));
  });

  test('a finding that one does not have, in another unit, or of no value, has no difference', () => {
    const f = (label: string, value: number, unit = 'kN') => ({ label, value, unit });
    const rows = findingRows([
      [f('a', 2), f('b', 0), f('c', 1)],
      [f('a', 3), f('b', 1), f('c', 1, 'N'), f('d', NaN)],
      [],
    ]);
    expect(rows.map((r) => r.cells.map((c) => (c ? [c.difference ?? null, c.share ?? null] : null)))).toEqual(
      [
        [[null, null], [1, 0.5], null],
        [[null, null], [1, null], null],
        [[null, null], [null, null], null],
        [null, [null, null], null],
      ],
    );
    expect(differingFields([{ a: 1 }, { a: 1, b: [2] }])).toEqual(new Set(['b']));
    expect(findingRows([])).toEqual([]);
  });
});

test('what a study found is written on the take, once; a study without spans says that it has none', async () => {
  const id = makeTake(app, { name: 'Gates', signals: [{ name: 'Gate', unit: 'V', hz: 100, values: Float32Array.from({ length: 1000 }, (_, i) => (i % 400 < 100 ? 5 : 0)) }] }); // prettier-ignore
  const study = await begin({
    kind: 'events',
    takeId: id,
    shown: [channelOf(id, 'Gate')],
    settings: { level: 2 },
  });
  expect(markSpans(app, study.id, 'Ada')).toEqual({ written: 3 });
  expect(markSpans(app, study.id, 'Ada')).toEqual({ written: 0 });
  const notes = viewTake(app, id).notes.filter((n) => n.untilS !== null);
  expect(notes.map((n) => [n.atS, n.untilS, n.by])).toEqual([[0, 1, 'Ada'], [4, 5, 'Ada'], [8, 9, 'Ada']]); // prettier-ignore
  const plain = await begin({ kind: 'statistics', takeId: id, shown: [channelOf(id, 'Gate')] });
  expect(() => markSpans(app, plain.id, 'Ada')).toThrow(/nothing that can be marked/);
});
