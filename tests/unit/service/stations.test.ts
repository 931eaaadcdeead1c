import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { FrameReader, frameBytes } from '$core/field/frames';
import { KINDS, packed } from '$core/field/messages';
import { programmeOf, programmeText } from '$core/field/station/text';
import { CHANGED_BY } from '$contract/overview';
import { NEW_STATION, type StationWish } from '$contract/station';
import { World } from '$engine/field/play';
import { PIER_PROGRAMME, PlayedStation } from '$engine/field/station/pier';
import { closeApp, openApp, takePath, type App } from '$service/app';
import { StationDesk } from '$service/field/stations/desk';
import { binTakes } from '$service/inspect/keep';
import { newJob } from '$service/jobs';
import { logPage } from '$service/logbook';
import { openTake, takeRows, viewTake } from '$service/takes';
import { findStation } from '$store/stations';

// Stations on the pier: reached, fetched, sent to, left alone, and what they hold as takes that grow.
const MIN = 60_000;
const HOUR = 60 * MIN;
let folder: string;
let app: App;
let desk: StationDesk;
let world: World;
let station: PlayedStation;
const servers: Server[] = [];
const SMALL = `station ST-9 wakes every 10 s, rejects 50 Hz
measure "Water level" in "m": volts "5 V" on U1, times 2.5, plus -1.25
measure "Water temperature" in "°C": thermocouple "T" on U3
keep in "short" every 2 min, 500 rows: average of "Water level"; average of "Water temperature"
keep in "day" every 1 d, 100 rows: highest of "Water level" with its time
`;
async function heard(own: PlayedStation): Promise<string> {
  const { server, port } = await own.listen();
  servers.push(server);
  return `127.0.0.1:${port}`;
}
const wish = (part: Partial<StationWish> = {}): StationWish => ({ ...NEW_STATION, name: 'Pier station', place: 'Harrow Quay', pauseS: 1, everyMin: null, setsClock: null, ...part }); // prettier-ignore
let id: string;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-stations-'));
  app = openApp(folder);
  world = new World(1, Date.parse('2026-11-27T09:00:00Z'));
  station = new PlayedStation('ST9-0021', 'ST-9', world, { compileMs: 20 });
  desk = new StationDesk(app);
  id = desk.add(wish({ address: await heard(station) }), 'Ada').id;
});
afterEach(async () => {
  desk.end();
  for (const server of servers.splice(0)) {
    station.cut();
    server.close();
  }
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});
const view = () => desk.view(id);
const table = (name: string) => view().tables.find((t) => t.name === name)!;
/** As many minutes and a little more pass. */
const pass = (minutes: number) => world.pass(minutes * MIN);
const send = (text: string, without?: string) => desk.send(id, text, without, 'Ada');
const fetched = () => desk.fetch(id, undefined, 'Ada');
const values = (name: string, k = 0) => {
  const reader = openTake(app, table(name).takeId!);
  return [...reader.values(reader.signals[k].id, 0, reader.signals[k].length)];
};
const logged = () => logPage(app).map((e) => e.says);

describe('a station that is reached', () => {
  test('says how it is, what runs on it and what it holds; how it was reached is seen', async () => {
    expect(view()).toMatchObject({ model: null, contactMs: null, link: { state: 'away' }, concerns: [] });
    await send(SMALL);
    pass(61);
    await fetched();
    expect(view()).toMatchObject({ model: 'ST-9', serial: 'ST9-0021', version: 1, runs: SMALL, link: { state: 'there', tries: 1 }, plays: true }); // prettier-ignore
    expect(table('short')).toMatchObject({ everyS: 120, room: 500, first: 0, end: 30, fetched: 30 });
    // Its first row comes at midnight.
    expect(table('day')).toMatchObject({ end: 0, takeId: null });
    expect(Math.abs(table('day').nextMs! + (world.now() - Date.now()) - Date.parse('2026-11-28T00:00:00Z'))).toBeLessThan(1500); // prettier-ignore
  });
  test('one that does not answer is tried again, and says so; nothing pretends', async () => {
    desk.change(id, wish({ address: '127.0.0.1:1' }), 'Ada');
    const asked = fetched();
    await vi.waitFor(() => expect(view().link).toMatchObject({ state: 'calling', tries: 2 }), {
      timeout: 5000,
    });
    await expect(asked).rejects.toThrow(/Nothing answers at 127.0.0.1:1/);
    expect(view().link).toMatchObject({ state: 'silent', tries: 3 });
    expect(view().contactMs).toBeNull();
  });
  test('another instrument at its address is not taken for it', async () => {
    await send(SMALL);
    const other = new PlayedStation('ST9-0099', 'ST-9', world);
    desk.change(id, wish({ address: await heard(other) }), 'Ada');
    await expect(fetched()).rejects.toThrow(/ST9-0099 answers there, not ST9-0021/);
    other.cut();
    await expect(async () => desk.add(wish({ name: 'Pier station' }), 'Ada')).rejects.toThrow(
      /has that name/,
    );
  });
});

describe('fetching', () => {
  test('rows are those that the station holds; a table is a take with its columns as channels, which grows', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    const first = table('short').takeId!;
    expect(viewTake(app, first).signals.map((s) => [s.name, s.unit])).toEqual([['Water level, average', 'm'], ['Water temperature, average', '°C']]); // prettier-ignore
    expect(values('short')).toHaveLength(30);
    const before = values('short');
    pass(60);
    await fetched();
    // The same take, longer, sealed again.
    expect(table('short').takeId).toBe(first);
    expect(values('short').slice(0, 30)).toEqual(before);
    expect(values('short')).toHaveLength(60);
    expect(openTake(app, first).sealState().state).toBe('sealed');
    expect(takeRows(app).filter((t) => t.folder === 'Field')).toHaveLength(1);
    expect(takeRows(app).find((t) => t.id === first)!.durationMs).toBe(60 * 2 * MIN);
    // Nothing new: nothing is written.
    const { hash } = openTake(app, first).sealState();
    await fetched();
    expect(openTake(app, first).sealState().hash).toBe(hash);
    expect(logged().filter((s) => /rows of short fetched/.test(s))).toHaveLength(2);
  });
  test('never twice, even where Farrier ended before it wrote down what it had', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    const row = findStation(app.db, id)!;
    const { putStation } = await import('$store/stations');
    putStation(app.db, { ...row, tables: { ...row.tables, short: { ...row.tables.short, fetched: 3 } } });
    pass(10);
    await fetched();
    expect(values('short')).toHaveLength(35);
    expect(openTake(app, table('short').takeId!).gaps()).toEqual([]);
  });
  test('memory that wrapped since the last fetch is a gap that says so; it is an alarm before, and over afterwards', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    pass(2 * 560);
    desk.reach(id);
    await vi.waitFor(() => expect(view().concerns.map((c) => c.says)).toContainEqual(expect.stringMatching(/^short: 6\d rows were overwritten before they were fetched$/)));
    const open = () => app.alarms.current.open.filter((a) => a.outAt === null).map((a) => a.says);
    expect(open()).toContainEqual(expect.stringMatching(/^Pier station: short: 6\d rows were overwritten/));
    await fetched();
    expect(open()).toEqual([]);
    const gaps = viewTake(app, table('short').takeId!).gaps;
    expect(gaps).toHaveLength(1);
    expect(gaps[0].reason).toBe('Overwritten before they were fetched.');
    expect(values('short').filter(Number.isNaN)).toHaveLength(Math.round((gaps[0].toS - gaps[0].fromS) / 120));
  }); // prettier-ignore
  test('power lost while a row was written: a gap with that reason', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    await desk.play(id, { do: 'power', seconds: 1200 }).catch(() => undefined); // its line falls
    pass(60);
    await fetched();
    expect(viewTake(app, table('short').takeId!).gaps.map((g) => g.reason)).toEqual(['The power failed while a row was written.']); // prettier-ignore
    expect(view().state!.restarts).toBe(1);
  });
  test('a clock turned back far: times that stand twice go into a take of their own, and nothing is lost', async () => {
    await send(SMALL);
    pass(61);
    await desk.play(id, { do: 'clock', seconds: -7200 });
    pass(60);
    await fetched();
    const takes = takeRows(app).filter((t) => t.folder === 'Field');
    expect(takes).toHaveLength(2);
    const rows = takes.map((t) => openTake(app, t.id)).map((r) => r.values(r.signals[0].id, 0, r.signals[0].length).filter((v) => !Number.isNaN(v)).length); // prettier-ignore
    expect(rows.reduce((a, b) => a + b, 0)).toBe(table('short').end);
    expect(logged().some((s) => /its clock was turned; short goes on in a take of its own/.test(s))).toBe(true); // prettier-ignore
  });
  test('a take that somebody changed does not grow; rows go on in another one', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    const first = table('short').takeId!;
    const db = new Sqlite(takePath(app, first));
    db.prepare('UPDATE block SET data = zeroblob(120) WHERE signal = 0').run();
    db.close();
    pass(10);
    await fetched();
    expect(table('short').takeId).not.toBe(first);
    expect(values('short')).toHaveLength(5);
    expect(logged().some((s) => /changed since it was sealed/.test(s))).toBe(true);
  });
  test('a take that was thrown away, or is of another job, does not grow unseen: rows go on in a new one', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    const first = table('short').takeId!;
    binTakes(app, [first], 'Ada');
    pass(10);
    await fetched();
    const second = table('short').takeId!;
    expect(second).not.toBe(first);
    expect(values('short')).toHaveLength(5);
    await newJob(app, 'Another job', 'Bench', 'Ada');
    pass(10);
    await fetched();
    expect(table('short').takeId).not.toBe(second);
    expect(takeRows(app).map((t) => t.id)).toEqual([table('short').takeId]);
    // Nothing was fetched twice.
    expect(values('short')).toHaveLength(5);
  });
  test('what is no station but answers is refused with what is wrong, and others are not disturbed', async () => {
    const liar = createServer((line) => {
      const reader = new FrameReader();
      line.on('error', () => line.destroy());
      line.on('data', (d: Buffer) => {
        for (const f of reader.push(d)) line.write(frameBytes({ kind: f.kind | 0x80, request: f.request, carried: packed(f.kind === 1 ? { model: 'ST-9', serial: 'LIAR', firmware: '' } : { model: 'ST-9', tables: 'many' }) })); // prettier-ignore
      });
    });
    servers.push(liar);
    await new Promise<void>((done) => liar.listen(0, '127.0.0.1', done));
    const { id: theirs } = desk.add(wish({ name: 'Liar', address: `127.0.0.1:${(liar.address() as { port: number }).port}` }), 'Ada'); // prettier-ignore
    await expect(desk.fetch(theirs, undefined, 'Ada')).rejects.toThrow(/not what a station says/);
    expect(desk.view(theirs)).toMatchObject({ state: null, tables: [] });
    await send(SMALL);
    expect(desk.list().stations).toHaveLength(2);
    desk.remove(theirs, 'Ada');
    expect(() => desk.view(theirs)).toThrow(/station/);
  });
  test('a station that is let go while it is fetched is gone: its takes stay, nothing comes back', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    pass(100);
    const going = fetched().catch(() => 'stopped');
    desk.remove(id, 'Ada');
    await going;
    desk.beat();
    expect(desk.list().stations).toEqual([]);
    expect(takeRows(app).filter((t) => t.folder === 'Field').length).toBe(1);
  });
  test('a disk that does not take it: said, nothing lost, and fetched once it does', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    const path = takePath(app, table('short').takeId!);
    const db = new Sqlite(path);
    db.exec("CREATE TRIGGER full BEFORE INSERT ON block BEGIN SELECT RAISE(ABORT, 'database or disk is full'); END");
    pass(10);
    await expect(fetched()).rejects.toThrow(/cannot grow/);
    expect(table('short')).toMatchObject({ fetched: 30, end: 35 });
    expect(values('short')).toHaveLength(30);
    db.exec('DROP TRIGGER full');
    db.close();
    await fetched();
    expect(values('short')).toHaveLength(35);
  }); // prettier-ignore
  test('two houses that fetch one station have the same rows', async () => {
    const other = openApp(mkdtempSync(join(folder, 'other-')));
    const second = new StationDesk(other);
    const { id: theirs } = second.add(wish({ address: view().wish.address }), 'Bo');
    await send(SMALL);
    pass(61);
    await Promise.all([fetched(), second.fetch(theirs, undefined, 'Bo')]);
    const reader = openTake(other, second.view(theirs).tables[0].takeId!);
    expect([...reader.values(reader.signals[0].id, 0, 30)]).toEqual(values('short'));
    second.end();
    await closeApp(other);
    other.db.$client.close();
  });
});

describe('many', () => {
  test('one that is silent holds nobody up: nineteen others are fetched meanwhile, each into its own take', async () => {
    const deaf = createServer((line) => void line.on('error', () => line.destroy()));
    servers.push(deaf);
    await new Promise<void>((done) => deaf.listen(0, '127.0.0.1', done));
    desk.change(id, wish({ address: `127.0.0.1:${(deaf.address() as { port: number }).port}`, pauseS: 600 }), 'Ada'); // prettier-ignore
    let silent = true;
    const over = () => void (silent = false);
    void fetched().then(over, over);
    const ids: string[] = [];
    for (let k = 0; k < 19; k++) {
      const other = new PlayedStation(`ST9-1${k}`, 'ST-9', world).runSince(SMALL, 0);
      ids.push(desk.add(wish({ name: `Station ${k}`, address: await heard(other) }), 'Ada').id);
    }
    await Promise.all(ids.map((other) => desk.fetch(other, undefined, 'Ada')));
    expect(silent).toBe(true);
    for (const other of ids) expect(desk.view(other).tables[0].fetched).toBe(desk.view(other).tables[0].end);
    expect(new Set(ids.map((other) => desk.view(other).tables[0].takeId)).size).toBe(19);
  });
  test('power lost in the middle of a fetch: what had come is kept, and the rest comes afterwards, the same as without', async () => {
    const long = SMALL.replace('every 2 min, 500 rows', 'every 10 s, 90000 rows').replace('keep in "day"', 'keep in "days"');
    await send(long);
    pass(24 * 60 * 5);
    const answer = station.answer.bind(station);
    let asked = 0;
    station.answer = (frame, whom) => {
      if (frame.kind === KINDS.rows && ++asked === 5) station.losePower(30);
      return answer(frame, whom);
    };
    const going = fetched();
    await expect(going).rejects.toThrow(/does not answer|Nothing answers/);
    const kept = table('short').fetched;
    expect(kept).toBeGreaterThan(0);
    pass(5);
    await fetched();
    expect(kept).toBeLessThan(table('short').end);
    expect(table('short').fetched).toBe(table('short').end);
    const reader = openTake(app, table('short').takeId!);
    const all = reader.values(reader.signals[0].id, 0, reader.signals[0].length);
    // One gap alone, of the power: the tide goes on over where the fetch broke.
    expect(viewTake(app, table('short').takeId!).gaps).toHaveLength(1);
    for (let i = kept - 50; i < kept + 50; i++) if (Number.isFinite(all[i]) && Number.isFinite(all[i - 1])) expect(Math.abs(all[i] - all[i - 1])).toBeLessThan(0.02);
  }); // prettier-ignore
});

describe('sending', () => {
  test('fetches first, is compiled by the station, and what comes then is another take; versions are kept', async () => {
    await send(SMALL);
    pass(61);
    const other = SMALL.replace('every 2 min', 'every 5 min');
    await send(other);
    expect(view().sending).toMatchObject({ version: 2, step: 'done', failed: null, said: { fetch: expect.stringMatching(/^30 new rows/), compile: 'version 2 runs' } }); // prettier-ignore
    expect(view().earlier).toHaveLength(1);
    expect(table('short')).toMatchObject({ everyS: 300, end: 0, fetched: 0, takeId: null });
    pass(31);
    await fetched();
    expect(takeRows(app).find((t) => t.id === table('short').takeId)!.number).toBeGreaterThan(
      view().earlier[0].number,
    );
    expect(view().versions.map((v) => [v.number, v.by, v.ranMs !== null])).toEqual([
      [2, 'Ada', true],
      [1, 'Ada', true],
    ]);
    // One that ran before is sent again as a version of its own.
    await send(SMALL);
    expect(view()).toMatchObject({ runs: SMALL, versions: [{ number: 3 }, { number: 2 }, { number: 1 }] });
  });
  test('one with a fault is not sent: what the station holds stays', async () => {
    await send(SMALL);
    pass(61);
    await expect(send(SMALL.replace('average of "Water level"', 'average of "Depth"'))).rejects.toThrow(/Line 4: short keeps Depth, which is never measured/); // prettier-ignore
    await fetched();
    expect(table('short').fetched).toBe(30);
  });
  test('one for another model comes back from the station’s compiler with its line, and the former goes on', async () => {
    await send(SMALL);
    pass(61);
    const small = programmeText({ ...programmeOf(SMALL).programme, model: 'ST-4', measures: [], tables: [{ name: 'a', moment: { kind: 'every', seconds: 60 }, rows: 0, keeps: [{ as: 'lowest', of: 'Supply voltage', from: '', when: false }] }] }); // prettier-ignore
    await expect(send(small)).rejects.toThrow(/The station refuses it: It is for ST-4; this is ST-9/);
    expect(view().sending).toMatchObject({ step: 'compile', failed: expect.stringMatching(/refuses/), remarks: [{ line: 1 }] }); // prettier-ignore
    expect(view().runs).toBe(SMALL);
    expect(table('short').end).toBe(30);
  });
  test('without fetching only with a reason, which stands in the logbook', async () => {
    await send(SMALL);
    pass(61);
    await send(SMALL.replace('2 min', '4 min'), 'trial rows only');
    expect(logged()).toContainEqual(expect.stringMatching(/sent without fetching first: trial rows only/));
    expect(view().earlier).toEqual([]);
  });
  test('power lost while it compiles: said, and what ran goes on', async () => {
    await send(SMALL);
    pass(61);
    const slow = new PlayedStation('ST9-0050', 'ST-9', world, { compileMs: 400 });
    const own = desk.add(wish({ name: 'Slow one', address: await heard(slow) }), 'Ada').id;
    const sent = desk.send(own, SMALL, undefined, 'Ada');
    const outcome = expect(sent).rejects.toThrow(/lost its power while it compiled/);
    await vi.waitFor(() => expect(desk.view(own).sending?.step).toBe('compile'));
    slow.losePower(0.3);
    await outcome;
    slow.cut();
  });
  test('another programme, sent by somebody else, is taken note of: its tables are others', async () => {
    await send(SMALL);
    pass(61);
    await fetched();
    const other = new StationDesk(app);
    const second = openApp(mkdtempSync(join(folder, 'other-')));
    const theirs = new StationDesk(second);
    const { id: there } = theirs.add(wish({ address: view().wish.address }), 'Bo');
    await theirs.send(there, PIER_PROGRAMME, undefined, 'Bo');
    pass(31);
    await fetched();
    expect(view().runs).toBe(PIER_PROGRAMME);
    expect(view().tables.map((t) => t.name)).toEqual(['short', 'quarter', 'day']);
    expect(view().earlier).toHaveLength(1);
    expect(logged()).toContainEqual('Pier station: another programme runs, version 2.');
    other.end();
    theirs.end();
    await closeApp(second);
    second.db.$client.close();
  });
});

describe('left alone', () => {
  test('fetched by its schedule, and not sooner', async () => {
    await send(SMALL);
    pass(61);
    desk.change(id, { ...view().wish, everyMin: 60 }, 'Ada');
    desk.beat();
    await vi.waitFor(() => expect(table('short').fetched).toBe(30));
    pass(10);
    desk.beat();
    await new Promise((r) => setTimeout(r, 50));
    expect(table('short').fetched).toBe(30);
    expect(logged()).toContainEqual('Pier station: 30 rows of short fetched.');
  });
  test('one that calls in is fetched then; one that may not is let go', async () => {
    const port = await desk.listen(0);
    await send(SMALL);
    pass(61);
    desk.change(id, wish({ calls: 'is only called' }), 'Ada');
    station.callIn('127.0.0.1', port);
    await new Promise((r) => setTimeout(r, 100));
    expect(table('short').fetched).toBe(0);
    desk.change(id, wish(), 'Ada');
    expect(view().wish.address).toBe('');
    station.callIn('127.0.0.1', port);
    await vi.waitFor(() => expect(table('short').fetched).toBe(30), { timeout: 4000 });
    expect(view().link.says).toBe('it called in');
  });
  test('silence, a low battery and a clock are alarms for as long as they hold', async () => {
    await send(SMALL);
    await desk.play(id, { do: 'battery low' });
    await desk.play(id, { do: 'clock', seconds: 100 });
    await fetched();
    const open = () => app.alarms.current.open.filter((a) => a.outAt === null).map((a) => a.says);
    expect(open()).toEqual(expect.arrayContaining([expect.stringMatching(/battery low: 10\.9 V/), expect.stringMatching(/its clock is \d+ s ahead/)])); // prettier-ignore
    await desk.play(id, { do: 'none' });
    await desk.setClock(id, 'Ada');
    await fetched();
    expect(open()).toEqual([]);
    expect(Math.abs(view().aheadS)).toBeLessThan(1);
    const row = findStation(app.db, id)!;
    const { putStation } = await import('$store/stations');
    putStation(app.db, { ...row, contactAt: Date.now() - 27 * HOUR });
    desk.beat();
    expect(open()).toEqual(['Pier station: not heard from for 27 h']);
    desk.remove(id, 'Ada');
    expect(open()).toEqual([]);
  });
  test('its clock is set by the rule when it is off by more', async () => {
    await send(SMALL);
    await desk.play(id, { do: 'clock', seconds: 20 });
    desk.change(id, { ...view().wish, setsClock: 60 }, 'Ada');
    await fetched();
    expect(view().aheadS).toBeGreaterThan(19);
    desk.change(id, { ...view().wish, setsClock: 5 }, 'Ada');
    await fetched();
    expect(Math.abs(view().aheadS)).toBeLessThan(1);
    expect(logged()).toContainEqual(expect.stringMatching(/its clock was set; it was (19|20)\.\d s ahead/));
  });
  test('values live: a sensor that is warmed rises, one the wrong way round falls, a broken one has no number', async () => {
    await send(SMALL);
    pass(1);
    const warmth = () => view().live!.values.find((v) => v.name === 'Water temperature')!.value;
    await fetched();
    const rest = warmth()!;
    await desk.play(id, { do: 'warm' });
    pass(1);
    await fetched();
    expect(warmth()! - rest).toBeGreaterThan(3);
    await desk.play(id, { do: 'broken' });
    pass(1);
    await fetched();
    expect(warmth()).toBeNull();
    await desk.set(id, { what: 'plus', name: 'Water level', value: 10 }, 'Ada');
    pass(1);
    await fetched();
    expect(view().live!.values.find((v) => v.name === 'Water level')!.value).toBeGreaterThan(10);
    expect(view().state!.adjusted).toEqual({ 'Water level': 10 });
  });
});

test('pages hear of a take that has grown: its length in the list is the new one, and its seal stands in the logbook', async () => {
  await send(SMALL);
  pass(61);
  await fetched();
  const { takeId } = table('short');
  const sealed = (text: string) => openTake(app, takeId!).sealState().hash === /SHA-256 ([0-9a-f]{64})/.exec(text)?.[1]; // prettier-ignore
  pass(60);
  await fetched();
  const [newest] = logPage(app).filter((e) => e.takeId === takeId);
  // Of the kind by which lists of takes are read anew.
  expect(CHANGED_BY[newest.kind]).toContain('takes');
  expect(newest.says).toMatch(/^Pier station, short has grown, rows up to number 59; sealed, SHA-256 /);
  expect(sealed(newest.says)).toBe(true);
  expect(takeRows(app).find((t) => t.id === takeId)!.durationMs).toBe(60 * 120_000);
});

test('a station that is named from outside is there from the start; where it listens elsewhere the next time it is the same one', () => {
  process.env.FARRIER_STATION = 'Mole, Harrow Quay, east=127.0.0.1:4999;Buoy=10.0.0.7:80';
  try {
    desk.end();
    desk = new StationDesk(app);
    const named = () => desk.list().stations.map((s) => [s.name, s.place, desk.view(s.id).wish.address]);
    expect(named()).toContainEqual(['Mole', 'Harrow Quay, east', '127.0.0.1:4999']);
    expect(named()).toContainEqual(['Buoy', '', '10.0.0.7:80']);
    process.env.FARRIER_STATION = 'Mole=127.0.0.1:5000';
    desk = new StationDesk(app);
    expect(named()).toHaveLength(3);
    expect(named()).toContainEqual(['Mole', 'Harrow Quay, east', '127.0.0.1:5000']);
  } finally {
    delete process.env.FARRIER_STATION;
  }
});

test('what wants attention is an alarm once, acknowledged or not, and in another job, too', async () => {
  await send(SMALL);
  await desk.play(id, { do: 'battery low' });
  await fetched();
  const holding = () => app.alarms.current.open.filter((a) => a.outAt === null);
  expect(holding()).toHaveLength(1);
  app.alarms.take(null, 'Ada');
  await fetched();
  expect(holding().map((a) => a.takenBy)).toEqual(['Ada']);
  expect(logged().filter((s) => /battery low/.test(s) && !/Acknowledged/.test(s))).toHaveLength(1);
  await newJob(app, 'Another job', 'Bench', 'Ada');
  await fetched();
  expect(holding().map((a) => [a.says, a.takenBy])).toEqual([['Pier station: battery low: 10.9 V', null]]);
  await desk.play(id, { do: 'none' });
  await fetched();
  expect(holding()).toEqual([]);
});
