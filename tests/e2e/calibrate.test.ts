import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  Person,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
  measured,
} from './world';

// One pair of hands at the rig: what a calibration finds, and what it mends.
let driver: WebDriver;
let server: RunningServer;
let p: Person;

beforeAll(async () => {
  server = await startServer(seedDemo('calibrate'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
  await p.go('/rig');
  await p.untilText('.answer', '● answering');
});
afterAll(async () => {
  await driver?.quit();
  await server?.stop();
  removeFolder();
});

const hand = (unit: string, control: string, value: number) =>
  p.api('POST', `/api/units/${unit}`, { control, value });
const row = (name: string) => `tr[data-channel="${name}"]`;
const body = () => driver.switchTo().activeElement();

test('the overview says first what has to be dealt with, and the rail counts it', async () => {
  await p.go('/calibrate');
  await p.untilText('nav', '2 due before a take');
  const first = await p.text('tbody tr:first-child');
  expect(first).toContain('Blade 2 flap, root');
  expect(first).toContain('broken');
  await p.untilText(row('Nacelle, side'), 'expired');
  await p.untilText(row('Tip draw-wire'), /by points.*proven|proven.*by points/s);
});

/** Sets the wire, and waits until it has been read there for a while. */
async function wireAt(mm: number): Promise<void> {
  await hand('QH-0417', 'wireMm', mm);
  await measured(server.base, 0.7);
}

test('by points: a point that is off is told, measured again by key, and the line accepted with its uncertainty', async () => {
  await p.press('Tip draw-wire');
  await p.untilText('h1', 'Tip draw-wire');
  await p.edit('hold', '1');
  const measure = async (set: number) => {
    await wireAt(set);
    const before = await p.number('[data-testid=done]');
    await p.typeInto('body', Key.SPACE);
    await p.until(
      `a point with the wire at ${set} mm`,
      async () => (await p.number('[data-testid=done]')) > before,
    );
  };
  await measure(0);
  await measure(50);
  await measure(101.5); // the hand slipped
  await measure(150);
  await measure(200);
  expect(await p.number('[data-testid=largest]')).toBeGreaterThan(0.8);
  await p.untilText('.side', '100 mm is');
  await wireAt(100);
  await p.clickAt('[aria-label="Measure 100 mm again"]');
  await p.until('all points near the line', async () => (await p.number('[data-testid=largest]')) < 0.25);
  // One volt is 40.2 mm of wire, less a droop that is alike at both ends.
  expect(Math.abs((await p.number('[data-testid=slope]')) - 40.2)).toBeLessThan(0.05);
  expect(await p.number('[data-testid=expanded]')).toBeGreaterThan(0.1);
  await driver.executeScript('document.activeElement.blur()');
  await (await body()).sendKeys(Key.ENTER);
  await p.untilText('.points', 'Accepted');
  await hand('QH-0417', 'wireMm', -1);
  await p.go('/calibrate');
  await p.untilText(row('Tip draw-wire'), /proven/);
});

test('by a calibrator’s tone: its level stands in the sentence, and what it is said to give makes the sensitivity', async () => {
  await p.press('Nacelle, fore–aft');
  await p.untilText('h1', 'Nacelle, fore–aft');
  await p.untilText('.sentence', '10 m/s² rms at 159.15 Hz');
  const { parts } = await p.api<{ parts: { channels: { name: string; settings: { sensitivity: number } }[] } }>('GET', '/api/overview?parts=channels'); // prettier-ignore
  const { sensitivity } = parts.channels.find((c) => c.name === 'Nacelle, fore–aft')!.settings;
  const measure = async (words: string) => {
    await p.press(words);
    await p.until('it to be measured', async () => (await p.text('.columns')).includes('Measure again'));
    return p.number('[data-testid=sensitivity]');
  };
  await hand('QH-0417', 'shaker', 1);
  const first = await measure('Measure the tone');
  expect(Math.abs(first / sensitivity - 1)).toBeLessThan(0.03);
  // The same tone, said to be a tenth higher: the sensor gives that much less for each unit.
  await p.edit('level', '11');
  await p.untilText('.sentence', '11 m/s² rms');
  const second = await measure('Measure again');
  expect(Math.abs(first / second / 1.1 - 1)).toBeLessThan(0.005);
  await p.edit('level', '10');
  await measure('Measure again');
  await p.press('Accept');
  await p.untilText('.columns', 'Accepted: in force from now on');
  await hand('QH-0417', 'shaker', 0);
  await p.go('/calibrate');
  await p.untilText(row('Nacelle, fore–aft'), /by reference tone.*proven|proven.*by reference tone/s);
});

test('the shunts of all bridges at once tell a wrong value from a broken gauge; the value is put right and the bridge reads true', async () => {
  await p.clickAt('.job');
  await p.press('Blade set C, root bridges');
  await p.untilText('.job', 'Blade set C');
  await p.go('/calibrate/bridges');
  await p.until('live readings', async () =>
    Number.isFinite(await p.number(`${row('Blade 1 root, 0°')} td.num`)),
  );
  await p.press('Check shunts of 12');
  await p.untilText(row('Blade 2 root, edgewise'), 'wrong value');
  const said = await p.text(row('Blade 2 root, edgewise'));
  expect(said).toContain('4 times as much');
  expect(said).toContain('full bridge with a quarter bridge’s value');
  await p.untilText(row('Blade 2 root, 240°'), 'dead');
  await p.untilText(row('Blade 3 root, 120°'), 'pegged');
  await p.untilText(row('Blade 1 root, 120°'), 'is that of 350 Ω, not of 120 Ω');
  expect(await p.text('[role=status].aside')).toContain('8 right');
  await p.press('Take the value that the shunt gives');
  await p.untilText(row('Blade 2 root, edgewise'), '✓ right');
  await p.press('Balance');
  await p.untilText('[role=status].aside', 'balanced');
  await hand('BR-0001', 'strain', 800);
  await p.until(
    'the mended bridge at 800 µε like its neighbour',
    async () =>
      Math.abs((await p.number(`${row('Blade 2 root, edgewise')} td.num`)) - 800) < 8 &&
      Math.abs((await p.number(`${row('Blade 3 root, edgewise')} td.num`)) - 800) < 8,
  );
  await hand('BR-0001', 'strain', 0);
  await p.clickAt('.job');
  await p.press('Brinewheel II proof test');
  await p.untilText('.job', 'Brinewheel');
});

test('shunts before and after stand in the take as its proof; what is not proven is said before', async () => {
  await hand('QH-0417', 'lifted', 1);
  const plan = await p.planPath();
  await p.api('PATCH', plan, { start: 'by hand' });
  await p.api('PATCH', plan, { stop: 'by hand' });
  await p.api('PATCH', plan, { before: 0 });
  await p.api('PATCH', plan, { shunts: 'before and after' });
  await p.api('PATCH', plan, { shuntSeconds: 1 });
  await p.go('/record');
  await p.untilText('header .state', 'Watching');
  await p.type('a');
  await p.untilText('dialog[open]', 'Blade 2 flap, root broken');
  await p.untilText('dialog[open]', 'Nacelle, side expired');
  await p.typeInto('#fact-0', Key.chord(Key.CONTROL, 'a'), 'bench');
  await p.typeInto('#fact-1', 'C');
  await p.typeInto('#reason', 'to see the shunts', Key.ENTER);
  await p.untilText('header .state', 'Armed');
  await p.untilText('header .state', 'shunts');
  await p.untilText('header .state', 'BW2-C-16');
  await p.press('Start');
  await p.untilText('header .state', 'Recording take 16');
  await measured(server.base, 1.5);
  await p.press('End take');
  await p.untilText('header .state', 'Watching', 20_000);
  await p.go('/inspect');
  await p.untilText('h1', 'BW2-C-16');
  await p.press('About BW2');
  const cells = async (name: string) =>
    (await p.text(`[data-testid=proofs] tr[data-name="${name}"]`)).replaceAll('−', '-');
  // 350 Ω with 100 kΩ across it is a strain of -350 / 100 350 / 2.08 = -1677 µε.
  expect(await cells('Blade 1 flap, root')).toContain('-1677');
  // The torque shaft: 0.8735 mV/V at 2.004 mV/V for 5 kN·m.
  expect(await cells('Shaft torque')).toContain('-2.179');
  expect(Number((await cells('Shaft torque')).match(/(-?[\d.]+) %/)![1])).toBeCloseTo(0, 0);
  await p.untilText('.facts', 'Since before the take the zero moved most at');
  await p.untilText('.facts', 'Armed all the same: to see the shunts');
  await hand('QH-0417', 'lifted', 0);
});

test('a value found wrong: old takes are read anew with a reason, what was computed from it too; the old reading is one click away', async () => {
  await p.go('/calibrate');
  await p.press('Shaft torque');
  await p.press('by sheet');
  const sensitivity = await p.find('[aria-label="Output at full scale"]');
  await sensitivity.sendKeys('2.1');
  await p.press('See what it makes');
  await p.untilText('[data-testid=sheet-slope]', '2.38');
  await p.press('Accept');
  await p.untilText('.well', 'Accepted');
  await p.press('history');
  await p.untilText('section', 'by sheet');
  await p.clickAt('[aria-label="Choose BW2-B-15"]');
  await p.typeInto('[aria-label=Reason]', 'wrong output taken from the sheet');
  await p.press('Correct 1 take');
  await p.untilText('[role=status].well', 'Power computed anew');
  await p.untilText('nav', '1 out of date');
  await p.press('bring all up to date');
  await p.until('all studies up to date', async () => !(await p.text('nav')).includes('out of date'), 30_000);
  await p.clickAt('tr:has([aria-label="Choose BW2-B-15"]) a');
  await p.untilText('.meaning', 'Shaft torque');
  const value = async (name: string) => p.number(`tr[data-name="${name}"] td.num`);
  await p.until('the torque at the cursor', async () => Number.isFinite(await value('Shaft torque')));
  const [torque, power] = [await value('Shaft torque'), await value('Power')];
  await p.press('Read as on the day of the take');
  await p.untilText('.meaning', 'Read as on the day');
  await p.until('another torque', async () => (await value('Shaft torque')) !== torque);
  // By the sheet of the day 2.004 mV/V stood for 5 kN·m, now 2.1: torque and power both read less.
  expect(torque / (await value('Shaft torque'))).toBeCloseTo(2.004 / 2.1, 2);
  expect(power / (await value('Power'))).toBeCloseTo(2.004 / 2.1, 1);
  expect(await p.consoleErrors()).toEqual([]);
});
