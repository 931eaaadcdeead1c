import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import wavefile from 'wavefile';
import { csv } from '$core/formats/csv/csv';
import { ByteRows, numberReader, TextRows, type Rows } from '$core/formats/csv/rows';
import type { Piece, Recording, Source } from '$core/formats/format';
import { formatOf } from '$core/formats/registry';
import { wav } from '$core/formats/wav/wav';
import { rateHz, sampledOf, startS, type Sampled } from '$core/samples/sampled';
import { decodeText } from '$core/text/utf';

const sourceOf = (content: Uint8Array | string, name = 'a.csv'): Source => {
  const bytes = typeof content === 'string' ? new TextEncoder().encode(content) : content;
  return { name, length: bytes.length, read: (at, count) => bytes.subarray(at, at + count) };
};
const signal = (name: string, values: ArrayLike<number>, num = 1000, startNs = 0): Sampled =>
  sampledOf(
    { id: name, name, quantity: '', unit: 'V', rate: { num, den: 1 }, startNs, width: 1 },
    Float32Array.from(values),
  );
const recording = (...signals: Sampled[]): Recording => ({ name: 'T', start: null, facts: [], signals });
const joined = (pieces: Iterable<Piece>): Uint8Array<ArrayBuffer> => {
  const parts = [...pieces].map((p) =>
    typeof p === 'string' ? new TextEncoder().encode(p) : (p as Uint8Array),
  );
  return Uint8Array.from(parts.flatMap((p) => [...p]));
};
const all = (s: Sampled) => [...s.read(0, s.length)];
const floats = fc.array(fc.float({ noNaN: true, min: Math.fround(-1e30), max: Math.fround(1e30) }), {
  minLength: 1,
  maxLength: 50,
});

describe('WAV', () => {
  const write = (r: Recording, gaps: 'silence' | 'the last value' = 'silence') =>
    joined(wav.writing!.write(r, { ...wav.writing!.defaults, gaps }));
  const read = (bytes: Uint8Array, options = wav.reading!.defaults) =>
    wav.reading!.read(sourceOf(bytes, 'x.wav'), options);

  test('what is written is read again, sample for sample, and another reader reads the same', () => {
    fc.assert(
      fc.property(floats, fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 200_000 }), (values, channels, rate) => {
        const signals = Array.from({ length: channels }, (_, k) => signal(`s${k}`, values.map((v) => v * (k + 1)), rate));
        const bytes = write(recording(...signals));
        const back = read(bytes);
        expect(back.signals.map(all)).toEqual(signals.map(all));
        expect(back.signals.map(rateHz)).toEqual(signals.map(() => rate));
        const other = new wavefile.WaveFile(bytes);
        const samples = other.getSamples(false, Float32Array) as unknown as Float32Array | Float32Array[];
        const columns = channels === 1 ? [samples as Float32Array] : (samples as Float32Array[]);
        expect(columns.map((c) => [...c])).toEqual(signals.map(all));
      }),
      { numRuns: 60 },
    ); // prettier-ignore
  });

  test.each(['8', '16', '24', '32', '32f', '64'])(
    'samples of %s bits by another writer are shares of full scale',
    (bits) => {
      const shares = [0, 0.5, -0.5, 0.25, -1];
      const most = { 8: 128, 16: 32_768, 24: 8_388_608, 32: 2_147_483_648 }[Number(bits)] ?? 1;
      const zero = bits === '8' ? 128 : 0;
      const file = new wavefile.WaveFile();
      file.fromScratch(2, 8000, bits, [
        shares.map((s) => s * most + zero),
        shares.map((s) => -s * (most - 1) + zero),
      ]);
      const { signals } = read(file.toBuffer(), { scale: 10, unit: 'kN' });
      expect(signals.map((s) => [s.name, s.unit, s.length])).toEqual([['Track 1', 'kN', 5], ['Track 2', 'kN', 5]]); // prettier-ignore
      all(signals[0]).forEach((v, i) => expect(v).toBeCloseTo(10 * shares[i], 5));
      // Any part, too.
      expect([...signals[0].read(2, 2)]).toEqual(all(signals[0]).slice(2, 4));
    },
  );

  test('gaps are silence or the last value, a later start is filled, rates that differ are refused by name', () => {
    const gap = signal('a', [1, NaN, 3]);
    const late = signal('b', [7, 8], 1000, 1_000_000);
    expect(read(write(recording(gap, late))).signals.map(all)).toEqual([[1, 0, 3], [0, 7, 8]]); // prettier-ignore
    expect(read(write(recording(gap, late), 'the last value')).signals.map(all)).toEqual([[1, 1, 3], [0, 7, 8]]); // prettier-ignore
    expect(() => write(recording(gap, signal('c', [1], 100)))).toThrow(
      /sampled at 1000, 100 S\/s.*one rate/s,
    );
    expect(() => write(recording())).toThrow(/at least one channel/);
  });

  test('beyond 4 GB sizes are long ones, and are read as such', () => {
    const large = { ...signal('a', [1, 2, 3]), length: 2 ** 30, read: (first: number, n: number) => Float32Array.from({ length: n }, (_, i) => first + i) }; // prettier-ignore
    const [header] = wav.writing!.write(recording(large), wav.writing!.defaults);
    const bytes = header as Uint8Array;
    expect(String.fromCharCode(...bytes.subarray(0, 4))).toBe('RF64');
    const length = bytes.length + 2 ** 32;
    const source: Source = { name: 'big.wav', length, read: (at, n) => (at < bytes.length ? bytes.subarray(at, at + n) : new Uint8Array(new Float32Array(n / 4).fill(at).buffer)) }; // prettier-ignore
    const { signals } = wav.reading!.read(source, wav.reading!.defaults);
    expect(signals[0].length).toBe(2 ** 30);
    expect(signals[0].read(2 ** 30 - 1, 1)[0]).toBeCloseTo(bytes.length + 2 ** 32 - 4, -3);
  });

  test('any damage is said in words; a file that was cut off holds what it holds', () => {
    const whole = write(
      recording(
        signal(
          'a',
          Array.from({ length: 500 }, (_, i) => i),
        ),
      ),
    );
    // The header has 80 bytes, the samples 2000: cut 400 bytes before their end.
    expect(read(whole.subarray(0, 80 + 1600)).signals[0].length).toBe(400);
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.integer({ min: 0, max: 255 }), fc.nat(whole.length), (at, byte, end) => {
        const bytes = whole.slice(0, end);
        if (at < bytes.length) bytes[at] = byte;
        try {
          const { signals } = read(bytes);
          for (const s of signals) expect(s.read(0, Math.min(10, s.length)).length).toBe(Math.min(10, s.length));
        } catch (error) {
          expect((error as { text?: { next: string } }).text?.next).toBe('Export it anew as PCM or float WAV.');
        }
      }),
      { numRuns: 300 },
    ); // prettier-ignore
  });
});

describe('CSV that is read', () => {
  const read = (text: string | Uint8Array, options: object = {}) =>
    csv.reading!.read(sourceOf(text), { ...csv.reading!.defaults, ...options } as never);
  const plain = (r: Recording) => r.signals.map((s) => [s.name, s.unit, rateHz(s), all(s)]);

  test('what Farrier writes comes back, by point and by comma', () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 }), { minLength: 3, maxLength: 40 }),
        fc.constantFrom(1, 10, 250, 1000),
        fc.constantFrom('point', 'comma' as const),
        (values, rate, decimal) => {
          const written = joined(csv.writing!.write(recording(signal('Flow, inner', values, rate), signal('B', values, rate)), { stepS: null, decimal: decimal as 'point' }));
          const [flow, b] = read(written).signals;
          expect([flow.name, flow.unit, rateHz(flow), b.name]).toEqual(['Flow, inner', 'V', rate, 'B']);
          all(flow).forEach((v, i) => expect(v).toBeCloseTo(Math.fround(values[i]), values[i] === 0 ? 6 : 6 - Math.ceil(Math.log10(Math.abs(values[i]) + 1)))); // seven digits
        },
      ),
      { numRuns: 60 },
    ); // prettier-ignore
  });

  test('times in any column, as numbers or days of a spreadsheet, or none at all', () => {
    const table = 'No.;Flow [m/s];Time [s]\n7;1,5;0\n8;2,5;0,5\n9;3,5;1\n';
    expect(plain(read(table))).toEqual(plain(read(table, { timeColumn: 3 })));
    expect(plain(read(table, { timeColumn: 3 }))).toEqual([['No.', '1', 2, [7, 8, 9]], ['Flow', 'm/s', 2, [1.5, 2.5, 3.5]]]); // prettier-ignore
    expect(plain(read(table, { times: 'none', rateHz: 10 })).map((s) => [s[0], s[2]])).toEqual([['No.', 10], ['Flow', 10], ['Time', 10]]); // prettier-ignore
    expect(() => read(table, { timeColumn: 4 })).toThrow(/no rows of numbers.*column of times/);
    // 14 March 2027 at 14:00 is day 46 460.583 333…; a step of a minute.
    const days = [0, 1, 2, 3].map((i) => `${46460 + (14 * 60 + i) / 1440};${i}`).join('\n');
    const back = read(`When;Load [kN]\n${days}\n`, { times: 'as days of a spreadsheet', decimal: 'point', separator: 'semicolon' }); // prettier-ignore
    expect([back.start, rateHz(back.signals[0]), back.signals[0].length]).toEqual(['2027-03-14T14:00:00.000Z', 1 / 60, 4]); // prettier-ignore
    // A column that looks like a plain count is one of times when it is said to be.
    expect(plain(read('a,b\n0,5\n2,6\n4,7\n', { times: 'as numbers' }))).toEqual([
      ['b', '1', 0.5, [5, 6, 7]],
    ]);
  });

  test('rows of names and units are those that are named, whatever stands between', () => {
    const text = 'Logger 7\n;Load;Slip\nserial;17;18\n[s];[kN];[mm]\n0;1;2\n1;3;4\n2;5;6\n';
    expect(plain(read(text, { namesRow: 2, unitsRow: 4, times: 'as numbers' })).map((s) => s.slice(0, 2))).toEqual([['Load', 'kN'], ['Slip', 'mm']]); // prettier-ignore
    expect(plain(read(text, { namesRow: 3, times: 'as numbers' })).map((s) => s[0])).toEqual(['17', '18']);
    expect(read(text, { namesRow: 2, unitsRow: 4, times: 'as numbers' }).signals[0].length).toBe(3);
  });

  test('names with units in brackets, after a comma or in a row of their own; words above them are passed over', () => {
    expect(plain(read('Time [s];Flow [m/s];Oil (°C);Note\n0;1,5;20;a\n1;2,5;21;b\n'))).toEqual([
      ['Flow', 'm/s', 1, [1.5, 2.5]],
      ['Oil', '°C', 1, [20, 21]],
    ]);
    const logger = 'Logger 7\nserial,1234\n\nTime,Force,Level\ns,kN,\n0,1,5\n0.5,2,6\n1,3,7\n';
    expect(plain(read(logger))).toEqual([['Force', 'kN', 2, [1, 2, 3]], ['Level', '1', 2, [5, 6, 7]]]); // prettier-ignore
    expect(plain(read('0\t1\n1\t2\n2\t3', { rateHz: 50 }))).toEqual([['Column 1', '1', 50, [0, 1, 2]], ['Column 2', '1', 50, [1, 2, 3]]]); // prettier-ignore
    expect(read('Time,A,A\n0,1,2\n1,3,4').signals.map((s) => s.name)).toEqual(['A', 'A 2']);
    expect(read('t,A,Comment\n0,1,x\n1,2,y').facts).toEqual([['Columns left out', 'Comment']]);
  });

  test('times as seconds, milliseconds, clock over midnight, and dates with their start', () => {
    expect(plain(read('Time [ms],A\n100,1\n110,2\n120,3'))).toEqual([['A', '1', 100, [1, 2, 3]]]);
    expect(startS(read('Time [ms],A\n100,1\n110,2').signals[0])).toBeCloseTo(0.1, 9);
    expect(plain(read('Time,A\n23:59:59,1\n00:00:00,2\n00:00:01,3'))).toEqual([['A', '1', 1, [1, 2, 3]]]);
    const dated = read('Date,A\n2027-03-14 12:00:00.5,1\n2027-03-14 12:00:01.0,2\n2027-03-14T12:00:01.5Z,3');
    expect([dated.start, plain(dated)]).toEqual(['2027-03-14T12:00:00.500Z', [['A', '1', 2, [1, 2, 3]]]]);
    const slow = read('Time [h],A\n0,1\n1,2\n2,3');
    expect(slow.signals[0].rate).toEqual({ num: 1, den: 3600 });
    // 1/3 s, rounded to milliseconds: its mean is the rate, not its rounded step.
    const thirds = Array.from({ length: 3001 }, (_, i) => `${(i / 3).toFixed(3)},${i}`).join('\n');
    expect(read(`t,A\n${thirds}`).signals[0].rate).toEqual({ num: 3, den: 1 });
  });

  test('missing rows and cells are gaps; a time that lies on no step is said with its row', () => {
    expect(plain(read('t,A,B\n0,1,1\n1,,2\n4,5,\n5,6,3'))).toEqual([
      ['A', '1', 1, [1, NaN, NaN, NaN, 5, 6]],
      ['B', '1', 1, [1, 2, NaN, NaN, NaN, 3]],
    ]);
    expect(() => read('t,A\n0,1\n1,2\n2,3\n2.6,4\n3,5\n4,6')).toThrow(/row 5 at 2.6 s.*no step of 1 s/s);
    expect(() => read('t,A\n0,1\n1,2\n1,3\n2,4')).toThrow(/row 4 at 1 s/);
    expect(() => read('t,A\n0,1\n1,2\nlater,3\n4,4')).toThrow(/“later” in row 3/);
    expect(() => read('t,A\n0,1\n0.001,2\n0.002,2\n900000,3')).toThrow(/Split the file where it pauses/);
    expect(() => read('A,B\n1,2\n3,4')).toThrow(/none in the first column.*sample rate/s);
    expect(() => read('just words\nand more')).toThrow(/no rows of numbers/);
  });

  test('whatever it is given, it reads or says why', () => {
    const cell = fc.oneof(
      fc.double().map(String),
      fc.string({ unit: 'grapheme', maxLength: 6 }),
      fc.constantFrom('', '1,5', '12:30', '2027-03-14', '"', '[s]', '-'),
    );
    fc.assert(
      fc.property(fc.array(fc.array(cell, { maxLength: 5 }), { maxLength: 12 }), fc.constantFrom(',', ';', '\t'), (rows, by) => {
        try {
          for (const s of read(rows.map((r) => r.join(by)).join('\n')).signals) expect(s.length).toBeGreaterThan(0);
        } catch (error) {
          expect((error as { text?: { what: string } }).text?.what).toBeTruthy();
        }
      }),
      { numRuns: 500 },
    ); // prettier-ignore
  });

  test('text of older instruments and of other systems is decoded', () => {
    expect(decodeText(Uint8Array.of(0xb0, 0x43))).toBe('°C'); // windows-1252
    expect(decodeText(Uint8Array.of(0xff, 0xfe, 0xb0, 0, 0x43, 0)).replace('\ufeff', '')).toBe('°C');
    const western = Uint8Array.from('t;Oil [\xb0C]\n0;1\n1;2', (c) => c.charCodeAt(0));
    expect(plain(read(western))).toEqual([['Oil', '°C', 1, [1, 2]]]);
  });
});

test('a file is known by its beginning, else by its name; what nobody reads is refused with what is read', () => {
  const bytes = joined(wav.writing!.write(recording(signal('a', [1])), wav.writing!.defaults));
  expect(formatOf(sourceOf(bytes, 'misnamed.csv')).kind).toBe('wav');
  expect(formatOf(sourceOf('a', 'DATA.CSV')).kind).toBe('csv');
  expect(formatOf(sourceOf('a', 'x.tsv')).kind).toBe('csv');
  expect(() => formatOf(sourceOf('a', 'x.bin'))).toThrow(/x.bin.*CSV, .*WAV/s);
});

describe('tables of any length', () => {
  const rows = (n: number, line: (i: number) => string) => `Time [s];A [V];B [mm]\n${Array.from({ length: n }, (_, i) => line(i)).join('\n')}\n`; // prettier-ignore
  /** A source that says how much of it was asked for at once. */
  const watched = (text: string) => {
    const bytes = new TextEncoder().encode(text);
    const asked = { most: 0 };
    const source: Source = { name: 'a.csv', length: bytes.length, read: (at, count) => ((asked.most = Math.max(asked.most, count)), bytes.subarray(at, at + count)) }; // prettier-ignore
    return { source, asked };
  };
  const read = (source: Source, options: object = {}) =>
    csv.reading!.read(source, { ...csv.reading!.defaults, ...options } as never);

  test('are read a piece at a time, any part of them, with the same values as from one piece', () => {
    const n = 150_000; // some 3 MB
    const { source, asked } = watched(rows(n, (i) => `${(i / 100).toFixed(2)};${i % 1000};${(i * 7) % 333}`));
    const { signals } = read(source);
    expect(signals.map((s) => [s.name, rateHz(s), s.length])).toEqual([['A', 100, n], ['B', 100, n]]); // prettier-ignore
    for (const at of [0, 60_000, 149_000, 40_000, 99_999]) {
      const count = Math.min(3000, n - at);
      expect([...signals[0].read(at, count)]).toEqual(
        Array.from({ length: count }, (_, i) => (at + i) % 1000),
      );
      expect(signals[1].read(at, 1)[0]).toBe((at * 7) % 333);
    }
    expect(asked.most).toBeLessThan(source.length / 2);
  });
  test('are gone through once by who reads all columns chunk by chunk, as a take is made of them', () => {
    const columns = 12;
    const line = (i: number) => [(i / 100).toFixed(2), ...Array.from({ length: columns }, (_, c) => (i * (c + 1)) % 977)].join(';'); // prettier-ignore
    const n = 80_000; // some 4 MB: more pieces than one chunk has
    const text = `Time [s];${Array.from({ length: columns }, (_, c) => `C${c} [V]`).join(';')}\n${Array.from({ length: n }, (_, i) => line(i)).join('\n')}\n`;
    const bytes = new TextEncoder().encode(text);
    let fetched = 0;
    const { signals } = read({ name: 'a.csv', length: bytes.length, read: (at, count) => ((fetched += Math.min(count, bytes.length - at)), bytes.subarray(at, at + count)) }); // prettier-ignore
    fetched = 0;
    for (let at = 0; at < n; at += 65_536)
      signals.forEach((s, c) => expect(s.read(at, 1000)[999]).toBe(((at + 999) * (c + 1)) % 977));
    // The piece in which one chunk ends and the next begins may come twice.
    expect(fetched).toBeLessThan(bytes.length + (1 << 20));
  });
  test('cells read from the bytes are what they are as text: blank rows, spaces, signs, exponents, words, too many digits', () => {
    const cell = fc.oneof(
      fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
      fc
        .tuple(fc.integer({ min: -99_999, max: 99_999 }), fc.nat(9))
        .map(([a, d]) => (a / 10 ** d).toFixed(d)),
      fc.bigInt({ min: -(10n ** 20n), max: 10n ** 20n }).map(String),
      fc.constantFrom('', ' ', '-', '.', '-.5', '5.', '+3', '1e', '1e5', '−2', 'µ', 'open', '1.2.3', ' 7 ', '00012', '\t8', '-0', '1 2', '0x10', '١'), // prettier-ignore
    );
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { minLength: 1, maxLength: 5 }), { maxLength: 12 }),
        fc.constantFrom(';', ',', '\t'),
        fc.constantFrom('.' as const, ',' as const),
        fc.constantFrom('\n', '\r\n'),
        (rows, separator, decimal, end) => {
          fc.pre(separator !== decimal);
          const written = (c: string) => (separator === '\t' ? c.trim() : decimal === ',' ? c.replace('.', ',') : c); // prettier-ignore
          const text = rows.map((r) => r.map(written).join(separator)).join(end);
          const number = numberReader(decimal);
          const plain = new TextDecoder();
          const all = (rows: Rows) => {
            const out: unknown[] = [];
            const values = new Float64Array(6);
            while (rows.next()) {
              rows.values(values);
              for (let c = 0; c < 7; c++) out.push([rows.text(c), rows.value(c)]);
              out.push([...values]);
            }
            return out;
          };
          expect(all(new ByteRows(new TextEncoder().encode(text), separator, decimal, (b) => plain.decode(b), number))).toEqual(all(new TextRows(text, separator, number))); // prettier-ignore
        },
      ),
      { numRuns: 500 },
    );
  });
  test('missing rows are gaps, also where a piece ends and begins', () => {
    const n = 120_000;
    const { source } = watched(rows(n, (i) => `${((i + (i > 60_000 ? 500 : 0)) / 100).toFixed(2)};${i};1`));
    const [a] = read(source).signals;
    expect(a.length).toBe(n + 500);
    const around = a.read(59_990, 600);
    expect(around[10]).toBe(60_000);
    expect([...around.subarray(11, 511)].every(Number.isNaN)).toBe(true);
    expect(around[511]).toBe(60_001);
  });
  test('a time that lies on no step is refused with its row, however far down it stands', () => {
    const { source } = watched(
      rows(90_000, (i) => `${i === 80_000 ? '800.004' : (i / 100).toFixed(2)};${i};1`),
    );
    const [a] = read(source).signals;
    expect(() => a.read(79_000, 2000)).toThrow(/row 80002 at 800.004 s.*no step of 0.01 s/s);
    const early = watched(rows(900, (i) => `${i === 80 ? '0.804' : (i / 100).toFixed(2)};${i};1`));
    expect(() => read(early.source)).toThrow(/row 82 at 0.804 s/);
  });
  test('a clock goes on over midnight wherever it is read', () => {
    const n = 200_000;
    const clock = (i: number) => new Date(i * 1000 + 82_800_000).toISOString().slice(11, 19);
    const { source } = watched(rows(n, (i) => `${clock(i)};${i};1`));
    const [a] = read(source).signals;
    expect([rateHz(a), a.length]).toEqual([1, n]);
    for (const at of [190_000, 3590, 90_000]) expect(a.read(at, 20)[10]).toBe(at + 10);
  });
  test('quoted cells over lines, other encodings and both ends of lines are read as they were', () => {
    const text = 'Time [s];A [V];Said\r\n0;1;"two\r\nlines; here"\r\n1;2;plain\r\n2;3;x\r\n';
    const expected = [1, 2, 3];
    expect(all(read(sourceOf(text)).signals[0])).toEqual(expected);
    const utf16 = Uint8Array.from([
      0xff,
      0xfe,
      ...[...text].flatMap((c) => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8]),
    ]);
    expect(all(read(sourceOf(utf16)).signals[0])).toEqual(expected);
    const western = Uint8Array.from([...'Time [s];Öl [°C]\n0;1\n1;2\n2;3\n'].map((c) => c.charCodeAt(0)));
    expect(read(sourceOf(western)).signals.map((s) => [s.name, s.unit])).toEqual([['Öl', '°C']]);
  });
});
