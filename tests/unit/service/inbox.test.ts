import {
  appendFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { closeApp, openApp, type App } from '$service/app';
import { Inbox, changeWatched, watchedSettings } from '$service/inbox';
import { logPage } from '$service/logbook';
import { addSpreadsheet } from '$service/sheets/presets';
import { openTake, takeRows } from '$service/takes';

// A folder that other programs put files into: each is taken once it is whole, once, and nothing is lost.
let folder: string;
let app: App;
let inbox: Inbox;
const at = (...parts: string[]) => join(folder, 'watched', ...parts);
const put = (name: string, text: string) => writeFileSync(at(name), text);
const csv = (rows: number, level = 1) => ['Time [s],Load [kN]', ...Array.from({ length: rows }, (_, i) => `${(i / 10).toFixed(1)},${level}`)].join('\n') + '\n'; // prettier-ignore
const names = (part: string) => (existsSync(at(part)) ? readdirSync(at(part)).sort() : []);
const takes = () => takeRows(app).length;
const looks = async (times = 2) => {
  for (let k = 0; k < times; k++) await inbox.look();
};
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-inbox-'));
  app = openApp(folder);
  inbox = new Inbox(app);
  mkdirSync(at(), { recursive: true });
});
afterAll(async () => {
  inbox.end();
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

test('until it is wanted files are left alone', async () => {
  expect(watchedSettings(app)).toEqual({ files: 'left alone', spreadsheet: '' });
  put('early.csv', csv(50));
  await looks(3);
  expect(takes()).toBe(0);
  expect(existsSync(at('early.csv'))).toBe(true);
});
test('a file is taken when it has not grown from one look to the next, and only once', async () => {
  changeWatched(app, { files: 'brought in', spreadsheet: '' }, 'Ada');
  put('growing.csv', csv(20));
  await inbox.look();
  appendFileSync(at('growing.csv'), '2.0,7\n');
  await inbox.look();
  // The one that lay there before has been taken; the other still grew.
  expect(names('taken')).toEqual(['early.csv']);
  await inbox.look();
  await looks(3);
  expect(names('taken')).toEqual(['early.csv', 'growing.csv']);
  expect(takes()).toBe(2);
  const grown = takeRows(app).find((t) => t.name === 'growing')!;
  const reader = openTake(app, grown.id);
  const load = reader.signals.find((s) => s.name.includes('Load'))!;
  expect(load.length).toBe(21);
  expect(reader.values(load.id, 20, 1)[0]).toBe(7);
  expect(logPage(app).some((e) => e.by === 'the watched folder' && e.says.startsWith('growing'))).toBe(true);
});
test('names of files that are being copied, hidden ones, empty ones and folders are passed over', async () => {
  for (const name of ['copy.csv.part', '.hidden.csv', 'x.tmp', 'old.csv~']) put(name, csv(5));
  put('empty.csv', '');
  mkdirSync(at('a folder'));
  await looks(3);
  expect(takes()).toBe(2);
  expect(existsSync(at('empty.csv'))).toBe(true);
});
test('what cannot be read goes aside with its reason; a second one of its name loses neither', async () => {
  put('broken.wav', 'RIFF and then nothing');
  await looks();
  put('broken.wav', 'RIFF again');
  await looks();
  expect(names('refused').filter((n) => !n.endsWith('.txt'))).toEqual(['broken (2).wav', 'broken.wav']);
  expect(readFileSync(at('refused', 'broken.wav'), 'utf8')).toBe('RIFF and then nothing');
  const why = readFileSync(at('refused', 'broken.wav.why.txt'), 'utf8');
  expect(why.trim().length).toBeGreaterThan(15);
  expect(logPage(app).some((e) => e.kind === 'trouble' && e.says.includes('broken.wav'))).toBe(true);
  expect(takes()).toBe(2);
});
test('with its spreadsheet beside it, by the way that is named; a way that is gone is said, and the first one taken', async () => {
  addSpreadsheet(app, { name: 'Usual' }, 'Ada');
  changeWatched(app, { files: 'brought in and written as a spreadsheet', spreadsheet: 'Usual' }, 'Ada');
  put('coupon.csv', csv(100, 4.5));
  await looks();
  const book = new ExcelJS.Workbook();
  await book.xlsx.readFile(at('taken', 'coupon.csv.xlsx'));
  expect(book.worksheets.length).toBeGreaterThan(2);
  const cells = book.worksheets.flatMap((s) => { const all: unknown[] = []; s.eachRow((r) => r.eachCell((c) => void all.push(c.value))); return all; }); // prettier-ignore
  expect(cells).toContain('coupon');
  expect(cells).toContain(4.5);
  changeWatched(app, { files: 'brought in and written as a spreadsheet', spreadsheet: 'Gone' }, 'Ada');
  put('coupon.csv', csv(100, 5.5));
  await looks();
  expect(names('taken').filter((n) => n.startsWith('coupon'))).toEqual(['coupon (2).csv', 'coupon (2).csv.xlsx', 'coupon.csv', 'coupon.csv.xlsx']); // prettier-ignore
  expect(logPage(app).some((e) => e.says.includes('no spreadsheet “Gone”'))).toBe(true);
  expect(names('taken').some((n) => n.endsWith('.part'))).toBe(false);
  expect(() => changeWatched(app, { files: 'eaten' } as never, 'Ada')).toThrow();
});
