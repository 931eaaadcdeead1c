import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { ALL_PARTS, CHANGED_BY, type Part, type Versions } from '$contract/overview';
import { closeApp, jobOf, openApp, type App } from '$service/app';
import { addBoard, changeBoard, removeBoard } from '$service/boards';
import { allowHost } from '$service/hosts';
import { goOnWith, newJob } from '$service/jobs';
import { overview, overviewParts, setColumns } from '$service/overview';
import { putSensor, removeSensor } from '$service/sensors';
import { redo, undo } from '$service/setup/change';
import { addChannel, addChannels, editChannel, orderChannels, removeChannel } from '$service/setup/channels';
import { addPlan, choosePlan, editPlan, editRule, removePlan, removeRule } from '$service/setup/plan';
import { putScale, removeScale } from '$service/setup/scales';
import { addUnit, editUnit, removeUnit } from '$service/units';
import { getChannel, listChannels, listJobs, putChannel } from '$store/entities';

let folder: string;
let app: App;
let unit: string;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-overview-'));
  app = openApp(folder);
  ({ serial: unit } = await addUnit(app, 'bench chassis', 'Ada'));
});
afterEach(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});
const channel = (name: string, terminal: string) => ({ name, kind: 'voltage', wire: { unit, terminal } });
const voltage = (name: string, terminal = 'B4/1') => addChannel(app, channel(name, terminal), 'Ada');

describe('parts of what every page shows', () => {
  test('together are all of it; those whose version is known are left out, whatever is known of others', async () => {
    await voltage('Flow');
    const { parts, versions } = overviewParts(app, ALL_PARTS);
    expect(parts).toEqual(overview(app));
    expect(Object.keys(parts).sort()).toEqual([...ALL_PARTS].sort());
    expect(overviewParts(app, ALL_PARTS, versions)).toEqual({ parts: {}, versions: {} });
    await voltage('Tide', 'B4/2');
    const since = overviewParts(app, ALL_PARTS, versions);
    expect(since.parts.channels?.map((c) => c.name)).toEqual(['Flow', 'Tide']);
    expect(Object.keys(since.parts)).toEqual(Object.keys(since.versions));
    expect(since.parts.jobs).toBeUndefined();
    expect(overviewParts(app, ['channels'], { channels: 'another' }).parts.channels).toHaveLength(2);
    // A version names a state: undone, it is the former one.
    await undo(app, 'Ada');
    expect(overviewParts(app, ALL_PARTS, versions).parts).toEqual({});
  });
});

describe('whoever looks on fetches what a change touched', () => {
  let kinds: string[];
  const versions = (): Versions => overviewParts(app, ALL_PARTS).versions;
  /** Parts that a work changes, and those that the notes it writes have others fetch. */
  async function touched(work: () => unknown): Promise<{ changed: Part[]; fetched: Set<Part> }> {
    kinds = [];
    const note = app.live.note.bind(app.live);
    app.live.note = (said) => {
      kinds.push(said.kind);
      note(said);
    };
    const before = versions();
    await work();
    const after = versions();
    app.live.note = note;
    return {
      changed: ALL_PARTS.filter((part) => before[part] !== after[part]),
      fetched: new Set(kinds.flatMap((kind) => CHANGED_BY[kind] ?? [])),
    };
  }
  async function told(work: () => unknown, least: Part[]) {
    const { changed, fetched } = await touched(work);
    expect(changed).toEqual(expect.arrayContaining(least));
    expect(
      changed.filter((part) => !fetched.has(part)),
      kinds.join(),
    ).toEqual([]);
  }

  test('of channels, their names, order and columns', async () => {
    let id = '';
    await told(async () => (id = (await voltage('Flow')).id), ['channels']);
    await told(() => editChannel(app, id, { name: 'Tide' }, 'Ada'), ['channels']);
    await told(() => editChannel(app, id, { settings: { unit: 'bar' } }, 'Ada'), ['channels']);
    await told(() => addChannels(app, [channel('A', 'B4/2'), channel('B', 'B4/3')], 'Ada'), ['channels']); // prettier-ignore
    const ids = listChannels(app.db, jobOf(app).id).map((c) => c.id);
    await told(() => orderChannels(app, [...ids].reverse(), 'Ada'), ['channels']);
    await told(() => removeChannel(app, id, 'Ada'), ['channels']);
    await told(() => undo(app, 'Ada'), ['channels']);
    await told(() => redo(app, 'Ada'), ['channels']);
  });

  test('of plans and rules', async () => {
    let id = '';
    await told(async () => (id = (await addPlan(app, { name: 'Evening' }, 'Ada')).id), ['plans']);
    await told(() => editPlan(app, { longest: 60 }, 'Ada', id), ['plans']);
    let rule = '';
    await told(async () => (rule = (await editRule(app, null, { off: true }, 'Ada')).id), ['rules']);
    await told(() => removeRule(app, rule, 'Ada'), ['rules']);
    const { plan, plans } = overview(app);
    const other = plans.find((p) => p.id !== plan.id)!;
    await told(() => choosePlan(app, other.id, 'Ada'), ['plan']);
    await told(() => choosePlan(app, plans.find((p) => p.id !== id)!.id, 'Ada'), []);
    await told(() => removePlan(app, id, 'Ada'), ['plans']);
  });

  test('of units, scales, sensors and hosts', async () => {
    let serial = '';
    await told(async () => ({ serial } = await addUnit(app, 'bench chassis', 'Ada')), ['units']);
    await told(() => editUnit(app, serial, { name: 'Spare' }, 'Ada'), ['units']);
    await told(() => removeUnit(app, serial, 'Ada'), ['units']);
    const law = { kind: 'linear', slope: 2, offset: 0 } as never;
    let scale: { id: string } | undefined;
    await told(async () => (scale = await putScale(app, { name: 'Tank', rawUnit: 'V', unit: 'bar', law }, 'Ada')), ['scales']); // prettier-ignore
    await told(() => removeScale(app, scale!.id, 'Ada'), ['scales']);
    await told(() => putSensor(app, null, { serial: 'X-1', kind: 'voltage' }, 'Ada'), ['sensors']);
    await told(() => removeSensor(app, 'X-1', 'Ada'), ['sensors']);
    await told(() => allowHost(app, 'logger.local:8080', true, 'Ada'), ['hosts']);
  });

  test('of jobs: all of the next one', async () => {
    await voltage('Flow');
    const first = jobOf(app).id;
    await told(() => newJob(app, 'Next campaign', 'Pier', 'Ada'), ['job', 'jobs', 'channels']);
    expect(listJobs(app.db)).toHaveLength(2);
    await told(() => goOnWith(app, first, 'Ada'), ['job', 'channels']);
  });

  test('what is told without a note is one’s own look at it: boards by their names, columns', async () => {
    // Of boards all pages are told by their live feed, without a line in the logbook.
    const said = vi.spyOn(app.live, 'boardChanged');
    const { changed } = await touched(() => addBoard(app, 'Wall'));
    expect(changed).toEqual(['boards']);
    expect(said).toHaveBeenCalledOnce();
    const [{ id }] = overview(app).boards;
    expect((await touched(() => changeBoard(app, id, { name: 'Hall' }))).changed).toEqual(['boards']);
    await told(() => removeBoard(app, id, 'Ada'), ['boards']);
    expect((await touched(() => setColumns(app, ['name', 'now']))).changed).toEqual(['columns']);
  });
});

describe('channels as they are read', () => {
  test('are shared and cannot be changed by who reads them; what is written is read anew', async () => {
    const { id } = await voltage('Flow');
    const job = jobOf(app).id;
    const [before] = listChannels(app.db, job);
    expect(listChannels(app.db, job)[0]).toBe(before);
    expect(() => ((before as { name: string }).name = 'x')).toThrow(TypeError);
    expect(() => (before.settings.unit = 'x')).toThrow(TypeError);
    // A list of one's own: to sort it hurts nobody.
    listChannels(app.db, job).pop();
    expect(listChannels(app.db, job)).toHaveLength(1);
    putChannel(app.db, job, { ...getChannel(app.db, id), name: 'Tide' });
    expect(listChannels(app.db, job)[0].name).toBe('Tide');
    expect(before.name).toBe('Flow');
    // Also what a transaction wrote and took back.
    expect(() =>
      app.db.transaction(() => {
        putChannel(app.db, job, { ...getChannel(app.db, id), name: 'Gone' });
        expect(listChannels(app.db, job)[0].name).toBe('Gone');
        throw new Error('back');
      }),
    ).toThrow('back');
    expect(listChannels(app.db, job)[0].name).toBe('Tide');
  });
});
