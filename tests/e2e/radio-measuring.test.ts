import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { bitsOfSymbols } from '$core/modulation/pattern';
import type { EmissionRun } from '$contract/radio-emissions';
import type { NoiseResult, NoiseView } from '$contract/radio-noise';
import { QUAY, QUAY_SOURCE, quayDevice } from '$engine/units/receiver/chain';
import { Person, openBrowser, removeFolder, seedDemo, startServer, type RunningServer } from './world';
import { readFileSync } from 'node:fs';

// What is measured with the demo’s receiver: noise figure, emissions, modulation. What is connected to it is set by the stand-in’s hand.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
beforeAll(async () => {
  server = await startServer(seedDemo('radio-measuring'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const noise = async () => (await p.api<NoiseView[]>('GET', '/api/radio/noise'))[0];
const results = () => p.api<NoiseResult[]>('GET', '/api/radio/noise/results');
const runs = () => p.api<EmissionRun[]>('GET', '/api/radio/emissions/runs');
const rx = async () => (await noise()).unit;
const hand = async (control: string, value: number) =>
  p.api('POST', `/api/units/${await rx()}`, { control, value });
const step = (words: string) => `//li[.//b[contains(.,"${words}")]]//button`;
const pressStep = (words: string, place = 0) =>
  p.until(`a button of “${words}”`, async () => {
    const buttons = await driver.findElements(By.xpath(step(words)));
    await buttons[place].click();
    return true;
  });
const idle = (what: string, ms = 60_000) =>
  p.until(`the end of ${what}`, async () => (await noise()).running === null, ms);

test('a noise figure from an empty list of sources to its table', async () => {
  await p.go('/radio/noise');
  await p.api('DELETE', '/api/radio/sources/NS-07');
  await p.go('/radio/noise');
  await p.untilText('[aria-label=Steps]', 'not kept any more');
  await p.press('Sources');
  await p.typeInto('dialog form label:nth-of-type(1) input', 'NS-21');
  await p.typeInto('dialog form textarea', QUAY_SOURCE.map((s) => `${s.hz / 1e6} ${s.enr} 0.16`).join('\n'));
  await p.untilText('dialog [role=status]', '10 points');
  await p.press('Keep it');
  await p.untilText('dialog ul', 'NS-21');
  await p.type(Key.ESCAPE);
  await p.until(
    'the dialog to close',
    async () => (await driver.findElements(By.css('dialog[open]'))).length === 0,
  );
  await p.choose('source', 'NS-21', '.says');
  await p.edit('points', '6', '.says');
  await p.edit('device', 'LNA-07', 'h1');
  await p.press('the stand-in is connected so');
  await pressStep('Source straight into the receiver', 0);
  await idle('the source on');
  await p.press('the stand-in is connected so');
  await pressStep('Source straight into the receiver', 1);
  await idle('the source off');
  await p.untilText('[aria-label="The receiver’s own noise"]', 'holds');
  for (const words of ['Put the device between them', 'Switch the source on']) {
    await p.press('the stand-in is connected so');
    await pressStep(words);
    await idle(words);
  }
  await p.until('the table', async () => (await results()).some((r) => r.device === 'LNA-07'));
  await p.untilText('[aria-label=Steps] tbody tr:first-child', /400/);
  const rows = await driver.executeScript<string[][]>(
    `return [...document.querySelectorAll('[aria-label=Steps] tbody tr')].map((r) => [...r.cells].map((c) => c.textContent.trim()))`,
  );
  expect(rows).toHaveLength(6);
  for (const [mhz, figure, expanded, gain] of rows.map((r) => r.map(Number))) {
    const truth = quayDevice(mhz * 1e6);
    expect(Math.abs(figure - truth.figureDb)).toBeLessThan(Math.max(0.3, expanded));
    expect(Math.abs(gain - truth.gainDb)).toBeLessThan(0.6);
  }
  expect((await noise()).settings.room).toBe(QUAY.roomK);
});

test('the own noise goes stale by a changed resolution; a second device needs no new one', async () => {
  await p.edit('resolving', '40', '.says');
  await p.untilText('[aria-label="The receiver’s own noise"]', /widths changed since/);
  await p.edit('resolving', '50', '.says');
  await p.untilText('[aria-label="The receiver’s own noise"]', 'holds');
  await p.edit('device', 'LNA-08', 'h1');
  for (const words of ['Put the device between them', 'Switch the source on']) {
    await p.press('the stand-in is connected so');
    await pressStep(words);
    await idle(words);
  }
  await p.until('both devices', async () => {
    const kept = await results();
    const [a, b] = ['LNA-07', 'LNA-08'].map((d) => kept.find((r) => r.device === d));
    return a !== undefined && b !== undefined && a.ownAtMs === b.ownAtMs;
  });
  await p.untilText('[aria-label=Steps]', 'LNA-07');
  // The page of a report has the numbers of the device that is measured now.
  const last = (await results()).find((r) => r.device === 'LNA-08')!;
  await p.press('Put in report');
  await p.until('the report', async () => /\/report\/[\w-]+$/.test(await driver.getCurrentUrl()));
  await p.untilText('main', 'LNA-08');
  await p.until('its points', async () => {
    const words = await p.text('main');
    return last.points.every(
      (own) => own.figureDb === null || words.includes(own.figureDb.toFixed(2).replace('-', '−')),
    );
  });
});

test('emissions from empty to suspects measured in one action; the report and the sheet have the numbers', async () => {
  for (const { id } of await runs()) await p.api('DELETE', `/api/radio/emissions/runs/${id}`);
  await hand('input', 3);
  const unit = await rx();
  const through = ['pier cable, 12 m', 'bow antenna, 3 m'];
  const range = { resolving: 120, detector: 'peak', dwell: 20, gain: null, through };
  await p.api('PUT', `/api/radio/${unit}/emissions`, {
    ranges: [{ ...range, from: 94, to: 103 }, { ...range, from: 190, to: 194 }],
    seeking: 0.2,
  }); // prettier-ignore
  await p.go('/radio/emissions');
  await p.untilText('[aria-label=Suspects]', 'Nothing was looked at yet');
  await hand('drive', 0);
  await p.press('Look without the device');
  await p.until('the ambient look', async () => (await runs()).some((r) => r.ambient && !r.partly));
  await hand('drive', 1);
  await p.press('Look again');
  await p.until('the look', async () => (await runs()).some((r) => !r.ambient && !r.partly));
  await p.until(
    'its suspects',
    async () => (await driver.findElements(By.css('[aria-label=Suspects] tbody tr'))).length === 3,
  );
  await p.press('Measure all suspects');
  await p.until(
    'all measured',
    async () => (await runs()).at(-1)!.suspects.every((s) => s.measured !== null),
    90_000,
  );
  await p.until('the last in the list', async () => !/—/.test(await p.text('[aria-label=Suspects] tbody')));
  const run = (await runs()).at(-1)!;
  expect(run.suspects.filter((s) => s.ambient).map((s) => Math.round(s.hz / 1e6))).toEqual([101]);
  for (const s of run.suspects.filter((x) => !x.ambient)) {
    expect(s.measured!.average).toBeLessThan(s.measured!.quasiPeak!);
    expect(s.measured!.quasiPeak!).toBeLessThan(s.measured!.peak);
  }
  const shown = (await p.text('[aria-label=Suspects] tbody')).replaceAll('−', '-');
  const first = run.suspects.find((s) => !s.ambient)!;
  for (const v of [first.measured!.peak, first.measured!.quasiPeak!, first.measured!.average])
    expect(shown).toContain(v.toFixed(1));
  await p.clickAt('.page-head a[href$="/csv"]');
  const csv = readFileSync(await p.downloaded('.csv'), 'utf8');
  expect(csv.split('\r\n')[1]).toContain(String(Number(run.suspects[0].measured!.quasiPeak!.toFixed(2))));
  await p.clickAt('.page-head a[href$="/pdf"]');
  expect(
    readFileSync(await p.downloaded('.pdf'))
      .subarray(0, 5)
      .toString(),
  ).toBe('%PDF-');
  await hand('input', 0);
}, 200_000);

test('a frame is found by its pattern, and what is wrong with the transmitter is read back', async () => {
  await p.go('/radio/modulation');
  const mean = async (key: string) =>
    Number((await p.text(`[data-measure=${key}] td:nth-child(2)`)).replace('−', '-').replace(/\s/g, ''));
  await p.until(
    'captures',
    async () => Number(/(\d+) captures/.exec(await p.text('.page-head'))?.[1] ?? 0) > 3,
  );
  expect(await mean('evmRms')).toBeLessThan(1.5);
  // Each frame begins with the same symbols: they are taken from a capture that begins where the power rises after the pause.
  await hand('telemetryOff', 2500);
  await hand('telemetryUneven', 1);
  await p.edit('captures', '5', '[aria-label=Numbers]');
  await p.until('its offset', async () => Math.abs((await mean('offsetHz')) - 2500) < 30);
  await p.until('its imbalance', async () => Math.abs(Math.abs(await mean('imbalance')) - 1) < 0.1);
  const bits = (await p.text('[aria-label=Bits] .mono')).replace(/\s/g, '');
  expect(bits).toMatch(/^[01]{60,}$/);
  // Symbol by symbol as a table, in the place of a picture.
  const first = '.grid-stack-item[gs-id=symbols] [aria-label="What this picture shows"]';
  await p.clickAt(`${first} option[value=table]`);
  await p.until('a row for each symbol', async () => (await driver.findElements({ css: '[aria-label=Symbols] tbody td.mono' })).length > 5); // prettier-ignore
  expect(await p.text('[aria-label=Symbols] tbody td.mono')).toMatch(/^[01]{2}$/);
  await p.clickAt(`${first} option[value=symbols]`);
  // A number becomes a channel with its limit: what is read here is read there, and a rule or a board may have it.
  await p.clickAt('[data-measure=offsetHz] button');
  await p.typeInto('[role=dialog] input', '2000', Key.ENTER);
  await p.press('log it as a channel');
  await p.untilText('[role=dialog]', '“Carrier off by at 868 MHz” is a channel now');
  await p.press('log it as a channel');
  await p.untilText('[role=dialog]', 'It is a channel already');
  await p.type(Key.ESCAPE);
  await p.untilText('[data-measure=offsetHz]', '▲');
  const { id, settings } = (await p.api<{ parts: { channels: { id: string; name: string; settings: { warnAbove: number; warnBelow: number; at: number } }[] } }>('GET', '/api/overview?parts=channels')).parts.channels.find((c) => c.name === 'Carrier off by at 868 MHz')!; // prettier-ignore
  expect(settings).toMatchObject({ warnAbove: 2000, warnBelow: -2000, at: 868 });
  await p.until('its limit to be passed by what was read', async () => {
    const alarms = await p.api<{ source: string; level: string; says: string }[]>('GET', '/api/alarms');
    const [, at] = /above 2000 Hz: ([\d.]+)/.exec(alarms.find((x) => x.source === id)?.says ?? '') ?? [];
    return Math.abs(Number(at) - 2500) < 30;
  });
  // A pattern that nobody sends is not found, and that is said.
  await p.edit('pattern', bitsOfSymbols(new Array<number>(24).fill(3), 2), '.says');
  await p.untilText('.fault', 'pattern was not found');
  await p.edit('pattern', Key.BACK_SPACE, '.says');
  await p.until(
    'captures again',
    async () => Number(/(\d+) captures/.exec(await p.text('.page-head'))?.[1] ?? 0) > 1,
  );
  await hand('telemetryOff', 0);
  await hand('telemetryUneven', 0);
});

test('a constellation of one’s own is described, and read by its points', async () => {
  await p.choose('scheme', 'a constellation of one’s own', '.says');
  await p.untilText('.fault', 'fewer than two points');
  await p.press('describe its points');
  await p.typeInto('[aria-label="Points of one’s own"] textarea', '1 0\n0 1\n-1 0\n0 -1');
  await p.press('Read by these');
  await p.until('what it reads', async () => /4 points of one’s own/.test(await p.text('div.says')));
  await p.until(
    'captures',
    async () => Number(/(\d+) captures/.exec(await p.text('.page-head'))?.[1] ?? 0) > 2,
  );
  const evm = Number((await p.text('[data-measure=evmRms] td:nth-child(2)')).replace(/\s/g, ''));
  expect(evm).toBeLessThan(1.5);
  expect(await p.consoleErrors()).toEqual([]);
});
