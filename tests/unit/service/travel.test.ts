import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { when } from '$core/condition/condition';
import { View } from '$contract/board';
import { newDeed } from '$contract/rule';
import type { SetupFile } from '$contract/setup-file';
import { proofOf } from '$contract/proof';
import { jobOf, openApp, type App } from '$service/app';
import { addBoard, boardsOf, changeBoard, keepPicture, pictureOf } from '$service/boards';
import { keep, recordOf } from '$service/calibrate/keep';
import { putSensor, viewSensors } from '$service/sensors';
import { channelsOf, redo, undo } from '$service/setup/change';
import { addChannel, editChannel, type NewChannel } from '$service/setup/channels';
import { addPlan, editPlan, editRule } from '$service/setup/plan';
import { putScale } from '$service/setup/scales';
import { exportSetup } from '$service/setup/travel';
import { importSetup, previewSetup } from '$service/setup/travel-import';
import { addUnit, editUnit, unitOf } from '$service/units';
import { EMPTY_STATUS } from '$contract/engine-status';
import { openBridgeRack } from '$engine/units/bridge-rack/driver';
import * as store from '$store/entities';
import { listRevisions } from '$store/revisions';
import { listLog } from '$store/logbook';

let folder: string;
let app: App;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-travel-'));
  app = openApp(folder);
});
afterEach(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});
const wire = (terminal: string, unit = 'U') => ({ unit, terminal });
const names = () => channelsOf(app).map((c) => c.name);

describe('set-ups travel', () => {
  test('exported and imported on an empty Farrier it is the same set-up; again, nothing changes; undo takes it back', async () => {
    const { serial } = await addUnit(app, 'MQTT topics', 'bench');
    await editUnit(
      app,
      serial,
      {
        settings: { url: 'mqtt://pier:1883', password: 'secret' },
        sources: [{ id: 'l', name: 'Level', topic: 'pier/level' }],
      },
      'bench',
    );
    const scale = await putScale(
      app,
      {
        name: 'Tide',
        rawUnit: '1',
        unit: 'm',
        law: { kind: 'linear', slope: 0.01, offset: -2 },
      },
      'bench',
    );
    const level = await addChannel(
      app,
      {
        name: 'Level',
        kind: 'value',
        wire: wire('T/l', serial),
        settings: { unit: 'm' },
        sensorSerial: 'WL-1',
      },
      'bench',
    );
    await editChannel(app, level.id, { scale: scale.id }, 'bench');
    putSensor(app, null, { serial: 'WL-1', kind: 'voltage', unit: 'm', sheet: {} }, 'bench');
    await addChannel(
      app,
      {
        name: 'High',
        kind: 'computed',
        wire: null,
        settings: { formula: '"Level" > 3' },
      },
      'bench',
    );
    const text = JSON.stringify(exportSetup(app));
    expect(text).not.toContain('secret');
    const there = openApp(join(folder, 'there'));
    try {
      const preview = previewSetup(there, text, { mapping: {} });
      expect(preview.channels.map((c) => c.fate)).toEqual(['added', 'added']);
      await importSetup(there, text, { mapping: {} }, 'bench');
      const strip = (a: App) => channelsOf(a).map((c) => ({ ...c, id: '', scale: c.scale && c.scale.name }));
      expect(strip(there)).toEqual(strip(app));
      expect(viewSensors(there)[0].usedBy[0].channel).toBe('Level');
      expect(previewSetup(there, text, { mapping: {} }).channels.map((c) => c.fate)).toEqual([
        'as it is',
        'as it is',
      ]);
      await undo(there, 'bench');
      expect(channelsOf(there)).toEqual([]);
      // Its unit can be stood in for by one that is there.
      const other = await addUnit(there, 'MQTT topics', 'bench');
      await importSetup(there, text, { mapping: { [serial]: other.serial } }, 'bench');
      expect(channelsOf(there)[0].wire!.unit).toBe(other.serial);
    } finally {
      there.db.$client.close();
    }
  });
  test('newer, damaged, foreign, broken within: refused with the place, and nothing is taken', async () => {
    await addChannel(app, { name: 'Flow', kind: 'current loop', wire: wire('A4/2') }, 'bench');
    const file = exportSetup(app);
    const look = (text: string) => () => previewSetup(app, text, { mapping: {} });
    const text = (change: object) => JSON.stringify({ ...file, ...change });
    expect(look(text({ version: 3 }))).toThrow(/version 3, this program reads up to 2/);
    expect(look(text({}).slice(0, 200))).toThrow(/is no JSON/);
    expect(look('{"a":1}')).toThrow(/no set-up of Farrier/);
    expect(look(text({ channels: [{ ...file.channels[0], settings: { low: 'x' } }] }))).toThrow(
      /channel “Flow”/,
    );
    expect(look(text({ channels: [{ ...file.channels[0], name: '' }] }))).toThrow(/channels\.0\.name/);
    expect(look(text({ channels: [file.channels[0], { ...file.channels[0], id: 'b' }] }))).toThrow(
      /same name/,
    );
    expect(look(text({ job: { name: 'x'.repeat(61_000_000) } }))).toThrow(/more than a set-up can have/);
    const twice = text({ channels: [{ ...file.channels[0], name: 'Other' }] });
    await expect(importSetup(app, twice, { mapping: {} }, 'bench')).rejects.toThrow(/“Other” and “Flow”/);
    fc.assert(
      fc.property(fc.nat(500), fc.string({ maxLength: 3 }), (at, put) => {
        const all = text({});
        try {
          previewSetup(app, all.slice(0, at) + put + all.slice(at + 1), { mapping: {} });
        } catch (error) {
          expect(['damaged', 'bad_input']).toContain((error as { code?: string }).code);
        }
      }),
      { numRuns: 60 },
    );
    expect(names()).toEqual(['Flow']);
  });
});

/** A job with something of everything: a calibrated bridge, a driven output, two plans, two rules, a board with a picture. */
async function wholeJob(): Promise<{ unit: string; text: string }> {
  const { serial: unit } = await addUnit(app, 'bridge rack', 'bench');
  const flap = await addChannel(app, bridge('Flap', 'C1/1', unit), 'bench');
  await addChannel(app, bridge('Edge', 'C1/2', unit), 'bench');
  const calibration = recordOf(
    flap,
    { method: 'by points', slope: 1.01, offset: 0.2, fromRaw: false },
    'bench',
  );
  await keep(app, [{ channel: flap, calibration }], 'Flap was calibrated.', 'bench');
  await editPlan(app, { startWhen: when(flap.id, 'rises above', 120), start: 'when' }, 'bench');
  await addPlan(app, { name: 'Long' }, 'bench');
  await editPlan(app, { channels: [flap.id], longest: 60 }, 'bench');
  await editRule(
    app,
    null,
    {
      when: when(flap.id, 'is above', 300),
      deeds: [newDeed({ do: 'mark', says: 'high' })],
    },
    'bench',
  );
  await editRule(app, null, { when: when(flap.id, 'is below', 1), off: true }, 'bench');
  const picture = keepPicture(app, PNG);
  const view = { x: 0, y: 0, w: 9, h: 6, channels: [flap.id] };
  changeBoard(app, addBoard(app, 'Hall').id, {
    put: [
      View.parse({
        id: 'p',
        kind: 'picture',
        ...view,
        picture,
        spots: [{ channel: flap.id, x: 0.5, y: 0.5 }],
      }),
      View.parse({ id: 'n', kind: 'number', ...view, y: 6 }),
    ],
  });
  return { unit, text: JSON.stringify(exportSetup(app)) };
}
const PNG = Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47]), Buffer.from('not much of a picture')]);
const bridge = (name: string, terminal: string, unit: string): NewChannel => ({
  name,
  kind: 'strain bridge',
  wire: wire(terminal, unit),
  settings: { range: { min: 0, max: 500 } },
});
/** A unit answers, so that its terminals are known. */
const answers = (a: App, ...serials: string[]) =>
  a.live.setStatus({
    ...EMPTY_STATUS,
    units: serials.map((serial) => ({
      description: openBridgeRack({ serial, kind: 'bridge rack', name: 'Rack' }).describe(),
      answering: true,
      says: '',
    })),
  });
const calibrations = (a: App) =>
  channelsOf(a).flatMap((c) => store.listCalibrations(a.db, c.id).map(({ id }) => id));
const asFile = (text: string) => JSON.parse(text) as SetupFile;
const verdict = (a: App, name: string) =>
  proofOf(
    channelsOf(a).find((c) => c.name === name)!,
    undefined,
    undefined,
    '2026-11-25',
    null,
  );

describe('a whole set-up in another place', () => {
  let there: App;
  beforeEach(() => (there = openApp(join(folder, 'there'))));
  afterEach(() => there.db.$client.close());

  test('brings its plans, rules, boards and their pictures, all of them meaning the channels as they are there', async () => {
    const { text } = await wholeJob();
    const preview = previewSetup(there, text, { mapping: {} });
    expect(preview).toMatchObject({
      plans: [
        { name: 'By hand', fate: 'replaced' },
        { name: 'Long', fate: 'added' },
      ],
      boards: [{ name: 'Hall', fate: 'added' }],
      rules: { count: 2, fate: 'replaced' },
      armedNext: 'Long',
      faults: [],
    });
    await importSetup(there, text, { mapping: {} }, 'Ada');
    const flap = channelsOf(there).find((c) => c.name === 'Flap')!;
    const jobId = jobOf(there).id;
    expect(store.jobPlan(there.db, jobId)).toMatchObject({ name: 'Long', plan: { channels: [flap.id] } });
    expect(store.listPlans(there.db, jobId)[0].plan.startWhen.terms[0]).toMatchObject({
      channel: flap.id,
      level: 120,
    });
    expect(store.listRules(there.db, jobId).map((r) => [r.rule.when.terms[0].channel, r.rule.off])).toEqual([
      [flap.id, false],
      [flap.id, true],
    ]);
    const [board] = boardsOf(there);
    expect(board.views[0].spots[0].channel).toBe(flap.id);
    expect(pictureOf(there, board.views[0].picture!).content).toEqual(PNG);
    expect(listLog(there.db, jobId, 1)[0]).toMatchObject({ by: 'Ada', says: expect.stringMatching(/2 plans/) as string }); // prettier-ignore
    expect(verdict(there, 'Flap').verdict).toBe('proven');
  });

  test('the same file once more finds all as it is: nothing is replaced, kept twice or written into the history', async () => {
    const { text } = await wholeJob();
    await importSetup(there, text, { mapping: {} }, 'bench');
    const before = {
      calibrations: calibrations(there),
      revisions: listRevisions(there.db, jobOf(there).id, 10).length,
      rules: store.listRules(there.db, jobOf(there).id),
    };
    const preview = previewSetup(there, text, { mapping: {} });
    for (const of of [preview.channels, preview.scales, preview.sensors, preview.plans, preview.boards])
      expect(of.filter((o) => o.fate !== 'as it is')).toEqual([]);
    expect(preview.boards).toHaveLength(1);
    expect(preview.rules.fate).toBe('as they are');
    await importSetup(there, text, { mapping: {} }, 'bench');
    expect(calibrations(there)).toEqual(before.calibrations);
    expect(calibrations(there)).toHaveLength(1);
    expect(listRevisions(there.db, jobOf(there).id, 10)).toHaveLength(before.revisions);
    expect(store.listRules(there.db, jobOf(there).id)).toEqual(before.rules);
    // Where it was made it says the same.
    expect(previewSetup(app, text, { mapping: {} }).channels.map((c) => c.fate)).toEqual([
      'as it is',
      'as it is',
    ]);
  });

  test('undo takes all of it back, redo brings it again; what was there before is as it was', async () => {
    const { text } = await wholeJob();
    const own = await addChannel(there, bridge('Own', 'C2/1', 'X'), 'bench');
    await importSetup(there, text, { mapping: {} }, 'bench');
    await undo(there, 'bench');
    expect(channelsOf(there).map((c) => c.id)).toEqual([own.id]);
    expect([boardsOf(there).length, store.listRules(there.db, jobOf(there).id).length]).toEqual([0, 0]);
    expect(store.listPlans(there.db, jobOf(there).id).map((p) => p.name)).toEqual(['By hand']);
    await redo(there, 'bench');
    expect(channelsOf(there).map((c) => c.name)).toEqual(['Own', 'Flap', 'Edge']);
    expect(boardsOf(there)[0].views).toHaveLength(2);
  });

  test('a file of version 1, with its one plan, is read as what it meant', async () => {
    const { text } = await wholeJob();
    const { plans, armedNext, boards, pictures, ...rest } = asFile(text);
    void [armedNext, boards, pictures];
    const old = JSON.stringify({ ...rest, version: 1, plan: plans[1] });
    await importSetup(there, old, { mapping: {} }, 'bench');
    expect(store.listPlans(there.db, jobOf(there).id)).toMatchObject([
      { name: 'Long', plan: { longest: 60 } },
    ]);
  });

  test('calibrations through a unit that another stands for are told as such; they hold where somebody says that the wires are the same', async () => {
    const { unit, text } = await wholeJob();
    await addUnit(there, 'bridge rack', 'bench');
    const other = await addUnit(there, 'bridge rack', 'bench');
    const mapping = { [unit]: other.serial };
    expect(previewSetup(there, text, { mapping }).throughOthers).toEqual([
      { channel: 'Flap', from: unit, to: other.serial },
    ]);
    await importSetup(there, text, { mapping }, 'bench');
    expect(verdict(there, 'Flap')).toMatchObject({
      verdict: 'changed since',
      why: `It was made through ${unit}; the same terminal of ${other.serial} reads it now.`,
    });
    await importSetup(there, text, { mapping, sameWires: true }, 'Ada');
    expect(verdict(there, 'Flap').verdict).toBe('proven');
    const { calibration } = channelsOf(there).find((c) => c.name === 'Flap')!;
    expect(calibration!.note).toBe(
      `Taken over by Ada: the same wire, on ${other.serial} in place of ${unit}.`,
    );
    expect(calibrations(there)).toHaveLength(2); // the one as it came, and the one that was confirmed
    // Another terminal is another wire, whoever says so.
    const moved = asFile(text);
    moved.channels[0].wire!.terminal = 'C3/1';
    expect(previewSetup(there, JSON.stringify(moved), { mapping }).throughOthers).toEqual([]);
  });

  test.each([
    [
      'two of the file on one terminal',
      (f: SetupFile) => (f.channels[1].wire!.terminal = 'C1/1'),
      /“Edge” and “Flap” would both be on C1\/1/,
    ],
    [
      'a terminal that the unit does not have',
      (f: SetupFile) => (f.channels[1].wire!.terminal = 'C99/1'),
      /“Edge” on C99\/1: .*no such terminal/,
    ],
    [
      'a terminal for another kind',
      (f: SetupFile) => (f.channels[1].kind = 'thermocouple'),
      /“Edge” on C1\/2: .*not a thermocouple/,
    ],
  ])('%s is refused before anything is taken', async (_, spoil, why) => {
    const { unit, text } = await wholeJob();
    answers(there, unit);
    const file = asFile(text);
    spoil(file);
    if (file.channels[1].kind === 'thermocouple') file.channels[1].settings = { unit: '°C' };
    const spoilt = JSON.stringify(file);
    expect(previewSetup(there, spoilt, { mapping: {} }).faults.join()).toMatch(why);
    await expect(importSetup(there, spoilt, { mapping: {} }, 'bench')).rejects.toThrow(why);
    expect(channelsOf(there)).toEqual([]);
    expect(previewSetup(there, text, { mapping: {} }).faults).toEqual([]);
  });

  test.each([
    [
      'a kind of unit that is not there',
      (f: SetupFile) => (f.units[0].kind = 'weather balloon'),
      /no unit of kind “weather balloon”/,
    ],
    ['a kind of channel that is not there', (f: SetupFile) => (f.channels[0].kind = 'aura'), /aura/],
    ['a picture that is none', (f: SetupFile) => (f.pictures[0].data = 'PHN2Zz4='), /PNG, JPEG or WebP/],
    [
      'two plans of one name',
      (f: SetupFile) => (f.plans[1].name = 'By hand'),
      /Two plans have the same name/,
    ],
  ])('%s is refused, and nothing of the file is taken', async (_, spoil, why) => {
    const { text } = await wholeJob();
    const file = asFile(text);
    spoil(file);
    await expect(importSetup(there, JSON.stringify(file), { mapping: {} }, 'bench')).rejects.toThrow(why);
    expect([channelsOf(there).length, store.listUnits(there.db).length]).toEqual([0, 0]);
  });

  test('what does not travel is said: recordings that units play, passwords', async () => {
    const { serial } = await addUnit(app, 'replay', 'bench');
    const unit = unitOf(app, serial);
    store.putUnit(app.db, { ...unit, config: { ...unit.config, settings: { ...unit.config.settings, source: 'file:x.wav' } } }); // prettier-ignore
    const mqtt = await addUnit(app, 'MQTT topics', 'bench');
    await editUnit(
      app,
      mqtt.serial,
      {
        settings: { password: 'secret' },
        sources: [{ id: 'l', name: 'L', topic: 'l' }],
      },
      'bench',
    );
    await addChannel(app, { name: 'Old', kind: 'voltage', wire: wire('1', serial) }, 'bench');
    await addChannel(app, { name: 'L', kind: 'value', wire: wire('T/l', mqtt.serial) }, 'bench');
    const { notes } = previewSetup(there, JSON.stringify(exportSetup(app)), { mapping: {} });
    expect(notes.join('\n')).toMatch(new RegExp(`${serial}\\) plays a recording that does not travel`));
    expect(notes.join('\n')).toMatch(new RegExp(`${mqtt.serial}\\): a password does not travel`));
    expect(notes.join('\n')).toMatch(/are checked once they answer/);
  });
});
