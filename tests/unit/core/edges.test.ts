import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { sampledOf } from '$core/samples/sampled';
import { readDbc } from '$core/can/dbc';
import { writeSignal, type BusSignal } from '$core/can/signal';
import { compileConversion, convertEnvelope, IDENTITY } from '$core/conversion/conversion';
import { csv } from '$core/formats/csv/csv';
import { readLdf } from '$core/lin/ldf';
import { fixed, readingText } from '$core/readings';
import { REGISTER_TYPES, encodeRegisters } from '$core/registers/registers';
import { twoPointCorrection } from '$core/sensors/shunt';
import {
  THERMOCOUPLE_TYPES,
  thermocoupleEmf,
  thermocoupleInverse,
  thermocoupleRange,
} from '$core/sensors/thermocouple';
import { measureTone } from '$core/signal/tone';
import { crossSpectrum } from '$core/spectrum/cross';
import { words } from '$core/text/cursor';

describe('thermocouples over their whole range', () => {
  test.each(THERMOCOUPLE_TYPES)('type %s: the inverse stays within 0.001 K, ends included', (type) => {
    const { from, to } = thermocoupleRange(type);
    const inverse = thermocoupleInverse(type);
    let worst = 0;
    for (let t = from; t <= to; t += (to - from) / 20_011)
      worst = Math.max(worst, Math.abs(inverse(thermocoupleEmf(type, t)) - t));
    expect(worst).toBeLessThan(0.001);
    expect(inverse(thermocoupleEmf(type, to))).toBeCloseTo(to, 3);
    expect(inverse(thermocoupleEmf(type, from))).toBeCloseTo(from, 3);
  });
  test('type B is read where one emf belongs to one temperature, and says so', () => {
    expect(thermocoupleRange('B').from).toBe(42);
    // Below, the emf falls first and comes back: the same value twice.
    expect(thermocoupleEmf('B', 42)).toBeLessThan(thermocoupleEmf('B', 43));
    expect(thermocoupleEmf('B', 10)).toBeLessThan(thermocoupleEmf('B', 0));
  });
});

describe('cross spectra', () => {
  const options = { sampleRateHz: 100, segmentLength: 64, window: 'Hann' as const };
  const wave = (f: number) =>
    Float64Array.from({ length: 1000 }, (_, i) => Math.sin((2 * Math.PI * f * i) / 100));
  test('an overlap that never moves on is refused at once', () => {
    for (const overlap of [1, 0.96, -0.1, NaN])
      expect(() => crossSpectrum(wave(5), wave(5), { ...options, overlap })).toThrow(/0 to 0.95/);
  });
  test('one missing sample costs the segments it lies in, not all lines', () => {
    const x = wave(10);
    const whole = crossSpectrum(x, x, options);
    const holed = x.slice();
    holed[300] = NaN;
    const found = crossSpectrum(holed, x, options);
    expect(found.skipped).toBe(2); // half overlap: two segments hold it
    expect(found.segments).toBe(whole.segments - 2);
    expect([...found.pxx].every(Number.isFinite)).toBe(true);
    expect(() =>
      crossSpectrum(
        x.map(() => NaN),
        x,
        options,
      ),
    ).toThrow(/0 whole segments/);
  });
});

describe('numbers that cannot be meant', () => {
  test.each(REGISTER_TYPES)('NaN and the infinite are refused in words for a register of %s', (type) => {
    for (const value of [NaN, Infinity, -Infinity])
      expect(() => encodeRegisters(value, type, 'high word first')).toThrow(/Only numbers/);
  });
  test('and for a signal of a bus', () => {
    const signal = { name: 'Target', start: 0, length: 16, bigEndian: false, signed: true, float: false, factor: 1, offset: 0, min: 0, max: 0, unit: '', multiplexed: null, multiplexor: false, initial: null } satisfies BusSignal; // prettier-ignore
    for (const value of [NaN, Infinity])
      expect(() => writeSignal(signal, new Uint8Array(8), value)).toThrow(/Only numbers can be sent/);
  });
  test('a shunt that moves nothing has no gain', () => {
    expect(() => twoPointCorrection(0.3, 0.3, 1)).toThrow(/shunt switched/);
    expect(() => twoPointCorrection(0.3, NaN, 1)).toThrow(/shunt/);
  });
  test('a record that does not move has no tone, and no percentage of nothing', () => {
    for (const level of [0, 3])
      expect(() => measureTone(new Float64Array(5000).fill(level), 5000, 160)).toThrow(
        new RegExp(`does not move: it stands at ${level}`),
      );
  });
});

test('readings are rounded at their uncertainty above 100, too', () => {
  expect(readingText(12_345.6, { uncertainty: 250 })).toBe('12350');
  expect(readingText(12_345.6, { uncertainty: 3200 })).toBe('12300');
  expect(readingText(12_345.6, { uncertainty: 25 })).toBe('12346');
  expect(readingText(-12_355, { uncertainty: 250 })).toBe('−12350');
  expect(fixed(49, -2)).toBe('0');
});

test('the extremes of a bucket hold those of every sample in it, on plateaus of a table, too', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: -3, max: 3 }), { minLength: 3, maxLength: 9 }),
      fc.double({ min: -1, max: 9, noNaN: true }),
      fc.double({ min: 0, max: 6, noNaN: true }),
      (ys, from, span) => {
        const law = { kind: 'table' as const, xs: ys.map((_, i) => i), ys };
        const raw = Float32Array.from({ length: 200 }, (_, i) => from + (span * i) / 199);
        const values = new Float64Array(200);
        compileConversion({ ...IDENTITY, law })(raw, values, 200);
        const { min, max } = convertEnvelope(
          { ...IDENTITY, law },
          Float32Array.of(raw[0]),
          Float32Array.of(raw[199]),
        );
        expect(max[0]).toBeGreaterThanOrEqual(Math.max(...values) - 1e-4);
        expect(min[0]).toBeLessThanOrEqual(Math.min(...values) + 1e-4);
      },
    ),
  );
});

test('a row of fixed step holds the last sample at or before its time, never a later one', () => {
  const signal = sampledOf(
    { id: 'a', name: 'a', quantity: 'voltage', unit: 'V', rate: { num: 1000, den: 1 }, startNs: 0, width: 1 },
    Float32Array.from({ length: 10_001 }, (_, i) => i),
  );
  fc.assert(
    fc.property(fc.integer({ min: 3, max: 9000 }), (ms) => {
      const stepS = (ms + 0.9995) / 1000; // just before a sample
      const text = [
        ...csv.writing!.write(
          { name: '', start: '', facts: [], signals: [signal] },
          { stepS, decimal: 'point' },
        ),
      ].join('');
      text
        .split('\r\n')
        .slice(1, -1)
        .forEach((line, row) => {
          const [, value] = line.split(',');
          expect(Number(value), line).toBeLessThanOrEqual(row * stepS * 1000 + 1e-5);
        });
    }),
    { numRuns: 20 },
  );
});

describe('descriptions of buses', () => {
  const large = (piece: string) => piece.repeat(Math.floor(120_000 / piece.length));
  test.each([
    ['comments that are never closed', '/*x '],
    ['quotation marks that are never closed', 'a"b\\'],
    ['slashes', '/ '],
  ])(
    '%s cost no more than their length',
    (_, piece) => {
      // A quarter of a million places: it would take minutes if each looked on to the end.
      try {
        words(large(piece).repeat(8), 'f');
      } catch (error) {
        expect((error as Error).message).toContain('f');
      }
    },
    20_000,
  );
  test('what is not closed is named with its line', () => {
    expect(() => readDbc('VERSION "1"\nBU_: A\n/* begun\nBO_ 1 M: 8 A', 'f.dbc')).toThrow(
      /f\.dbc, line 3.*not closed/s,
    );
    expect(() => readDbc('VERSION "1', 'f.dbc')).toThrow(/line 1.*quotation marks/s);
    expect(() => words('x'.repeat(9_000_000), 'big')).toThrow(/8 MB/);
  });
  test('what a signal is before anybody sent it is read from both kinds of description', () => {
    const [message] = readDbc(
      'BO_ 672 Cmd: 4 Bench\n SG_ Target : 0|16@1- (0.01,0) [0|1] "" X\n SG_ Enable : 16|1@1+ (1,0) [0|1] "" X\nBA_DEF_ SG_ "GenSigStartValue" INT 0 1;\nBA_ "GenSigStartValue" SG_ 672 Enable 1;\nBA_ "Other" BO_ 672 5;\n',
    );
    expect(message.signals.map((s) => s.initial)).toEqual([null, 1]);
    const [frame] = readLdf(
      'LIN_description_file;\nSignals { A: 8, 12, N, M; B: 8, {1, 2}, N, M; }\nFrames { F: 1, N, 2 { A, 0; B, 8; } }\n',
    );
    expect(frame.signals.map((s) => s.initial)).toEqual([12, null]);
  });
});
