import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Key, type WebDriver } from 'selenium-webdriver';
import { SerialPort } from 'serialport';
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  Person,
  downloads,
  folder,
  openBrowser,
  pause,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
  measured,
} from './world';

// Units, sensors and channels in one browser: added, tried, read, pasted, computed, taken along.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
let pty: ChildProcess | undefined;
let board: SerialPort | undefined;

beforeAll(async () => {
  server = await startServer(seedDemo('rig'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  board?.close();
  pty?.kill();
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

/** Opens the channels with only those of a name: the table draws what is in view. */
async function look(name: string): Promise<void> {
  await p.go('/channels');
  await p.typeInto('[aria-label="Find a channel"]', name);
}
const row = (name: string) => `tr[data-name="${name}"]`;
const cell = (name: string, key: string) => `${row(name)} td[data-key=${key}]`;

test('a unit is added from the catalogue and tried out: a line as output pulses, an output is set, a self-test passes', async () => {
  await p.go('/rig');
  await p.untilText('.head .answer', '● answering');
  await p.press('Add a unit');
  await p.clickAt('[data-kind="bench chassis"]');
  await p.untilText('.head .answer', '● answering');
  await p.untilText('h2', 'Bench chassis');
  await p.clickAt('[aria-label^="B8/2"]');
  await p.press('out');
  await p.clickAt('[role=switch][aria-label=Level]');
  await p.untilText('aside .level', 'level high');
  await p.press('Generate');
  await p.untilText('aside', '10 Hz, 50 % high');
  await p.clickAt('[aria-label^="B9/1"]');
  await p.typeInto('#try-value', '2.5');
  // The unit says how it is each second: what is being typed stays.
  await measured(p.base, 2.5);
  await p.find('#try-value').then((field) => field.sendKeys(Key.ENTER));
  await p.until('the output at 2.5 V', async () => (await p.number('[data-testid=probe]')) === 2.5);
  await p.press('Self-test');
  await p.untilText('.test', 'Self-test passed');
  await p.clickAt('[aria-label^="B4/5"]');
  await p.untilText('.clue', 'Nothing is connected');
});

test('trying out is refused while a take is armed, and says why', async () => {
  await p.api('POST', '/api/record', {
    do: 'arm',
    facts: { Operator: 'bench', 'Blade set': 'C' },
    reason: 'a test',
  });
  await p.clickAt('[aria-label^="B9/1"]');
  await p.typeInto('#try-value', '3', Key.ENTER);
  await p.untilText('aside [role=alert]', 'trying out would disturb it');
  await p.api('POST', '/api/record', { do: 'disarm' });
});

test('smart sensors are read: the differences are shown first, then the channel and the drawer have them', async () => {
  await p.api('POST', '/api/channels', {
    name: 'Test load',
    kind: 'bridge sensor',
    wire: { unit: 'BC-0001', terminal: 'B1/3' },
    settings: { unit: 'kN', sensitivity: 2.5, fullScale: 5 },
  });
  await p.press('Read smart sensors');
  await p.untilText('section[data-terminal="B1/3"]', '2.5 mV/V');
  expect(await p.text('section[data-terminal="B1/3"]')).toContain('2.003 mV/V');
  await p.press('Take over 1');
  await p.go('/channels/sensors');
  await p.untilText('tr[data-serial="210-3107"]', '14 Mar 2027');
  expect(await p.text('tr[data-serial="210-3107"]')).toContain('Test load');
  // A day is typed as it is written in the place of the browser, or as 2028-03-14 anywhere.
  await p.clickAt('tr[data-serial="210-3107"] button');
  await p.clickAt('[data-field=calibratedUntil]');
  const due = '.editor [aria-label=Due]';
  await p.typeInto(due, Key.chord(Key.CONTROL, 'a'), '2028-02-30', Key.TAB);
  await p.untilText('.editor .wrong', '“2028-02-30” is no day. Write it like');
  await p.typeInto(due, Key.chord(Key.CONTROL, 'a'), '2028-03-15', Key.ENTER);
  await p.untilText('tr[data-serial="210-3107"]', '15 Mar 2028');
  await p.api('POST', '/api/units/BC-0001', { control: 'B1/3', value: 5 });
  await look('Test load');
  await p.until(
    '5 kN by the chip’s sensitivity',
    async () => Math.abs((await p.number(`${row('Test load')} td.now`)) - 5.065) < 0.01,
  );
});

test('a block from a spreadsheet is shown before it is written: units understood, commas asked about, refusals explained, one undo', async () => {
  await p.api('POST', '/api/layout', {
    columns: ['name', 'kind', 'gaugeFactor', 'resistance', 'range', 'now'],
  });
  await p.go('/channels');
  await p.clickAt(cell('Blade 1 flap, root', 'gaugeFactor'));
  await p.paste('2,05\t0.35 kΩ\t±2000 µε\n2,06\t350\tlots\n2,07\t350\t0 to 0.0015 m/m\n');
  await p.untilText('dialog[open]', 'Say what the comma means');
  await driver.findElement({ xpath: '//label[contains(., "decimal sign")]/input' }).click();
  await p.untilText('dialog[open]', 'Write 5 cells');
  const shown = await p.text('dialog[open]');
  expect(shown).toContain('“lots”');
  expect(shown).toContain('Write it like “0 to 100 kN”');
  await p.press('Write 5 cells');
  await p.untilText(cell('Blade 1 flap, root', 'gaugeFactor'), '2.05');
  await p.untilText(cell('Blade 1 flap, root', 'range'), '±2000 µε');
  await p.untilText(cell('Blade 3 flap, root', 'range'), '0 to 1500 µε');
  await p.untilText(cell('Blade 2 flap, root', 'range'), '0 to 1000 µε');
  await p.type(Key.chord(Key.CONTROL, 'z'));
  await p.untilText(cell('Blade 1 flap, root', 'gaugeFactor'), '2.08');
});

test('cells by keyboard: typed in place, refused in place, written to a whole block, moved to another place', async () => {
  await p.clickAt(cell('Blade 1 flap, root', 'gaugeFactor'));
  await p.type('0', Key.ENTER);
  await p.untilText('.why', 'Metal gauges have about 2');
  await p.type(Key.ESCAPE);
  await p.type(Key.chord(Key.SHIFT, Key.ARROW_DOWN));
  await p.type(Key.chord(Key.SHIFT, Key.ARROW_DOWN));
  await p.type('2', '.', '1');
  await p.type(Key.chord(Key.CONTROL, Key.ENTER));
  for (const blade of [1, 2, 3])
    await p.untilText(cell(`Blade ${blade} flap, root`, 'gaugeFactor'), /^2\.1$/);
  const names = () =>
    driver.executeScript<string[]>(
      'return [...document.querySelectorAll("tr[data-name]")].map((r) => r.dataset.name)',
    );
  await p.clickAt(cell('Blade 1 flap, root', 'kind'));
  await p.type(Key.chord(Key.ALT, Key.ARROW_DOWN));
  await p.until('the second place', async () => (await names())[1] === 'Blade 1 flap, root');
  await p.api('POST', '/api/layout', { columns: ['name', 'kind', 'wire', 'now', 'share', 'calibration'] });
});

test('a formula with an error is marked at its place and mended; units are checked through it', async () => {
  await p.go('/channels');
  await p.clickAt(row('Power'));
  await p.clickAt('aside [data-field=formula]');
  const editor = await p.find('.cm-content');
  expect(await editor.getText()).toBe('"Shaft torque" * "Shaft speed" * pi / 30');
  await editor.sendKeys(Key.chord(Key.CONTROL, 'a'), 'mean("Shaft torqe", 1');
  await p.untilText('.editor .wrong', 'There is no channel “Shaft torqe”');
  expect(await p.text('.cm-lintRange-error')).toBe('"Shaft torqe"');
  await editor.sendKeys(Key.chord(Key.CONTROL, 'a'), 'mean("Shaft torque", 1');
  await p.untilText('.editor .wrong', 'the channel is in kW');
  await editor.sendKeys(Key.chord(Key.CONTROL, 'a'), 'convert("Shaft torque" * "Shaft speed", "kW"');
  await p.until('no fault', async () => (await driver.findElements({ css: '.editor .wrong' })).length === 0);
  await editor.sendKeys(Key.ENTER);
  await p.untilText('aside [data-field=formula]', 'convert("Shaft torque" * "Shaft speed", "kW")');
});

test('signals of a bus whose units are none: the others are taken as they are, for these the unit is asked, each by its name', async () => {
  const unit = await p.api<{ serial: string }>('POST', '/api/units', { kind: 'CAN bus' });
  const text =
    'VERSION ""\nBU_: A\nBO_ 256 Drive: 8 A\n SG_ Pull : 0|16@1+ (0.1,0) [0|100] "kN" A\n SG_ Swing : 16|16@1+ (1,0) [0|100] "blorps" A\n SG_ Tilt : 32|16@1+ (1,0) [0|100] "wot/s" A\n';
  await p.api('PATCH', `/api/units/${unit.serial}`, { database: { name: 'drive.dbc', text } });
  await p.go(`/rig/${unit.serial}`);
  for (const name of ['Pull', 'Swing', 'Tilt']) await p.clickAt(`[aria-label="Pick ${name}"]`);
  await p.clickAt('.make button');
  await p.untilText('dialog[open]', 'In which unit are these?');
  const asked = await p.text('dialog[open]');
  expect(asked).toContain('“blorps”');
  expect(asked).not.toContain('Pull');
  await p.typeInto('[aria-label="Unit of Swing"]', 'mm');
  await p.typeInto('[aria-label="Unit of Tilt"]', 'wots', Key.ENTER);
  await p.untilText('dialog[open] [role=alert]', 'wots');
  await p.typeInto('[aria-label="Unit of Tilt"]', Key.chord(Key.CONTROL, 'a'), 'deg/s', Key.ENTER);
  await p.until(
    'all to be taken',
    async () => (await driver.findElements({ css: 'dialog[open]' })).length === 0,
  );
  const { channels } = await p.api<{ channels: { name: string; settings: { unit: string } }[] }>(
    'GET',
    '/api/setup',
  );
  const units = Object.fromEntries(channels.map((c) => [c.name, c.settings.unit]));
  expect([units.Pull, units.Swing, units.Tilt]).toEqual(['kN', 'mm', '°/s']);
  await p.api('DELETE', `/api/units/${unit.serial}`);
});

test('a serial line: its lines are seen, the assistant takes them apart, a channel reads the board’s number', async () => {
  const [ours, theirs] = ['board', 'bench'].map((n) => join(folder, n));
  pty = spawn('socat', [`pty,raw,echo=0,link=${ours}`, `pty,raw,echo=0,link=${theirs}`], { stdio: 'ignore' });
  for (let i = 0; i < 100 && !(existsSync(ours) && existsSync(theirs)); i++) await pause(50);
  board = new SerialPort({ path: ours, baudRate: 115_200 });
  board.on('error', () => undefined); // its line is cut at the end
  let level = 3.25;
  const printing = setInterval(() => board?.write(`tide=${(level += 0.01).toFixed(2)};salt=34.1\n`), 100);
  try {
    const unit = await p.api<{ serial: string }>('POST', '/api/units', { kind: 'serial line' });
    await p.api('PATCH', `/api/units/${unit.serial}`, { settings: { port: theirs } });
    await p.go(`/rig/${unit.serial}`);
    await p.untilText('.head .answer', '● answering');
    await p.untilText('[role=log]', 'tide=');
    await p.press('Propose how to take them apart');
    await p.untilText('.proposal', 'as key=value');
    await p.press('Take it');
    await p.untilText('tr[data-row=tide]', 'tide');
    await p.clickAt('[aria-label="Pick tide"]');
    await p.press('Make 1 channel');
    await look('tide');
    await p.until(
      'the tide of the board',
      async () => Math.abs((await p.number(`${row('tide')} td.now`)) - level) < 1,
    );
    expect(await p.number(`${row('tide')} td.now`)).toBeGreaterThan(3.2);
    clearInterval(printing);
    pty.kill();
    await p.untilText(`${row('tide')} td.now`, 'lost');
  } finally {
    clearInterval(printing);
  }
});

test('a set-up travels: exported here, shown and imported on an empty Farrier, where it measures', async () => {
  await p.go('/channels');
  await p.press('Take along');
  await p.press('Export this set-up');
  const file = await p.downloaded('set-up.json');
  const setup = JSON.parse(readFileSync(file, 'utf8')) as { version: number; channels: unknown[] };
  const count = setup.channels.length;
  const other = await startServer(join(folder, 'empty'));
  try {
    p.base = other.base;
    await p.go('/channels');
    await p.press('Import a set-up');
    const newer = join(downloads, 'newer.json');
    writeFileSync(newer, JSON.stringify({ ...setup, version: 9 }));
    await p.typeInto('[aria-label="Set-up file"]', newer);
    await p.untilText('[role=alert]', 'It has version 9');
    await p.typeInto('[aria-label="Set-up file"]', file);
    await p.untilText('dialog[open]', `Channels added: ${count}`);
    await p.press('Import it');
    await p.untilText(`${row('Seal water')} td.now`, /^1[12]\.\d+/);
    expect(await (await p.find('[role=grid]')).getAttribute('aria-rowcount')).toBe(String(count));
    await p.until(
      'the dialog to be closed',
      async () => (await driver.findElements({ css: 'dialog[open]' })).length === 0,
    );
    await p.type(Key.chord(Key.CONTROL, 'z'));
    await p.untilText('.page', 'A channel is a name for what a terminal measures');
  } finally {
    p.base = server.base;
    await other.stop();
  }
  // What the server refused in words above is told by the browser, too.
  const refused = /status of 4\d\d/;
  expect((await p.consoleErrors()).filter((e) => !refused.test(e))).toEqual([]);
});
