import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { rateHz } from '$core/samples/sampled';
import { turningPoints } from '$core/counting/turning';
import { TakeReader } from '$store/take/reader';
import {
  Person,
  folder,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
} from './world';

// Studies as their users meet them: from a channel of a take to a result, whose numbers are held against the samples of the take.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
let take: TakeReader;
beforeAll(async () => {
  server = await startServer(seedDemo('study'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
  const takes = join(folder, 'study', 'takes');
  take = readdirSync(takes)
    .filter((f) => f.endsWith('.take'))
    .map((f) => new TakeReader(join(takes, f)))
    .find((t) => t.head.number === 15 && t.signals.some((s) => s.name === FLAP))!;
});
afterAll(async () => {
  take?.close();
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const FLAP = 'Blade 1 flap, root';
const valuesOf = (name: string) => {
  const s = take.signals.find((x) => x.name === name)!;
  return { values: take.values(s.id, 0, s.length), hz: rateHz(s) };
};
/** From the newest take to a first result of a kind. */
async function study(kind: string): Promise<void> {
  await p.go('/inspect');
  await p.untilText('h1', 'BW2-B-15');
  await p.press('Study this');
  await p.untilText('h1', 'A study of BW2-B-15');
  await p.clickAt(`[data-kind=${kind}]`);
  await p.find('.result[aria-busy=false]');
}
const settled = () => p.find('.result[aria-busy=false]');
const rows = async (): Promise<string[][]> => {
  await p.clickAt('[role=tab]:nth-child(2)');
  return driver.executeScript(
    'return [...document.querySelectorAll(".findings tbody tr")].map(r => [...r.children].map(c => c.textContent))',
  );
};
const number = (text: string) => {
  const power = /^(.*) × 10(.*)$/.exec(text);
  const plain = (t: string) => Number(t.replace('−', '-').replace(/[\u2009 ]/g, ''));
  const digits = (t: string) =>
    t.replace('⁻', '-').replace(/[⁰¹²³⁴⁵⁶⁷⁸⁹]/g, (c) => String('⁰¹²³⁴⁵⁶⁷⁸⁹'.indexOf(c)));
  return power ? plain(power[1]) * 10 ** Number(digits(power[2])) : plain(text);
};
const finding = (label: string): Promise<string> =>
  driver.executeScript(
    'return [...document.querySelectorAll("dt")].find((d) => d.textContent === arguments[0])?.nextElementSibling.textContent ?? ""',
    label,
  );
const findings = () => p.clickAt('[role=tab]:nth-child(1)');

test('from a channel to how long it lies at which level: labelled classes, whose seconds are those of the samples', async () => {
  await study('time-at-level');
  const { values, hz } = valuesOf(FLAP);
  const table = await rows();
  expect(table.length).toBeGreaterThan(10);
  for (const [name, from, to, seconds] of table) {
    expect(name).toBe(`${from} to ${to} µε`);
    const inside = values.filter((v) => v >= number(from) && v < number(to)).length;
    expect(Math.abs(number(seconds) - inside / hz)).toBeLessThan(0.0006 * Math.max(1, inside / hz));
  }
  // The sentence is changed, and the result follows.
  await p.choose('shown', 'share of the total');
  await p.until('shares', async () => (await p.text('.findings thead')).includes('Share of the total'));
  const shares = (await rows()).map((r) => number(r[3]));
  expect(shares.reduce((a, b) => a + b, 0)).toBeCloseTo(100, 1);
  // A table is sorted by its head.
  await p.press('Share of the total, %');
  const sorted = (await rows()).map((r) => number(r[3]));
  expect(sorted).toEqual([...shares].sort((a, b) => b - a));
});

test('rainflow counts the turning points of the take; damage by a line follows from the same cycles', async () => {
  await study('rainflow');
  await findings();
  const dropped = number(await finding('Ranges dropped up to'));
  const points = turningPoints(valuesOf(FLAP).values, dropped).values.length;
  // As halves, n turning points make (n − 1) / 2 cycles.
  expect(number(await finding('Cycles counted'))).toBeCloseTo((points - 1) / 2, 6);
  await study('damage');
  await findings();
  /** What stands there now, read at once. */
  const now = async (): Promise<[damage: number, times: number]> => {
    const texts = await driver.executeScript<string[]>(
      'return [...document.querySelectorAll("dl dd.mono")].slice(0, 2).map((d) => d.textContent)',
    );
    return [number(texts[0]), number(texts[1])];
  };
  const changed = async (before: number) =>
    p.until('another damage', async () => (await now())[0] !== before);
  const [first] = await now();
  await p.edit('knee', '300');
  await changed(first);
  const [second] = await now();
  await p.edit('slope', '8');
  await changed(second);
  await settled();
  const [sum, times] = await now();
  expect(sum * times).toBeCloseTo(1, 2);
  expect(await p.text('.findings')).not.toContain('comparing');
  const table = await rows();
  expect(table.reduce((all, r) => all + number(r[4]), 0) / sum).toBeCloseTo(1, 2);
  expect(table.reduce((all, r) => all + number(r[5]), 0)).toBeCloseTo(100, 0);
});

test('a frequency response has its coherence; an order is cut out of a run-up', async () => {
  await study('frequency-response');
  await p.until(
    'three figures',
    async () => (await driver.findElements({ css: '.figure canvas' })).length >= 3,
  );
  const table = await rows();
  expect(table.length).toBeGreaterThan(0);
  for (const row of table) {
    expect(number(row[4])).toBeGreaterThan(0);
    expect(number(row[4])).toBeLessThanOrEqual(1);
  }
  await study('orders');
  await p.edit('cuts', '1, 2');
  await p.until(
    'two cuts',
    async () => (await p.text('.drawn')).includes('Order 2') && !(await p.text('.drawn')).includes('Order 3'),
  );
  const cuts = await rows();
  const { values, hz } = valuesOf('Shaft speed');
  for (const [at, rpm] of cuts) {
    // The speed of a block is that of the speed channel about its middle.
    const i = Math.round(number(at) * hz);
    const near = values.slice(Math.max(0, i - 2 * hz), i + 2 * hz);
    expect(number(rpm)).toBeGreaterThan(Math.min(...near) * 0.8);
    expect(number(rpm)).toBeLessThan(Math.max(...near) * 1.2);
  }
});

test('kinds are found by a word and by keyboard alone; what does not suit says what to do, and is mended in its sentence', async () => {
  await p.go('/study/new');
  await p.typeInto('[aria-label="Find a kind or a word"]', 'shock');
  await p.until('one kind', async () => (await driver.findElements({ css: '[data-kind]' })).length === 1);
  await p.type(Key.TAB, Key.ENTER);
  await p.untilText('h1', 'Shock response');
  await p.edit('highest', '90000');
  await p.untilText('[role=alert]', 'nothing is measured above it');
  await p.edit('highest', '200');
  await settled();
  await p.untilText('.table', 'Upwards');
  expect(await p.consoleErrors()).toEqual([]);
});
