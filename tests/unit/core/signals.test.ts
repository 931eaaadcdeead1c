import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { csv, quote } from '$core/formats/csv/csv';
import { bytesOf } from '$core/formats/zipped';
import { sampledOf, type Sampled } from '$core/samples/sampled';
import { roundTicks } from '$core/figures/ticks';
import { clockText, readingText } from '$core/readings';
import { Random } from '$core/random';
import {
  thermocoupleEmf,
  thermocoupleInverse,
  thermocoupleRange,
  THERMOCOUPLE_TYPES,
} from '$core/sensors/thermocouple';
import { spectrum } from '$core/studies/spectrum/spectrum';
import { statistics } from '$core/studies/statistics/statistics';
import type { StudyKind, StudyResult } from '$core/studies/study';
import { rateFromHz, sampleTimeNs, samplesBefore } from '$core/time/rate';
import { convertUnit, unitsOf } from '$core/quantities/quantities';

test('the emf of any temperature leads back to it, for every letter type', () => {
  for (const type of THERMOCOUPLE_TYPES) {
    const { from, to } = thermocoupleRange(type);
    // Near absolute zero the emf hardly changes and a rounding of it is many kelvin; B has no use below 50 °C.
    const low = type === 'B' ? 50 : Math.max(from, -200);
    fc.assert(
      fc.property(
        fc.double({ min: low, max: to - 0.01, noNaN: true }),
        (t) => Math.abs(thermocoupleInverse(type)(thermocoupleEmf(type, t)) - t) < 0.002,
      ),
    );
  }
});

test('units lead there and back, and a temperature difference of scales is kept', () => {
  expect(convertUnit(100, '°C', '°F')).toBeCloseTo(212, 9);
  expect(convertUnit(13.9, 'rpm', 'rad/s')).toBeCloseTo(1.4556, 4);
  expect(() => convertUnit(1, '°C', 'mm')).toThrow(/measures length/);
  for (const quantity of ['temperature', 'strain', 'rotational speed', 'torque', 'volume flow'])
    for (const a of unitsOf(quantity))
      for (const b of unitsOf(quantity))
        expect(convertUnit(convertUnit(7.5, a, b), b, a)).toBeCloseTo(7.5, 9);
});

test('a sample’s time comes from its index and is exact after a year; counting back gives the index', () => {
  const rate = rateFromHz(51_200);
  const year = 51_200 * 86_400 * 365;
  expect(sampleTimeNs(0n, rate, year)).toBe(86_400n * 365n * 1_000_000_000n);
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 200_000 }),
      fc.nat(1e9),
      (hz, index) =>
        samplesBefore(rateFromHz(hz), sampleTimeNs(0n, rateFromHz(hz), index)) <= index &&
        samplesBefore(rateFromHz(hz), sampleTimeNs(0n, rateFromHz(hz), index) + 1n) === index + 1,
    ),
  );
});

const reader = (name: string, sampleRateHz: number, values: Float32Array, startS = 0): Sampled =>
  sampledOf(
    {
      id: name,
      name,
      quantity: 'voltage',
      unit: 'V',
      rate: rateFromHz(sampleRateHz),
      startNs: startS * 1e9,
      width: 1,
    },
    values,
  );
/** One take whose channels are some signals. */
const takeOf = (...channels: Sampled[]) => [
  { id: 't', name: 'T', facts: {}, durationS: 8, signals: { channels } },
];
const run = <S extends object>(
  kind: { run: StudyKind['run'] } | object,
  channels: Sampled[],
  settings: S,
  aborted = false,
) =>
  (kind as StudyKind).run(takeOf(...channels), settings as never, () => undefined, {
    aborted,
  }) as StudyResult;

describe('studies', () => {
  const rate = 1024;
  const sine = Float32Array.from(
    { length: rate * 8 },
    (_, i) => 3 * Math.sin((2 * Math.PI * 128 * i) / rate),
  );

  test('a sine of amplitude 3 has an rms of 3/√2 and its line at its frequency, whatever the window', () => {
    for (const window of ['rectangular', 'Hann', 'flat top'] as const) {
      const result = run(spectrum, [reader('s', rate, sine)], {
        ...spectrum.defaults,
        shown: 'rms amplitude',
        length: 1024,
        window,
      });
      const [row] = result.tables[0].rows;
      expect(row[1]).toBe(128);
      expect(row[2]).toBeCloseTo(3 / Math.SQRT2, 5);
      expect(row[3]).toBeCloseTo(3 / Math.SQRT2, 2);
    }
  });

  test('the rms of noise follows from its density', () => {
    const random = new Random(5);
    const noise = Float32Array.from({ length: rate * 60 }, () => 0.5 * random.gauss());
    const result = run(spectrum, [reader('n', rate, noise)], { ...spectrum.defaults, length: 1024 });
    expect(result.tables[0].rows[0][3]).toBeCloseTo(0.5, 2);
  });

  test('the statistics of a span count from its seconds; a gap is counted and left out', () => {
    const values = Float32Array.from({ length: 100 }, (_, i) => (i === 40 ? NaN : i));
    const [row] = run(statistics, [reader('s', 10, values, 2)], { channels: [], from: 5, to: 8 }).tables[0]
      .rows;
    // 5 s to 8 s are samples 30 to 59; without 40 their mean is (30 + … + 59 - 40) / 29.
    expect(row[2]).toBeCloseTo((1335 - 40) / 29, 9);
    expect(row[3]).toBeNull(); // nothing says how certain it is
    expect([row[6], row[7], row[8], row[9], row[12], row[13]]).toEqual([30, 5, 59, 7.9, 29, 1]);
  });

  test('a span without samples, a segment longer than the span, a cancel: each is said', () => {
    expect(() => run(statistics, [reader('s', 10, sine)], { channels: [], from: 5000, to: null })).toThrow(
      /holds no sample of s/,
    );
    expect(() => run(spectrum, [reader('s', rate, sine.subarray(0, 500))], spectrum.defaults)).toThrow(
      /One segment needs 4096 samples/,
    );
    expect(() => run(statistics, [reader('s', 10, sine)], statistics.defaults, true)).toThrow(/Cancelled/);
  });
});

describe('CSV', () => {
  const write = (signals: Sampled[], options: { stepS: number | null; decimal: 'point' | 'comma' }) =>
    Buffer.concat([...bytesOf(csv.writing!.write({ name: 't', start: '', facts: [], signals }, options))])
      .toString('utf8')
      .slice(1)
      .trimEnd()
      .split('\r\n');
  const fast = reader(
    'Fast, one',
    10,
    Float32Array.from({ length: 10 }, (_, i) => i / 3),
  );
  const slow = reader('Slow', 2, Float32Array.from([7, NaN]), 0.1);

  test('samples as taken: the fastest signal sets the rows, each slower sample stands once, gaps are empty', () => {
    const lines = write([fast, slow], { stepS: null, decimal: 'point' });
    expect(lines).toHaveLength(11);
    expect(lines[0]).toBe('Time [s],"Fast, one [V]",Slow [V]');
    expect(lines.slice(1, 4)).toEqual(['0.0000,0,', '0.1000,0.3333333,7', '0.2000,0.6666667,']);
    expect(lines[7]).toBe('0.6000,2,');
  });
  test('a fixed step holds the last value; a decimal comma turns separators into semicolons', () => {
    const lines = write([fast, slow], { stepS: 0.25, decimal: 'comma' });
    expect(lines[0]).toBe('Time [s];Fast, one [V];Slow [V]');
    expect(lines[2]).toBe('0,2500;0,6666667;7');
  });
  test('a step that makes more rows than a spreadsheet takes is refused with the number', () => {
    expect(() => write([reader('s', 10, new Float32Array(1e6))], { stepS: 1e-3, decimal: 'point' })).toThrow(
      /makes 100000\d* rows/,
    );
    expect(() => write([], { stepS: null, decimal: 'point' })).toThrow(/at least one channel/);
  });
  test('any name survives quoting, and none is run as a formula', () => {
    fc.assert(
      fc.property(fc.string(), (name) => {
        const cell = quote(name, ',');
        const plain =
          cell.startsWith('"') && cell.endsWith('"') && cell.length > 1
            ? cell.slice(1, -1).replaceAll('""', '"')
            : cell;
        expect(plain.replace(/^'(?=[=+\-@\t\r])/, '')).toBe(name);
        expect(/^[=+@]/.test(plain)).toBe(false);
      }),
    );
  });
});

test('readings are rounded by their uncertainty, ticks are round, clocks read like clocks', () => {
  expect(readingText(478.2345, { uncertainty: 6.1 })).toBe('478.2');
  expect(readingText(-0.00001234)).toBe('−1.234 × 10⁻⁵');
  expect(readingText(NaN)).toBe('–');
  expect(roundTicks(0, 0.7, 4)).toEqual({ ticks: [0, 0.2, 0.4, 0.6], decimals: 1 });
  expect(clockText(252.64)).toBe('04:12.6');
  expect(clockText(3675, 0)).toBe('1:01:15');
});
