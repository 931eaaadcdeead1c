import ExcelJS from 'exceljs';
import { strFromU8, unzipSync } from 'fflate';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  FILE_KINDS,
  NEW_SPREADSHEET,
  fileNameBy,
  unitsWanted,
  type Spreadsheet,
} from '$contract/spreadsheet';
import { NO_NAMES, sentenceText } from '$core/sentence/sentence';
import { spreadsheetSentence } from '$contract/spreadsheet';
import { Series } from '$contract/series';
import { closeApp, openApp, type App } from '$service/app';
import { atEnd } from '$service/at-end';
import { addSeries } from '$service/inspect/series';
import { logPage } from '$service/logbook';
import { beginOutgoing, endOutgoing, madeNow, outgoingFile, outgoingState } from '$service/outgoing';
import { SheetNames, writeBook } from '$service/sheets/book';
import {
  addSpreadsheet,
  changeSpreadsheet,
  removeSpreadsheet,
  viewSpreadsheets,
} from '$service/sheets/presets';
import { numbers } from '$service/sheets/sheet';
import { writeSheets } from '$service/sheets/write';
import { startStudy } from '$service/study/studies';
import { openTake } from '$service/takes';
import { makeTake } from '../takes';

// Takes as spreadsheets, in one action.
let folder: string;
let app: App;
const takes: string[] = [];
const HZ = 200;
const START = Date.UTC(2027, 2, 14, 14, 3, 7);
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-sheets-'));
  app = openApp(folder);
  for (const k of [1, 2])
    takes.push(
      makeTake(app, {
        name: k === 1 ? 'Pull: rod [a/b]' : 'Pull: rod [a?b]',
        facts: { Rod: `R-${k}`, 'Bolt size': '12.5', Remark: k === 1 ? '=HYPERLINK("x")' : 'smooth' },
        startMs: START + k * 3_600_000,
        signals: [
          { name: 'Tie rod load', unit: 'N', hz: HZ, values: Float32Array.from({ length: 2 * HZ }, (_, i) => (i === 100 ? NaN : 1000 * k + i)) },
          { name: 'Slip', unit: 'mm', hz: 10, values: Float32Array.from({ length: 20 }, (_, i) => i * k) },
        ],
        notes: [{ atS: 0.5, says: '+slipped' }],
      }),
    ); // prettier-ignore
  await startStudy(app, { kind: 'statistics', takeId: takes[0], name: 'Load' }, 'Ada').done;
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const bytesOf = async (change: Partial<Spreadsheet> = {}, more: { series?: string; takes?: string[] } = {}) => {
  const { id } = addSpreadsheet(app, { body: { ...NEW_SPREADSHEET, ...change } }, 'Ada');
  const { name, body } = await madeNow(app, { what: 'spreadsheet', spreadsheet: id, takes, ...more }, null);
  removeSpreadsheet(app, id, 'Ada');
  return { name, bytes: new Uint8Array(await new Response(body).arrayBuffer()) };
}; // prettier-ignore
const book = async (change: Partial<Spreadsheet> = {}, more: { series?: string; takes?: string[] } = {}) => {
  const { name, bytes } = await bytesOf(change, more);
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.load(bytes.buffer);
  const rows = (sheet: string) => {
    const out: unknown[][] = [];
    workbook
      .getWorksheet(sheet)!
      .eachRow({ includeEmpty: true }, (row) => out.push((row.values as unknown[]).slice(1)));
    return out;
  };
  return { name, bytes, workbook, rows, parts: unzipSync(bytes) };
};

describe('a workbook', () => {
  test('has a sheet for each part and take, with names that a sheet may have', async () => {
    const { workbook } = await book({ parts: ['summary', 'results', 'statistics', 'channels', 'samples', 'marks'] }); // prettier-ignore
    expect(workbook.worksheets.map((s) => s.name)).toEqual(['Summary', 'Results', 'Statistics', 'Channels', 'Pull- rod -a-b', 'Pull- rod -a-b 2', 'Marks']); // prettier-ignore
  });

  test('summary: real dates and numbers, text that begins like a formula stays text', async () => {
    const { rows, parts } = await book();
    const [head, first] = rows('Summary');
    const of = (title: string) => first[head.indexOf(title)];
    expect(of('Start (UTC)')).toEqual(new Date(START + 3_600_000));
    expect([of('Length [s]'), of('Bolt size'), of('Rod'), of('Remark')]).toEqual([2, 12.5, 'R-1', '=HYPERLINK("x")']); // prettier-ignore
    for (const [name, bytes] of Object.entries(parts))
      if (name.includes('worksheets')) expect(strFromU8(bytes)).not.toMatch(/<f[ >]/);
  });

  test('samples on a step: times by their place, on the line between, a gap is empty, other units', async () => {
    const { rows } = await book({ stepS: 0.05, units: 'force in kN, slip in m' });
    const [head, ...samples] = rows('Pull- rod -a-b');
    expect(head).toEqual(['Time [s]', 'Tie rod load [kN]', 'Slip [m]']);
    expect(samples).toHaveLength(40);
    expect(samples[3].map((v) => Number((v as number).toFixed(9)))).toEqual([0.15, 1.03, 0.0015]);
    // Sample 100 is missing: 0.5 s.
    expect(samples[10][0]).toBe(0.5);
    expect(samples[10][1]).toBeUndefined();
    // The last sample of the slow channel is at 1.9 s.
    expect(samples[38].map((v) => Number((v as number).toFixed(9)))).toEqual([1.9, 1.38, 0.019]);
    expect(samples[39][2]).toBeUndefined();
  });

  test('every sample: the slow channel stands once each; one of many: those between are left out', async () => {
    const every = (await book({ samples: 'every sample' })).rows('Pull- rod -a-b').slice(1);
    expect(every).toHaveLength(400);
    expect(every[20].slice(0, 3)).toEqual([0.1, 1020, 1]);
    expect(every[21][2]).toBeUndefined();
    expect(every.map((r) => r[2]).filter((v) => v !== undefined)).toEqual(Array.from({ length: 20 }, (_, i) => i)); // prettier-ignore
    const some = (await book({ samples: 'every so many', every: 50 })).rows('Pull- rod -a-b').slice(1);
    expect(some.map((r) => [r[0], r[1]])).toEqual([0, 50, 100, 150, 200, 250, 300, 350].map((i) => [i / HZ, i === 100 ? undefined : 1000 + i])); // prettier-ignore
  });

  test('all takes under each other: one sheet, each row with its take', async () => {
    const { workbook, rows } = await book({ parts: ['samples'], layout: 'all takes under each other', stepS: 0.5 }); // prettier-ignore
    expect(workbook.worksheets.map((s) => s.name)).toEqual(['Samples']);
    const [head, ...samples] = rows('Samples');
    expect(head).toEqual(['Take', 'Time [s]', 'Tie rod load [N]', 'Slip [mm]']);
    expect(samples.map((r) => [r[0], r[1]])).toEqual([0, 1].flatMap((k) => [0, 0.5, 1, 1.5].map((t) => [`Pull: rod [a${k ? '?' : '/'}b]`, t]))); // prettier-ignore
    expect(samples[6][2]).toBe(2200);
  });

  test('statistics are those of all samples, whatever is written of them', async () => {
    const { rows } = await book({ samples: 'every so many', every: 200, statistics: ['mean', 's', 'rms', 'lowest', 'highest', 'span', 'missing'], units: 'force in kN' }); // prettier-ignore
    const [head, load] = rows('Statistics');
    expect(head).toEqual(['Take', 'Channel', 'Unit', 'mean', 's', 'rms', 'lowest', 'highest', 'span', 'missing']); // prettier-ignore
    const x = Array.from({ length: 400 }, (_, i) => 1 + i / 1000).filter((_, i) => i !== 100);
    const mean = x.reduce((a, b) => a + b) / 399;
    const s = Math.sqrt(x.reduce((a, b) => a + (b - mean) ** 2, 0) / 398);
    expect(load.slice(0, 3)).toEqual(['Pull: rod [a/b]', 'Tie rod load', 'kN']);
    [mean, s, Math.sqrt(x.reduce((a, b) => a + b * b, 0) / 399), 1, 1.399, 0.399, 1].forEach((v, i) => expect(load[3 + i]).toBeCloseTo(v, 5)); // prettier-ignore
  });

  test('results say study, finding, value, unit and method; channels their calibration; marks their time', async () => {
    const { rows } = await book({ parts: ['results', 'channels', 'marks'] });
    const results = rows('Results').slice(1);
    expect(results.every((r) => r[0] === 'Pull: rod [a/b]' && r[1] === 'Load')).toBe(true);
    expect(results.some((r) => r[2] === 'Slip, mean' && r[3] === 9.5 && r[4] === 'mm')).toBe(true);
    expect(rows('Channels')[1].slice(1, 5)).toEqual(['Tie rod load', 'N', 200, 400]);
    expect(rows('Marks').filter((r) => r[4] === '+slipped').map((r) => r[1])).toEqual([0.5, 0.5]); // prettier-ignore
  });

  test('a series is a sheet: rows, what counts, statistics under it; without takes its rows are the takes', async () => {
    const { id } = addSeries(app, 'Rods: all', Series.parse({ columns: [{ of: 'fact', name: 'Rod' }, { of: 'finding', study: 'Load', label: 'Slip, mean' }] }), 'Ada'); // prettier-ignore
    const { workbook, rows, name } = await book({ parts: ['results'] }, { series: id, takes: [] });
    expect(name).toBe('Rods- all, 2027-03-14.xlsx');
    expect(workbook.worksheets.map((s) => s.name)).toContain('Rods- all');
    const table = rows('Rods- all');
    expect(table[0]).toEqual(['Take', 'Rod', 'Slip, mean [mm]', 'Counts', 'Why']);
    expect(table.find((r) => r[1] === 'R-1')!.slice(2, 4)).toEqual([9.5, 'yes']);
    expect(table.find((r) => r[0] === 'mean')![2]).toBe(9.5);
  });

  test('heads are frozen and filtered, widths are set, printing repeats the head within its area', async () => {
    const { workbook, parts } = await book();
    const sheet = workbook.getWorksheet('Summary')!;
    expect(sheet.views[0]).toMatchObject({ state: 'frozen', ySplit: 1, xSplit: 1 });
    expect(sheet.autoFilter).toBe('A1:K3');
    expect(sheet.getColumn(1).width).toBeGreaterThan(10);
    const names = strFromU8(parts['xl/workbook.xml']);
    expect(names).toContain('Print_Titles');
    expect(names).toContain('Print_Area');
  });

  test('what has more rows than a sheet holds goes on in the next, which is said', async () => {
    const to = join(folder, 'long.xlsx');
    function* rows() {
      for (let i = 0; i < 25; i++) yield [i];
    }
    const says = await writeBook(to, [{ title: 'Long', columns: [numbers('N')], rows: rows() }], () => undefined, 11); // prettier-ignore
    expect(says).toEqual(['Long goes on over 3 sheets: one holds 10 rows.']);
    const parts = unzipSync(readFileSync(to));
    expect(strFromU8(parts['xl/workbook.xml'])).toContain('name="Long, part 3"');
    expect(strFromU8(parts['xl/worksheets/sheet2.xml'])).toMatch(/<v>10<.*<v>19</s);
    rmSync(to);
  });
});

describe('as text', () => {
  test('one CSV file: comma as the decimal sign, semicolons, formulas disarmed, a table after the other', async () => {
    const { name, bytes } = await bytesOf({ as: FILE_KINDS[1], parts: ['summary', 'samples'], decimal: 'comma', separator: 'semicolon', stepS: 0.5, encoding: 'UTF-8' }); // prettier-ignore
    expect(name).toMatch(/\.csv$/);
    const text = new TextDecoder().decode(bytes);
    expect(text).toContain('\r\n0,5;;5\r\n');
    expect(text).toContain('1,5;1300;15\r\n');
    expect(text).toContain(`"'=HYPERLINK(""x"")"`);
  });

  test.each([
    ['UTF-8 with mark', [0xef, 0xbb, 0xbf], 'utf-8'],
    ['UTF-8', [], 'utf-8'],
    ['UTF-16', [0xff, 0xfe], 'utf-16le'],
    ['Windows-1252', [], 'windows-1252'],
  ] as const)('text as %s begins and reads as such', async (encoding, mark, decoder) => {
    const { bytes } = await bytesOf({ as: FILE_KINDS[1], parts: ['channels'], encoding, ends: 'LF', separator: 'tab' }); // prettier-ignore
    expect([...bytes.subarray(0, mark.length)]).toEqual(mark);
    const text = new TextDecoder(decoder).decode(bytes);
    expect(text).not.toContain('\r');
    expect(text.split('\n')[0]).toBe('Take\tChannel\tUnit\tRate [S/s]\tSamples\tSensor and settings\tCalibration'); // prettier-ignore
  });

  test('a folder of files is an archive with one for each sheet', async () => {
    const { name, bytes } = await bytesOf({ as: FILE_KINDS[2] });
    expect(name).toMatch(/\.zip$/);
    expect(Object.keys(unzipSync(bytes))).toEqual(['Summary.csv', 'Results.csv', 'Statistics.csv', 'Channels.csv', 'Pull- rod [a-b].csv', 'Pull- rod [a-b] 2.csv']); // prettier-ignore
  });
});

describe('what is kept', () => {
  test('by name, changed, taken away; units that are none are refused with the words that are wrong', () => {
    const { id } = addSpreadsheet(app, {}, 'Ada');
    expect(viewSpreadsheets(app).map((s) => s.name)).toEqual(['Spreadsheet']);
    expect(addSpreadsheet(app, {}, 'Ada').id).not.toBe(id);
    expect(viewSpreadsheets(app)[1].name).toBe('Spreadsheet 2');
    changeSpreadsheet(app, id, { name: 'Rods', body: { ...NEW_SPREADSHEET, file: '{Rod}' } });
    expect(viewSpreadsheets(app)[0]).toMatchObject({ name: 'Rods', body: { file: '{Rod}' } });
    const wrong = (units: string) => () => changeSpreadsheet(app, id, { name: 'Rods', body: { ...NEW_SPREADSHEET, units } }); // prettier-ignore
    expect(wrong('load kN')).toThrow(/“load kN” is not written like/);
    expect(wrong('load in smoots')).toThrow(/“smoots” is no unit/);
    for (const s of viewSpreadsheets(app)) removeSpreadsheet(app, s.id, 'Ada');
    expect(() => changeSpreadsheet(app, id, { name: 'x', body: NEW_SPREADSHEET })).toThrow(/no spreadsheet/);
  });

  test('the sentence says what will be written, and only what counts', () => {
    const says = (change: Partial<Spreadsheet>) =>
      sentenceText(spreadsheetSentence, { ...NEW_SPREADSHEET, ...change }, NO_NAMES);
    expect(says({})).toContain('on a fixed step of 0.02 s, on the line between, a sheet for each take.');
    expect(says({ samples: 'every so many' })).toContain('every so many: one of 10,');
    expect(says({ parts: ['summary'] })).not.toContain('samples');
    expect(says({})).not.toContain('decimal');
    expect(says({ as: FILE_KINDS[1] })).toContain('decimal point');
  });

  test('names of files by facts and dates; what is not known stays as it is written', () => {
    const values = new Map([['rod', 'R-1'], ['date', '2027-03-14']]); // prettier-ignore
    expect(fileNameBy('{Rod} of {date}: {nothing}', values)).toBe('R-1 of 2027-03-14- {nothing}');
    expect(fileNameBy('../../etc/passwd', values)).toBe('-..-etc-passwd');
    expect(fileNameBy(' . ', values)).toBe('Takes');
    expect(unitsWanted('tie rod load in kN; Slip in µm')).toEqual([{ of: 'tie rod load', unit: 'kN' }, { of: 'Slip', unit: 'µm' }]); // prettier-ignore
  });

  test('names of sheets: 31 letters, no two alike whatever their case, none that a program keeps for itself', () => {
    const names = new SheetNames();
    const made = ['a'.repeat(40), `${'A'.repeat(40)}x`, 'History', "'quoted'", '', '😀'.repeat(20), 'a:b\\c/d?e*f[g]'].map((t) => names.of(t)); // prettier-ignore
    expect(new Set(made.map((n) => n.toLowerCase())).size).toBe(made.length);
    for (const name of made) {
      expect(name.length).toBeLessThanOrEqual(31);
      expect(name).not.toMatch(/[:\\/?*[\]]|^'|'$|^history$/i);
      expect(name.isWellFormed()).toBe(true);
    }
  });
});

describe('files that are made while one goes on', () => {
  const until = async (id: string) => {
    while (outgoingState(app, id).state === 'making') await new Promise((r) => setTimeout(r, 5));
    return outgoingState(app, id);
  };

  test('it is begun, says how far it is, is taken as often as wanted, and nothing stays of what is ended', async () => {
    const { id, name } = await beginOutgoing(app, { what: 'spreadsheet', takes }, 'Ada');
    expect(name).toBe('Pull- rod [a-b] and 1 more, 2027-03-14.xlsx');
    const state = await until(id);
    expect(state).toMatchObject({ state: 'ready', share: 1, fault: null });
    for (let k = 0; k < 2; k++)
      expect((await new Response(outgoingFile(app, id).body).arrayBuffer()).byteLength).toBe(state.bytes);
    endOutgoing(app, id);
    expect(readdirSync(join(folder, 'outgoing'))).toEqual([]);
    expect(() => outgoingState(app, id)).toThrow(/no file/);
  });

  test('a take in any format; two of the same name are two files', async () => {
    const ask = { what: 'take' as const, take: takes[0], format: 'hdf5', signals: [], options: {} };
    const [a, b] = await Promise.all([beginOutgoing(app, ask, 'Ada'), beginOutgoing(app, ask, 'Bo')]);
    expect([a.name, a.id === b.id]).toEqual(['Pull: rod [a/b].h5', false]);
    const bytes = new Uint8Array(await new Response((await until(a.id), outgoingFile(app, a.id)).body).arrayBuffer()); // prettier-ignore
    expect(strFromU8(bytes.subarray(1, 4))).toBe('HDF');
    await until(b.id);
    endOutgoing(app, a.id);
    endOutgoing(app, b.id);
  });

  test('what has several files is an archive, and is called one', async () => {
    const { id } = await beginOutgoing(app, { what: 'take', take: takes[0], format: 'parquet', signals: [], options: {} }, 'Ada'); // prettier-ignore
    expect((await until(id)).name).toBe('Pull: rod [a/b].zip');
    const files = unzipSync(new Uint8Array(await new Response(outgoingFile(app, id).body).arrayBuffer()));
    expect(Object.keys(files)).toEqual(['Tie rod load', 'Slip'].map((channel) => `job=Job/take=Pull%3A rod %5Ba%2Fb%5D/channel=${channel}/samples.parquet`)); // prettier-ignore
    endOutgoing(app, id);
  });

  test('a plan has it written at a take’s end, by the first way that is kept; the logbook says where, and nothing half stays', async () => {
    const { id } = addSpreadsheet(app, { name: 'Rods', body: { ...NEW_SPREADSHEET, file: '{Rod}', parts: ['summary'] } }, 'Ada'); // prettier-ignore
    const { head } = openTake(app, takes[1]);
    await atEnd(app, { ...head, plan: { ...head.plan, atEnd: ['write the spreadsheet'] } });
    const [said] = logPage(app, { kind: 'plan' });
    expect(said.says).toMatch(
      /^At the end of Pull: rod \[a\?b\]: written to exports\/[\w-]+\/2-R-2-[\w-]+\.xlsx\.$/,
    );
    const file = join(folder, /exports\/\S+\.xlsx/.exec(said.says)![0]);
    const workbook = new ExcelJS.Workbook();
    await workbook.xlsx.load(new Uint8Array(readFileSync(file)).buffer);
    expect(workbook.worksheets.map((w) => w.name)).toEqual(['Summary']);
    expect(readdirSync(join(file, '..'))).toHaveLength(1);
    removeSpreadsheet(app, id, 'Ada');
  });

  test('what is wrong is said before it begins; what fails in the middle leaves no half file', async () => {
    await expect(beginOutgoing(app, { what: 'spreadsheet', takes: [] }, 'Ada')).rejects.toThrow(/at least one take/); // prettier-ignore
    await expect(beginOutgoing(app, { what: 'take', take: takes[0], format: 'xlsx', signals: [], options: {} }, 'Ada')).rejects.toThrow(/only read/); // prettier-ignore
    const reader = openTake(app, takes[0]);
    const take = { path: join(app.folder, 'takes', `${reader.head.id}.take`), name: 'x', startMs: 0 };
    const nowhere = join(folder, 'missing', 'x.xlsx');
    const watched = { progress: () => undefined, signal: { aborted: false } };
    expect(await writeSheets({ wanted: NEW_SPREADSHEET, takes: [take], tables: [], to: nowhere }, watched)).toMatchObject({ fault: { what: expect.any(String) as string } }); // prettier-ignore
    const to = join(folder, 'half.xlsx');
    const signal = { aborted: true };
    expect(await writeSheets({ wanted: { ...NEW_SPREADSHEET, samples: 'every sample' }, takes: [take], tables: [], to }, { progress: () => undefined, signal })).toMatchObject({ fault: { what: expect.stringContaining('Cancelled') as string } }); // prettier-ignore
    expect(existsSync(to)).toBe(false);
  });
});
