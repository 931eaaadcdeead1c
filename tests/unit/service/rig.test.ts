import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import fc from 'fast-check';
import { blockText, readBlock } from '$contract/columns';
import { wiringClues, type Watched } from '$contract/clues';
import { sensorOfChip } from '$contract/chip';
import { decodeTeds, encodeTeds } from '$core/teds/teds';
import { CHIPS } from '$engine/units/bench-chassis/chips';
import { openBenchChassis } from '$engine/units/bench-chassis/driver';
import { openApp, type App } from '$service/app';
import { compareSheet, putSensor, removeSensor, takeChips, takeSheet, viewSensors } from '$service/sensors';
import { importSensors, sensorsCsv, sensorsJson } from '$service/sensor-files';
import { channelsOf, goBackTo, history, undo } from '$service/setup/change';
import { addChannel, addChannels, editChannel, orderChannels, removeChannels } from '$service/setup/channels';
import { writeCells } from '$service/setup/cells';
import { putScale, removeScale } from '$service/setup/scales';
import { channelsCsv, importChannelsCsv } from '$service/setup/channel-list';
import { addUnit, editUnit, removeUnit, replaceUnit, shownUnit, unitOf } from '$service/units';
import { channel } from '../rig';

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
const wire = (terminal: string, unit = 'U') => ({ unit, terminal });
const get = (name: string) => channelsOf(app).find((c) => c.name === name)!;
const names = () => channelsOf(app).map((c) => c.name);

describe('units', () => {
  test('serial numbers count up; a new address keeps serial and channels; a password is not shown', async () => {
    const first = await addUnit(app, 'network line', 'bench');
    expect((await addUnit(app, 'network line', 'bench')).serial).not.toBe(first.serial);
    await addChannel(app, { name: 'Wind', kind: 'value', wire: wire('L/a', first.serial) }, 'bench');
    await editUnit(
      app,
      first.serial,
      {
        settings: { host: 'pier.example', tcpPort: 4002 },
        sources: [{ id: 'a', name: 'Wind', field: '1' }],
      },
      'bench',
    );
    expect(unitOf(app, first.serial).config.settings.host).toBe('pier.example');
    expect(get('Wind').wire).toEqual(wire('L/a', first.serial));
    const broker = await addUnit(app, 'MQTT topics', 'bench');
    await editUnit(app, broker.serial, { settings: { password: 'tide' } }, 'bench');
    expect(JSON.stringify(shownUnit(unitOf(app, broker.serial)))).not.toContain('tide');
  });
  test('nonsense is refused with its field; a damaged database with its line; undo brings a removed unit back', async () => {
    const { serial } = await addUnit(app, 'Modbus TCP', 'bench');
    await expect(editUnit(app, serial, { settings: { tcpPort: 70_000 } }, 'bench')).rejects.toThrow(
      /tcpPort/,
    );
    await expect(editUnit(app, serial, { sources: [{ name: 'x', register: -1 }] }, 'bench')).rejects.toThrow(
      /From 0/,
    );
    const can = await addUnit(app, 'CAN bus', 'bench');
    await expect(
      editUnit(
        app,
        can.serial,
        {
          database: { name: 'a.dbc', text: 'BO_ 1 X: 8 Y\n SG_ A : 0|99@1+ (1,0) [0|1] "" Z' },
        },
        'bench',
      ),
    ).rejects.toThrow(/a\.dbc, line 2/);
    await removeUnit(app, serial, 'bench');
    expect(() => unitOf(app, serial)).toThrow(/no unit/);
    await undo(app, 'bench');
    expect(unitOf(app, serial).kind).toBe('Modbus TCP');
  });
  test('an exchanged unit takes the channels over, one of another kind does not', async () => {
    const [a, b, c] = [
      await addUnit(app, 'bench chassis', 'bench'),
      await addUnit(app, 'bench chassis', 'bench'),
      await addUnit(app, 'CAN bus', 'bench'),
    ];
    await addChannel(app, { name: 'Load', kind: 'bridge sensor', wire: wire('B1/3', a.serial) }, 'bench');
    await expect(replaceUnit(app, a.serial, c.serial, 'bench')).rejects.toThrow(
      /Choose one of the same kind/,
    );
    await replaceUnit(app, a.serial, b.serial, 'bench');
    expect(get('Load').wire!.unit).toBe(b.serial);
  });
});

describe('the table of channels', () => {
  beforeEach(async () => {
    await addChannels(
      app,
      [
        { name: 'Gauge', kind: 'strain bridge', wire: wire('A2/1') },
        {
          name: 'Load',
          kind: 'bridge sensor',
          wire: wire('A2/4'),
          settings: { unit: 'kN', fullScale: 10, range: { min: -10, max: 10 } },
        },
        { name: 'Flow', kind: 'current loop', wire: wire('A4/2') },
        { name: 'Twice', kind: 'computed', wire: null, settings: { formula: '"Flow" * 2' } },
      ],
      'bench',
    );
  });
  const cells = (
    list: [string, string, string][],
    comma: Parameters<typeof writeCells>[2] = null,
    apply = false,
  ) =>
    writeCells(
      app,
      list.map(([name, key, text]) => ({ id: get(name).id, key, text })),
      comma,
      apply,
      'bench',
    ).then((written) => written.cells);

  test.each([
    ['Load', 'sensitivity', '2.05 mV/V', '2.05 mV/V'],
    ['Load', 'sensitivity', '0.00205 V/V', '2.05 mV/V'],
    ['Load', 'fullScale', '12000 N', '12 kN'],
    ['Load', 'range', '0 to 12000 N', '0 to 12 kN'],
    ['Load', 'range', '±5', '±5 kN'],
    ['Gauge', 'resistance', '0.12 kΩ', '120 Ω'],
    ['Gauge', 'arrangement', 'HALF, BENDING', 'half, bending'],
    ['Load', 'warnAbove', '9', '9 kN'],
    ['Load', 'alarmAbove', 'never', null],
    ['Load', 'unit', 'N', 'N'],
  ])('%s, %s: “%s” is understood', async (name, key, text, after) => {
    const [result] = await cells([[name, key, text]]);
    expect(result?.after ?? null).toBe(after);
    expect(result?.fault ?? null).toBeNull();
  });
  test.each([
    ['Load', 'sensitivity', '2.05 kg', /measures/],
    ['Load', 'sensitivity', '2,05', /what the comma means/],
    ['Load', 'gaugeFactor', '2', /has no such setting/],
    ['Load', 'range', '5 to 1', /lower end/],
    ['Gauge', 'unit', 'kN', /does not fit: this channel measures strain/],
    ['Gauge', 'wire', 'A2/4', /“Load” is wired to A2\/4/],
    ['Flow', 'name', 'Load', /a channel “Load” already/],
    ['Twice', 'wire', 'A4/1', /computed channel has no terminal/],
    ['Flow', 'low', 'NaN', /Give a number/],
    ['Flow', 'rateHz', '1e9', /At most 1 MS/],
  ])('%s, %s: “%s” is refused with its reason', async (name, key, text, reason) => {
    const [result] = await cells([[name, key, text]]);
    expect(result.fault).toMatch(reason);
  });
  test('a new unit converts range, limits and hysteresis along; formulas that would not fit any more hold it', async () => {
    await editChannel(app, get('Load').id, { settings: { warnAbove: 8, limitBack: 0.5 } }, 'bench');
    await editChannel(app, get('Load').id, { settings: { unit: 'N' } }, 'bench');
    expect(get('Load').settings).toMatchObject({
      unit: 'N',
      range: { min: -10_000, max: 10_000 },
      warnAbove: 8000,
      limitBack: 500,
      fullScale: 10_000,
    });
    await expect(editChannel(app, get('Flow').id, { settings: { unit: 'kN' } }, 'bench')).rejects.toThrow(
      /Twice.*would not fit/,
    );
  });
  test('what was understood is written as one change, what was refused stays; a preview writes nothing', async () => {
    const list: [string, string, string][] = [
      ['Gauge', 'gaugeFactor', '2,1'],
      ['Load', 'name', 'Shaft load'],
      ['Flow', 'low', 'much'],
    ];
    await cells(list, 'decimal sign');
    expect(names()).toContain('Load');
    await cells(list, 'decimal sign', true);
    expect([
      get('Gauge').settings.gaugeFactor,
      names().includes('Shaft load'),
      get('Flow').settings.low,
    ]).toEqual([2.1, true, 0]);
    await undo(app, 'bench');
    expect([get('Gauge').settings.gaugeFactor, names().includes('Load')]).toEqual([2.08, true]);
  });
  test('names can change places, formulas follow; order and removal are undone to where they were', async () => {
    const before = names();
    await orderChannels(
      app,
      channelsOf(app)
        .map((c) => c.id)
        .reverse(),
      'bench',
    );
    expect(names()).toEqual([...before].reverse());
    await undo(app, 'bench');
    await removeChannels(app, [get('Gauge').id], 'bench');
    await undo(app, 'bench');
    expect(names()).toEqual(before);
    await expect(removeChannels(app, [get('Flow').id], 'bench')).rejects.toThrow(
      /“Twice” is computed from “Flow”/,
    );
    await removeChannels(app, [get('Flow').id, get('Twice').id], 'bench');
    expect(names()).toEqual(['Gauge', 'Load']);
  });
  test('circles of formulas are named; a computed channel takes the unit of what it is made of', async () => {
    expect(get('Twice').settings).toMatchObject({ unit: 'm/s', range: { min: 0, max: 5 } });
    const up = await addChannel(
      app,
      {
        name: 'Up',
        kind: 'computed',
        wire: null,
        settings: { formula: 'derivative("Twice")' },
      },
      'bench',
    );
    expect(up.settings.unit).toBe('m/s²');
    await expect(
      editChannel(app, get('Twice').id, { settings: { formula: '"Flow" * 2 + integral("Up")' } }, 'bench'),
    ).rejects.toThrow(/Twice → Up → Twice/);
  });
  test('the history says what changed since, and goes back to any state', async () => {
    const [{ id: start }] = history(app);
    await editChannel(app, get('Gauge').id, { settings: { gaugeFactor: 2.2 } }, 'bench');
    await editChannel(app, get('Gauge').id, { settings: { gaugeFactor: 2.3 } }, 'bench');
    await editChannel(app, get('Gauge').id, { name: 'Root gauge' }, 'bench');
    expect(
      history(app)
        .slice(0, 3)
        .map((r) => r.says.split(':')[0]),
    ).toEqual(['Root gauge', 'Gauge', 'Gauge']);
    await goBackTo(app, start, 'bench');
    expect(get('Gauge').settings.gaugeFactor).toBe(2.08);
  });
  test('a scale converts every channel that uses it, changes them all, and is not removed from under them', async () => {
    const tank = await addChannel(
      app,
      {
        name: 'Tank',
        kind: 'voltage',
        wire: wire('A4/3'),
        settings: { unit: 'm', range: { min: 0, max: 5 } },
      },
      'bench',
    );
    const scale = await putScale(
      app,
      {
        name: 'Level table',
        rawUnit: 'V',
        unit: 'm',
        law: { kind: 'table', xs: [0, 5, 10], ys: [0, 1, 4] },
      },
      'bench',
    );
    await editChannel(app, tank.id, { scale: 'level table' }, 'bench');
    expect(get('Tank').scale).toEqual(scale);
    await putScale(app, { ...scale, law: { kind: 'polynomial', coefficients: [0, 0.1, 0.03] } }, 'bench');
    expect(get('Tank').scale!.law.kind).toBe('polynomial');
    await expect(removeScale(app, scale.id, 'bench')).rejects.toThrow(/“Tank” uses “Level table”/);
    await expect(editChannel(app, get('Gauge').id, { scale: 'Level table' }, 'bench')).rejects.toThrow(
      /has its own law/,
    );
    await expect(
      putScale(
        app,
        { name: 'Bad', rawUnit: 'V', unit: 'm', law: { kind: 'table', xs: [0, 0], ys: [1, 2] } },
        'bench',
      ),
    ).rejects.toThrow(/has to be above 0/);
  });
  test('the list as CSV comes back the same on an empty job; a bad row stops all of it', async () => {
    await editChannel(
      app,
      get('Load').id,
      {
        settings: { sensitivity: 2.05, warnAbove: 8 },
        group: 'Drive train',
      },
      'bench',
    );
    const csv = channelsCsv(app);
    const before = channelsOf(app).map(({ name, group, settings }) => ({ name, group, settings }));
    await removeChannels(
      app,
      channelsOf(app).map((c) => c.id),
      'bench',
    );
    expect(
      await importChannelsCsv(app, csv.replace('strain bridge', 'strange bridge'), null, true, 'bench'),
    ).toMatchObject({ faults: [expect.stringMatching(/Row 2.*strange bridge/)] });
    expect(names()).toEqual([]);
    await importChannelsCsv(app, csv, null, true, 'bench');
    expect(channelsOf(app).map(({ name, group, settings }) => ({ name, group, settings }))).toEqual(before);
    await expect(importChannelsCsv(app, 'a;b\n1;2', null, false, 'bench')).rejects.toThrow(/column “Name”/);
  });
});

test('blocks of cells come back from the clipboard whatever is in them', () => {
  fc.assert(
    fc.property(
      fc.array(fc.array(fc.string(), { minLength: 2, maxLength: 3 }), { minLength: 1, maxLength: 4 }),
      (rows) => {
        fc.pre(rows.every((r) => r.length === rows[0].length) && rows.flat().every((c) => !c.includes('\r')));
        expect(readBlock(blockText(rows))).toEqual(rows);
      },
    ),
  );
});

describe('sensors', () => {
  const sheet = {
    serial: 'TQ-1',
    kind: 'bridge sensor' as const,
    unit: 'N·m',
    range: { min: 0, max: 2000 },
    sheet: { sensitivity: 1.5, fullScale: 2000 },
    calibratedUntil: '2020-01-01',
  };
  test('a sheet is compared before it is taken over; the channel keeps the unit it is read in', async () => {
    const torque = await addChannel(
      app,
      { name: 'Torque', kind: 'bridge sensor', wire: wire('A2/4') },
      'bench',
    );
    putSensor(app, null, sheet, 'bench');
    expect(compareSheet(app, torque.id, 'TQ-1').map((d) => [d.key, d.now, d.next])).toEqual([
      ['sensorSerial', 'none', 'TQ-1'],
      ['sensitivity', '2 mV/V', '1.5 mV/V'],
      ['fullScale', '5 kN·m', '2 kN·m'],
    ]);
    await takeSheet(app, torque.id, 'TQ-1', 'bench');
    expect(compareSheet(app, torque.id, 'TQ-1')).toEqual([]);
    expect(viewSensors(app)).toMatchObject([{ due: true, usedBy: [{ channel: 'Torque' }] }]);
    expect(() => removeSensor(app, 'TQ-1', 'bench')).toThrow(/“Torque” of First job uses it/);
  });
  test('the drawer travels as CSV and JSON; a wrong row is named and none is taken', () => {
    putSensor(app, null, sheet, 'bench');
    putSensor(
      app,
      null,
      {
        serial: 'TC-9',
        kind: 'thermocouple',
        unit: '°C',
        sheet: { type: 'K' },
        note: '=1+1; "quoted"',
      },
      'bench',
    );
    const [before, csv, json] = [viewSensors(app), sensorsCsv(app), sensorsJson(app)];
    for (const s of before) removeSensor(app, s.serial, 'bench');
    expect(importSensors(app, json, 'bench')).toEqual({ added: 2, replaced: 0 });
    expect(viewSensors(app)).toEqual(before);
    expect(importSensors(app, csv, 'bench')).toEqual({ added: 0, replaced: 2 });
    expect(() => importSensors(app, csv.replace('2000', '-5').replace('TC-9', 'TC-10'), 'bench')).toThrow(
      /sensor \d/,
    );
    expect(viewSensors(app).map((s) => s.serial)).toEqual(['TC-9', 'TQ-1']);
    expect(() => importSensors(app, '{"format":"other"}', 'bench')).toThrow(/list of sensors/);
  });
  test('chips of a unit fill the drawer and channels; what each template says becomes the law of its kind', async () => {
    const kinds = CHIPS.map(({ teds }) => sensorOfChip(decodeTeds(encodeTeds(teds)))!);
    expect(kinds.map((s) => s.kind)).toEqual(['bridge sensor', 'thermocouple', 'vibration', 'potentiometer']);
    expect(kinds[0]).toMatchObject({
      unit: 'N',
      sheet: { fullScale: 10_000, resistance: 350, excitation: 5 },
      calibratedUntil: '2027-03-14',
    });
    expect(kinds[0].sheet.sensitivity).toBeCloseTo(2.003, 5);
    expect(kinds[2].sheet.sensitivity).toBeCloseTo(10.2, 2);
    expect(kinds[3].sheet).toMatchObject({ low: 0, high: 150 });
    const { serial } = await addUnit(app, 'bench chassis', 'bench');
    const unit = openBenchChassis(unitOf(app, serial));
    app.engine = { command: (c) => Promise.resolve(c.do === 'chips' ? unit.chips!() : undefined) };
    expect(await takeChips(app, serial, ['B1/3', 'B6/1'], 'bench')).toBe(2);
    expect(channelsOf(app).map((c) => [c.kind, c.wire!.terminal, c.sensorSerial])).toEqual([
      ['bridge sensor', 'B1/3', '210-3107'],
      ['potentiometer', 'B6/1', '150-1912'],
    ]);
  });
});

describe('clues of wrong wiring', () => {
  const look = (part: Partial<Watched> & { mean?: number; biasV?: number }) => {
    const { mean = 0, biasV, ...rest } = part;
    return wiringClues({
      channel: null,
      probe: { unit: 'mV', mean, noise: 0, samples: 50, trouble: 'none', remark: null, biasV },
      state: 'ok',
      recent: [],
      neighbours: [],
      ...rest,
    }).map((c) => c.what);
  };
  const ramp = (slope: number) =>
    Float64Array.from({ length: 400 }, (_, i) => slope * i + 0.001 * Math.sin(i));
  test('a thermocouple that falls while its neighbour rises', () => {
    const k = channel('K', 'thermocouple', 'A1/1');
    expect(
      look({ channel: k, recent: ramp(-0.001), neighbours: [{ name: 'Other', recent: ramp(0.001) }] }),
    ).toEqual([expect.stringMatching(/falls while Other rises: its wires look swapped/)]);
    expect(
      look({ channel: k, recent: ramp(0.001), neighbours: [{ name: 'Other', recent: ramp(0.001) }] }),
    ).toEqual([]);
  });
  test.each([
    [
      'a bridge out of balance',
      { channel: channel('B', 'strain bridge', 'A2/1'), mean: 12 },
      /12\.0 mV\/V out of balance/,
    ],
    [
      'a loop below its live zero',
      { channel: channel('L', 'current loop', 'A4/2'), mean: 2.1 },
      /2\.10 mA, less than the 3\.6 mA/,
    ],
    [
      'a loop above its end',
      { channel: channel('L', 'current loop', 'A4/2'), mean: 21.6 },
      /more than a working transmitter/,
    ],
    [
      'a sensor without its current',
      { channel: channel('V', 'vibration', 'A3/1'), biasV: 24 },
      /does not draw its current/,
    ],
    [
      'a reading that never moves',
      { channel: channel('V', 'voltage', 'A4/1'), mean: 1, recent: new Float64Array(400).fill(1) },
      /not moved by a single step/,
    ],
    [
      'a swapped pair',
      { channel: channel('T', 'bridge sensor', 'A2/4', { range: { min: 0, max: 5 } }), mean: -1 },
      /signal pair looks swapped/,
    ],
    [
      'a silent sender',
      { channel: channel('X', 'value', 'L/a'), state: 'silent' as const },
      /Nothing arrives any more/,
    ],
  ])('%s', (_, part, says) => expect(look(part)).toEqual([expect.stringMatching(says)]));
  test('all well says nothing', () => {
    expect(look({ channel: channel('L', 'current loop', 'A4/2'), mean: 12, recent: ramp(0) })).toEqual([]);
  });
});
