import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { when } from '$core/condition/condition';
import { commonOf, type Channel } from '$contract/channel';
import { cellText } from '$contract/columns';
import { newDeed } from '$contract/rule';
import { jobOf, openApp, type App } from '$service/app';
import { View } from '$contract/board';
import { EMPTY_STATUS } from '$contract/engine-status';
import { openBridgeRack } from '$engine/units/bridge-rack/driver';
import { listLog } from '$store/logbook';
import { addBoard, boardOf, changeBoard, removeBoard } from '$service/boards';
import { preflightNow } from '$service/record';
import { redo, undo } from '$service/setup/change';
import { writeCells } from '$service/setup/cells';
import { addChannel, channelUses, editChannel, removeChannel } from '$service/setup/channels';
import { editPlan, editRule, orderRules, removeRule } from '$service/setup/plan';
import { putScale } from '$service/setup/scales';
import { addUnit, editUnit } from '$service/units';
import { importChannelsCsv, channelsCsv } from '$service/setup/channel-list';
import * as store from '$store/entities';

let folder: string;
let app: App;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-edits-'));
  app = openApp(folder);
});
afterEach(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});

const all = () => store.listChannels(app.db, store.currentJob(app.db)!.id);
const get = (name: string): Channel => all().find((c) => c.name === name)!;
const rules = () => store.listRules(app.db, store.currentJob(app.db)!.id);
const plan = () => store.jobPlan(app.db, store.currentJob(app.db)!.id)!.plan;
const wire = (terminal: string) => ({ unit: 'U-1', terminal });
const heat = (name: string, terminal: string) =>
  addChannel(
    app,
    {
      name,
      kind: 'thermocouple',
      wire: wire(terminal),
      settings: { range: { min: 0, max: 120 } },
    },
    'bench',
  );
const pressure = (name: string, terminal: string, settings: object = {}) =>
  addChannel(app, { name, kind: 'current loop', wire: wire(terminal), settings: { unit: 'bar', low: 0, high: 16, range: { min: 0, max: 16 }, ...settings } }, 'bench'); // prettier-ignore
const computed = (name: string, formula: string, settings: object = {}) =>
  addChannel(app, { name, kind: 'computed', wire: null, settings: { formula, ...settings } }, 'bench');
const write = (cells: [name: string, key: string, text: string][], apply = true) =>
  writeCells(
    app,
    cells.map(([name, key, text]) => ({ id: get(name).id, key, text })),
    null,
    apply,
    'bench',
  );

describe('a new unit is followed by all that is written in it', () => {
  test('rules, plans, boards and outputs keep what they meant; it is shown before, and one undo takes it all back', async () => {
    const bearing = await heat('Bearing', 'A1/1');
    const brake = await addChannel(
      app,
      {
        name: 'Brake',
        kind: 'driven',
        wire: wire('A6/1'),
        settings: { unit: 'A' },
      },
      'bench',
    );
    const made = await editRule(
      app,
      null,
      {
        when: when(bearing.id, 'rises above', 62, { hysteresis: 5 }),
        deeds: [newDeed({ do: 'set', output: brake.id, value: 2 })],
      },
      'bench',
    );
    await editPlan(
      app,
      { start: 'when', startWhen: when(bearing.id, 'is inside', 20, { high: 60 }) },
      'bench',
    );
    const board = addBoard(app, 'Hall');
    changeBoard(app, board.id, {
      put: [
        {
          id: 'v',
          kind: 'dial',
          channels: [bearing.id],
          x: 0,
          y: 0,
          w: 5,
          h: 5,
          range: { min: 0, max: 100 },
        },
      ] as never,
    });
    const { follows } = await write([['Bearing', 'unit', '°F']], false);
    expect(follows.map((f) => f.what)).toEqual(['Rule 1', 'Plan “By hand”', 'Board “Hall”']);
    expect(follows[0].before).toContain('above 62 °C');
    expect(follows[0].after).toContain('above 143.6 °F');
    expect(rules()[0].rule.when.terms[0].level).toBe(62); // only shown

    await write([['Bearing', 'unit', '°F']]);
    expect(rules()[0].rule.when.terms[0]).toMatchObject({ level: 143.6, hysteresis: 9 });
    expect(plan().startWhen.terms[0]).toMatchObject({ level: 68, high: 140 });
    expect(boardOf(app, board.id).views[0].range).toEqual({ min: 32, max: 212 });
    expect(commonOf(get('Bearing')).range).toEqual({ min: 32, max: 248 });
    await editChannel(app, brake.id, { settings: { unit: 'mA' } }, 'bench');
    expect(rules()[0].rule.deeds[0].value).toBe(2000);

    await undo(app, 'bench');
    await undo(app, 'bench');
    expect(rules()[0]).toMatchObject({ id: made.id, rule: { deeds: [{ value: 2 }] } });
    expect(rules()[0].rule.when.terms[0]).toMatchObject({ level: 62, hysteresis: 5 });
    expect(plan().startWhen.terms[0]).toMatchObject({ level: 20, high: 60 });
    expect(boardOf(app, board.id).views[0].range).toEqual({ min: 0, max: 100 });
    await redo(app, 'bench');
    expect(rules()[0].rule.when.terms[0].level).toBe(143.6);
  });

  test('a slope is a distance for each second: it has no zero', async () => {
    const bearing = await heat('Bearing', 'A1/1');
    await editRule(app, null, { when: when(bearing.id, 'climbs faster than', 2, { over: 10 }) }, 'bench');
    await editChannel(app, bearing.id, { settings: { unit: '°F' } }, 'bench');
    expect(rules()[0].rule.when.terms[0].level).toBe(3.6);
  });

  test('what cannot be converted is refused, naming what it would touch', async () => {
    const value = await addChannel(app, { name: 'Level', kind: 'voltage', wire: wire('A4/1') }, 'bench');
    await editRule(app, null, { when: when(value.id, 'is above', 5) }, 'bench');
    await expect(editChannel(app, value.id, { settings: { unit: 'bar' } }, 'bench')).rejects.toThrow(
      /Rule 1 has a value of it in V, which cannot be converted to bar/,
    );
    expect(commonOf(get('Level')).unit).toBe('V');
  });

  test('formulas go on giving what they gave, there and back', async () => {
    await heat('Bearing', 'A1/1');
    await computed('Hot', '"Bearing" > 62 or "Bearing" < 4', { unit: 'yes/no' });
    await computed('Rise', '"Bearing" - 21', { unit: '°C', range: { min: 0, max: 100 } });
    await editChannel(app, get('Bearing').id, { settings: { unit: '°F' } }, 'bench');
    expect(get('Hot').settings.formula).toBe('convert("Bearing", "°C") > 62 or convert("Bearing", "°C") < 4');
    expect(get('Rise').settings.formula).toBe('convert("Bearing", "°C") - 21');
    await editChannel(app, get('Bearing').id, { settings: { unit: '°C' } }, 'bench');
    expect(get('Hot').settings.formula).toBe('"Bearing" > 62 or "Bearing" < 4');
    expect(get('Rise').settings.formula).toBe('"Bearing" - 21');
  });

  test('a computed channel in another unit gives another number, whatever its formula is made of', async () => {
    await pressure('Feed', 'A4/1');
    await computed('Twice', '"Feed" * 2', { unit: 'bar' });
    await computed('Plus', '"Feed" + 1', { unit: 'bar' });
    await editChannel(app, get('Twice').id, { settings: { unit: 'kPa' } }, 'bench');
    await editChannel(app, get('Plus').id, { settings: { unit: 'kPa' } }, 'bench');
    expect(get('Twice').settings.formula).toBe('("Feed" * 2) * 100');
    expect(get('Plus').settings.formula).toBe('convert("Feed" + 1, "kPa")');
    await editChannel(app, get('Plus').id, { settings: { unit: 'bar' } }, 'bench');
    expect(get('Plus').settings.formula).toBe('"Feed" + 1');
  });
});

describe('a block of cells is decided whole, and by the same function before and after', () => {
  test('two names and two terminals can be exchanged, and formulas follow both', async () => {
    await heat('One', 'A1/1');
    await heat('Two', 'A1/2');
    await computed('Both', '"One" - "Two"', { unit: '°C' });
    const swap: [string, string, string][] = [['One', 'name', 'Two'], ['Two', 'name', 'One'], ['One', 'wire', 'A1/2'], ['Two', 'wire', 'A1/1']]; // prettier-ignore
    const shown = await write(swap, false);
    expect(shown.cells.every((c) => c.fault === null)).toBe(true);
    await write(swap);
    expect([get('Two').wire!.terminal, get('One').wire!.terminal]).toEqual(['A1/2', 'A1/1']);
    expect(get('Both').settings.formula).toBe('"Two" - "One"');
  });

  test('a channel can be renamed and its formula edited in one block, by the old name or the new', async () => {
    for (const name of ['Flow', 'Tide']) {
      await pressure('Flow', 'A4/1');
      await computed('Half', '"Flow" / 2', { unit: 'bar' });
      await write([['Flow', 'name', 'Tide'], ['Half', 'formula', `"${name}" / 4`]]); // prettier-ignore
      expect(get('Half').settings.formula).toBe('"Tide" / 4');
      await removeChannel(app, get('Half').id, 'bench');
      await removeChannel(app, get('Tide').id, 'bench');
    }
  });

  test('units come first: a range beside a new unit is meant in it, shown and stored alike', async () => {
    await pressure('Feed', 'A4/1');
    for (const [cells, range] of [
      [[['Feed', 'range', '0 to 1600 kPa'], ['Feed', 'unit', 'bar']], { min: 0, max: 16 }],
      [[['Feed', 'range', '0 to 800'], ['Feed', 'unit', 'kPa']], { min: 0, max: 800 }],
    ] as const) {
      const shown = await write(cells as never, false);
      await write(cells as never);
      expect(commonOf(get('Feed')).range).toEqual(range);
      for (const c of shown.cells) expect(c.fault).toBeNull();
    } // prettier-ignore
  });

  test('what a formula or another channel forbids is refused in the preview, and only that', async () => {
    await heat('One', 'A1/1');
    await heat('Two', 'A1/2');
    const cells: [string, string, string][] = [['One', 'name', 'Two'], ['Two', 'group', 'Bearings'], ['One', 'unit', 'mm']]; // prettier-ignore
    for (const apply of [false, true]) {
      const { cells: found } = await write(cells, apply);
      expect(found.map((c) => [c.key, c.fault !== null])).toEqual([
        ['name', true],
        ['group', false],
        ['unit', true],
      ]);
    }
    expect(get('Two').group).toBe('Bearings');
    expect([get('One').name, commonOf(get('One')).unit]).toEqual(['One', '°C']);
  });

  test.each(['a\\b', 'a"b', '  ', 'x\u202ey', 'tab\there', '\ud800', 'zero\u200bwidth'])(
    'a channel cannot be called %j',
    async (name) => {
      await heat('One', 'A1/1');
      const { cells } = await write([['One', 'name', name]]);
      expect(cells[0].fault).toMatch(/name|signs|broken|quotation/i);
      await expect(heat(name, 'A1/2')).rejects.toThrow();
    },
  );
  test.each(['', '   ', 'x\u202ey', 'line\nbreak', '\ud800', 'x'.repeat(61)])(
    'nor a board, a scale or a unit %j; what was there keeps its name',
    async (name) => {
      const board = addBoard(app, 'Night');
      expect(() => addBoard(app, name)).toThrow();
      expect(() => changeBoard(app, board.id, { name })).toThrow();
      expect(boardOf(app, board.id).name).toBe('Night');
      const scale = {
        rawUnit: 'V',
        unit: 'mm',
        law: { kind: 'linear', slope: 2, offset: 0 },
      } as const;
      await expect(putScale(app, { ...scale, name }, 'bench')).rejects.toThrow();
      expect((await putScale(app, { ...scale, name: ' Wire ' }, 'bench')).name).toBe('Wire');
      const { serial, name: was } = await addUnit(app, 'bench chassis', 'bench');
      await expect(editUnit(app, serial, { name }, 'bench')).rejects.toThrow();
      expect(store.listUnits(app.db).find((u) => u.serial === serial)?.name).toBe(was);
      expect((await editUnit(app, serial, { name: ' Quay ' }, 'bench')).name).toBe('Quay');
    },
  );
  test('accents are kept in one form, so that two names that look alike are alike', async () => {
    await heat('Düse', 'A1/1');
    await expect(heat('Du\u0308se', 'A1/2')).rejects.toThrow(/already/);
  });
});

test('a formula follows whatever its channel is called, used plain and converted, there and back', async () => {
  await heat('Heat $& 1', 'A1/1');
  const formula = '"Heat $& 1" > 62 or convert("Heat $& 1", "K") > 300';
  await computed('Hot', formula);
  const now = () => (get('Hot').settings as { formula: string }).formula;
  await write([['Heat $& 1', 'unit', '°F']]);
  expect(now()).toBe('convert("Heat $& 1", "°C") > 62 or convert("Heat $& 1", "K") > 300');
  await write([['Heat $& 1', 'unit', '°C']]);
  expect(now()).toBe(formula);
});

test('a list of channels is taken whole or not at all', async () => {
  await pressure('Feed', 'A4/1');
  const csv = (warn: string) => `Name,Kind,Unit of the rig,Wired to,Unit,Warn above\r\nNew,current loop,U-1,A4/2,kPa,${warn}\r\nFeed,current loop,U-1,A4/1,bar,12\r\n`; // prettier-ignore
  const refused = await importChannelsCsv(app, csv('lots'), null, true, 'bench');
  expect(refused.faults.join()).toMatch(/New, Warn above/);
  expect(all().map((c) => c.name)).toEqual(['Feed']);
  expect(commonOf(get('Feed')).warnAbove).toBeNull();
  expect(await importChannelsCsv(app, csv('800'), null, true, 'bench')).toMatchObject({
    added: ['New'],
    faults: [],
  });
  expect(commonOf(get('New'))).toMatchObject({ unit: 'kPa', warnAbove: 800 });
  await undo(app, 'bench'); // one change
  expect(all().map((c) => c.name)).toEqual(['Feed']);
});

test('a list for a spreadsheet runs nothing there and comes back as it went', async () => {
  await pressure('=SUM(A1)', 'A4/1', { low: -5 });
  await write([['=SUM(A1)', 'group', '@cmd']]);
  const text = channelsCsv(app);
  expect(text).toContain("'=SUM(A1)");
  expect(text).toContain("'@cmd");
  expect(text).toContain(',-5 bar');
  expect(await importChannelsCsv(app, text, null, true, 'bench')).toMatchObject({
    added: [],
    changed: 0,
    faults: [],
  });
});

describe('what a channel is used for', () => {
  test('is said before it is removed; a rule without its channel is broken, and the pre-flight says so', async () => {
    const bearing = await heat('Bearing', 'A1/1');
    await editRule(app, null, { when: when(bearing.id, 'is above', 60) }, 'bench');
    await editPlan(app, { start: 'when', startWhen: when(bearing.id, 'is above', 20) }, 'bench');
    const board = addBoard(app, 'Hall');
    changeBoard(app, board.id, {
      put: [{ id: 'v', kind: 'number', channels: [bearing.id], x: 0, y: 0, w: 5, h: 3 }] as never,
    });
    const uses = channelUses(app, [bearing.id]);
    expect(uses.map((u) => u.what)).toEqual(['Rule 1', 'Plan “By hand”', 'Board “Hall”']);
    expect(uses[0].after).toMatch(/cannot act any more: it waits for Bearing/);
    await expect(removeChannel(app, bearing.id, 'bench')).rejects.toThrow(/Rule 1 uses it/);
    await removeChannel(app, bearing.id, 'bench', true);
    const broken = preflightNow(app).filter((c) => c.where === 'Rule 1');
    expect(broken).toMatchObject([{ how: 'wrong', what: 'reads or drives a channel that was removed' }]);
    await undo(app, 'bench');
    expect(preflightNow(app).filter((c) => c.where === 'Rule 1')).toEqual([]);
  });
});

test('a scale or calibration of another quantity is refused where it is set, by hand, in a paste and by its scale', async () => {
  const volts = await addChannel(
    app,
    {
      name: 'Lever',
      kind: 'voltage',
      wire: wire('A4/1'),
      settings: { unit: 'mm' },
    },
    'bench',
  );
  const scale = await putScale(app, { name: 'lever', rawUnit: 'V', unit: 'mm', law: { kind: 'linear', slope: 10, offset: 0 } }, 'bench'); // prettier-ignore
  await editChannel(app, volts.id, { scale: scale.id }, 'bench');
  await expect(editChannel(app, volts.id, { settings: { unit: 'bar' } }, 'bench')).rejects.toThrow(
    /cannot be read in bar: its scale “lever” gives mm/,
  );
  const { cells } = await write([['Lever', 'unit', 'bar']]);
  expect(cells[0].fault).toMatch(/its scale “lever” gives mm/);
  await expect(putScale(app, { ...scale, unit: 'bar' }, 'bench')).rejects.toThrow(
    /Lever cannot be read in mm: its scale “lever” gives bar/,
  );
  expect(get('Lever').scale!.unit).toBe('mm');
});

describe('rules in their order', () => {
  const names = () => rules().map((r) => r.rule.deeds[0].says);
  const add = async (says: string) =>
    (await editRule(app, null, { cause: 'every', time: 60, deeds: [newDeed({ do: 'mark', says })] }, 'bench'))
      .id;

  test('are moved, and come back to their place when a removal is undone', async () => {
    const [a, b, c] = [await add('a'), await add('b'), await add('c')];
    await orderRules(app, [c, a, b], 'bench');
    expect(names()).toEqual(['c', 'a', 'b']);
    await removeRule(app, a, 'bench');
    expect(names()).toEqual(['c', 'b']);
    await undo(app, 'bench');
    expect(names()).toEqual(['c', 'a', 'b']);
    await undo(app, 'bench');
    expect(names()).toEqual(['a', 'b', 'c']);
    await expect(orderRules(app, [a, b], 'bench')).rejects.toThrow(/each rule once/);
  });

  test('one that is switched off is kept and not watched; it and plans can be prepared while a take runs', async () => {
    const sent: number[] = [];
    app.engine = {
      command: (c) => {
        if (c.do === 'configure') sent.push(c.setup.rules.length);
        return Promise.resolve();
      },
    };
    const [a, b] = [await add('a'), await add('b')];
    await editRule(app, a, { off: true }, 'bench');
    expect(sent.at(-1)).toBe(1);
    const pushed = sent.length;
    app.live.status = { ...app.live.status, state: 'Recording' };
    await editRule(app, a, { time: 30 }, 'bench');
    await editPlan(app, { before: 3 }, 'bench');
    expect(sent).toHaveLength(pushed);
    await expect(editRule(app, b, { time: 30 }, 'bench')).rejects.toThrow(/being recorded/);
    await expect(editRule(app, a, { off: false }, 'bench')).rejects.toThrow(/being recorded/);
    app.live.status = { ...app.live.status, state: 'Watching' };
    await editRule(app, a, { off: false }, 'bench');
    expect(sent.at(-1)).toBe(2);
  });
});

test('a filter that its channel’s rate cannot carry is refused with the reason', async () => {
  await pressure('Feed', 'A4/1'); // 100 S/s
  await expect(computed('Smooth', 'lowpass("Feed", 80)', { unit: 'bar' })).rejects.toThrow(
    /corner of 80 Hz does not go with 100 samples\/s/,
  );
  await computed('Slow', 'lowpass("Feed", 20)', { unit: 'bar' });
  await expect(editChannel(app, get('Feed').id, { settings: { rateHz: 10 } }, 'bench')).rejects.toThrow(
    /Its formula would not fit any more.*corner of 20 Hz/,
  );
});

describe('rows that are pasted below the last channel', () => {
  type Rows = Parameters<typeof writeCells>[5];
  const row = (like: string, cells: Record<string, string>): NonNullable<Rows>[number] => ({
    like: get(like).id,
    cells: Object.entries(cells).map(([key, text]) => ({ key, text })),
  });
  const paste = (rows: Rows, apply: boolean) => writeCells(app, [], null, apply, 'Ada', rows);
  const chassis = () =>
    app.live.setStatus({
      ...EMPTY_STATUS,
      units: [
        {
          description: openBridgeRack({ serial: 'U-1', kind: 'bridge rack', name: 'Rack' }).describe(),
          answering: true,
          says: '',
        },
      ],
    });
  const gauge = (name: string, terminal: string) =>
    addChannel(app, { name, kind: 'strain bridge', wire: wire(terminal), group: 'Roots' }, 'bench');

  test('become channels like it: of its kind and group, on the next free terminals, with the numbers of the row', async () => {
    chassis();
    await gauge('A', 'C1/1');
    await gauge('B', 'C1/3');
    const rows = [
      row('A', { name: 'New 1', gaugeFactor: '2.1', range: '0 to 0.002 m/m' }),
      row('A', { name: 'New 2', wire: 'C2/1', kind: cellText(get('A'), 'kind') }),
      row('A', { name: 'New 3', kind: 'computed', formula: '"New 1" * 2' }),
    ];
    const shown = await paste(rows, false);
    expect(shown.rows).toEqual([
      { name: 'New 1', says: 'strain bridge on C1/2', fault: null },
      { name: 'New 2', says: 'strain bridge on C2/1', fault: null },
      { name: 'New 3', says: 'computed', fault: null },
    ]);
    expect(all()).toHaveLength(2);
    await paste(rows, true);
    expect(get('New 1')).toMatchObject({
      group: 'Roots',
      wire: { unit: 'U-1', terminal: 'C1/2' },
      settings: { gaugeFactor: 2.1, range: { min: 0, max: 2000 } },
    });
    expect(listLog(app.db, jobOf(app).id, 1)[0]).toMatchObject({ by: 'Ada', says: 'Added 3 channels: New 1, New 2, New 3.' }); // prettier-ignore
    await undo(app, 'bench');
    expect(all()).toHaveLength(2);
  });

  test('are refused whole where a cell is, with its reason; the others are added', async () => {
    chassis();
    await gauge('A', 'C1/1');
    const rows = [
      row('A', { name: 'Good' }),
      row('A', { name: 'A' }),
      row('A', { gaugeFactor: '2' }),
      row('A', { name: 'Odd', gaugeFactor: '0' }),
      row('A', { name: 'Far', wire: 'C99/1' }),
      row('A', { name: 'Taken', wire: 'C1/1' }),
      row('A', { name: 'Aura', kind: 'aura' }),
    ];
    const { rows: results } = await paste(rows, true);
    const faults = [
      null,
      /already/,
      /needs a name/,
      /Metal gauges/,
      /no such terminal/,
      /“A” is wired/,
      /aura/,
    ];
    results.forEach(({ fault }, k) =>
      faults[k] ? expect(fault).toMatch(faults[k]) : expect(fault).toBeNull(),
    );
    expect(all().map((c) => c.name)).toEqual(['A', 'Good']);
  });

  test('find no place on a full unit: said, not squeezed in', async () => {
    chassis();
    const units = app.live.status.units;
    app.live.setStatus({
      ...app.live.status,
      units: units.map((u) => ({
        ...u,
        description: { ...u.description, modules: u.description.modules.slice(0, 1) },
      })),
    });
    await gauge('A', 'C1/1');
    const { rows: results } = await paste(
      [1, 2, 3, 4].map((k) => row('A', { name: `N${k}` })),
      false,
    );
    expect(results.map((r) => r.fault === null)).toEqual([true, true, true, false]);
    expect(results[3].fault).toMatch(/Rack has no free one for a strain bridge/);
  });
});

describe('who did it', () => {
  test('stands at an undo, too; a board that was removed comes back whole', async () => {
    const board = addBoard(app, 'Hall');
    const view = View.parse({ id: 'v', kind: 'number', channels: [], x: 3, y: 0, w: 5, h: 3 });
    changeBoard(app, board.id, { put: [view] });
    await removeBoard(app, board.id, 'Ada');
    expect(() => boardOf(app, board.id)).toThrow(/no board/);
    await undo(app, 'Grace');
    expect(boardOf(app, board.id).views).toEqual([view]);
    await redo(app, 'Ada');
    expect(listLog(app.db, jobOf(app).id, 3).map((e) => [e.by, e.says.split(':')[0]])).toEqual([
      ['Ada', 'Done again'],
      ['Grace', 'Undone'],
      ['Ada', 'Removed the board “Hall”.'],
    ]);
  });

  test('what does not concern the measuring is undone while a take runs, and does not reach the engine; the rest is refused', async () => {
    const bearing = await heat('Bearing', 'A1/1');
    const said: string[] = [];
    app.engine = { command: ({ do: what }) => (said.push(what), Promise.resolve(null)) };
    const board = addBoard(app, 'Hall');
    await removeBoard(app, board.id, 'bench');
    await editPlan(app, { longest: 60 }, 'bench');
    app.live.setStatus({ ...EMPTY_STATUS, state: 'Recording' });
    await undo(app, 'bench');
    await undo(app, 'bench');
    expect(plan().longest).toBe(600);
    expect(boardOf(app, board.id).name).toBe('Hall');
    expect(said).toEqual([]);
    await expect(undo(app, 'bench')).rejects.toThrow(/being recorded: its set-up stays/);
    expect(get('Bearing').id).toBe(bearing.id);
    app.live.setStatus(EMPTY_STATUS);
    await undo(app, 'bench');
    expect(said).toEqual(['configure']);
  });

  test('what was arranged on a board after a change of a unit stays when that is undone', async () => {
    const bearing = await heat('Bearing', 'A1/1');
    const board = addBoard(app, 'Hall');
    const view = View.parse({ id: 'v', kind: 'dial', channels: [bearing.id], x: 0, y: 0, w: 5, h: 5, range: { min: 0, max: 100 } }); // prettier-ignore
    changeBoard(app, board.id, { put: [view] });
    await write([['Bearing', 'unit', '°F']]);
    changeBoard(app, board.id, {
      name: 'Pier',
      put: [
        { id: 'v', x: 9 },
        { ...view, id: 'w', y: 9 },
      ],
    });
    await undo(app, 'bench');
    const { name, views } = boardOf(app, board.id);
    expect(name).toBe('Pier');
    expect(views.map((v) => [v.id, v.x, v.range])).toEqual([
      ['v', 9, { min: 0, max: 100 }],
      ['w', 0, { min: 0, max: 100 }],
    ]);
    await redo(app, 'bench');
    expect(boardOf(app, board.id).views[0]).toMatchObject({ x: 9, range: { min: 32, max: 212 } });
  });
});
