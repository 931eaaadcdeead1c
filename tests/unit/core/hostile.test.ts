import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { beforeAll, describe, expect, test } from 'vitest';
import { FarrierError } from '$core/errors';
import type { FormatKind } from '$core/formats/format';
import { FORMAT_KINDS, formatKind } from '$core/formats/registry';
import { filesIn, readBack, recording, signal, sourceOf, written } from './format-files';

/** Damaged files for each reader. `FARRIER_FUZZ=10000 npm run unit -- hostile` tries as many. */
const TRIES = Number(process.env.FARRIER_FUZZ ?? 400);
/** A file may be slow to be refused, ms: far above what it takes, so that only a hang is found. */
const LONG_MS = 2000;

const wave = (n: number) => Float32Array.from({ length: n }, (_, i) => (i % 13 === 4 ? NaN : Math.sin(i / 9) * 40)); // prettier-ignore

async function sample(format: FormatKind): Promise<Uint8Array> {
  const of = recording([signal('Tie rod', wave(300)), signal('Deck', wave(280), { unit: 'm/s²' })]);
  if (format.kind === 'xlsx') return workbook();
  const bytes = await written(format, of);
  return format.kind === 'parquet' ? Object.values(filesIn(bytes))[0] : bytes;
}

async function workbook(): Promise<Uint8Array> {
  const book = new ExcelJS.Workbook();
  const sheet = book.addWorksheet('Readings');
  sheet.addRow(['Time [s]', 'Tie rod [kN]']);
  for (let i = 0; i < 60; i++) sheet.addRow([i / 50, i % 7]);
  return new Uint8Array(await book.xlsx.writeBuffer());
}

/** What may happen to a file: bytes turned, cut out, doubled, put in, an end that is missing. */
const harm = fc.array(
  fc.record({
    at: fc.double({ min: 0, max: 0.999999, noNaN: true }),
    do: fc.constantFrom('turn', 'cut', 'double', 'put in', 'end', 'zero', 'fill'),
    count: fc.integer({ min: 1, max: 40 }),
    byte: fc.integer({ min: 0, max: 255 }),
  }),
  { minLength: 1, maxLength: 6 },
);
function harmed(whole: Uint8Array, harms: { at: number; do: string; count: number; byte: number }[]): Uint8Array {
  let bytes = [...whole];
  for (const { at, do: what, count, byte } of harms) {
    const place = Math.floor(at * bytes.length);
    const some = bytes.slice(place, place + count);
    if (what === 'turn') bytes[place] ^= byte || 1;
    else if (what === 'cut') bytes.splice(place, count);
    else if (what === 'double') bytes.splice(place, 0, ...some);
    else if (what === 'put in') bytes.splice(place, 0, ...new Array<number>(count).fill(byte));
    else if (what === 'end') bytes = bytes.slice(0, place);
    else bytes.fill(what === 'zero' ? 0 : 255, place, place + count);
  }
  return Uint8Array.from(bytes);
} // prettier-ignore

describe('files that were damaged, by chance or on purpose', () => {
  const readers = FORMAT_KINDS.filter((f) => f.reading);
  beforeAll(async () => {
    for (const format of readers) await format.prepare?.();
  });

  test.each(readers)('$kind: is read, or refused in words; nothing hangs and nothing else is thrown', async (format) => {
    const whole = await sample(format);
    expect(readBack(format, whole).signals.length).toBeGreaterThan(0);
    let slowest = 0;
    fc.assert(
      fc.property(harm, (harms) => {
        const bytes = harmed(whole, harms);
        const begin = performance.now();
        try {
          const { signals } = readBack(format, bytes);
          for (const s of signals) {
            expect(Number.isInteger(s.length) && s.length >= 0).toBe(true);
            expect(s.read(0, Math.min(1000, s.length)).length).toBeLessThanOrEqual(1000 * s.width);
            s.read(Math.max(0, s.length - 10), Math.min(10, s.length));
          }
        } catch (error) {
          if (!(error instanceof FarrierError)) throw error;
          expect(error.text.what.length).toBeGreaterThan(5);
        }
        slowest = Math.max(slowest, performance.now() - begin);
      }),
      { numRuns: TRIES },
    );
    expect(slowest).toBeLessThan(LONG_MS);
  }, 600_000); // prettier-ignore

  test.each(readers)('$kind: nothing, and what is none of its kind', (format) => {
    for (const bytes of [
      new Uint8Array(0),
      new Uint8Array(3),
      strToU8('no such thing'),
      new Uint8Array(5000),
    ])
      expect(() => readBack(format, bytes)).toThrow(FarrierError);
  });
});

describe('workbooks', () => {
  const xlsx = formatKind('xlsx');
  const parts = (sheet: string) => ({
    'xl/workbook.xml': strToU8('<workbook xmlns:r="r"><sheets><sheet name="A" r:id="r1"/></sheets></workbook>'),
    'xl/_rels/workbook.xml.rels': strToU8('<Relationships><Relationship Id="r1" Target="worksheets/a.xml"/></Relationships>'),
    'xl/worksheets/a.xml': strToU8(sheet),
  }); // prettier-ignore
  const table = (rows: string) => `<worksheet><sheetData>${rows}</sheetData></worksheet>`;

  /** The same archive with another size written for its last file, in both places where it is said. */
  function saying(archive: Uint8Array, size: number, by: Uint8Array): Uint8Array {
    const out = Uint8Array.from(archive);
    const view = new DataView(out.buffer);
    for (let at = 0; at + 4 <= out.length; at++)
      for (const [mark, place] of [
        [0x04034b50, 22],
        [0x02014b50, 24],
      ])
        // prettier-ignore
        if (view.getUint32(at, true) === mark && view.getUint32(at + place, true) === by.length)
          view.setUint32(at + place, size, true);
    return out;
  }

  test('that say they unpack to far too much are refused, and who says too little gets no more than that', () => {
    const sheet = strToU8(table(`<row><c><v>${'0'.repeat(30e6)}</v></c></row>`));
    const bomb = zipSync({ ...parts(''), 'xl/worksheets/a.xml': sheet }, { level: 6 });
    expect(bomb.length).toBeLessThan(1e5);
    expect(() => readBack(xlsx, saying(bomb, 450e6, sheet))).toThrow(/450 MB when it is unpacked/);
    const before = process.memoryUsage().arrayBuffers;
    expect(() => readBack(xlsx, saying(bomb, 2000, sheet))).toThrow(FarrierError);
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(10e6);
  });

  test('entities of their own and unheard-of columns are refused, formulas give what was kept with them', () => {
    const laughs = `<!DOCTYPE x [<!ENTITY a "${'ha'.repeat(1000)}"><!ENTITY b "&a;&a;&a;">]><worksheet><sheetData><row><c><v>&b;</v></c></row></sheetData></worksheet>`;
    expect(() => readBack(xlsx, zipSync(parts(laughs)))).toThrow(FarrierError);
    expect(() => readBack(xlsx, zipSync(parts(table('<row><c r="ZZZZ1"><v>1</v></c></row>'))))).toThrow(
      /cells are read/,
    );
    const rows = [0, 1, 2].map((i) => `<row><c><v>${i}</v></c><c><f>HYPERLINK("x")+${i}</f><v>${i * 5}</v></c></row>`).join(''); // prettier-ignore
    const { signals } = readBack(xlsx, zipSync(parts(table(rows))), { rateHz: 10 });
    expect(signals.map((s) => [...s.read(0, s.length)]).at(-1)).toEqual([0, 5, 10]);
  });

  test('by another writer: the sheet with numbers is found, dates are instants, a named sheet is taken, the units stand in a row', async () => {
    const book = new ExcelJS.Workbook();
    book.addWorksheet('Cover').addRow(['Ebb run of the quay']);
    const sheet = book.addWorksheet('Run 1');
    sheet.addRow(['Date', 'Tie rod', 'Remark', 'Deck']);
    sheet.addRow(['', '(kN)', '', '(mm)']);
    for (let i = 0; i < 50; i++) {
      const row = sheet.addRow([new Date(Date.UTC(2027, 2, 14, 14, 0, 0, i * 250)), i / 4, 'fine', i === 7 ? null : -i]); // prettier-ignore
      row.getCell(1).numFmt = 'yyyy-mm-dd hh:mm:ss.000';
    }
    const other = book.addWorksheet('Run 2');
    other.addRow(['t', 'Load, kN']);
    for (let i = 0; i < 9; i++) other.addRow([i * 0.5, { formula: `A${i + 2}*2`, result: i }]);
    const bytes = new Uint8Array(await book.xlsx.writeBuffer());
    const back = readBack(xlsx, bytes);
    expect(back.start).toBe('2027-03-14T14:00:00.000Z');
    expect(back.facts).toEqual([['Columns left out', 'Remark'], ['Sheet', 'Run 1']]); // prettier-ignore
    expect(back.signals.map((s) => [s.name, s.unit, s.rate, s.length])).toEqual([['Tie rod', 'kN', { num: 4, den: 1 }, 50], ['Deck', 'mm', { num: 4, den: 1 }, 50]]); // prettier-ignore
    expect([...back.signals[1].read(5, 4)]).toEqual([-5, -6, NaN, -8]);
    const [load] = readBack(xlsx, bytes, { sheet: 'run 2' }).signals;
    expect([load.name, load.unit, load.rate, ...load.read(0, 3)]).toEqual(['Load', 'kN', { num: 2, den: 1 }, 0, 1, 2]); // prettier-ignore
    expect(() => readBack(xlsx, bytes, { sheet: 'Run 3' })).toThrow(/“Cover”, “Run 1”, “Run 2”/);
  });
});

test('a line of 100 MB is no table, and is refused in a moment', () => {
  const line = new Uint8Array(100e6).fill(0x31);
  const begin = performance.now();
  expect(() =>
    formatKind('csv').reading!.read(sourceOf(line, 'a.csv'), formatKind('csv').reading!.defaults),
  ).toThrow(FarrierError);
  expect(performance.now() - begin).toBeLessThan(10_000);
});

test('ten thousand columns, and names that come twice', () => {
  const head = Array.from({ length: 10_000 }, (_, i) => `Strain ${i % 5000}`).join(',');
  const rows = Array.from({ length: 20 }, (_, r) => [r / 10, ...Array.from({ length: 9999 }, (_, c) => c + r)].join(',')); // prettier-ignore
  const { signals } = readBack(formatKind('csv'), strToU8(`t${head.slice(8)}\n${rows.join('\n')}`));
  expect(signals.length).toBe(9999);
  expect(new Set(signals.map((s) => s.name)).size).toBe(9999);
  expect([...signals[9998].read(0, 2)]).toEqual([9998, 9999]);
}, 60_000);
