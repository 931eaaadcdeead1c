import { createServer } from 'node:http';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { when } from '$core/condition/condition';
import { checkFact, newFact, type Fact } from '$contract/fact';
import { objections } from '$contract/preflight';
import { newDeed, ruleConflicts } from '$contract/rule';
import { RESOLUTIONS, stripKey, parseStripKey } from '$contract/live';
import { EMPTY_CONFIG } from '$contract/units/unit-kind';
import { openDockChassis } from '$engine/units/dock-chassis/driver';
import { openApp, takePath } from '$service/app';
import { Access } from '$service/access';
import { allowHost } from '$service/hosts';
import { Controls } from '$service/people';
import { boardOf, addBoard, changeBoard, keepPicture } from '$service/boards';
import { addNote, chainText, logCsv, logPage } from '$service/logbook';
import { armTake, endTake, preflightNow, startTake } from '$service/record';
import { addChannel, editChannel } from '$service/setup/channels';
import {
  addPlan,
  choosePlan,
  comparePlans,
  editPlan,
  editRule,
  planOf,
  removePlan,
} from '$service/setup/plan';
import { undo } from '$service/setup/change';
import { Track, bucketsOf } from '$service/tracks';
import { writtenFile } from '$service/at-end';
import { renameTake, sealOf, takeRows, viewTake } from '$service/takes';
import { jobPlan } from '$store/entities';
import { listTakes } from '$store/takes';
import { checkChain } from '$store/logbook';
import { TakeReader } from '$store/take/reader';
import Sqlite from 'better-sqlite3';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { LiveApp } from '../live-app';
import { START_NS } from '../rig';

const SERIAL = 'QH-1';
let live: LiveApp;
beforeEach(() => {
  const unit = openDockChassis(SERIAL, 'Dock', START_NS, { brakeA: 6 });
  live = new LiveApp(unit, {
    serial: SERIAL,
    kind: 'dock chassis',
    name: 'Dock',
    config: EMPTY_CONFIG,
  });
});
afterEach(() => live.close());

const wire = (name = 'Wire', settings: Record<string, unknown> = {}) =>
  addChannel(
    live.app,
    {
      name,
      kind: 'voltage',
      wire: { unit: SERIAL, terminal: 'A4/1' },
      settings: { unit: 'mm', slope: 40, range: { min: 0, max: 200 }, ...settings },
    },
    'bench',
  );
const brake = () =>
  addChannel(
    live.app,
    {
      name: 'Brake',
      kind: 'driven',
      wire: { unit: SERIAL, terminal: 'A6/1' },
      settings: { rest: 6, range: { min: 0, max: 10 }, unit: 'A' },
    },
    'bench',
  );
const REASON = { by: 'bench', reason: 'a test' };
const facts = { Operator: 'bench' };

describe('facts', () => {
  const fact = (rest: Partial<Fact>): Fact => ({ ...newFact('Depth'), ...rest });
  test.each([
    [fact({ kind: 'number', factUnit: 'm', min: 0, max: 40 }), '12,5', '12.5 m'],
    [fact({ kind: 'number', factUnit: 'm', min: 0, max: 40 }), ' 12.5 m ', '12.5 m'],
    [fact({ kind: 'choice', options: ['flood', 'ebb'] }), 'ebb', 'ebb'],
    [fact({ kind: 'yes/no' }), 'yes', 'yes'],
    [fact({ required: 'may be left out' }), ' ', ''],
  ])('are kept as they were meant', (f, given, kept) => expect(checkFact(f, given)).toBe(kept));
  test.each([
    [fact({ kind: 'number', factUnit: 'm', min: 0, max: 40 }), '41', /outside 0 to 40 m/],
    [fact({ kind: 'number' }), 'deep', /“deep” is no number/],
    [fact({ kind: 'choice', options: ['flood', 'ebb'] }), 'slack', /Choose one of flood, ebb/],
    [fact({}), '', /“Depth” is not given/],
    [fact({}), 'x'.repeat(201), /too long/],
  ])('are refused with the reason', (f, given, why) => expect(() => checkFact(f, given)).toThrow(why));
  test('any finite number in range comes back as itself', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e6, max: 1e6, noNaN: true }), (v) => {
        const kept = checkFact(fact({ kind: 'number', factUnit: 'm' }), String(v));
        expect(Number(kept.replace(' m', '').replace('−', '-'))).toBe(Object.is(v, -0) ? 0 : v);
      }),
    );
  });
  test('one that reads a channel is filled in at arming; a folder is made of facts', async () => {
    const c = await wire();
    await editPlan(
      live.app,
      {
        facts: [newFact('Operator'), fact({ kind: 'channel', channel: c.id })],
        folder: '{Operator}/{date}',
      },
      'bench',
    );
    await live.pass(1);
    const head = await armTake(live.app, facts, REASON);
    expect(head.facts.Depth).toMatch(/^\d+(\.\d+)? mm$/);
    expect(head.folder).toMatch(/^bench\/\d{4}-\d\d-\d\d$/);
  });
});

describe('plans', () => {
  test('several a job: copied, compared, chosen, removed, brought back', async () => {
    const { app } = live;
    const first = planOf(app, planIds()[0]);
    const copy = await addPlan(app, { name: 'Night', from: first.id }, 'bench');
    await editPlan(app, { longest: 3600 }, 'bench', copy.id);
    expect(comparePlans(app).rows).toEqual([{ label: 'Longest', values: ['600 s', '3600 s'] }]);
    await expect(addPlan(app, { name: 'Night' }, 'bench')).rejects.toThrow(/There is a plan “Night” already/);
    choosePlan(app, first.id, 'bench');
    await removePlan(app, copy.id, 'bench');
    await expect(removePlan(app, first.id, 'bench')).rejects.toThrow(/only plan/);
    await undo(app, 'bench');
    expect(planOf(app, copy.id).plan.longest).toBe(3600);
  });
  const planIds = () =>
    (live.app.db.$client.prepare('SELECT id FROM plans').all() as { id: string }[]).map((r) => r.id);
});

describe('pre-flight', () => {
  const said = () =>
    preflightNow(live.app)
      .map((c) => `${c.how}: ${c.where} ${c.what}`)
      .join('\n');
  test('finds what is wrong or doubtful, each with its way out; arming against it needs a reason, which the take keeps', async () => {
    const { app } = live;
    const c = await wire();
    const b = await brake();
    await live.pass(1);
    await editPlan(app, { start: 'when', startWhen: when(c.id, 'rises above', 900) }, 'bench');
    expect(said()).toMatch(/wrong: The start condition can never come true/);
    await editPlan(app, { startWhen: when(c.id, 'is above', 1) }, 'bench');
    expect(said()).toMatch(/doubtful: The start condition is true already/);
    await editPlan(app, { start: 'by hand' }, 'bench');
    await app.engine.command({ do: 'output', channelId: b.id, value: 2 });
    await live.pass(1);
    const rest = preflightNow(app).find((x) => x.where === 'Brake')!;
    expect(rest.what).toMatch(/not at rest: 2 instead of 6 A/);
    await app.engine.command(rest.way!.act!.body as never);
    await live.pass(1);
    expect(said()).not.toMatch(/not at rest/);
    await expect(armTake(app, facts, { by: 'bench' })).rejects.toThrow(
      /wrong or doubtful: Wire never proven/,
    );
    const { id } = await armTake(app, facts, { by: 'bench', reason: 'only a rehearsal of hands' });
    await startTake(app);
    await live.pass(1);
    await endTake(app);
    const take = new TakeReader(takePath(app, id));
    expect(take.notes().find((n) => n.kind === 'pre-flight')!.says).toMatch(
      /only a rehearsal of hands \(Wire never proven/,
    );
    take.close();
  });
  test('a broken wire, two rules on one output, a set clock, a full disk', async () => {
    const { app } = live;
    const c = await wire();
    const b = await brake();
    for (const value of [2, 9])
      await editRule(
        app,
        null,
        {
          when: when(c.id, 'rises above', 120),
          deeds: [newDeed({ do: 'set', output: b.id, value })],
        },
        'bench',
      );
    live.unit.setFault!('A4/1', 'open wire');
    await live.pass(1);
    expect(said()).toMatch(/Rules 1 and 2 both drive Brake/);
    expect(said()).toMatch(/Clock of the computer differs by/); // the test's clock is another day
    await editPlan(app, { longest: 86_400 * 300 }, 'bench');
    await editChannel(app, c.id, { settings: { rateHz: 50_000 } }, 'bench');
    await live.pass(1);
    expect(said()).toMatch(/wrong: Disk has .* left, the longest take needs/);
    expect(objections(preflightNow(app)).length).toBeGreaterThan(2);
  });
  test('rules that drive different outputs do not conflict', () => {
    const rule = (output: string) => ({
      id: output,
      rule: { deeds: [newDeed({ do: 'set', output })] } as never,
    });
    expect(ruleConflicts([rule('a'), rule('b')])).toEqual([]);
    expect(ruleConflicts([rule('a'), { ...rule('a'), id: 'c' }])).toEqual([
      { rules: ['a', 'c'], output: 'a' },
    ]);
  });
});

describe('alarms', () => {
  test('latch until acknowledged, say when they came and went, are silenced without going, and can be shelved', async () => {
    const { app } = live;
    const c = await wire('Wire', { warnAbove: 120, alarmAbove: 150 });
    const pull = async (mm: number) => (live.hand('wireMm', mm), live.pass(1));
    await pull(100);
    expect(app.alarms.current.open).toEqual([]);
    await pull(160);
    await pull(100);
    const [alarm] = app.alarms.current.open;
    expect(alarm).toMatchObject({ level: 'alarm', takenAt: null });
    expect(alarm.says).toMatch(/^Wire past its alarm: above 150 mm: 15\d\.\d+$/);
    expect(alarm.outAt).not.toBeNull(); // over, but still there
    app.alarms.hush('Ana');
    expect(app.alarms.current).toMatchObject({ quiet: true });
    expect(app.alarms.current.open.length).toBeGreaterThan(0);
    app.alarms.take(null, 'Ana');
    expect(app.alarms.current.open).toEqual([]);
    expect(app.alarms.list()[0]).toMatchObject({ takenBy: 'Ana' });
    expect(() => app.alarms.shelve(c.id, 10, ' ', 'Ana')).toThrow(/Say why/);
    expect(() => app.alarms.shelve(c.id, 5000, 'x', 'Ana')).toThrow(/1 to 1440/);
    app.alarms.shelve(c.id, 10, 'wire is being changed', 'Ana');
    expect(app.alarms.current.shelved).toMatchObject([{ source: c.id, by: 'Ana' }]);
    await pull(160);
    expect(app.alarms.current).toMatchObject({ quiet: false }); // a new one sounds again
    app.alarms.unshelve(c.id, 'Ana');
    expect(app.alarms.current.shelved).toEqual([]);
    app.alarms.shelve(c.id, 0.05, 'for a moment', 'Ana');
    await live.pass(2);
    expect(app.alarms.current.shelved).toMatchObject([{ why: 'for a moment' }]);
    await live.pass(2); // three seconds are over: nobody has to remember it
    expect(app.alarms.current.shelved).toEqual([]);
  });
  test('a signal that trembles at its limit is one alarm', async () => {
    await wire('Wire', { alarmAbove: 150 });
    for (let i = 0; i < 6; i++) {
      live.hand('wireMm', i % 2 ? 149 : 151);
      await live.pass(0.7);
    }
    expect(live.app.alarms.list()).toHaveLength(1);
  });
});

describe('who may change things', () => {
  const access = new Access('127.0.0.1', undefined);
  const person = (name: string) => ({ id: access.newViewer().id, name });

  test('one holds the controls, others ask and are handed them; a link only watches', () => {
    const controls = new Controls();
    const [ana, ben] = [person('Ana'), person('Ben')];
    controls.mayChange(ben); // a program without a page takes nothing
    const leaveAna = controls.enter(ana, false);
    const leaveBen = controls.enter(ben, false);
    controls.mayChange(ana);
    expect(() => controls.mayChange(ben)).toThrow(/Ana holds the controls/);
    controls.ask(ben);
    expect(controls.state).toMatchObject({ holder: ana, asks: [ben], viewers: 2 });
    expect(() => controls.handOver(ben, ben.id)).toThrow(/Ana holds/);
    controls.handOver(ana, ben.id);
    expect(controls.state).toMatchObject({ holder: ben, asks: [] });
    expect(() => controls.mayChange(ana)).toThrow(/Ben holds/);
    leaveBen();
    const token = controls.makeLink('Ana');
    expect(controls.isLink(token)).toBe(true);
    expect(controls.isLink('guess')).toBe(false);
    const leave = controls.enter(person('Hall'), true);
    expect(controls.state).toMatchObject({ viewers: 2, watchers: 1 });
    leave();
    controls.rename({ ...ben, name: 'Benno' });
    expect(controls.state.holder!.name).toBe('Benno');
    leaveAna();
  });

  test('who reloads the page keeps the controls; who is gone for half a minute loses them to the next, which is said', () => {
    let nowMs = 0;
    const said: string[] = [];
    const controls = new Controls(
      () => undefined,
      (says) => said.push(says),
      () => nowMs,
    );
    const [ana, ben] = [person('Ana'), person('Ben')];
    let leave = controls.enter(ana, false);
    controls.enter(ben, false);
    controls.mayChange(ana);
    leave();
    nowMs += 29_000;
    expect(() => controls.mayChange(ben)).toThrow(/Ana holds the controls/);
    leave = controls.enter(ana, false); // back again
    nowMs += 60_000;
    expect(() => controls.mayChange(ben)).toThrow(/Ana holds the controls/);
    leave();
    nowMs += 30_000;
    controls.mayChange(ben);
    expect(controls.state.holder).toEqual(ben);
    expect(said).toEqual(['Ben took the controls: Ana, who held them, was gone.']);
  });

  test('others know a browser by a number from which its secret cannot be made, and a made-up secret is nobody', () => {
    const { cookie, id } = access.newViewer();
    expect(access.viewerOf(cookie)).toBe(id);
    expect(cookie).not.toContain(id);
    expect(access.viewerOf(id)).toBeNull();
    expect(access.viewerOf(`${id}.${cookie.split('.')[1]}`)).toBeNull();
    expect(access.viewerOf(`${cookie.split('.')[0]}.x`)).toBeNull();
    expect(new Access('127.0.0.1', undefined).viewerOf(cookie)).toBeNull();
  });
});

describe('boards', () => {
  test('are kept as made; a copy stands by itself; nonsense and strange files are refused', () => {
    const { app } = live;
    const made = addBoard(app, 'Hall');
    const view = { id: 'v', kind: 'number' as const, channels: ['c'], x: 3, y: 2, w: 5, h: 3 };
    changeBoard(app, made.id, { put: [view as never] });
    const copy = addBoard(app, 'Hall 2', made.id);
    changeBoard(app, made.id, { put: [] });
    expect(boardOf(app, copy.id).views[0]).toMatchObject({ x: 3, y: 2, span: 60 });
    expect(() => changeBoard(app, made.id, { put: [{ ...view, w: 99 } as never] })).toThrow(/24/);
    expect(() => keepPicture(app, Buffer.from('<svg onload=alert(1)>'))).toThrow(/PNG, JPEG or WebP/);
    expect(keepPicture(app, Buffer.from([0x89, 0x50, 0x4e, 0x47, 1]))).toBe(1);
  });
});

describe('the live history', () => {
  test('each width keeps the extremes of all it covers, for as long as it says', () => {
    const track = new Track();
    const n = 3000;
    for (let i = 0; i < n; i++) track.push(i, Math.sin(i) - i / 1000, Math.sin(i) + i / 1000, i, i * i);
    for (const { ms } of RESOLUTIONS) {
      const read = track.reader({ ms, rms: false });
      const per = ms / 50;
      for (let b = 0; b < bucketsOf(ms, n); b++) {
        const span = Array.from({ length: per }, (_, k) => b * per + k);
        const [low, high] = read(b);
        expect(low).toBeCloseTo(Math.min(...span.map((i) => Math.sin(i) - i / 1000)), 5);
        expect(high).toBeCloseTo(Math.max(...span.map((i) => Math.sin(i) + i / 1000)), 5);
      }
    }
  });
  test('a strip asks for the finest width that reaches as far back as it shows', () => {
    expect([60, 600, 3600, 86_400].map((s) => parseStripKey(stripKey('a-b', s)).ms)).toEqual([
      50, 50, 1000, 30_000,
    ]);
    expect(parseStripKey(stripKey('a-b', 60, 'rms'))).toEqual({ id: 'a-b', ms: 50, rms: true });
  });
});

describe('what is kept cannot be altered unseen', () => {
  test('a sealed take says which part of it was changed', async () => {
    const { app } = live;
    await wire();
    await live.pass(1);
    const { id } = await armTake(app, facts, REASON);
    await startTake(app);
    await live.pass(2);
    await endTake(app);
    expect(await sealOf(app, id)).toMatchObject({ state: 'sealed', changed: [] });
    expect(logPage(app, { kind: 'seal' })[0].says).toContain((await sealOf(app, id)).hash);
    const path = takePath(app, id);
    const changes: [string, string][] = [
      ["UPDATE take SET value = '\"other\"' WHERE key = 'job'", 'facts and plan'],
      ["UPDATE note SET says = 'nothing happened' WHERE id = 1", 'marks and events'],
      ["UPDATE conversion SET body = replace(body, '40', '41')", 'conversions'],
      ['UPDATE block SET data = zeroblob(length(data))', 'samples of Wire'],
      ['DELETE FROM envelope WHERE rowid = (SELECT max(rowid) FROM envelope)', 'overview of the samples'],
    ];
    for (const [sql, part] of changes) {
      const file = new Sqlite(path);
      file.exec(`BEGIN; ${sql}`);
      file.exec('COMMIT');
      file.close();
      const reader = new TakeReader(path);
      expect(reader.sealState()).toMatchObject({ state: 'changed' });
      expect(reader.sealState().changed).toContain(part);
      reader.close();
    }
  });

  test('an entry of the logbook that is altered, taken out or put between breaks its chain there', () => {
    const { app } = live;
    for (let i = 0; i < 5; i++)
      addNote(app, `note ${i}`, 'Ana', i === 2 ? Buffer.from([0x89, 0x50, 0x4e, 0x47, i]) : undefined);
    expect(chainText(app)).toMatchObject({ whole: true });
    const entries = logPage(app, { text: 'note' });
    expect(logPage(app, { text: 'note 3' })).toHaveLength(1);
    expect(logCsv(app, { kind: 'note' }).split('\r\n')).toHaveLength(7);
    const db = app.db.$client;
    for (const sql of [
      `UPDATE logbook SET says = 'nothing' WHERE id = ${entries[3].id}`,
      `UPDATE pictures SET content = x'89504e4700' WHERE id = 1`,
      `DELETE FROM logbook WHERE id = ${entries[3].id}`,
    ]) {
      db.exec('BEGIN');
      db.exec(sql);
      expect(checkChain(app.db).broken).not.toBeNull();
      db.exec('ROLLBACK');
    }
    expect(checkChain(app.db).broken).toBeNull();
  });
});

test('at its end a take is exported where the plan says so, and a rule’s call is heard', async () => {
  const { app } = live;
  const c = await wire();
  const heard: string[] = [];
  const server = createServer((request, response) => {
    request.on('data', (d: Buffer) => heard.push(d.toString()));
    request.on('end', () => response.end('{}'));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  await editPlan(app, { atEnd: ['write a CSV file'] }, 'bench');
  expect(() => allowHost(app, 'http://x/y', true, 'bench')).toThrow(/Write it like/);
  allowHost(app, `127.0.0.1:${port}`, true, 'bench');
  await editRule(
    app,
    null,
    {
      when: when(c.id, 'rises above', 120),
      deeds: [newDeed({ do: 'call an address', address: `http://127.0.0.1:${port}/hook` })],
    },
    'bench',
  );
  live.hand('wireMm', 100);
  await live.pass(1);
  await armTake(app, facts, REASON);
  await startTake(app);
  live.hand('wireMm', 150);
  await live.pass(2);
  await endTake(app);
  for (
    let i = 0;
    i < 100 && (heard.length === 0 || logPage(app, { kind: 'plan', text: 'exports/' }).length === 0);
    i++
  ) {
    await live.pass(0.05);
    await new Promise((r) => setImmediate(r));
  }
  server.close();
  const { readings } = JSON.parse(heard.join('')) as {
    readings: { Wire: { unit: string; value: number } };
  };
  expect(readings.Wire.unit).toBe('mm');
  // What it read at the very sample that made the rule fire, not a frame before: above the level, and hardly.
  expect(readings.Wire.value).toBeGreaterThan(120);
  expect(readings.Wire.value).toBeLessThan(126);
  const [own] = readdirSync(join(app.folder, 'exports'));
  const [name] = readdirSync(join(app.folder, 'exports', own));
  const text = readFileSync(join(app.folder, 'exports', own, name), 'utf8');
  expect(text).toContain('Wire');
  // The page that names it can fetch it, under whatever name the take goes by now.
  const [{ id }] = takeRows(app);
  const fetched = async () => {
    const parts: Buffer[] = [];
    for await (const part of writtenFile(app, id).open()) parts.push(part as Buffer);
    return Buffer.concat(parts).toString();
  };
  expect(await fetched()).toBe(text);
  renameTake(app, id, 'Ramp, warm', 'Ada');
  expect(viewTake(app, id).head.name).toBe('Ramp, warm');
  expect(await fetched()).toBe(text);
  expect(() => writtenFile(app, 'no-such-take')).toThrow(/no take/);
});

test('a take is renamed: its file and seal stay as they are, the former name is in the logbook, a bad one is refused', async () => {
  const { app } = live;
  await wire();
  await armTake(app, facts, REASON);
  await startTake(app);
  await live.pass(1);
  const [running] = takeRows(app);
  expect(() => renameTake(app, running.id, 'Too soon', 'bench')).toThrow(/still being recorded/);
  await endTake(app);
  const before = readFileSync(takePath(app, running.id));
  renameTake(app, running.id, '  Ramp, warm ', 'Ada');
  expect(takeRows(app)[0].name).toBe('Ramp, warm');
  expect(readFileSync(takePath(app, running.id)).equals(before)).toBe(true);
  const [entry] = logPage(app, { kind: 'take' });
  expect(entry).toMatchObject({ by: 'Ada', takeId: running.id });
  expect(entry.says).toBe(`${running.name} is called “Ramp, warm” from now on.`);
  for (const name of ['', '   ', 'x'.repeat(121), 'a\u202eb', 'a\nb'])
    expect(() => renameTake(app, running.id, name, 'bench'), name).toThrow();
  renameTake(app, running.id, 'Ramp, warm', 'bench');
  expect(logPage(app, { kind: 'take' })).toHaveLength(1);
});

test('a job of an earlier version opens: its plan and rules mean what they meant', () => {
  const folder = mkdtempSync(join(tmpdir(), 'farrier-old-'));
  const app = openApp(folder);
  const { id } = app.db.$client.prepare('SELECT id FROM jobs').get() as { id: string };
  const old = {
    channels: [],
    start: 'when',
    startChannel: 'c',
    startDirection: 'falls below',
    startLevel: 7,
    before: 1,
    stop: 'by hand',
    stopChannel: null,
    stopDirection: 'falls below',
    stopLevel: 0,
    stopHold: 4,
    longest: 60,
    facts: ['Operator'],
    naming: 'T{number}',
  };
  app.db.$client.prepare('UPDATE plans SET body = ?').run(JSON.stringify(old));
  const { plan } = jobPlan(app.db, id)!;
  expect(plan).toMatchObject({
    start: 'when',
    startWhen: when('c', 'falls below', 7),
    longest: 60,
    again: 'once',
  });
  expect(listTakes(app.db, id)).toEqual([]);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});
