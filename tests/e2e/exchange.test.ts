import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { ReportView } from '$contract/report';
import type { SpreadsheetView } from '$contract/spreadsheet';
import type { TakeView } from '$contract/take';
import { formatKind } from '$core/formats/registry';
import type { Recording, Source } from '$core/formats/format';
import {
  Person,
  downloads,
  folder,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
} from './world';

// What goes out and comes in as files, and programs that ask by address.
let driver: WebDriver;
let server: RunningServer;
let data: string;
let p: Person;
beforeAll(async () => {
  data = seedDemo('exchange');
  server = await startServer(data);
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const takesNow = async () => (await p.api<{ takes: { id: string; name: string }[] }>('GET', '/api/takes')).takes; // prettier-ignore
async function readFile(path: string, kind: string, options: object = {}): Promise<Recording> {
  const bytes = new Uint8Array(readFileSync(path));
  const source: Source = { name: path, length: bytes.length, read: (at, n) => bytes.subarray(at, at + n) };
  const format = formatKind(kind);
  await format.prepare?.();
  return format.reading!.read(source, { ...format.reading!.defaults, ...options } as never);
}
test('a spreadsheet is said in a sentence; marked takes become it by one press, with the numbers of the takes', async () => {
  await p.go('/report/spreadsheets');
  await p.press('Another spreadsheet');
  await p.choose('samples', 'every so many', '[data-testid=spreadsheet]');
  await p.until('it to be kept', async () => (await p.api<SpreadsheetView[]>('GET', '/api/spreadsheets'))[0].body.samples === 'every so many'); // prettier-ignore

  await p.go('/inspect');
  await p.clickAt('[data-take="BW2-A-2"] .show');
  await p.untilText('h1', 'BW2-A-2');
  await p.clickAt('[data-take="BW2-A-1"] input');
  await p.untilText('.many', '2 marked');
  // The rail has the word, too: it says what the logbook says last.
  await p.clickAt('.many .pair button');
  const file = await p.downloaded('.xlsx');
  await p.untilText('[data-testid=outgoing]', /saved/).catch(() => undefined); // it goes by itself
  const parts = unzipSync(new Uint8Array(readFileSync(file)));
  const names = [...Buffer.from(parts['xl/workbook.xml']).toString().matchAll(/<sheet [^>]*name="([^"]*)"/g)].map((m) => m[1]); // prettier-ignore
  expect(names).toEqual(['Summary', 'Results', 'Statistics', 'Channels', 'BW2-A-2', 'BW2-A-1']);

  const [one] = (await takesNow()).filter((t) => t.name === 'BW2-A-1');
  const take = await p.api<TakeView>('GET', `/api/takes/${one.id}`);
  const torque = take.signals.find((s) => s.name === 'Shaft torque')!;
  const there = await readFile(file, 'xlsx', { sheet: 'BW2-A-1' });
  const read = there.signals.find((s) => s.name === 'Shaft torque')!;
  expect(read.unit).toBe(torque.unit);
  const json = await (await fetch(`${server.base}/api/takes/${one.id}/export?format=json&signals=${torque.id}`)).json() as { signals: { values: number[] }[] }; // prettier-ignore
  const [{ values }] = json.signals;
  // One of ten samples of the fastest channel: the torque may be slower.
  const each = Math.round((read.rate.num / read.rate.den) / (torque.rate.num / torque.rate.den) * 1e6) / 1e6; // prettier-ignore
  const compared = [...read.read(0, 5000)].flatMap((v, i) => (Number.isNaN(v) || !Number.isInteger(i / each) ? [] : [[v, values[i / each]]])); // prettier-ignore
  expect(compared.length).toBeGreaterThan(4);
  for (const [a, b] of compared) expect(a).toBeCloseTo(b, 4);
});

test('a file that another program puts into the watched folder is a take with its spreadsheet a moment later', async () => {
  await p.go('/report/spreadsheets');
  await p.choose('files', 'brought in and written', '[data-testid=watched]');
  await p.untilText('[data-testid=watched]', 'by the first way');
  const watched = join(data, 'watched');
  await p.until('the folder to be there', async () => existsSync(watched));
  writeFileSync(join(watched, 'press 7.csv'), ['s;Load [kN]', ...Array.from({ length: 50 }, (_, i) => `${i / 10};${(i / 4).toFixed(2)}`)].join('\n')); // prettier-ignore
  await p.until('the spreadsheet', async () => existsSync(join(watched, 'taken', 'press 7.csv.xlsx')));
  const take = (await takesNow()).find((t) => t.name === 'press 7')!;
  expect((await p.api<TakeView>('GET', `/api/takes/${take.id}`)).signals.map((s) => [s.name, s.unit])).toEqual([['Load', 'kN']]); // prettier-ignore
  await p.choose('files', 'left alone', '[data-testid=watched]');
});

test('a series is a PDF by one press: its table, its statistics, and the report stays to be changed', async () => {
  await p.go('/inspect');
  await p.press('series');
  await p.press('new series');
  await p.untilText('[data-testid=series]', 'BW2-A-1');
  await p.press('PDF');
  const file = await p.downloaded('.pdf');
  const text = spawnSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).stdout;
  for (const says of ['Series of specimens', 'BW2-A-1', 'BW2-B-15', 'Take']) expect(text).toContain(says);
  const { reports } = await p.api<{ reports: ReportView[] }>('GET', '/api/reports');
  expect(reports.filter((r) => r.pages[0].blocks.some((b) => b.kind === 'series'))).toHaveLength(1);
  // A second press uses the same.
  await p.press('PDF');
  await p.until('it to be printed again', async () => readdirSync(downloads).filter((n) => n.endsWith('.pdf')).length === 2); // prettier-ignore
  expect((await p.api<{ reports: ReportView[] }>('GET', '/api/reports')).reports).toHaveLength(
    reports.length,
  );
});

test('a take is saved in any format: what is made is shown, and read again as it was', async () => {
  const [one] = (await takesNow()).filter((t) => t.name === 'BW2-A-1');
  await p.go(`/inspect/${one.id}`);
  await p.press('Export');
  await (await p.find('#export-format option[value=hdf5]')).click();
  await p.press('Save the file');
  const back = await readFile(await p.downloaded('.h5'), 'hdf5');
  const take = await p.api<TakeView>('GET', `/api/takes/${one.id}`);
  expect(back.name).toBe('BW2-A-1');
  expect(back.signals.map((s) => [s.name, s.unit, s.length]).sort()).toEqual(take.signals.map((s) => [s.name, s.unit, s.length]).sort()); // prettier-ignore
});

test('a table with decimal commas is seen as channels before it is brought in, read otherwise at once, and remembered', async () => {
  const rows = Array.from({ length: 300 }, (_, i) => `${i + 1};${String(i / 50).replace('.', ',')};${String(2.5 + i / 8).replace('.', ',')};${i % 9}`); // prettier-ignore
  const path = join(folder, 'quay.csv');
  writeFileSync(path, `Logger of the quay\nNo.;Time;Tie rod load;Slip\n;s;kN;mm\n${rows.join('\n')}\n`);
  await p.go('/inspect');
  await p.press('Bring in');
  await (await p.find('input[type=file]')).sendKeys(path);
  await p.untilText('[data-testid=preview]', 'Tie rod load, kN');
  // The second column is found by its name; said otherwise, it is read otherwise at once.
  await p.untilText('[data-testid=preview]', '50 S/s');
  await p.choose('times', 'none');
  await p.untilText('[data-testid=preview]', /Give the sample rate/);
  await p.choose('times', 'as numbers');
  await p.untilText('[data-testid=preview]', '2.625');
  const before = (await takesNow()).length;
  await p.press('Bring it in');
  await p.until('the take to be there', async () => (await takesNow()).length === before + 1);
  const made = (await takesNow()).find((t) => t.name === 'quay')!;
  const take = await p.api<TakeView>('GET', `/api/takes/${made.id}`);
  expect(take.signals.map((s) => [s.name, s.unit, s.rate.num / s.rate.den])).toEqual([['No.', '1', 50], ['Tie rod load', 'kN', 50], ['Slip', 'mm', 50]]); // prettier-ignore
  const csv = await (await fetch(`${server.base}/api/takes/${made.id}/export?format=csv&signals=1`)).text();
  expect(csv.split('\r\n')[9]).toMatch(/^0\.16\d*,3\.5$/);
  await p.go('/inspect');
  await p.press('Bring in');
  await (await p.find('input[type=file]')).sendKeys(path);
  await p.untilText('[data-testid=recalled]', 'As the last file of this kind was read');
});

test('a token that may only read reads, changes nothing, and is nobody once it is taken back', async () => {
  await p.go('/programs');
  await p.untilText('[data-testid=endpoints]', '/api/takes/{id}/export');
  await p.typeInto('[data-testid=tokens] input[type=text]', 'Dashboard');
  await p.press('make it');
  await p.untilText('[data-testid=secret]', /farrier_/);
  const secret = await (await p.find('[data-testid=secret]')).getText();
  const ask = (path: string, more: RequestInit = {}, token = secret) => fetch(server.base + path, { ...more, headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' } }); // prettier-ignore
  expect((await ask('/api/takes')).status).toBe(200);
  const refused = await ask('/api/spreadsheets', { method: 'POST', body: '{}' });
  expect([refused.status, ((await refused.json()) as { error: { what: string } }).error.what]).toEqual([403, 'This token may only read.']); // prettier-ignore
  expect((await ask('/api/takes', {}, `${secret}x`)).status).toBe(401);
  const document = (await (await ask('/api/openapi.json')).json()) as { openapi: string };
  expect(document.openapi).toBe('3.1.0');
  // The page names it, and not its secret.
  await p.press('I have it');
  await p.untilText('[data-testid=tokens]', 'may only read');
  expect(await (await p.find('[data-testid=tokens]')).getText()).not.toContain(secret.slice(0, 20));
  await p.press('take it back');
  await p.untilText('[data-testid=tokens]', 'None yet');
  expect((await ask('/api/takes')).status).toBe(401);
});
