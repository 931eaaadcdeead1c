import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { awakeS, compiled, remarksOn, withTerminals } from '$core/field/station/check';
import { onGrid } from '$core/field/station/grid';
import { concernsOf, losesAt, supplyText, type Care, type Known } from '$core/field/station/health';
import { KEEPS, STATION_MODELS, WAYS, stationModel, terminalsFor, type Way } from '$core/field/station/model';
import { columnsOf, roomOf, rowBytes, valuesOf, type Keep, type Measure, type Moment, type Programme } from '$core/field/station/programme'; // prettier-ignore
import { RowGathering } from '$core/field/station/rows';
import { columnOf, lostAt, readRows, rowsBytes, rowsSize, rowsThatFit, someRows, wrapsAt, type StationState } from '$core/field/station/state'; // prettier-ignore
import { programmeOf, programmeText, spanOf, spanS } from '$core/field/station/text';
import { freeOf, postsOf, wiringOf } from '$core/field/station/wiring';

// What a station is asked to do: said as text and read back, checked, its rows gathered, told when they are lost.
const keep = (as: Keep['as'], of: string, more: Partial<Keep> = {}): Keep => ({ as, of, from: '', when: false, ...more }); // prettier-ignore
const volts = (name: string, terminal: string, more: Partial<Measure> = {}): Measure => ({ name, unit: 'V', way: 'volts', kind: '5 V', terminal, times: 1, plus: 0, ...more }); // prettier-ignore
const GOOD: Programme = {
  model: 'ST-9',
  wakeS: 5,
  mainsHz: 50,
  measures: [volts('Level', 'U1', { unit: 'm', times: 2.5, plus: -1.25 })],
  tables: [{ name: 'short', moment: { kind: 'every', seconds: 120 }, rows: 0, keeps: [keep('average', 'Level')] }], // prettier-ignore
};
const faults = (programme: Programme) => remarksOn(programme).filter((r) => r.bad).map((r) => r.says); // prettier-ignore
const warnings = (programme: Programme) => remarksOn(programme).filter((r) => !r.bad).map((r) => r.says); // prettier-ignore

describe('a programme as text', () => {
  const name = fc.string({ minLength: 1, maxLength: 20 }).filter((t) => !/[\n\r]/.test(t));
  const number = fc.double({ noNaN: true, noDefaultInfinity: true });
  const measure: fc.Arbitrary<Measure> = fc.constantFrom(...(Object.keys(WAYS) as Way[])).chain((way) =>
    fc.record({
      name,
      unit: fc.oneof(fc.constant(''), name),
      way: fc.constant(way),
      kind: fc.constantFrom(...(WAYS[way].kinds as readonly string[])),
      terminal: fc.constantFrom('', 'U1', 'P2', 'S1'),
      times: number,
      plus: number,
    }),
  );
  const moment: fc.Arbitrary<Moment> = fc.oneof(
    fc.record({ kind: fc.constant('every' as const), seconds: fc.integer({ min: 1, max: 1e7 }) }),
    fc.record({ kind: fc.constant('event' as const), of: name, turns: fc.constantFrom('rises above' as const, 'falls below' as const), level: number }), // prettier-ignore
  );
  const aKeep: fc.Arbitrary<Keep> = fc.constantFrom(...KEEPS).chain(
    (as) =>
    fc.record({ as: fc.constant(as), of: name, from: as === 'wind' ? name : fc.constant(''), when: fc.boolean() }), // prettier-ignore
  );
  const programme: fc.Arbitrary<Programme> = fc.record({
    model: fc.constantFrom('ST-4', 'ST-9'),
    wakeS: fc.integer({ min: 1, max: 86_400 }),
    mainsHz: fc.constantFrom(50 as const, 60 as const),
    measures: fc.array(measure, { maxLength: 5 }),
    tables: fc.array(
      fc.record({ name, moment, rows: fc.integer({ min: 0, max: 1e6 }), keeps: fc.array(aKeep, { maxLength: 4 }) }), // prettier-ignore
      { maxLength: 4 },
    ),
  });

  test('whatever can be said is read back without loss, with the line of each part', () => {
    fc.assert(
      fc.property(programme, (p) => {
        // −0 is written as 0.
        const plain = JSON.parse(JSON.stringify(p)) as Programme;
        const read = programmeOf(programmeText(plain));
        expect(read.remarks).toEqual([]);
        expect(read.programme).toEqual(plain);
        expect(read.lines).toEqual({
          head: 1,
          measures: p.measures.map((_, k) => 2 + k),
          tables: p.tables.map((_, k) => 2 + p.measures.length + k),
        });
      }),
    );
  });
  test('text of any kind is read or remarked, never thrown at', () => {
    const piece = fc.constantFrom('station', 'ST-9', 'measure', '"A', '"A"', 'in', ':', 'volts', 'on', 'U1', 'keep', 'every', '5', 'min', ',', ';', '\n', '\\', 'rejects', '50', 'Hz', 'wakes'); // prettier-ignore
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.array(piece).map((p) => p.join(' ')),
        ),
        (text) => {
          const { remarks } = compiled(text);
          expect(remarks.every((r) => r.says.length > 0)).toBe(true);
        },
      ),
    );
  });
  test('one reads as one says it', () => {
    expect(programmeText(GOOD)).toBe(
      'station ST-9 wakes every 5 s, rejects 50 Hz\n' +
        'measure "Level" in "m": volts "5 V" on U1, times 2.5, plus -1.25\n' +
        'keep in "short" every 2 min: average of "Level"\n',
    );
    expect([60, 90, 3600, 5400, 86_400, 172_800].map(spanOf)).toEqual(['1 min', '90 s', '1 h', '90 min', '1 d', '2 d']); // prettier-ignore
    expect(programmeOf('station ST-9 wakes every 10 s, rejects 60 Hz\nkeep in "day" every midnight: nothing').programme.tables[0].moment).toEqual({ kind: 'every', seconds: 86_400 }); // prettier-ignore
  });
  test.each([
    ['measure "A": volts "5 V" on U1', 1, /first line names the station/],
    ['station ST-9 wakes every 5 s, rejects 55 Hz', 1, /50 or 60 is expected/],
    ['station ST-9 wakes every 5 s, rejects 50 Hz\nmeasure "A": smells "5" on U1', 2, /“smells” is no way of measuring/], // prettier-ignore
    ['station ST-9 wakes every 5 s, rejects 50 Hz\n\nkeep in "t" every 5 min: middle of "A"', 3, /“middle” cannot be kept/], // prettier-ignore
    ['station ST-9 wakes every 5 s, rejects 50 Hz\nmeasure A: volts', 2, /A name in quotation marks is expected where “A: volts” stands, column 9/], // prettier-ignore
    ['station ST-9 wakes every 5 s, rejects 50 Hz too', 1, /Nothing more is expected where “too” stands/],
    ['station ST-9 wakes every 5 s, rejects 50 Hz\nstation ST-9 wakes every 5 s, rejects 50 Hz', 2, /of one station/], // prettier-ignore
  ])('%j is remarked in its line', (text, line, says) => {
    const { programme, remarks } = compiled(text);
    expect(programme).toBeNull();
    expect(remarks[0]).toMatchObject({ bad: true, line });
    expect(remarks[0].says).toMatch(says);
  });
});

describe('the check', () => {
  test('a good programme has no fault, and compiles from its text', () => {
    expect(remarksOn(GOOD)).toEqual([]);
    expect(compiled(programmeText(GOOD)).programme).toEqual(GOOD);
  });
  const with_ = (part: Partial<Programme>): Programme => ({ ...GOOD, ...part });
  const table = (part: Partial<Programme['tables'][number]>) => with_({ tables: [{ ...GOOD.tables[0], ...part }] }); // prettier-ignore
  test.each<[string, Programme, RegExp]>([
    ['a sensor without a terminal', with_({ measures: [volts('Level', '')] }), /Level has no terminal\./],
    ['all terminals taken', with_({ model: 'ST-4', measures: ['U1', 'U2', 'U3', 'U4', ''].map((t, k) => volts(`V${k}`, t)) }), /all 4 of its kind are taken/], // prettier-ignore
    ['two on one terminal', with_({ measures: [volts('Level', 'U1'), volts('Other', 'U1')] }), /U1 is taken by Level/], // prettier-ignore
    ['a terminal of another kind', with_({ measures: [volts('Level', 'P1')] }), /P1 is no terminal for volts: these are U1 to U8/], // prettier-ignore
    ['a kind that the model lacks', with_({ model: 'ST-4', wakeS: 60, measures: [volts('Level', 'S1', { way: 'serial', kind: '1' })] }), /ST-4 has no input for a serial sensor/], // prettier-ignore
    ['a table that asks for what is never measured', table({ keeps: [keep('average', 'Depth')] }), /keeps Depth, which is never measured/], // prettier-ignore
    ['an event of what is never measured', table({ moment: { kind: 'event', of: 'Depth', turns: 'rises above', level: 1 } }), /waits for Depth, which is never measured/], // prettier-ignore
    ['an interval that is no multiple', table({ moment: { kind: 'every', seconds: 12 } }), /12 s is no multiple of 5 s/], // prettier-ignore
    ['two values of one name', with_({ measures: [volts('Level', 'U1'), volts('Level', 'U2')] }), /two values called “Level”/], // prettier-ignore
    [
      'a name that every station has',
      with_({ measures: [volts('Supply voltage', 'U1')] }),
      /two values called/,
    ],
    ['a name too long for the model', with_({ model: 'ST-4', measures: [volts('Level of the water', 'U1')] }), /longer than the 16 letters that ST-4 holds/], // prettier-ignore
    ['waking too often', with_({ wakeS: 0 }), /ST-9 wakes every 1 s at most often/],
    ['a model that there is not', with_({ model: 'ST-5' }), /“ST-5” is no model/],
    ['what the model cannot keep', { ...table({ keeps: [keep('deviation', 'Level')] }), model: 'ST-4' }, /ST-4 cannot keep the deviation/], // prettier-ignore
    ['more rows than fit', table({ rows: 9e6 }), /take \d+ KiB; ST-9 has 32768 KiB/],
    ['the same twice', table({ keeps: [keep('average', 'Level'), keep('average', 'Level')] }), /the average of Level twice/], // prettier-ignore
    ['a table that keeps nothing', table({ keeps: [] }), /short keeps nothing/],
    ['a name that no file takes', table({ name: 'my table' }), /letters, digits, _ and - alone/],
    ['wind without a direction', table({ keeps: [keep('wind', 'Level')] }), /needs a direction/],
    ['measures that take longer than a wake', with_({ wakeS: 1, model: 'ST-9', measures: Array.from({ length: 50 }, (_, k) => volts(`V${k}`, `U${k + 1}`)) }), /Its measures take 1\.2 s, longer than the 1 s/], // prettier-ignore
  ])('finds %s', (_, programme, says) => {
    expect(faults(programme).some((f) => says.test(f))).toBe(true);
  });
  test('warns of what may be meant', () => {
    expect(warnings(table({ rows: 20 }))).toEqual(['short overwrites its oldest row after 40 min.']);
    expect(warnings(with_({ measures: [...GOOD.measures, volts('Spare', 'U2')] }))).toEqual(['Spare is measured, but no table keeps it.']); // prettier-ignore
    expect(warnings(table({ moment: { kind: 'every', seconds: 35_000 } }))[0]).toMatch(/does not divide a day/); // prettier-ignore
    expect(warnings(with_({ tables: [] }))).toContain('No table keeps anything yet.');
  });
  test('words of one serial sensor share its terminal, the same word twice does not', () => {
    const word = (name: string, kind: string) => volts(name, 'S1', { way: 'serial', kind });
    const two = (kind: string) => with_({ measures: [word('Salt', '1'), word('Warmth', kind)], tables: [] });
    expect(faults(two('2'))).toEqual([]);
    expect(faults(two('1'))).toEqual(['S1 is taken by Salt already.']);
  });
  test('an analog reading takes a period of the mains: 60 Hz are sooner done than 50 Hz', () => {
    expect(awakeS(GOOD)).toBeCloseTo(0.024, 9);
    expect(awakeS({ ...GOOD, mainsHz: 60 })).toBeCloseTo(0.004 + 1 / 60, 9);
  });
  test('terminals are given out in order and never twice; what was chosen stays', () => {
    const p = withTerminals(with_({ measures: [volts('A', ''), volts('B', 'U1'), volts('C', ''), volts('D', '', { way: 'pulses', kind: 'counted' })] })); // prettier-ignore
    expect(p.measures.map((m) => m.terminal)).toEqual(['U2', 'U1', 'U3', 'P1']);
    const full = withTerminals({ ...with_({ measures: Array.from({ length: 5 }, (_, k) => volts(`V${k}`, '')) }), model: 'ST-4' }); // prettier-ignore
    expect(full.measures.map((m) => m.terminal)).toEqual(['U1', 'U2', 'U3', 'U4', '']);
  });
});

describe('memory', () => {
  test('tables without a number of rows share what is left so that they last equally long', () => {
    const p: Programme = {
      ...GOOD,
      tables: [
        { name: 'a', moment: { kind: 'every', seconds: 60 }, rows: 0, keeps: [keep('average', 'Level')] },
        { name: 'b', moment: { kind: 'every', seconds: 600 }, rows: 0, keeps: [keep('average', 'Level'), keep('lowest', 'Level', { when: true })] }, // prettier-ignore
        { name: 'c', moment: { kind: 'every', seconds: 60 }, rows: 1000, keeps: [keep('average', 'Level')] },
      ],
    };
    const model = stationModel('ST-9')!;
    const [a, b, c] = roomOf(p, model);
    expect(c).toBe(1000);
    expect(Math.abs(a * 60 - b * 600)).toBeLessThan(600);
    const used = a * rowBytes(1) + b * rowBytes(3) + c * rowBytes(1);
    expect(used).toBeLessThanOrEqual(model.memory);
    expect(used).toBeGreaterThan(model.memory - rowBytes(1) * 2 - rowBytes(3) * 2);
  });
  test('of both models the tables of any good programme fit into the memory', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STATION_MODELS),
        fc.array(fc.record({ seconds: fc.constantFrom(60, 600, 3600), rows: fc.integer({ min: 0, max: 5000 }), keeps: fc.integer({ min: 1, max: 5 }), event: fc.boolean() }), { minLength: 1, maxLength: 3 }), // prettier-ignore
        (model, tables) => {
          const p: Programme = {
            ...GOOD,
            model: model.name,
            wakeS: 60,
            tables: tables.map(({ seconds, rows, keeps, event }, k) => ({
              name: `t${k}`,
              moment: event ? { kind: 'event', of: 'Level', turns: 'rises above', level: 1 } : { kind: 'every', seconds }, // prettier-ignore
              rows,
              keeps: (['average', 'lowest', 'highest', 'sample', 'total'] as const).slice(0, keeps).map((as) => keep(as, 'Level')), // prettier-ignore
            })),
          };
          if (remarksOn(p).some((r) => r.bad)) return;
          const rooms = roomOf(p, model);
          const bytes = rooms.reduce((sum, room, k) => sum + room * rowBytes(columnsOf(p, p.tables[k]).length), 0); // prettier-ignore
          expect(bytes).toBeLessThanOrEqual(model.memory);
          expect(Math.min(...rooms)).toBeGreaterThanOrEqual(1);
        },
      ),
    );
  });
});

describe('rows', () => {
  const gather = (keeps: Keep[], wakes: [atMs: number, values: Record<string, number>][], began = 0) => {
    const rows = new RowGathering(keeps, began);
    for (const [at, values] of wakes) rows.add(new Map(Object.entries(values)), at);
    return rows.close(wakes.at(-1)?.[0] ?? began);
  };
  test('average, extremes with their times, sample, total and deviation are those of the values', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 2, maxLength: 40 }), (values) => {
        const wakes = values.map((v, k): [number, Record<string, number>] => [(k + 1) * 5000, { A: v }]);
        const row = gather([keep('average', 'A'), keep('lowest', 'A', { when: true }), keep('highest', 'A', { when: true }), keep('sample', 'A'), keep('total', 'A'), keep('deviation', 'A')], wakes)!;
        const mean = values.reduce((a, b) => a + b, 0) / values.length;
        const std = Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / (values.length - 1));
        expect(row[0]).toBeCloseTo(mean, 4);
        expect(row[1]).toBe(Math.min(...values));
        expect(row[2]).toBe((values.indexOf(Math.min(...values)) + 1) * 5);
        expect(row[3]).toBe(Math.max(...values));
        expect(row[4]).toBe((values.indexOf(Math.max(...values)) + 1) * 5);
        expect(row[5]).toBe(values.at(-1));
        expect(row[6]).toBeCloseTo(values.reduce((a, b) => a + b, 0), 3);
        expect(row[7]).toBeCloseTo(std, 3);
      }), // prettier-ignore
    );
  });
  test('what is no number is left out; nothing but that gives none; no waking at all gives no row', () => {
    expect(gather([keep('average', 'A'), keep('total', 'A'), keep('lowest', 'A')], [[5000, { A: NaN }], [10_000, { A: 4 }]])).toEqual([4, 4, 4]); // prettier-ignore
    expect(gather([keep('average', 'A'), keep('total', 'A'), keep('deviation', 'A')], [[5000, { A: NaN }]])).toEqual([NaN, NaN, NaN]); // prettier-ignore
    expect(gather([keep('average', 'A')], [])).toBeNull();
  });
  test('wind from 350° and 10° comes from the north, and not from the south', () => {
    const [speed, from, spread] = gather([keep('wind', 'V', { from: 'D' })], [[5000, { V: 5, D: 350 }], [10_000, { V: 5, D: 10 }]])!; // prettier-ignore
    expect(Math.min(from, 360 - from)).toBeLessThan(1e-9);
    expect(speed).toBeCloseTo(5 * Math.cos(Math.PI / 18), 9);
    expect(spread).toBeCloseTo(10, 0);
  });
  test('columns are named by value and by what is kept of it, in its unit', () => {
    expect(columnsOf(GOOD, { keeps: [keep('highest', 'Level', { when: true }), keep('average', 'Supply voltage')] })).toEqual([{ name: 'Level, highest', unit: 'm' }, { name: 'Level, highest, after', unit: 's' }, { name: 'Supply voltage, average', unit: 'V' }]); // prettier-ignore
    expect(valuesOf(GOOD).map((v) => v.name)).toEqual(['Supply voltage', 'Board temperature', 'Level']);
  });
  test('go over the line and back, in as many bytes as was said; cut off they are refused', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 0, max: 6 }), (n, width) => {
        const piece = { run: 7, from: 12, width, times: Float64Array.from({ length: n }, (_, i) => 1.79e12 + i), torn: Uint8Array.from({ length: n }, (_, i) => i % 2), values: Float32Array.from({ length: n * width }, (_v, i) => (i === 3 ? NaN : i / 8)) }; // prettier-ignore
        const bytes = rowsBytes(piece);
        expect(bytes).toHaveLength(rowsSize(n, width));
        // However the bytes lie in memory.
        const shifted = new Uint8Array(bytes.length + 3);
        shifted.set(bytes, 3);
        expect(readRows(shifted.subarray(3))).toEqual(piece);
        expect(() => readRows(bytes.subarray(0, bytes.length - 1))).toThrow(/cut off/);
        // A part of them has the numbers of its own rows; a column those of its place.
        const part = someRows(piece, Math.floor(n / 2));
        expect(part.from).toBe(12 + Math.floor(n / 2));
        for (let k = 0; k < width; k++)
          expect([...columnOf(part, k)]).toEqual([...columnOf(piece, k)].slice(Math.floor(n / 2)));
      }),
    );
    for (const width of [1, 5, 64]) expect(rowsSize(rowsThatFit(61_440, width), width)).toBeLessThanOrEqual(61_440); // prettier-ignore
  });
});

describe('rows on even times', () => {
  const rows = (times: number[], torn: number[] = []) => ({
    times: Float64Array.from(times),
    torn: Uint8Array.from(times, (_, i) => Number(torn.includes(i))),
    width: 1,
    values: Float32Array.from(times, (_, i) => i),
  });
  const plain = (of: ReturnType<typeof onGrid>) => ({ ...of, runs: of.runs.map((r) => [r.first, [...r.columns[0]]]) }); // prettier-ignore
  test('rows that follow one another are one run, behind what is there', () => {
    expect(plain(onGrid(rows([30, 40, 50]), 0, 10, 3))).toEqual({ runs: [[3, [0, 1, 2]]], gaps: [], turnedAt: null, end: 6 }); // prettier-ignore
  });
  test('what is missing is a gap with its reason', () => {
    expect(plain(onGrid(rows([30, 60, 70]), 0, 10, 2))).toEqual({
      runs: [
        [3, [0]],
        [6, [1, 2]],
      ],
      gaps: [
        { first: 2, count: 1, reason: 'The station wrote no rows.' },
        { first: 4, count: 2, reason: 'The station wrote no rows.' },
      ],
      turnedAt: null,
      end: 8,
    });
    expect(onGrid(rows([30]), 0, 10, 1, true).gaps).toEqual([{ first: 1, count: 2, reason: 'Overwritten before they were fetched.' }]); // prettier-ignore
    expect(plain(onGrid(rows([0, 13, 40], [1]), 0, 10, 0))).toMatchObject({ runs: [[0, [0]], [4, [2]]], gaps: [{ first: 1, count: 3, reason: 'The power failed while a row was written.' }] }); // prettier-ignore
  });
  test('a clock that leapt years ahead begins another take; a time that is none is as good as torn', () => {
    expect(plain(onGrid(rows([0, 10, 1e9, 1e9 + 10]), 0, 10, 0))).toEqual({ runs: [[0, [0, 1]]], gaps: [], turnedAt: 2, end: 2 }); // prettier-ignore
    expect(plain(onGrid(rows([0, NaN, 20]), 0, 10, 0))).toMatchObject({ runs: [[0, [0]], [2, [2]]], turnedAt: null, end: 3 }); // prettier-ignore
  });
  test('a clock turned back is told where it was: nothing is laid over what is there', () => {
    expect(plain(onGrid(rows([0, 10, 20, 10, 20]), 0, 10, 0))).toEqual({ runs: [[0, [0, 1, 2]]], gaps: [], turnedAt: 3, end: 3 }); // prettier-ignore
  });
});

describe('what it holds, and what wants attention', () => {
  const NOW = Date.parse('2026-11-27T12:00:00Z');
  const table = { name: 'quarter', everyS: 900, columns: [], room: 400, first: 0, end: 390, oldestMs: NOW - 390 * 900_000, newestMs: NOW - 60_000, nextMs: NOW + 840_000 }; // prettier-ignore
  const state: StationState = { model: 'ST-9', serial: 'S', firmware: '', saidMs: NOW, supplyV: 12.6, boardC: 10, run: 5, check: 1, sinceMs: 0, compile: { state: 'none', remarks: [] }, tables: [table], output: false, adjusted: {}, restarts: 0 }; // prettier-ignore
  const known = (part: Partial<Known> = {}): Known => ({ state, live: null, contactAt: NOW, aheadS: 0, fetched: { quarter: 390 }, ...part }); // prettier-ignore
  const CARE: Care = { silentH: 24, batteryV: 11.5, clockS: 30, limits: [] };
  const keys = (k: Known, care = CARE, now = NOW) => concernsOf(k, care, now).map((c) => `${c.level} ${c.key}`); // prettier-ignore

  test('a table begins to overwrite with the row that it has no room for', () => {
    // Ten rows fit still: the eleventh overwrites.
    expect(wrapsAt(table)).toBe(table.newestMs + 11 * 900_000);
    expect(wrapsAt({ ...table, first: 5, end: 405 })).toBe(table.newestMs + 900_000);
    expect(wrapsAt({ ...table, newestMs: null })).toBeNull();
    expect(lostAt(table, 100)).toBe(table.newestMs + 111 * 900_000);
  });
  test('told in our time, whatever its clock says', () => {
    const off = known({ state: { ...state, saidMs: NOW - 3_600_000, tables: [{ ...table, newestMs: table.newestMs - 3_600_000 }] }, fetched: {} }); // prettier-ignore
    expect(losesAt(off, 'quarter')).toBe(table.newestMs + 11 * 900_000);
    expect(losesAt(known(), 'other')).toBeNull();
  });
  test('nothing about a station that is well', () => {
    expect(keys(known())).toEqual([]);
  });
  test('silence, a low battery, a clock, rows about to be lost and lost, a limit', () => {
    expect(keys(known({ contactAt: NOW - 25 * 3_600_000 }))).toEqual(['alarm silent']);
    expect(keys(known({ contactAt: null, state: null }))).toEqual([]);
    expect(keys(known({ state: { ...state, supplyV: 11.2 } }))).toEqual(['alarm battery']);
    expect(keys(known({ aheadS: -40 }))).toEqual(['warning clock']);
    expect(keys(known({ fetched: {} }))).toEqual(['warning memory quarter']);
    expect(keys(known({ fetched: {} }), CARE, NOW + 4 * 3_600_000)).toEqual(['alarm memory quarter']);
    expect(keys(known({ fetched: { quarter: 3 }, state: { ...state, tables: [{ ...table, first: 10, end: 410 }] } }))).toEqual(['alarm memory quarter']); // prettier-ignore
    const live = { atMs: NOW, values: [{ name: 'Level', unit: 'm', way: 'volts' as const, terminal: 'U1', reading: 1, value: 4.6 }] }; // prettier-ignore
    const limits = [{ of: 'Level', side: 'above' as const, at: 4.5 }];
    expect(concernsOf(known({ live }), { ...CARE, limits }, NOW)).toEqual([{ level: 'alarm', key: 'limit Level above', says: 'Level is above 4.500 m' }]); // prettier-ignore
    expect(keys(known({ live: { ...live, values: [{ ...live.values[0], value: null }] } }), { ...CARE, limits })).toEqual([]); // prettier-ignore
  });
  test('no volts are no empty battery: it runs from the cable', () => {
    expect(keys(known({ state: { ...state, supplyV: 0 } }))).toEqual([]);
    expect(supplyText(0, 11.5)).toMatch(/runs from the cable/);
    expect(supplyText(11, 11.5)).toMatch(/low/);
    expect(supplyText(13.2, 11.5)).toBe('being charged');
  });
});

describe('wiring', () => {
  test('each terminal that is used says which wire goes to which post; words of one sensor share theirs; what is free is named', () => {
    const p: Programme = { ...GOOD, measures: [volts('Level', 'U2'), volts('Salt', 'S1', { way: 'serial', kind: '1' }), volts('Warmth', 'S1', { way: 'serial', kind: '2' }), volts('Legs', 'U1', { way: 'thermocouple', kind: 'T' })] }; // prettier-ignore
    const wired = wiringOf(p);
    expect(wired.map((w) => [w.terminal, w.names])).toEqual([['U1', ['Legs']], ['U2', ['Level']], ['S1', ['Salt', 'Warmth']]]); // prettier-ignore
    for (const w of wired) {
      const posts = postsOf(w.terminal);
      expect(w.wires.every((x) => posts.includes(x.to))).toBe(true);
      // No two wires on one post.
      expect(new Set(w.wires.map((x) => x.to)).size).toBe(w.wires.length);
    }
    expect(wired[0].wires).toEqual([
      { from: 'positive leg', to: '+' },
      { from: 'negative leg', to: '−' },
    ]);
    expect(freeOf(p)).toEqual(['U3', 'U4', 'U5', 'U6', 'U7', 'U8', 'P1', 'P2']);
  });
  test('of both models every way that they can measure has its posts', () => {
    for (const model of STATION_MODELS)
      for (const way of Object.keys(WAYS) as Way[])
        for (const terminal of terminalsFor(model, way)) {
          const [w] = wiringOf({ measures: [volts('A', terminal, { way })] });
          expect(w.wires.every((x) => postsOf(terminal).includes(x.to))).toBe(true);
        }
  });
});
test('spans are read as they are written', () => {
  for (const s of [1, 30, 90, 120, 900, 3600, 5400, 86_400]) expect(spanS(spanOf(s))).toBe(s);
  for (const text of ['', '5', 'min', '5 weeks', '-5 s', '5 min 3']) expect(spanS(text)).toBeNaN();
});
