import { spawn, type ChildProcess } from 'node:child_process';
import { connect, createServer, type Server, type Socket } from 'node:net';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { StationView, StationsView } from '$contract/station';
import type { TakeView } from '$contract/take';
import { Person, openBrowser, removeFolder, seedDemo, startServer, type RunningServer } from './world';

// A station as its users meet it: a process of its own whose time runs fast, reached over a line that can be cut.
let driver: WebDriver;
let server: RunningServer;
let station: ChildProcess;
let p: Person;
/** Between Farrier and the station: what goes through it can be cut. */
let between: Server;
const through: Socket[] = [];
let open = true;
let address: string;
beforeAll(async () => {
  // Nine o'clock, so that midnight is far even at this speed.
  station = spawn('node', ['scripts/run.mjs', 'src/engine/field/station/process.ts', '0', '120', 'ST-9', '-1', 'ST9-0100', '', '600', '2026-11-27T09:00:00Z'], { stdio: ['ignore', 'pipe', 'inherit'] }); // prettier-ignore
  const said = new Promise<number>((done) => station.stdout!.on('data', (d: Buffer) => /127\.0\.0\.1:(\d+)/.test(String(d)) && done(Number(/127\.0\.0\.1:(\d+)/.exec(String(d))![1])))); // prettier-ignore
  server = await startServer(seedDemo('station'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
  const to = await said;
  between = createServer((line) => {
    if (!open) return void line.destroy();
    const there = connect(to, '127.0.0.1');
    for (const [a, b] of [
      [line, there],
      [there, line],
    ]) {
      a.on('error', () => a.destroy());
      a.on('close', () => b.destroy());
      a.pipe(b);
    }
    through.push(line, there);
  });
  await new Promise<void>((done) => between.listen(0, '127.0.0.1', done));
  address = `127.0.0.1:${(between.address() as { port: number }).port}`;
});
afterAll(async () => {
  station?.kill('SIGTERM');
  for (const line of through) line.destroy();
  between?.close();
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});
const list = () => p.api<StationsView>('GET', '/api/field/stations');
const view = async () => p.api<StationView>('GET', `/api/field/stations/${(await list()).stations[0].id}`);
const table = async (name: string) => (await view()).tables.find((t) => t.name === name)!;
const edit = async (part: 'measure' | 'table' | 'care', name: string, value: string) => {
  await p.clickAt(`[data-testid=${part}] [data-field=${name}]`);
  await p.typeInto('.editor input', Key.chord(Key.CONTROL, 'a'), value, Key.ENTER);
};
const tick = (label: string) => p.clickAt(`[aria-label="${label}"]`);

test('a station is added by its address: it is reached, and says how', async () => {
  await p.go('/field');
  await p.press('Add a station');
  await p.typeInto('[aria-label="Address of the station"]', address, Key.ENTER);
  await p.untilText('[data-testid=link]', /connected: 127\.0\.0\.1:\d+, \d\d:\d\d · ST9-0100, model ST-9/);
  await p.untilText('[data-testid=holds]', 'No table: send it a programme that keeps something.');
  await p.untilText('.top', 'it has no programme');
});

test('its programme from nothing: what is wrong stands where it is, and is mended there', async () => {
  await p.press('+ a value');
  await edit('measure', 'name', 'Water level');
  await edit('measure', 'unit', 'm');
  await edit('measure', 'times', '2.5');
  await edit('measure', 'plus', '-1.25');
  // It was given the first terminal that is free.
  await p.untilText('[data-testid=measure]', 'on U1');
  await p.press('+ a table');
  await edit('table', 'name', 'short');
  await p.untilText('[data-testid=check]', '1 error');
  await p.untilText('[data-testid=table] [data-testid=fault]', 'short keeps nothing');
  await tick('average of Water level');
  await p.untilText('[data-testid=check]', '✓ checked, no errors');
  await edit('table', 'every', '12 s');
  await p.untilText(
    '[data-testid=table] [data-testid=fault]',
    '12 s is no multiple of 5 s, in which it wakes.',
  );
  const button = await driver.findElement(By.xpath('//button[normalize-space()="Fetch and send"]'));
  expect(await button.isEnabled()).toBe(false);
  await edit('table', 'every', '1 min');
  await p.untilText('[data-testid=check]', '✓ checked, no errors');
  await p.press('+ a table');
  await edit('table', 'name', 'day');
  await edit('table', 'every', '1 d');
  await tick('highest of Water level');
  await tick('time of the highest Water level');
  await p.untilText('[data-testid=check]', 'not sent yet');
  // The same as text, word for word.
  await p.press('as text');
  const text = await driver.executeScript('return document.querySelector("[aria-label=\'The programme as text\']").value'); // prettier-ignore
  expect(text).toBe(
    'station ST-9 wakes every 5 s, rejects 50 Hz\n' +
      'measure "Water level" in "m": volts "5 V" on U1, times 2.5, plus -1.25\n' +
      'keep in "short" every 1 min: average of "Water level"\n' +
      'keep in "day" every 1 d: highest of "Water level" with its time\n',
  );
});

test('it is sent in four steps; the station compiles it, and its values are seen', async () => {
  await p.press('Fetch and send');
  await p.untilText('[data-testid=sending]', 'version 1 runs');
  await p.until('all four steps done', async () => (await driver.findElements(By.css('[data-testid=sending] li.done'))).length === 4); // prettier-ignore
  await p.untilText('[data-testid=check]', 'version 1, on the station');
  // A table that cannot have rows yet says so.
  await p.untilText('[data-table=day]', 'nothing yet: first row at midnight');
  await p.press('values now');
  await p.untilText('[data-value="Water level"]', /U1, volts \d\.\d+ -?\d\.\d+ m/);
  await p.untilText('[data-value="Supply voltage"]', /1[12]\.\d+ V/);
});

test('what it holds is fetched and drawn; a gap says why; a cursor reads it', async () => {
  await p.until('some rows', async () => (await table('short')).end >= 5);
  await p.press('Fetch what is new');
  await p.until('them to be fetched', async () => (await table('short')).fetched >= 5);
  const { id } = await view();
  await p
    .api('POST', `/api/field/stations/${id}/play`, { do: 'power', seconds: 1200 })
    .catch(() => undefined);
  const { end } = await table('short');
  await p.until('rows after the power came back', async () => (await table('short')).end >= end + 4);
  await p.press('what was fetched');
  await p.press('Fetch what is new');
  await p.untilText('[data-testid=graph]', '1 gap: The power failed while a row was written.');
  const { takeId, fetched } = await table('short');
  const take = await p.api<TakeView>('GET', `/api/takes/${takeId}`);
  expect(take.signals.map((s) => s.name)).toEqual(['Water level, average']);
  expect(take.gaps).toHaveLength(1);
  expect(take.head.facts.Rows).toBe(`up to number ${fetched - 1}`);
  // The tide is between these at all times.
  await p.until('the curve', async () => (await driver.findElements(By.css('[data-testid=graph] canvas'))).length > 0); // prettier-ignore
  await driver.executeScript(`document.querySelector('[data-testid=graph] .area').focus()`);
  await driver.actions().sendKeys(Key.HOME, Key.ARROW_RIGHT).perform();
  await p.untilText(
    '[data-testid=graph] .legend',
    /^Water level, average\s+\d\.\d+( to \d\.\d+)?[\s\S]*\sat\s.*\d\d:\d\d/,
  );
  await p.press('rows beside it');
  await p.until('its rows', async () => (await driver.findElements(By.css('[data-testid=graph] .rows tbody tr'))).length > 5); // prettier-ignore
});

test('a line that is cut is said; once it is there again it goes on, and no row comes twice', async () => {
  open = false;
  for (const line of through.splice(0)) line.destroy();
  await p.untilText('[data-testid=link]', /connecting|cut|Nothing answers/);
  await p.until('it to be silent', async () => (await view()).link.state !== 'there');
  open = true;
  await p.untilText('[data-testid=link]', /^\s*connected/);
  const before = await table('short');
  await p.until('more rows', async () => (await table('short')).end > before.end + 2);
  await p.press('Fetch what is new');
  await p.until('all fetched', async () => (await table('short')).fetched > before.end);
  const { takeId } = await table('short');
  expect(takeId).toBe(before.takeId);
  const take = await p.api<TakeView>('GET', `/api/takes/${takeId}`);
  expect(take.gaps).toHaveLength(1);
});

test('by its schedule it is fetched without anybody; what was changed is another version, and another take', async () => {
  await p.press('how it is looked after');
  const { fetched } = await table('short');
  // It was asked when it was added, more than a minute ago.
  await edit('care', 'everyMin', '1');
  await p.until('it to be fetched by itself', async () => (await table('short')).fetched > fetched, 90_000);
  await p.press('as text');
  await p.press('short: the average of Water level');
  await tick('lowest of Supply voltage');
  await p.untilText('[data-testid=sending] h2', 'Sending version 2');
  await p.untilText('[data-step=send]', /erases \d+ rows of short since 27 Nov/);
  await p.press('Fetch and send');
  await p.untilText('[data-testid=check]', 'version 2, on the station');
  await p.until('a row of it', async () => (await table('short')).end >= 1);
  await p.press('Fetch what is new');
  await p.until('its take', async () => (await table('short')).takeId !== null);
  await p.press('what was fetched');
  await p.untilText('[data-testid=graph]', 'over the former');
  const { takeId } = await table('short');
  const take = await p.api<TakeView>('GET', `/api/takes/${takeId}`);
  expect(take.head.facts.Programme).toBe('version 2');
  // In the order of the values: the supply first.
  expect(take.signals.map((s) => s.name)).toEqual(['Supply voltage, lowest', 'Water level, average']);
  expect((await view()).earlier).toHaveLength(1);
  await p.untilText('nav[aria-label=Places]', '1 station');
});
