import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { z } from 'zod';
import { badInput, damaged } from '$core/errors';
import { field } from '$core/sentence/sentence';
import { rateFromHz, samplesBefore } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import { UNIT_KINDS, findUnitKind } from '$contract/units/kinds';
import { unitKind, type UnitKind } from '$contract/units/unit-kind';
import { described, type AcquiredGroup, type OpenUnit, type UnitDriver } from '$engine/units/driver';
import { UNIT_DRIVERS } from '$engine/units/registry';
import { armTake, endTake, startTake } from '$service/record';
import { exportTake } from '$service/exchange';
import { overview } from '$service/overview';
import { wiringPdf } from '$service/report/wiring';
import { addChannel } from '$service/setup/channels';
import { startStudy } from '$service/study/studies';
import { viewTake } from '$service/takes';
import { addUnit, editUnit, playFile } from '$service/units';
import { listUnits } from '$store/entities';
import { LiveApp } from '../live-app';
import { START_NS } from '../rig';

/** A line of the description: “Level m 2”, a terminal with its unit and the value that it reads. */
function readPlates(text: string, name: string) {
  return text.split('\n').map((line, k) => {
    const [terminal, unit, value] = line.split(' ');
    if (!unit || !Number.isFinite(Number(value)))
      throw damaged(`${name}, line ${k + 1}`, line, 'Write a name, a unit and a value.');
    return { terminal, unit, value: Number(value) };
  });
}

/** A kind of unit that nobody needs: reads what its description says, and plays a file that begins with PLATE. */
const kind: UnitKind = unitKind({
  kind: 'throw-away',
  title: 'Plate reader',
  says: 'Shows that a unit needs one folder and two lines.',
  prefix: 'PL',
  standIn: true,
  firstNumber: 7,
  settings: {
    schema: z.strictObject({
      gain: field(z.number().positive('Give a gain above 0.'), { label: 'Gain', editor: 'number' }),
      source: z.string().default(''),
    }),
    template: () => 'Values times {gain}.',
  },
  defaults: { gain: 1, source: '' },
  database: {
    what: 'list of plates',
    ending: '.plt',
    entries: (text, name) => Promise.resolve(readPlates(text, name).length),
    own: () => Promise.resolve({ name: 'own.plt', text: 'Level m 2' }),
  },
  plays: {
    endings: ['plate'],
    check: async (content, name) => {
      if (!new TextDecoder().decode(content).startsWith('PLATE'))
        throw badInput('file', name, 'Choose a plate.');
    },
  },
});
const driver: UnitDriver = {
  kind: 'throw-away',
  open(unit): OpenUnit {
    const plates = readPlates(unit.config.database!.text, unit.config.database!.name);
    const gain = Number(unit.config.settings.gain);
    let groups: AcquiredGroup[] = [];
    let done: number[] = [];
    const valueOf = (terminal: string) => gain * (plates.find((p) => p.terminal === terminal)?.value ?? NaN);
    return {
      describe: () =>
        described(unit, {
          standIn: true,
          modules: [
            {
              id: 'P',
              title: 'Plates',
              terminals: plates.map((p) => ({ id: p.terminal, kind: 'value', sheet: { unit: p.unit } })),
              ratesHz: [10, 20],
              bandwidthShare: 0,
            },
          ],
        }),
      start(requests, startNs) {
        groups = requests.map((r) => ({ rate: rateFromHz(r.rateHz), startNs, requests: [r] }));
        done = groups.map(() => 0);
        return groups;
      },
      poll: (nowNs) =>
        groups.map(({ rate, startNs, requests }, group) => {
          const firstIndex = done[group];
          done[group] = samplesBefore(rate, nowNs - startNs);
          const count = done[group] - firstIndex;
          const columns = requests.map((r) => new Float32Array(count).fill(valueOf(r.terminal)));
          return { group, firstIndex, count, columns, trouble: ['none'] };
        }),
      setOutput: () => undefined,
      probe: (terminal) => ({ mean: valueOf(terminal), noise: 0, trouble: 'none' }) as never,
      close: () => undefined,
    };
  },
};

let live: LiveApp | null = null;
beforeEach(() => {
  (UNIT_KINDS as UnitKind[]).push(kind);
  (UNIT_DRIVERS as UnitDriver[]).push(driver);
});
afterEach(() => {
  live?.close();
  live = null;
  (UNIT_KINDS as UnitKind[]).pop();
  (UNIT_DRIVERS as UnitDriver[]).pop();
});
const open = (known: KnownUnit) => {
  const found = UNIT_DRIVERS.find((d) => d.kind === known.kind)!;
  live = new LiveApp(
    found.open(known, () => START_NS),
    known,
  );
  return live;
};
const known = (text: string, gain = 1): KnownUnit => ({
  serial: 'PL-0007',
  kind: 'throw-away',
  name: 'Plates',
  config: { settings: { gain, source: '' }, sources: [], database: { name: 'own.plt', text } },
});

describe('a unit, added by a folder and two lines', () => {
  test('stands in the catalogue, comes with its description, takes another one, and says what is wrong with one', async () => {
    const { app } = open(known('Level m 2'));
    const made = await addUnit(app, 'throw-away', 'Ada');
    expect(made).toMatchObject({ serial: 'PL-0008', name: 'Plate reader 2' }); // the first number is its kind's
    const stored = () => listUnits(app.db).find((u) => u.serial === made.serial)!.config;
    expect(stored().database).toEqual({ name: 'own.plt', text: 'Level m 2' });
    await editUnit(app, made.serial, { database: { name: 'two.plt', text: 'Level m 2\nFlow m/s 3' } }, 'Ada');
    expect(stored().database!.name).toBe('two.plt');
    await expect(
      editUnit(app, made.serial, { database: { name: 'bad.plt', text: 'Level m 2\nFlow' } }, 'Ada'),
    ).rejects.toThrow(/bad.plt, line 2/);
    await expect(editUnit(app, made.serial, { settings: { gain: -1 } }, 'Ada')).rejects.toThrow(
      /gain above 0/,
    );
    expect(stored().database!.name).toBe('two.plt');
    // Kinds that have no such file say so.
    const chassis = await addUnit(app, 'bench chassis', 'Ada');
    await expect(editUnit(app, chassis.serial, { database: { name: 'x', text: 'y' } }, 'Ada')).rejects.toThrow(/takes no description file/); // prettier-ignore
    expect(findUnitKind('dock chassis')!.firstNumber).toBe(417);
  });

  test('plays a file that it can play, and refuses others', async () => {
    const { app } = open(known('Level m 2'));
    const play = (serial: string, text: string) => playFile(app, serial, 'a file', Buffer.from(text), 'Ada');
    const { config } = await play('PL-0007', 'PLATE 1');
    expect(config.settings.source).toMatch(/^file:[\w-]+\.plate$/);
    await expect(play('PL-0007', 'RIFF')).rejects.toThrow(/Choose a plate/);
    const chassis = await addUnit(app, 'bench chassis', 'Ada');
    await expect(play(chassis.serial, 'PLATE 1')).rejects.toThrow(/plays no files/);
    const replay = await addUnit(app, 'replay', 'Ada');
    await expect(play(replay.serial, 'no sound')).rejects.toThrow(/WAV/);
    const bus = await addUnit(app, 'CAN bus', 'Ada');
    expect(
      (await play(bus.serial, '(1436509052.249713) can0 044#2A366C2BBA')).config.settings.source,
    ).toMatch(/\.log$/);
  });

  test('is measured, recorded, studied, exported, and its wiring is drawn', async () => {
    const bench = open(known('Level m 2\nFlow m/s 3', 2));
    const { app } = bench;
    const { id } = await addChannel(
      app,
      {
        name: 'Level',
        kind: 'value',
        wire: { unit: 'PL-0007', terminal: 'Level' },
        settings: { unit: 'm', rateHz: 20 },
      },
      'Ada',
    );
    await bench.pass(1);
    expect(app.live.status.units.map((u) => u.description.name)).toEqual(['Plates']);
    expect(app.live.status.units[0].answering).toBe(true);
    await bench.during(armTake(app, { Operator: 'Ada', Specimen: 'Plate' }, { by: 'Ada', reason: 'a test' }));
    await bench.pass(0.3);
    if (app.live.status.state === 'Armed') await bench.during(startTake(app) as Promise<unknown>);
    await bench.pass(2);
    await bench.during(endTake(app) as Promise<unknown>);
    await bench.pass(1);
    vi.useRealTimers();
    const [take] = overview(app).takes;
    expect(take.state).toBe('complete');
    const signal = viewTake(app, take.id).signals.find((s) => s.channelId === id)!;
    expect(signal).toMatchObject({ name: 'Level', unit: 'm' });
    const { view, done } = startStudy(app, { kind: 'statistics', takeId: take.id, shown: [id] }, 'Ada');
    await done;
    expect(view.kind).toBe('statistics');
    let csv = '';
    const { body } = await exportTake(app, take.id, { format: 'csv', signals: [], options: {} });
    for await (const piece of body as unknown as AsyncIterable<Uint8Array | string>)
      csv += typeof piece === 'string' ? piece : new TextDecoder().decode(piece);
    const rows = csv.trim().split(/\r?\n/);
    // Twice what its description says: the gain of its settings.
    expect(Number(rows.at(-1)!.split(/[,;]/)[1])).toBe(4);
    const { pdf } = await wiringPdf(app, 'PL-0007');
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
  });
});
