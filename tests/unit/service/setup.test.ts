import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { Access, ownName, sameOrigin } from '$service/access';
import { openApp, jobOf, type App } from '$service/app';
import { redo, undo } from '$service/setup/change';
import { addChannel, editChannel, removeChannel } from '$service/setup/channels';
import { editPlan } from '$service/setup/plan';
import { listChannels } from '$store/entities';
import { listLog } from '$store/logbook';

let folder: string;
let app: App;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
  app = openApp(folder);
});
afterEach(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const wire = (terminal: string) => ({ unit: 'U', terminal });
const names = () => listChannels(app.db, jobOf(app).id).map((c) => c.name);

test('every change can be taken back and made again, in order, and the logbook says so', async () => {
  const flow = await addChannel(app, { name: 'Flow', kind: 'current loop', wire: wire('A4/2') }, 'bench');
  await editChannel(app, flow.id, { name: 'Tide' }, 'bench');
  await editChannel(app, flow.id, { settings: { high: 6 } }, 'bench');
  await undo(app, 'bench');
  expect(listChannels(app.db, jobOf(app).id)[0].settings.high).toBe(5);
  await undo(app, 'bench');
  expect(names()).toEqual(['Flow']);
  await undo(app, 'bench');
  expect(names()).toEqual([]);
  await redo(app, 'bench');
  await redo(app, 'bench');
  expect(names()).toEqual(['Tide']);
  await editChannel(app, flow.id, { name: 'Current' }, 'bench'); // a new change: what was undone is gone
  await expect(redo(app, 'bench')).rejects.toThrow(/no change to redo/);
  // Nor does it come back once the new change is undone, too: redo makes that one again.
  await undo(app, 'bench');
  expect(names()).toEqual(['Tide']);
  await redo(app, 'bench');
  expect(names()).toEqual(['Current']);
  await expect(redo(app, 'bench')).rejects.toThrow(/no change to redo/);
  expect(listLog(app.db, jobOf(app).id, 100).map((e) => e.says.split(':')[0])).toContain('Undone');
});

test('a name or terminal in use is refused with who has it; formulas follow a new name and hold on to what they need', async () => {
  const flow = await addChannel(app, { name: 'Flow', kind: 'current loop', wire: wire('A4/2') }, 'bench');
  await expect(
    addChannel(app, { name: 'Other', kind: 'voltage', wire: wire('A4/2') }, 'bench'),
  ).rejects.toThrow(/“Flow” is wired to A4\/2/);
  await expect(
    addChannel(app, { name: 'Flow', kind: 'voltage', wire: wire('A4/3') }, 'bench'),
  ).rejects.toThrow(/a channel “Flow” already/);
  const twice = await addChannel(
    app,
    {
      name: 'Twice',
      kind: 'computed',
      wire: null,
      settings: { formula: '"Flow" * 2' },
    },
    'bench',
  );
  await editChannel(app, flow.id, { name: 'Tide' }, 'bench');
  expect(listChannels(app.db, jobOf(app).id).find((c) => c.id === twice.id)!.settings.formula).toBe(
    '"Tide" * 2',
  );
  await expect(removeChannel(app, flow.id, 'bench')).rejects.toThrow(/“Twice” is computed from “Tide”/);
  await expect(editChannel(app, twice.id, { settings: { formula: '"Twice" + 1' } }, 'bench')).rejects.toThrow(
    /computed from itself/,
  );
});

test('nonsense in a plan is refused, and nothing of it is kept', async () => {
  await expect(editPlan(app, { before: 500 }, 'bench')).rejects.toThrow(/At most 120 s/);
  expect((await editPlan(app, { before: 5 }, 'bench')).plan).toMatchObject({ start: 'by hand', before: 5 });
});

test('the set-up is the same after the program is opened again', async () => {
  await addChannel(app, { name: 'Flow', kind: 'current loop', wire: wire('A4/2') }, 'bench');
  app.db.$client.close();
  app = openApp(folder);
  expect(names()).toEqual(['Flow']);
});

test('sessions end after a week, forged ones are not known, other origins are not ours', () => {
  let now = 1e12;
  const access = new Access('0.0.0.0', 'a long enough phrase', () => now);
  const token = access.enter('a long enough phrase', 'x');
  expect(access.knows(token)).toBe(true);
  expect(access.knows(token.replace(/^\d/, '9'))).toBe(false);
  now += 8 * 24 * 3600 * 1000;
  expect(access.knows(token)).toBe(false);
  expect(new Access('127.0.0.1', undefined).needed).toBe(false);
  expect(() => new Access('192.168.1.4', 'short')).toThrow(/access phrase of 10 characters/);
  expect([
    sameOrigin(null, 'a'),
    sameOrigin('http://a:1', 'a:1'),
    sameOrigin('http://b', 'a'),
    sameOrigin('null', 'a'),
  ]).toEqual([true, true, false, false]);
  expect(['127.0.0.1:4173', 'localhost', '[::1]:80', 'farrier.example:4173', null].map(ownName)).toEqual([
    true,
    true,
    true,
    false,
    false,
  ]);
});
