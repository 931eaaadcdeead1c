import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  Person,
  folder,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
  measured,
} from './world';

// The whole path of one test day, in its order, in one browser: each step leaves what the next one needs.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
/** Address of the take that is looked at. */
let takePath: string;

beforeAll(async () => {
  server = await startServer(seedDemo('path'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const row = (name: string) => `tr[data-name="${name}"]`;

test('rig: found by itself; a terminal shows its raw reading, a free one says its numbers mean nothing', async () => {
  await p.go('/rig');
  await p.untilText('.answer', '● answering');
  expect(await driver.executeScript('return document.querySelectorAll(".module").length')).toBe(6);
  await p.untilText('aside', 'The circuit is open between the terminal and the sensor'); // blade 2 is broken in the demo
  await p.clickAt('[aria-label^="A2/1"]');
  await p.until(
    'a raw reading of the gauge',
    async () => Math.abs(await p.number('[data-testid=probe]')) < 2,
  );
  await p.clickAt('[aria-label^="A4/3"]');
  await p.untilText('.clue', 'Nothing is connected');
});

test('rig: unplugged and plugged in again, both are shown at once', async () => {
  await p.clickAt('[aria-label="Plugged in"]');
  await p.untilText('.answer', 'not answering', 2000);
  await p.untilText('nav', '3 of 4 answering');
  await p.clickAt('[aria-label="Plugged in"]');
  await p.untilText('.answer', '● answering', 4000);
});

test('channels: every kind converts what its terminal delivers', async () => {
  await p.go('/channels');
  await p.untilText(`${row('Seal water')} td.now`, /^1[12]\.\d+/);
  expect(await driver.executeScript('return document.querySelectorAll("tr[data-name]").length')).toBe(21);
  expect(await p.number(`${row('Bearing, drive end')} td.now`)).toBeCloseTo(24, -1);
  expect(await p.number(`${row('Flow')} td.now`)).toBeGreaterThan(1.4);
  expect(await p.text(`${row('Guard door')} td.now`)).toBe('yes');
  expect(await p.text(`${row('Blade 2 flap, root')} td.now`)).toBe('open');
  expect(await p.number(`${row('Brake current')} td.now`)).toBeCloseTo(6, 1);
});

test('channels: a gauge factor is edited in its sentence, the value follows; nonsense is refused in place; undo brings it back', async () => {
  await p.clickAt(row('Blade 1 flap, root'));
  const strain = async () =>
    (await p.api<{ settings: { gaugeFactor: number } }>('PATCH', `/api/channels/${await chosenId()}`, {}))
      .settings.gaugeFactor;
  const chosenId = () =>
    driver.executeScript('return document.querySelector("tr.here").dataset.id') as Promise<string>;
  await p.edit('gaugeFactor', '0');
  await p.untilText('.editor .wrong', 'Metal gauges have about 2');
  expect(await strain()).toBe(2.08);
  await p.type(Key.ESCAPE);
  await p.edit('gaugeFactor', '4.16');
  await p.untilText('[data-field=gaugeFactor]', '4.16');
  // Twice the factor, half the strain: raw and value are read together.
  await p.until('half the strain', async () => {
    const [now, raw] = [await p.number('[data-testid=now]'), await p.number('[data-testid=raw]')];
    return Math.abs(now - ((raw - 0.021) * 4000) / 4.16) < 25;
  });
  await p.type(Key.chord(Key.CONTROL, 'z'));
  await p.untilText('[data-field=gaugeFactor]', '2.08');
});

test('channels: one is added on a free terminal, and a computed one from a formula', async () => {
  await p.press('Add channel');
  await p.typeInto('#new-name', 'Spare voltage');
  await driver.executeScript(
    `const s = document.querySelector('#new-place'); s.value = [...s.options].find(o => o.textContent.includes('A4/3')).value; s.dispatchEvent(new Event('change', { bubbles: true }))`,
  );
  await p.press('Add it');
  await p.untilText(`${row('Spare voltage')} .wire`, 'A4/3');
  await p.press('Add channel');
  await p.typeInto('#new-name', 'Twice the flow');
  await driver.executeScript(
    `const s = document.querySelector('#new-place'); s.value = 'computed'; s.dispatchEvent(new Event('change', { bubbles: true }))`,
  );
  await p.typeInto('#new-formula', '"Flo" * 2');
  await p.press('Add it');
  await p.untilText('[role=alert]', 'There is no channel of this name. Near to it: "Flow"');
  const formula = await p.find('#new-formula');
  await formula.sendKeys(Key.chord(Key.CONTROL, 'a'), '"Flow" * 2');
  await p.press('Add it');
  await p.until(
    'twice the flow',
    async () =>
      Math.abs(
        (await p.number(`${row('Twice the flow')} td.now`)) / (await p.number(`${row('Flow')} td.now`)) - 2,
      ) < 0.1,
  );
});

test('calibrate: points against the line, accepted, and the channel reads by it at once', async () => {
  await p.go('/calibrate');
  await p.press('Tip draw-wire');
  await p.untilText('h1', 'Tip draw-wire');
  const wire = async (mm: number) => p.api('POST', '/api/units/QH-0417', { control: 'wireMm', value: mm });
  await p.edit('targets', '10, 190');
  for (const mm of [10, 190]) {
    await wire(mm);
    await p.press(`Measure ${mm} mm`);
    await p.until(
      `the point at ${mm} mm`,
      async () =>
        !(await p.text('.points')).includes('Stop measuring') && (await p.text('.points')).includes('again'),
    );
  }
  // The draw-wire gives one volt for each 40.2 mm, with a slight droop that is the same at both points.
  expect(await p.number('[data-testid=slope]')).toBeCloseTo(40.2, 1);
  await p.press('Accept');
  await p.untilText('.points', 'Accepted');
  await p.untilText('[data-testid=present-slope]', /^40\.2/);
  await wire(100);
  await p.go('/channels');
  await p.until(
    'the wire at 100 mm by the new line',
    async () => Math.abs((await p.number(`${row('Tip draw-wire')} td.now`)) - 100) < 0.3,
  );
  await wire(-1);
});

test('record: armed with its facts, it starts by itself at the level, a mark is kept, a rule moves an output, it is ended by hand', async () => {
  await p.go('/record');
  await p.untilText('header .state', 'Watching');
  await p.edit('before', '1');
  await p.untilText('[data-field=before]', '1 s');
  await p.arm('Test bench', 'C');
  await measured(server.base, 1.5); // so that a second from before is there
  await p.typeInto('[aria-label="Brake current, value"]', Key.chord(Key.CONTROL, 'a'), '0', Key.ENTER);
  await p.untilText('header .state', 'Recording take 16', 30_000);
  await p.type('m');
  await p.untilText('footer', 'Mark');
  await measured(server.base, 2.5);
  await p.api('POST', '/api/units/QH-0417', { control: 'doorOpen', value: 1 });
  await p.until(
    'the rule to drive the brake',
    async () =>
      Math.abs(
        Number(await (await p.find('[aria-label="Brake current, value"]')).getAttribute('value')) - 10,
      ) < 0.05,
    5000,
  );
  await p.untilText('.rules', 'fired once');
  await p.api('POST', '/api/units/QH-0417', { control: 'doorOpen', value: 0 });
  await p.until(
    'the brake back at rest',
    async () =>
      Math.abs(
        Number(await (await p.find('[aria-label="Brake current, value"]')).getAttribute('value')) - 6,
      ) < 0.05,
    5000,
  );
  await p.press('End take');
  await p.untilText('header .state', 'Watching');
});

test('inspect: the take is there; the level was passed at one second; cursors read every channel; zoom in and out', async () => {
  await p.go('/inspect');
  await p.untilText('h1', 'BW2-C-16');
  await p.press('About BW2');
  await p.untilText('.facts', 'Test bench');
  const facts = await p.text('.facts');
  expect(facts).toMatch(/00:01\.0 Started: Shaft speed rises above 5 rpm/);
  expect(facts).toMatch(/Mark/);
  expect(facts).toMatch(/Rule fired: When Guard door turns to no/);
  await p.press('Readings');
  // At the start, one second in, the speed is the level to within a sample's rise.
  takePath = new URL(await driver.getCurrentUrl()).pathname.replace('/inspect', '/api/takes');
  await p.find(row('Power'));
  await p.until('the curves', async () =>
    (await p.find('.stage')).getAttribute('aria-busy').then((b) => b === 'false'),
  );
  await p.clickAt('.over');
  await p.until(
    'cursor 1 in the middle',
    async () => Math.abs((await p.number('th.on .mono')) - (await duration()) / 2) < 0.1,
  );
  async function duration() {
    return Number((await p.text('[data-testid=span]')).split(/[ :]/).at(-1));
  }
  const whole = await duration();
  await p.type(Key.ARROW_RIGHT);
  const canvas = await p.find('.over');
  await driver
    .actions()
    .move({ origin: canvas, x: -100, y: 0 })
    .press()
    .move({ origin: canvas, x: 100, y: 0 })
    .release()
    .perform();
  await p.until('a narrower span', async () => (await duration()) < whole * 0.8);
  await p.type(Key.BACK_SPACE);
  await p.until('the whole take again', async () => Math.abs((await duration()) - whole) < 0.02);
  await p.press('forward');
  await p.until('the narrower span again', async () => (await duration()) < whole * 0.8);
  await p.type('0');
  const id = await (await p.find(row('Shaft speed'))).getAttribute('data-signal');
  const [[speed]] = await p.api<number[][]>('GET', `${takePath}/at?signals=${id}&s=1.0`);
  expect(speed).toBeGreaterThan(5);
  expect(speed).toBeLessThan(5.2);
});

test('inspect: takes stand under their folders, told apart by number and time; one is renamed, the logbook keeps its former name', async () => {
  await p.untilText('.drawer', 'Blade set C');
  expect(await p.text('[data-take="BW2-C-16"]')).toMatch(/BW2-C-16\s+no\. 16, \d+ \w+, \d\d:\d\d/);
  const rename = async (from: string, to: string) => {
    await p.clickAt('h1 button');
    await p.typeInto('[aria-label="Name of the take"]', Key.chord(Key.CONTROL, 'a'), to, Key.ENTER);
    await p.untilText('h1', to);
    await p.find(`[data-take="${to}"]`);
    await p.go('/logbook');
    await p.untilText('.book', `${from} is called “${to}” from now on.`);
    await p.go('/inspect');
  };
  await rename('BW2-C-16', 'Warm ramp');
  await rename('Warm ramp', 'BW2-C-16');
});

test('study: statistics and spectrum are computed, say their method, and their table can be copied', async () => {
  await p.press('Study this');
  await p.press('Statistics of a span');
  await p.untilText('.table', 'Crest factor');
  const cells = await driver.executeScript<string[][]>(
    'return [...document.querySelectorAll(".table tbody tr")].map(r => [...r.children].map(c => c.textContent))',
  );
  const number = (text: string) => Number(text.replace('−', '-'));
  expect(cells.length).toBeGreaterThan(3);
  for (const [, , mean, , rms, std, min, , max, , peak] of cells) {
    expect(number(max) - number(min)).toBeCloseTo(number(peak), 0);
    expect(Math.hypot(number(mean), number(std)) / number(rms)).toBeCloseTo(1, 2); // rms² = mean² + std²
  }
  await driver.executeScript(
    'navigator.clipboard.writeText = (t) => ((window.copied = t), Promise.resolve())',
  );
  await p.clickAt('.table .out button');
  await p.until('the copied table', async () =>
    ((await driver.executeScript<string>('return window.copied')) ?? '').startsWith('Channel\tUnit\tMean'),
  );

  await p.go('/inspect');
  await p.press('Study this');
  await p.press('Averaged spectrum');
  // The take is too short for one segment of its slow channels: it is said, and two fast ones are chosen.
  await p.untilText('[role=alert]', 'choose a shorter segment');
  await p.clickAt('[data-field=channels]');
  await driver.executeScript(
    `for (const l of document.querySelectorAll('.editor label')) { const box = l.querySelector('input'); if (box.checked !== l.textContent.includes('Nacelle')) box.click(); }`,
  );
  await p.press('Take 2');
  await p.choose('length', '4096');
  await p.untilText('.table', 'Noise bandwidth');
  const [line] = await driver.executeScript<string[][]>(
    'return [...document.querySelectorAll(".table tbody tr")].map(r => [...r.children].map(c => c.textContent))',
  );
  // 5120 S/s in segments of 4096: lines 1.25 Hz apart, Hann bandwidth 1.5 lines.
  expect(number(line[7])).toBeCloseTo(1.25, 6);
  expect(number(line[8])).toBeCloseTo(1.875, 6);

  // The figure by keys: a cursor from line to line, a part of it, all of it again.
  await driver.executeScript('document.querySelector(".figure [role=application]").focus()');
  await p.type(Key.ARROW_RIGHT);
  const at = async () => Number(/at ([\d.]+) Hz/.exec(await p.text('.figure .legend'))![1]);
  await p.untilText('.figure .legend', /at [\d.]+ Hz/);
  const first = await at();
  await p.type(Key.ARROW_RIGHT);
  await p.until('the next line', async () => Math.abs((await at()) - first - 1.25) < 1e-6);
  await p.type('+');
  await p.find('.figure button.all');
  // Computed anew with another window, the same part is looked at and the cursor stands where it stood.
  const there = await at();
  await p.choose('window', 'rectangular');
  await p.until(
    'the noise bandwidth of the other window: one line',
    async () =>
      number(
        await driver.executeScript<string>(
          'return document.querySelector(".table tbody tr").children[8].textContent',
        ),
      ) === 1.25,
  );
  expect(await at()).toBeCloseTo(there, 9);
  await p.find('.figure button.all');
  await driver.executeScript('document.querySelector(".figure [role=application]").focus()');
  await p.type(Key.BACK_SPACE);
  await p.until(
    'all of it',
    async () => (await driver.findElements(By.css('.figure button.all'))).length === 0,
  );
  // Its numbers are a table, made from what is drawn: one row a line, without the mean.
  const tables = await p.find('select[aria-label=Table]');
  await tables.sendKeys('Power spectral density: Nacelle, s');
  await p.untilText('.table', '1.250');
  await p.untilText('.table', 'The first 400 of 2048 rows');
});

test('report: the PDF holds the method, the facts and vectors with embedded fonts; the CSV opens as a table', async () => {
  await p.go('/report/take');
  await p.untilText('.sheet', 'BW2-C-16');
  await p.press('Make the PDF');
  const pdf = await p.downloaded('.pdf');
  expect(readFileSync(pdf).subarray(0, 5).toString()).toBe('%PDF-');
  const text = spawnSync('pdftotext', [pdf, '-'], { encoding: 'utf8' }).stdout.replace(/\s+/g, ' ');
  for (const words of [
    'BW2-C-16',
    'Test bench',
    'start when Shaft speed rises above 5 rpm',
    'The power spectral density of 2 channels',
    'Where the numbers come from',
    'gauges with gauge factor',
    '2.08, excited with 2.5 V',
  ])
    expect(text).toContain(words);
  const fonts = spawnSync('pdffonts', [pdf], { encoding: 'utf8' }).stdout.trim().split('\n').slice(2);
  expect(fonts.length).toBeGreaterThanOrEqual(3);
  for (const font of fonts) expect(font).toMatch(/yes yes/); // embedded, subset
  expect(spawnSync('pdfimages', ['-list', pdf], { encoding: 'utf8' }).stdout.trim().split('\n')).toHaveLength(
    2,
  ); // no pictures: all vector
  await p.press('Save as a file');
  await p.edit('stepS', '0.5', 'dialog');
  await p.untilText('dialog [data-field=stepS]', '0.5 s');
  await p.press('Save the file');
  const lines = readFileSync(await p.downloaded('.csv'), 'utf8').split('\r\n');
  expect(lines[0].charCodeAt(0)).toBe(0xfeff);
  const header = lines[0]
    .slice(1)
    .match(/("[^"]*"|[^,]+)(,|$)/g)!
    .map((c) => c.replace(/,$/, '').replaceAll('"', ''));
  expect(header[0]).toBe('Time [s]');
  expect(header).toContain('Shaft speed [rpm]');
  expect(header).toContain('Blade 1 flap, root [µε]');
  const rows = lines.slice(1, -1).map((l) => l.split(','));
  // A row every half second, from the start to less than a step from the end.
  const { durationS } = await p.api<{ durationS: number }>('GET', takePath);
  expect(Math.abs(rows.length - 1 - durationS / 0.5)).toBeLessThan(1);
  expect(rows.every((r) => r.length === header.length)).toBe(true);
  expect(rows[2][0]).toMatch(/^1\.0+$/);
  const speed = header.indexOf('Shaft speed [rpm]');
  expect(Number(rows[2][speed])).toBeGreaterThan(4.9);
  expect(Number(rows[2][speed])).toBeLessThan(5.2);
});

test('logbook and trail: what happened stands there by itself, and a number leads back to its sensor', async () => {
  await p.go('/logbook');
  const book = await p.text('.book');
  for (const words of [
    'Dock chassis was lost',
    'was found again',
    'Calibrated Tip draw-wire by 2 points',
    'BW2-C-16 armed by bench',
    'BW2-C-16 started',
    'Rule fired',
    'BW2-C-16 ended',
    'Report of BW2-C-16 made',
  ])
    expect(book).toContain(words);
  await p.go('/study');
  await p.press('Statistics of a span');
  await p.press('Show the trail');
  await p.untilText('.trail', 'Take BW2-C-16');
  const trail = await p.text('.trail');
  expect(trail).toMatch(/Study Statistics of a span/);
  expect(trail).toMatch(
    /Channel Blade 1 flap, root A quarter bridge on three wires of 350 Ω gauges with gauge factor 2.08/,
  );
  expect(trail).toMatch(/Sensor serial BG-112, wired to A2\/1 of unit QH-0417/);
});

test('by keyboard alone: a value is reached, changed and left; the console stayed clean all along', async () => {
  await p.go('/record');
  await p.untilText('header .state', 'Watching');
  await driver.executeScript('document.querySelector("[data-field=before]").focus()');
  await p.type(Key.ENTER);
  await p.find('.editor input');
  await p.type(Key.chord(Key.CONTROL, 'a'), '3', Key.ENTER);
  await p.untilText('[data-field=before]', '3 s');
  await p.until(
    'the value to have the focus again',
    async () => (await driver.executeScript('return document.activeElement.dataset.field')) === 'before',
  );
  // A refused request is shown by the browser, too; anything else would be a fault of ours.
  // The unit was unplugged under an open page: its last question found nobody.
  const provoked = /status of (400|404|409)|\/api\/units\/QH-0417\/A4\/3 .*503/;
  const errors = (await p.consoleErrors()).filter((e) => !provoked.test(e));
  expect(errors, folder).toEqual([]);
});

test('a file of another program is brought in: shown as it will be read, looked at as any take', async () => {
  const file = join(folder, 'Night log.csv');
  writeFileSync(file, 'Logger 7\nTime [s];Oil [°C];Flow [m/s]\n0;20,5;1\n0,5;21,5;2\n1;22,5;3\n2;24,5;5\n');
  await p.go('/inspect');
  await p.press('Bring in');
  await (await p.find('dialog[open] input[type=file]')).sendKeys(file);
  await p.untilText('dialog[open]', 'decimal sign found by itself');
  await p.press('Bring it in');
  await p.untilText('h1', 'Night log');
  await p.press('About Night');
  await p.untilText('.facts', 'Night log.csv');
  await p.untilText('[data-testid=seal]', 'nothing was changed since');
  await p.press('Readings');
  const [oil] = await driver.executeScript<string[]>(
    'return [...document.querySelectorAll("tr[data-name=Oil]")].map((r) => r.dataset.signal)',
  );
  const path = new URL(await driver.getCurrentUrl()).pathname.replace('/inspect', '/api/takes');
  expect(await p.api('GET', `${path}/at?signals=${oil}&s=1`)).toMatchObject([[22.5]]);
  expect(await p.api('GET', `${path}/at?signals=${oil}&s=1.6`)).toMatchObject([[null]]); // no row at 1.5 s
  // What cannot be read is said in the dialog, and nothing comes of it.
  writeFileSync(file, 'only words\n');
  await p.press('Bring in');
  await (await p.find('dialog[open] input[type=file]')).sendKeys(file);
  await p.press('Bring it in');
  await p.untilText('dialog[open] [role=alert]', 'no rows of numbers');
});
