import { By, Key, type WebDriver, type WebElement } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { FormatKind } from '$core/formats/format';
import { sigmf } from '$core/formats/sigmf/sigmf';
import { TakeReader } from '$store/take/reader';
import { when } from '$core/condition/condition';
import type { RadioView } from '$contract/radio';
import { tone } from '../unit/core/radio/signals';
import { recording, signal, written } from '../unit/core/format-files';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import {
  Person,
  folder,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
} from './world';

// A band as its users meet it: the demo's receiver, whose air is known, listened to, measured, recorded and read again.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
beforeAll(async () => {
  server = await startServer(seedDemo('radio'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

/** The take that was recorded last. */
const newest = () => {
  const takes = join(folder, 'radio', 'takes');
  return readdirSync(takes)
    .filter((f) => f.endsWith('.take'))
    .map((f) => new TakeReader(join(takes, f)))
    .sort((a, b) => Number(BigInt(b.head.startNs) - BigInt(a.head.startNs)))[0];
};
const views = () => p.api<RadioView[]>('GET', '/api/radio');
const view = async () => (await views()).find((v) => v.name === 'Quay receiver')!;
const listen = async (change: object) => p.api('PUT', `/api/radio/${(await view()).unit}/listening`, change);
const canvas = (label: string) => p.find(`canvas[aria-label^="${label}"]`);
const rows = async () =>
  driver.executeScript<string[][]>(
    `return [...document.querySelectorAll('[aria-label=Peaks] tbody tr')].map((r) => [...r.cells].map((c) => c.textContent.trim().replace('−', '-')))`,
  );
const reads = async (what: string) =>
  Number((await p.text(`[data-reads=${what}]`)).replace('−', '-').match(/-?[\d.]+/)![0]);
/** Presses at a place of an element, from its middle, and lets go elsewhere. */
const drag = (on: WebElement, from: { x: number; y: number }, to: { x: number; y: number }) =>
  driver
    .actions({ async: true })
    .move({ origin: on, ...from })
    .press()
    .move({ origin: on, x: Math.round((from.x + to.x) / 2), y: Math.round((from.y + to.y) / 2) })
    .move({ origin: on, ...to })
    .release()
    .perform();

test('the band is heard: its lines go on, what is there stands in the list of peaks', async () => {
  await p.go('/radio');
  await p.untilText('[aria-label=Peaks]', /\d+ peaks/);
  await p.untilText('div.says', 'nothing is missed that lasts');
  // The crane's carrier at 867.15 MHz reads the level that is set, within the receiver's accuracy.
  await p.until('the carrier', async () =>
    (await rows()).some(
      ([, mhz, dbm]) => Math.abs(Number(mhz) - 867.15) < 0.002 && Math.abs(Number(dbm) + 71) < 1,
    ),
  );
});

test('the highest line finds the hopper on all its channels, which no single moment shows', async () => {
  await p.clickAt('[data-line=highest]');
  await p.press('Put the pins on it');
  await p.type(Key.ESCAPE);
  await p.until('its channels', async () => {
    const { measuring } = await view();
    if (measuring.line !== 'highest') return false;
    const text = await p.text('[aria-label=Peaks]');
    return Number(/(\d+) peaks/.exec(text)?.[1]) >= 16;
  });
});

test('pins go to the highest and on to the next; less rise asked for makes more peaks; their distance is read', async () => {
  await p.clickAt('[data-line=now]');
  await p.press('Put the pins on it');
  await p.type(Key.ESCAPE);
  await p.press('Highest');
  await p.until('a pin', async () => (await view()).measuring.pins.length === 1);
  await p.clickAt('[aria-label^="Pin on 867.15"]');
  await p.until('two pins', async () => (await view()).measuring.pins.length === 2);
  await p.until('the distance', async () => {
    const [one, two] = await rows();
    return Math.abs(Number(two[2]) - Number(one[2]) - Number(two[3])) < 0.35 && Number(two[3]) < -3;
  });
  const count = async () => Number(/(\d+) peaks?/.exec(await p.text('[aria-label=Peaks]'))?.[1] ?? 0);
  const before = await count();
  await p.edit('rise', '0', '[aria-label=Peaks]');
  await p.until('more peaks', async () => (await count()) > before + 10);
  await p.edit('rise', '6', '[aria-label=Peaks]');
  // By the keyboard the chosen pin goes to its neighbour in frequency.
  const at = async () => (await view()).measuring.pins[1].hz;
  const from = await at();
  await driver.findElement(By.css('body')).sendKeys(Key.ARROW_RIGHT);
  await p.until('the pin to move', async () => (await at()) > from + 50_000);
});

test('what cannot be had is refused in place, with what can', async () => {
  await p.edit('resolving', '0.001', '.says');
  await p.untilText('.editor', 'nearest that can be had');
  await p.type(Key.ESCAPE);
  expect((await view()).listening.resolving).toBe(10);
});

test('a pin’s frequency is counted when that is asked for', async () => {
  await p.clickAt('[aria-label="Pin 1"]');
  await p.press('count it');
  await p.untilText('[aria-label=Peaks]', /counted 86[789]\d{6} Hz ±/);
  await p.press('counted');
  await p.untilText('[aria-label=Peaks]', 'count it');
});

test('a band wider than the receiver’s is swept in steps, and what stands in it reads what it read before', async () => {
  // The list has room for some peaks only, and which are highest changes: a pin keeps the carrier in it.
  const { unit } = await view();
  await p.api('PUT', `/api/radio/${unit}/measuring`, {
    pins: [{ id: 1, hz: 867.15e6, follows: true }],
    to: 1,
  });
  await listen({ span: 'around', around: 868.6, wide: 16, resolving: 20 });
  await p.untilText('div.says', /\d+ steps, a sweep takes [\d.]+ m?s/);
  await p.until('the carrier', async () => {
    const [, mhz, dbm] = (await rows())[0];
    return Math.abs(Number(mhz) - 867.15) < 0.01 && Math.abs(Number(dbm) + 71) < 1.5;
  });
  await p.press('All it hears');
  await p.untilText('div.says', 'nothing is missed that lasts');
  await listen({ resolving: 10 });
});

test('the telemetry’s occupied width is that of its filter; its centre becomes the centre by one press', async () => {
  await listen({ span: 'around', around: 868.1, wide: 1 });
  await p.untilText('div.says', '868.1 MHz');
  // 500,000 symbols a second, roll-off 0.35: between the symbol rate and 1.35 times of it.
  await p.until('its width', async () => {
    const kHz = await reads('occupied');
    return kHz > 480 && kHz < 675;
  });
  await p.press('Centre on it');
  await p.until('its centre', async () => Math.abs((await view()).listening.around - 868) < 0.03);
});

test('power in the channel and its neighbours becomes channels that a take records', async () => {
  await listen({ span: 'around', around: 868, wide: 3 });
  await p.edit('centre', '868', '[aria-label="Widths and powers"]');
  await p.untilText('[data-reads=channel]', 'dBm');
  // Frames are on four fifths of the time: −46 dBm less 1 dB in the mean.
  await p.until('the power', async () => Math.abs((await reads('channel')) + 47) < 1.5);
  await p.press('log it');
  await p.untilText('footer', '3 powers are channels now');
  const plan = await p.planPath();
  await p.api('PATCH', plan, { before: 0, stop: 'by hand', longest: 2 });
  await p.arm('bench', 'B7');
  await p.api('POST', '/api/record', { do: 'start' });
  await p.untilText('header .state', 'Watching');
  const take = newest();
  const own = take.signals.find((x) => x.name === 'Power at 868 MHz')!;
  expect(own).toMatchObject({ unit: 'dBm', width: 1 });
  // What a busy machine did not hear in time is missing, not made up.
  const values = take.values(own.id, 0, own.length).filter(Number.isFinite);
  expect(own.length).toBeGreaterThan(30);
  expect(values.length).toBeGreaterThan(15);
  const mean = 10 * Math.log10(values.reduce((a, v) => a + 10 ** (v / 10), 0) / values.length);
  expect(Math.abs(mean + 47)).toBeLessThan(1.5);
  take.close();
});

test('the waterfall’s pointer is dragged back: the line and its peaks are those of that moment', async () => {
  await p.go('/radio');
  await p.untilText('[aria-label=Peaks]', /\d+ peaks/);
  await p.until(
    'some history',
    async () => Number(await (await canvas('Moment')).getAttribute('data-seconds')) > 3,
    60_000,
  );
  const falls = await canvas('Moment');
  const { height } = await falls.getRect();
  await drag(falls, { x: 0, y: -Math.round(height / 2) + 8 }, { x: 20, y: -Math.round(height / 2) + 24 });
  await p.untilText('.band', 'as it was at the pointer');
  expect(await falls.getAttribute('aria-valuetext')).toMatch(/[\d.]+ s ago/);
  await p.press('back to now');
  await p.untilText('.band', 'the last 15 s');
});

test('the beacon’s pulse is caught, and its width and period are read', async () => {
  await p.go('/radio/pulses');
  const mean = async (key: string) =>
    Number((await p.text(`[data-measure=${key}] td:nth-child(3)`)).replace('−', '-'));
  await p.until('its pulses', async () => /1\d pulses/.test(await p.text('[aria-label=Pulses] h2')));
  expect(Math.abs((await mean('widthS')) - 1.152)).toBeLessThan(0.01);
  expect(Math.abs((await mean('periodS')) - 5)).toBeLessThan(0.005);
  expect(Math.abs((await mean('sweepHz')) - 96)).toBeLessThan(2);
  expect(Math.abs((await mean('droop')) - 1.2)).toBeLessThan(0.1);
  await p.press('Hold');
  const held = await p.text('.page-head');
  await new Promise((done) => setTimeout(done, 1200));
  expect(await p.text('.page-head')).toBe(held);
  await p.press('Go on');
  // Pictures are arranged as boards are: one more, one less, one wider; kept with the receiver.
  const places = async () => (await p.api<{ pictures: { pulses: { id: string; shows: string; x: number; w: number }[] } }[]>('GET', '/api/radio'))[0].pictures.pulses; // prettier-ignore
  const begin = await places();
  await p.press('Add a picture');
  await p.press('Magnitude');
  await p.until('one more', async () => (await places()).length === begin.length + 1);
  await p.clickAt('[aria-label="Take Waterfall away"]');
  await p.until('one less', async () => !(await places()).some((x) => x.shows === 'waterfall'));
  const wide = async () => (await places()).find((x) => x.id === 'power')!.w;
  await p.until('the power narrower', async () => {
    const box = await (await p.find('.grid-stack-item[gs-id=power]')).getRect();
    const [x, y] = [Math.round(box.x + box.width - 9), Math.round(box.y + box.height / 2)];
    await driver.actions().move({ x: x - 60, y }).move({ x, y }).press().move({ x: x - 80, y }).move({ x: x - 200, y }).release().perform(); // prettier-ignore
    await driver.wait(async () => (await wide()) < 15, 3000).catch(() => undefined);
    return (await wide()) < 15;
  });
  const kept = await places();
  await driver.navigate().refresh();
  await p.until('its pulses', async () => /1\d pulses/.test(await p.text('[aria-label=Pulses] h2')));
  await p.until('the picture as it was left', async () => Number(await (await p.find('.grid-stack-item[gs-id=power]')).getAttribute('gs-w')) === kept.find((x) => x.id === 'power')!.w); // prettier-ignore
  await p.press('Add a picture');
  await p.press('arrange all as in the beginning');
  await p.until('all as it began', async () => JSON.stringify(await places()) === JSON.stringify(begin));
  await p.find('[aria-label=Waterfall] canvas');
  // A level that nothing reaches begins nothing, and that is said.
  await p.edit('level', '-5');
  await p.untilText('.strip', 'Nothing was caught yet');
});

test('a band is recorded by a condition, and read again at another resolution', async () => {
  const { unit } = await view();
  await p.api('PATCH', `/api/units/${unit}`, { settings: { rate: 1, centre: 867.4 } });
  await p.until('the slower rate', async () => (await view()).receiver.sampleRateHz === 1e6);
  await p.api('POST', `/api/units/${unit}`, { control: 'carrier', value: -110 });
  const made = await p.api<{ id: string }[]>('POST', '/api/channels', [
    { name: 'Quay band', kind: 'radio samples', wire: { unit, terminal: 'R/iq' } },
    {
      name: 'Crane',
      kind: 'power in a band',
      wire: { unit, terminal: 'P/9' },
      settings: { from: 867.1, to: 867.2 },
    },
  ]);
  const plan = await p.planPath();
  await p.api('PATCH', plan, {
    start: 'when',
    startWhen: when(made[1].id, 'rises above', -90),
    before: 0.5,
    longest: 1,
  });
  await p.arm('bench', 'B7');
  await new Promise((done) => setTimeout(done, 1500));
  expect(await p.text('header .state')).toContain('Armed');
  await p.api('POST', `/api/units/${unit}`, { control: 'carrier', value: -60 });
  await p.untilText('header .state', 'Watching');
  await p.go('/inspect');
  await p.press('Listen to it');
  await p.untilText('h1', 'Radio');
  await p.untilText('.bar', /of 00:01/);
  // At its end the carrier is there, at its begin it is not.
  const level = async () => (await rows()).find(([, mhz]) => Math.abs(Number(mhz) - 867.15) < 0.002)?.[2];
  await p.until(
    'no carrier yet',
    async () =>
      /\d+ peaks?|No peak/.test(await p.text('[aria-label=Peaks]')) && (await level()) === undefined,
  );
  const slider = await p.find('input[aria-label="Place in the recording"]');
  await slider.sendKeys(Key.END);
  // Where a busy machine lost samples there is no picture: a little before there is.
  await p.until('the carrier', async () => {
    if (Math.abs(Number(await level()) + 60) < 1) return true;
    if (Number(await slider.getAttribute('value')) > 0.9)
      await slider.sendKeys(Key.ARROW_LEFT, Key.ARROW_LEFT, Key.ARROW_LEFT);
    await new Promise((done) => setTimeout(done, 200));
    return false;
  });
  await p.edit('resolving', '0.5', '.says');
  await p.untilText('div.says', /nothing is missed that lasts [\d.]+ ms/);
  await p.until('the carrier, finer', async () => Math.abs(Number(await level()) + 60) < 1);
});

test('a SigMF recording is a receiver: it is played, and heard at its own centre', async () => {
  const rate = 250_000;
  const iq = tone(rate, rate, 40_000, -33);
  const file = await written(
    sigmf as FormatKind,
    recording([
      signal('Band at 433.92 MHz', Array.from(iq), {
        width: 2,
        unit: 'V',
        quantity: '',
        rate: { num: rate, den: 1 },
      }),
    ]),
  );
  const { serial } = await p.api<{ serial: string }>('POST', '/api/units', { kind: 'recorded band' });
  const sent = await driver.executeAsyncScript<number>(
    `const [serial, text, done] = arguments; const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
     fetch('/api/units/' + serial + '/file', { method: 'POST', headers: { 'content-type': 'application/octet-stream', 'x-file-name': 'quay.sigmf' }, body: bytes }).then((r) => done(r.status), () => done(0))`,
    serial,
    Buffer.from(file).toString('base64'),
  );
  expect(sent).toBe(200);
  await p.until('it is played', async () =>
    (await views()).some((v) => v.unit === serial && v.receiver.centreHz === 433.92e6),
  );
  await p.go('/radio');
  const choice = await p.find('select[aria-label=Receiver]');
  await choice.findElement(By.css(`option[value="${serial}"]`)).click();
  await p.until('its tone', async () => {
    const [first] = await rows();
    return Math.abs(Number(first[1]) - 433.96) < 0.0005 && Math.abs(Number(first[2]) + 33) < 0.1;
  });
  // What was refused above is one.
  expect((await p.consoleErrors()).filter((e) => !e.includes('400 (Bad Request)'))).toEqual([]);
});
