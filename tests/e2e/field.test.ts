import { spawn, type ChildProcess } from 'node:child_process';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { FieldView } from '$contract/field';
import type { TakeView } from '$contract/take';
import { Person, openBrowser, removeFolder, seedDemo, startServer, type RunningServer } from './world';

// Pocket recorders as their users meet them: a cradle that is a process of its own, recorders put into it.
let driver: WebDriver;
let server: RunningServer;
let cradle: ChildProcess;
let p: Person;
let address: string;
beforeAll(async () => {
  cradle = spawn('node', ['scripts/run.mjs', 'src/engine/field/process.ts', '0', '1', '3'], { stdio: ['ignore', 'pipe', 'inherit'] }); // prettier-ignore
  const said = new Promise<string>((done) => cradle.stdout!.on('data', (d: Buffer) => /127\.0\.0\.1:\d+/.test(String(d)) && done(/127\.0\.0\.1:\d+/.exec(String(d))![0]))); // prettier-ignore
  server = await startServer(seedDemo('field'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
  address = await said;
});
afterAll(async () => {
  cradle?.kill('SIGTERM');
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});
const field = () => p.api<FieldView>('GET', '/api/field');
const CHOOSE = '[aria-label="Which recorder lies in the cradle"]';
/** Puts a recorder into the cradle, by its name or serial; '' takes it out. */
const put = (name: string) =>
  driver.executeScript(
    `const s = document.querySelector('${CHOOSE}'); s.value = [...s.options].find((o) => o.text === arguments[0]).value; s.dispatchEvent(new Event('change', { bubbles: true }));`,
    name || 'none',
  );
const holds = (name: string) =>
  p.until(`${name} to lie in the cradle`, async () => (await field()).recorders.some((r) => r.here && (r.state.name === name || r.serial === name))); // prettier-ignore

test('the page says what to do; a cradle is named, and what is put in is seen, fetched and drawn by itself', async () => {
  await p.go('/field');
  await p.untilText('.right', 'Say where the cradle is');
  await p.typeInto('[aria-label="Where a cradle is, as host:port"]', address, Key.ENTER);
  await p.untilText('[data-testid=cradles]', 'empty: put a recorder in');
  await p.untilText('.right', 'Put a recorder into the cradle');
  await p.find(CHOOSE);
  await put('Crate 11, epoxy');
  await p.untilText('.right h2', 'Crate 11, epoxy');
  await p.untilText('[data-testid=state]', /recording since \d+ \w+, \d+ % left, was above 6\.0 °C for \d h/);
  await p.until('its readings to be drawn', async () => (await driver.findElements(By.css('.right canvas'))).length > 0); // prettier-ignore
  // What it says is what the take holds.
  const [own] = (await field()).recorders;
  const take = await p.api<TakeView>('GET', `/api/takes/${own.takeId}`);
  expect(take.head.facts.Recorder).toBe('PR2-0107');
  const above = await p.text('[data-says=above] td');
  expect(above).toMatch(/^\d h( \d+ min)?, \d+ °C·min$/);
  const minutes = own.findings!.minutesAbove;
  const [, h, m = '0'] = /^(\d) h(?: (\d+) min)?/.exec(above)!;
  expect(Number(h) * 60 + Number(m)).toBe(Math.round(minutes));
  await p.untilText('nav[aria-label=Places]', '1 recorder, 1 wants a look');
});

test('a recorder is set up in a sentence: what cannot be is said at once, what it will do is seen before', async () => {
  await put('PR2-0131');
  await holds('PR2-0131');
  await p.press('Set up a recorder');
  await p.untilText('[data-testid=wish] h2', 'PR2-0131, model PR-2');
  const type = async (name: string, value: string) => {
    await p.clickAt(`[data-testid=wish] [data-field=${name}]`);
    await p.typeInto('.editor input', Key.chord(Key.CONTROL, 'a'), value, Key.ENTER);
  };
  await type('name', 'Box {n}');
  await p.untilText('[data-testid=wish]', 'This one: Box 1.');
  await type('intervalS', '5');
  await p.untilText('[data-testid=fault]', 'PR-2 reads every 10 s to 24 h.');
  await p.until('it cannot be set up', async () => !(await (await driver.findElement(By.xpath('//button[normalize-space()="Set this one up"]'))).isEnabled())); // prettier-ignore
  await type('intervalS', '60');
  await p.choose('start', 'at once', '[data-testid=wish]');
  await type('days', '3');
  // Interval and time give the number; the number gives the time.
  await p.until('the number', async () => (await driver.executeScript(`return document.querySelector('[aria-label="Readings"]').value`)) === '4320'); // prettier-ignore
  await p.typeInto('[aria-label="Readings"]', Key.chord(Key.CONTROL, 'a'), '1440', Key.TAB);
  await p.untilText('[data-testid=wish]', 'for 1 d');
  await type('high', '8');
  await p.untilText('[data-testid=plan]', 'records every 1 min');
  await p.press('Set this one up');
  await p.untilText('.right h2', 'Box 1');
  const set = (await field()).recorders.find((r) => r.serial === 'PR2-0131')!;
  expect(set.state).toMatchObject({ name: 'Box 1', setup: { intervalS: 60, readings: 1440, high: { at: 8, after: 'in a row', count: 3 } } }); // prettier-ignore
});

test('the same onto the next two: put in, they are named by the pattern and set up by themselves', async () => {
  await p.press('Set up a recorder');
  await p.press('set up all that are put in');
  for (const [serial, name] of [
    ['PR2-0132', 'Box 2'],
    ['PR2-0133', 'Box 3'],
  ]) {
    await put('');
    await p.until('the cradle to be empty', async () => (await field()).cradles[0].holds === null);
    await put(serial);
    await p.untilText('[data-testid=batch]', name);
    await p.untilText('[data-testid=batch]', '✓ set up');
  }
  const { recorders, batch } = await field();
  expect(batch!.done.map((d) => [d.name, d.state])).toEqual([['Box 2', 'set up'], ['Box 3', 'set up']]); // prettier-ignore
  for (const name of ['Box 2', 'Box 3']) expect(recorders.find((r) => r.state.name === name)!.state.phase).toMatch(/settles|records/); // prettier-ignore
  await p.press('that is all');
  await p.press('Back to the readings');
});

test('a cradle that is unplugged is said so; what was fetched can be looked at without it', async () => {
  const ended = new Promise((done) => cradle.once('exit', done));
  cradle.kill('SIGTERM');
  await ended;
  await p.untilText('[data-testid=cradles]', 'Nothing answers');
  await p.clickAt('[data-recorder="PR2-0107"]');
  await p.untilText('.right h2', 'Crate 11, epoxy');
  await p.until('its readings to be drawn', async () => (await driver.findElements(By.css('.right canvas'))).length > 0); // prettier-ignore
  await p.press('inspect the take');
  await p.untilText('h1', 'Crate 11, epoxy');
  expect(await p.consoleErrors()).toEqual([]);
});
