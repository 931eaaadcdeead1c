import { mkdtempSync, rmSync } from 'node:fs';
import type { Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { NEW_WISH, setupOf, stateText, type RecorderWish } from '$contract/field';
import { PlayedCradle, World, quayRecorders } from '$engine/field/play';
import { closeApp, openApp, type App } from '$service/app';
import { FieldDesk } from '$service/field/desk';
import { logPage } from '$service/logbook';
import { addReport } from '$service/report/reports';
import { openTake, takeRows, viewTake } from '$service/takes';
import { made } from '../made';

// Recorders of the quay put into their cradle: seen, fetched, drawn, set up, one after the other.
const HOUR = 3_600_000;
let folder: string;
let app: App;
let desk: FieldDesk;
let world: World;
let cradle: PlayedCradle;
let recorders: ReturnType<typeof quayRecorders>;
let server: Server;
let address: string;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-field-'));
  app = openApp(folder);
  world = new World(1, Date.parse('2026-11-27T09:00:00Z'));
  recorders = quayRecorders(world, 30);
  cradle = new PlayedCradle(recorders, world);
  const heard = await cradle.listen();
  server = heard.server;
  address = `127.0.0.1:${heard.port}`;
  desk = new FieldDesk(app);
  desk.change({ cradles: [address], fetches: true }, 'Ada');
});
afterEach(async () => {
  desk.end();
  await new Promise((done) => server.close(done));
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});
const [SEVEN, ELEVEN, WORKSHOP] = [0, 1, 2];
const put = async (k: number) => {
  cradle.put(recorders[k]);
  await desk.look();
};
const viewOf = (k: number) => desk.view().recorders.find((r) => r.serial === recorders[k].serial)!;
const WISH: RecorderWish = {
  ...NEW_WISH,
  name: 'Box {n}',
  start: 'at once',
  settleMin: 0,
  high: 8,
  low: null,
};

describe('put into the cradle', () => {
  test('it is seen at once, named, fetched and a take; its state is one sentence', async () => {
    await desk.look();
    expect(desk.view()).toMatchObject({
      recorders: [],
      cradles: [{ address, state: 'answers', holds: null }],
    });
    await put(SEVEN);
    const seven = viewOf(SEVEN);
    expect(seven).toMatchObject({ here: true, state: { name: 'Crate 7, epoxy', phase: 'records' } });
    expect(seven.fetched).toBe(seven.state.end);
    expect(stateText(seven)).toMatch(/^recording since 12 Nov, \d\d % left$/);
    const take = viewTake(app, seven.takeId!);
    expect(take.head).toMatchObject({ name: 'Crate 7, epoxy', folder: 'Field', facts: { Recorder: 'PR2-0113', Model: 'PR-2' } }); // prettier-ignore
    expect(take.signals.map((s) => [s.name, s.unit])).toEqual([['Temperature', '°C']]);
    expect(take.notes.map((n) => n.says)).toContain('Its button was pushed.');
    expect(logPage(app).some((e) => e.says.includes('lies in the cradle'))).toBe(true);
    // Everything it holds, to the hundredth.
    const { run, first, end } = seven.state;
    const there = recorders[SEVEN].readings({ run, from: first, count: end - first });
    const signal = take.signals[0];
    const here = openTake(app, seven.takeId!).values(signal.id, 0, there.length);
    expect(here).toHaveLength(there.length);
    there.forEach((v, i) => expect(here[i]).toBeCloseTo(v / 100, 4));
  });
  test('its times are true times, by how its clock ran', async () => {
    await put(ELEVEN);
    const { state, takeId, aheadS } = viewOf(ELEVEN);
    // 38 millionths late over 15 days.
    expect(aheadS).toBeCloseTo(-38e-6 * 15 * 86_400, 0);
    const reader = openTake(app, takeId!);
    const start = Number(BigInt(reader.head.startNs) / 1_000_000n);
    const last =
      start +
      ((reader.signals[0].length - 1) * reader.signals[0].rate.den * 1000) / reader.signals[0].rate.num;
    // The newest reading is younger than an interval, by true time.
    expect(world.now() - last).toBeGreaterThanOrEqual(-1000);
    expect(world.now() - last).toBeLessThan(600_000 + 1000);
    expect(state.saidMs).toBeLessThan(world.now() - 40_000);
    expect(reader.head.planText).toMatch(/late, -38\.\d ppm/);
  });
  test('a door that was ajar is an alarm: how long it was above its limit is said', async () => {
    await put(ELEVEN);
    const eleven = viewOf(ELEVEN);
    expect(eleven.state.alarms.high).not.toBeNull();
    expect(stateText(eleven)).toMatch(/was above 6\.0 °C for \d h/);
    expect(eleven.findings!.minutesAbove).toBeGreaterThan(60);
    expect(eleven.findings!.meanKinetic).toBeGreaterThan(eleven.findings!.mean);
  });
  test('its alarms are in the list and the logbook like all others, each once', async () => {
    await put(ELEVEN);
    const open = () => app.alarms.current.open.map((a) => [a.level, a.says]);
    expect(open()).toEqual([['alarm', 'Crate 11, epoxy was above 6.0 °C']]);
    await desk.look();
    cradle.takeOut();
    await desk.look();
    recorders[ELEVEN].changeBattery(1200);
    world.pass(2 * HOUR);
    await put(ELEVEN);
    expect(open()).toEqual(
      expect.arrayContaining([['warning', 'Crate 11, epoxy: The battery was changed.']]),
    );
    expect(open()).toHaveLength(2);
    expect(logPage(app).filter((e) => e.says === 'Crate 11, epoxy was above 6.0 °C.')).toHaveLength(1);
    app.alarms.take(null, 'Ada');
    await desk.look();
    expect(open()).toEqual([]);
    // Set up anew it can come again.
    await desk.setUp('PR2-0107', { ...WISH, high: -20, highAfter: 'at once' }, {}, 'Ada');
    world.pass(HOUR);
    await desk.look();
    expect(open().map(([, says]) => says)).toEqual(['Box 1 was above −20 °C']);
  });
  test('what its readings say are facts of the take, and a page of its template prints them', async () => {
    await put(ELEVEN);
    const { takeId, findings } = viewOf(ELEVEN);
    const { facts } = viewTake(app, takeId!).head;
    expect(facts['Above 6.00 °C']).toContain('°C·min');
    expect(facts['Below −12.0 °C']).toBe('never');
    expect(Number.parseFloat(facts.Highest.replace('−', '-'))).toBeCloseTo(findings!.highest, 0);
    const report = addReport(app, { template: 'recorder' }, 'Ada');
    const { bytes } = await made(app, { report: report.id, takes: [takeId!], as: 'page' });
    const words = bytes.toString('utf8').replace(/<[^>]+>/g, '\n');
    for (const says of ['Crate 11, epoxy', 'Mean kinetic', 'Above 6.00 °C', 'Nothing was noted', 'Recorded by PR2-0107']) expect(words).toContain(says); // prettier-ignore
  });
  test('two things measured are two channels; drawn they have their limits and marks', async () => {
    await put(WORKSHOP);
    const { takeId } = viewOf(WORKSHOP);
    expect(viewTake(app, takeId!).signals.map((s) => s.unit)).toEqual(['°C', '%']);
    const readings = desk.readings('PR4-0042');
    expect(readings.curves.map((c) => c.name)).toEqual(['Temperature', 'Humidity']);
    expect(readings.curves[0].low.length).toBeGreaterThan(500);
    expect(() => desk.readings('nobody')).toThrow('recorder');
  });
  test('taken out and put in again: only what is new is fetched; the longer take stands in the place of the shorter', async () => {
    await put(SEVEN);
    const before = viewOf(SEVEN);
    cradle.takeOut();
    await desk.look();
    expect(viewOf(SEVEN).here).toBe(false);
    // Nothing new: the same take.
    await put(SEVEN);
    expect(viewOf(SEVEN).takeId).toBe(before.takeId);
    cradle.takeOut();
    await desk.look();
    world.pass(10 * HOUR);
    await put(SEVEN);
    const after = viewOf(SEVEN);
    expect(after.takeId).not.toBe(before.takeId);
    expect(after.fetched - before.fetched).toBe(60);
    const all = takeRows(app).filter((t) => t.name === 'Crate 7, epoxy');
    expect(all.map((t) => t.id)).toEqual([after.takeId]);
  });
  test('what was fetched stays when the recorder goes round, also over a restart; what was overwritten meanwhile is a hole with its reason', async () => {
    await put(3);
    await desk.setUp('PR2-0131', { ...WISH, intervalS: 60, days: 30 }, {}, 'Ada');
    const values = () => {
      const reader = openTake(app, viewOf(3).takeId!);
      return reader.values(reader.signals[0].id, 0, reader.signals[0].length);
    };
    world.pass(5000 * 60_000);
    await desk.fetchNow('PR2-0131', undefined);
    const before = values();
    desk.end();
    desk = new FieldDesk(app);
    await desk.look();
    // It holds 8000: the first of them are overwritten by now, and were fetched.
    world.pass(7000 * 60_000);
    await desk.fetchNow('PR2-0131', undefined);
    const { state, fetched } = viewOf(3);
    expect(state.first).toBeGreaterThan(3900);
    expect(values()).toHaveLength(fetched);
    expect([...values().subarray(0, before.length)]).toEqual([...before]);
    expect(values().some(Number.isNaN)).toBe(false);
    // Away for longer than it remembers.
    const kept = fetched;
    world.pass(9000 * 60_000);
    await desk.fetchNow('PR2-0131', undefined);
    const missing = [...values()].filter(Number.isNaN).length;
    expect(values()).toHaveLength(viewOf(3).fetched);
    expect(missing).toBe(viewOf(3).fetched - 8000 - kept);
    expect(missing).toBeGreaterThan(900);
    expect(viewTake(app, viewOf(3).takeId!).notes.map((n) => n.says)).toContain('Overwritten before they were fetched.'); // prettier-ignore
    // The hole and its reason outlive another restart and another fetch.
    desk.end();
    desk = new FieldDesk(app);
    await desk.look();
    world.pass(30 * 60_000);
    await desk.fetchNow('PR2-0131', undefined);
    expect([...values()].filter(Number.isNaN)).toHaveLength(missing);
    expect(viewTake(app, viewOf(3).takeId!).gaps.map((g) => g.reason)).toEqual(['Overwritten before they were fetched.']); // prettier-ignore
  });
  test('a changed battery is a gap with its reason in the take', async () => {
    recorders[SEVEN].changeBattery(7200);
    world.pass(5 * HOUR);
    await put(SEVEN);
    const take = viewTake(app, viewOf(SEVEN).takeId!);
    expect(take.notes.some((n) => n.says === 'The battery was changed.')).toBe(true);
    expect(viewOf(SEVEN).findings!.missing).toBe(12);
  });
  test('a cradle that is silent says so, and is found again when it answers', async () => {
    desk.change({ cradles: ['127.0.0.1:1', address], fetches: true }, 'Ada');
    await put(SEVEN);
    const [dead, alive] = desk.view().cradles;
    expect(dead).toMatchObject({ state: 'silent', holds: null });
    expect(dead.says).toContain('Nothing answers at 127.0.0.1:1');
    expect(alive).toMatchObject({ state: 'answers', holds: 'PR2-0113' });
  });
  test('where fetching by itself is off nothing is fetched until it is wanted', async () => {
    desk.change({ cradles: [address], fetches: false }, 'Ada');
    await put(SEVEN);
    expect(viewOf(SEVEN)).toMatchObject({ fetched: 0, takeId: null });
    await desk.fetchNow('PR2-0113', undefined);
    expect(viewOf(SEVEN).fetched).toBeGreaterThan(1000);
  });
  test('another desk after a restart knows what was fetched, and fetches on', async () => {
    await put(SEVEN);
    const before = viewOf(SEVEN);
    desk.end();
    desk = new FieldDesk(app);
    expect(desk.view().recorders).toHaveLength(1);
    await desk.look();
    expect(viewOf(SEVEN).takeId).toBe(before.takeId);
    world.pass(HOUR);
    await desk.fetchNow('PR2-0113', undefined);
    expect(viewOf(SEVEN).fetched).toBe(before.fetched + 6);
    const { signals } = viewTake(app, viewOf(SEVEN).takeId!);
    expect(openTake(app, viewOf(SEVEN).takeId!).signal(signals[0].id).length).toBe(before.fetched + 6);
  });
});

describe('setting up', () => {
  test('all it holds is fetched before, its clock is set, and then it does what was said', async () => {
    await put(ELEVEN);
    const before = viewOf(ELEVEN).takeId!;
    world.pass(HOUR);
    await desk.setUp('PR2-0107', WISH, {}, 'Ada');
    const { state, fetched, takeId, aheadS } = viewOf(ELEVEN);
    expect(state).toMatchObject({ name: 'Box 1', phase: 'records' });
    expect([fetched, takeId]).toEqual([0, null]);
    expect(Math.abs(aheadS)).toBeLessThan(1);
    // The hour that had not been fetched is in the take of the former recording.
    const former = takeRows(app).find((t) => t.name === 'Crate 11, epoxy')!;
    expect(former.id).not.toBe(before);
    expect(viewTake(app, former.id).durationS).toBeGreaterThan(15 * 86_400);
    // Its clock runs late: a minute more, and twelve intervals have passed by it, too.
    world.pass(2 * HOUR + 60_000);
    await desk.fetchNow('PR2-0107', undefined);
    expect(viewOf(ELEVEN).fetched).toBe(13);
  });
  test('what does not fit, or is asked of one that is not there, is refused and changes nothing', async () => {
    await put(SEVEN);
    const { run } = viewOf(SEVEN).state;
    await expect(desk.setUp('PR2-0113', { ...WISH, intervalS: 1 }, {}, 'Ada')).rejects.toThrow(/every 10 s/);
    await expect(desk.setUp('PR2-0107', WISH, {}, 'Ada')).rejects.toThrow(/in no cradle/);
    await desk.look();
    expect(viewOf(SEVEN).state.run).toBe(run);
  });
  test('by a password: without it nothing is set up nor lost; with it, it is', async () => {
    await put(3);
    await desk.setUp('PR2-0131', WISH, { lock: { password: 'tide', for: 'fetching too' } }, 'Ada');
    cradle.takeOut();
    await desk.look();
    world.pass(3 * HOUR);
    // Whoever put it in again does not know it: it says what it waits for, and is shown as it is.
    await put(3);
    expect(viewOf(3)).toMatchObject({ open: false, fetched: 0 });
    await expect(desk.setUp('PR2-0131', WISH, {}, 'Ada')).rejects.toThrow(
      /cannot be fetched: It asks for its password/,
    );
    await expect(desk.fetchNow('PR2-0131', 'ebb')).rejects.toThrow(/not its password/);
    world.pass(5000);
    await desk.fetchNow('PR2-0131', 'tide');
    expect(viewOf(3).fetched).toBe(19);
    expect(JSON.stringify([desk.view(), logPage(app)])).not.toContain('tide');
  });
  test('one that is asleep measures nothing any more; what it held is fetched', async () => {
    await put(SEVEN);
    await desk.sleep('PR2-0113', undefined, 'Ada');
    const { state, fetched } = viewOf(SEVEN);
    expect(state.phase).toBe('asleep');
    world.pass(5 * HOUR);
    await desk.look();
    expect(viewOf(SEVEN).state.end).toBe(fetched);
  });
});

describe('the same onto the next', () => {
  test('thirty, one after the other: each is named by the pattern; one that fails does not stop the rest', async () => {
    // The fifth is locked by somebody.
    recorders[7].setUp(setupOf(WISH, 'Locked'), { lock: { password: 'nobody knows', for: 'setting up' } });
    desk.setBatch({ ...WISH, name: 'Store {n}' }, 'Ada');
    for (let k = 3; k < 33; k++) {
      await put(k);
      cradle.takeOut();
      await desk.look();
    }
    const { done } = desk.view().batch!;
    expect(done).toHaveLength(30);
    expect(done.filter((d) => d.state === 'failed')).toEqual([{ serial: 'PR2-0135', name: 'Store 5', state: 'failed', says: 'It asks for its password.' }]); // prettier-ignore
    const names = done.filter((d) => d.state === 'set up').map((d) => d.name);
    expect(new Set(names).size).toBe(29);
    expect(names.slice(0, 6)).toEqual(['Store 1', 'Store 2', 'Store 3', 'Store 4', 'Store 6', 'Store 7']);
    for (const r of desk.view().recorders)
      if (names.includes(r.state.name)) expect(r.state.phase).toBe('records');
    // Put in a second time it is not set up again.
    const { run } = viewOf(3).state;
    await put(3);
    expect(viewOf(3).state.run).toBe(run);
    desk.setBatch(null, 'Ada');
    expect(desk.view().batch).toBeNull();
  });
  test('memory is fetched before it is erased: one that was recording keeps its readings as a take', async () => {
    desk.setBatch({ ...WISH, name: 'Store {n}' }, 'Ada');
    await put(SEVEN);
    expect(viewOf(SEVEN).state.name).toBe('Store 1');
    expect(takeRows(app).some((t) => t.name === 'Crate 7, epoxy')).toBe(true);
  });
});

describe('who looks after it', () => {
  test('who put it where stands in the take; its alarm is cleared from the page; a set-up is kept under a name', async () => {
    await put(ELEVEN);
    const eleven = viewOf(ELEVEN);
    expect(eleven.state.alarms).toMatchObject({ cleared: false });
    expect(eleven.state.alarms.high).not.toBeNull();
    desk.place(eleven.serial, { place: 'cold store, shelf 2', by: 'Ada' }, 'Ada');
    await desk.clear(eleven.serial, 'Ada');
    expect(viewOf(ELEVEN).state.alarms.cleared).toBe(true);
    world.pass(2 * HOUR);
    await desk.fetchNow(eleven.serial, undefined);
    expect(viewTake(app, viewOf(ELEVEN).takeId!).head.facts).toMatchObject({ Place: 'cold store, shelf 2', 'Put there by': 'Ada' }); // prettier-ignore
    // It is kept when the recorder is set up anew.
    await desk.setUp(eleven.serial, WISH, {}, 'Ada');
    expect(viewOf(ELEVEN).placed).toEqual({ place: 'cold store, shelf 2', by: 'Ada' });
    desk.template('Boxes', WISH);
    desk.template('Boxes', { ...WISH, high: 9 });
    desk.template('Others', WISH);
    expect(desk.view().templates).toEqual([{ name: 'Boxes', wish: { ...WISH, high: 9 } }, { name: 'Others', wish: WISH }]); // prettier-ignore
    desk.template('Boxes', null);
    expect(desk.view().templates.map((t) => t.name)).toEqual(['Others']);
    expect(() => desk.place('none', { place: '', by: '' }, 'Ada')).toThrow(/There is no recorder/);
  });
  test('time of what plays runs faster when it is asked to, and goes on from where it was', async () => {
    await put(SEVEN);
    const before = world.now();
    await desk.play({ do: 'speed', serial: '', times: 10_000 });
    expect(world.now() - before).toBeLessThan(60_000_000);
    const from = world.now();
    await new Promise((r) => setTimeout(r, 30));
    expect(world.now() - from).toBeGreaterThan(200_000);
    await desk.play({ do: 'speed', serial: '', times: 1 });
    const slow = world.now();
    await new Promise((r) => setTimeout(r, 30));
    expect(world.now() - slow).toBeLessThan(10_000);
  });
});
