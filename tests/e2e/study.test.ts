import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, until, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { rateHz } from '$core/samples/sampled';
import { turningPoints } from '$core/counting/turning';
import { TakeReader } from '$store/take/reader';
import {
  Person,
  folder,
  measured,
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
/** The rows of the one table of a result without figures. */
const tableRows = (): Promise<string[][]> =>
  driver.executeScript(
    'return [...document.querySelectorAll(".table tbody tr")].map(r => [...r.children].map(c => c.textContent))',
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
  // A class that is touched in the table is marked in the drawings; one that is touched in a drawing is marked in the table.
  const row = await p.find('.findings tbody tr:nth-child(3)');
  await driver.actions().move({ origin: row }).perform();
  await p.until('the class in every drawing', async () => {
    const says = await driver.executeScript<string[]>('return [...document.querySelectorAll(".drawn .legend .aside")].map((a) => a.textContent)'); // prettier-ignore
    return says.length > 1 && says[0].includes(table[2][0]) && says.slice(1).every((s) => /\bat /.test(s));
  });
  const drawing = await p.find('.drawn .area');
  // Where it comes in it has not moved yet.
  await driver.actions().move({ origin: drawing }).move({ origin: drawing, x: 14, y: 0 }).perform();
  await p.until('the class in the table', async () => {
    const says = await p.text('.drawn .legend .aside');
    const marked = await driver.findElements(By.css('.findings tr.touched'));
    return marked.length === 1 && says.includes(await marked[0].findElement(By.css('td')).getText());
  });
  await driver
    .actions()
    .move({ origin: await p.find('h1') })
    .perform();
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

test('a filter becomes a channel beside its source, with its response drawn; it is counted like any other', async () => {
  await p.go('/inspect');
  await p.untilText('h1', 'BW2-B-15');
  await p.press('Make a signal');
  await p.untilText('[data-testid=making]', `${FLAP}, low pass 100 Hz`);
  await p.edit('edge', '1', 'dialog[open]');
  await p.untilText('[data-testid=making]', `${FLAP}, low pass 1 Hz, in µε`);
  await p.find('dialog[open] .response canvas');
  await p.press('Keep it as a channel');
  const name = `${FLAP}, low pass 1 Hz`;
  await p.find(`[data-name="${name}"]`);
  // What it is stands about the take; what was recorded is sealed as it was.
  await p.press('About BW2');
  await p.untilText(
    '[data-testid=made]',
    'through a Butterworth low pass at 1 Hz of order 4, both ways, without delay',
  );
  await p.untilText('[data-testid=seal]', 'nothing was changed since');

  await p.go('/study/new');
  await p.clickAt('[data-kind=time-at-level]');
  await settled();
  await p.clickAt('[data-field=channel]');
  await driver
    .wait(until.elementLocated(By.xpath(`//*[@role="radio"][contains(., ${JSON.stringify(name)})]`)), 10_000)
    .click();
  await p.untilText('.sentence', name);
  await settled();
  const file = new TakeReader(join(folder, 'study', 'takes', `${take.head.id}.take`));
  const made = file.signals.find((s) => s.name === name)!;
  const values = file.values(made.id, 0, made.length);
  file.close();
  await p.until('the classes of the filtered channel', async () => {
    const table = await rows();
    return table.every(([, from, to, seconds]) => {
      const inside = values.filter((v) => v >= number(from) && v < number(to)).length / rateHz(made);
      return Math.abs(number(seconds) - inside) < 0.0006 * Math.max(1, inside);
    });
  });
  // Slower than its source, it spans less.
  const spread = (v: Float32Array) => {
    const inner = v.subarray(2000, -2000);
    return (
      inner.reduce((a, x) => Math.max(a, x), -Infinity) - inner.reduce((a, x) => Math.min(a, x), Infinity)
    );
  };
  expect(spread(values)).toBeLessThan(spread(valuesOf(FLAP).values));
  expect(await p.consoleErrors()).toEqual([]);
});

test('three ways side by side: what differs is marked, the differences are told', async () => {
  await study('spectrum');
  await p.choose('shown', 'rms amplitude');
  await p.untilText('[data-field=shown]', 'rms amplitude');
  await settled();
  for (const window of ['flat top', 'rectangular']) {
    const before = await driver.getCurrentUrl();
    await p.press('Try another way');
    await p.until('another study', async () => (await driver.getCurrentUrl()) !== before);
    await p.until('its page', async () => (await p.text('[data-field=window]')) !== window && (await p.text('.page-head')).includes('Side by side')); // prettier-ignore
    await p.choose('window', window);
    await p.untilText('[data-field=window]', window);
    await settled();
  }
  await p.press('Side by side');
  await p.until('three drawings', async () => (await driver.findElements(By.css('[data-testid=variants] canvas'))).length >= 3); // prettier-ignore
  const marked = await driver.executeScript<string[]>(
    'return [...document.querySelectorAll("[data-testid=variants] mark")].map((m) => m.textContent)',
  );
  expect(marked).toEqual(['Hann', 'flat top', 'rectangular']);
  const [row] = await driver.executeScript<string[][]>(
    'return [...document.querySelectorAll(".findings tbody tr")].map((r) => [...r.children].map((c) => c.textContent))',
  );
  expect(row).toHaveLength(6);
  const [first, second, against] = row.slice(1).map((t) => number(t.replace(/ [^\d].*$/, '')));
  expect(second - first).toBeCloseTo(against || 0, 2);
});

test('a standing study of all takes: a row for each; a take that ends joins by itself, by its plan', async () => {
  await study('statistics');
  await p.press('all that fit');
  await p.untilText('.takes', '15 fit');
  await settled();
  const before = await tableRows();
  expect(before).toHaveLength(15);
  expect(before[0][0]).toBe('BW2-B-15');
  const address = await driver.getCurrentUrl();

  const plan = await p.planPath();
  await p.api('PATCH', plan, { stop: 'by hand', atEnd: ['run the standing studies'] });
  await p.go('/record');
  await p.untilText('header .state', 'Watching');
  await p.arm('Ana', 'C');
  await p.api('POST', '/api/record', { do: 'start' });
  await p.untilText('header .state', 'Recording take 16');
  await measured(server.base, 2);
  await p.api('POST', '/api/record', { do: 'end' });
  await p.untilText('header .state', 'Watching');
  await driver.get(address);
  await p.untilText('.takes', '16 fit');
  await p.until('the new row', async () => (await tableRows()).length === 16);
  expect((await tableRows())[0][0]).toContain('16');
  expect(await p.text('.page')).not.toContain('Out of date');
});
