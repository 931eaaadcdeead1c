import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Recording, Source } from '$core/formats/format';
import { formatOf } from '$core/formats/registry';
import { uff } from '$core/formats/uff/uff';
import { SourceLines } from '$core/formats/uff/lines';
import { rateHz, sampledOf, startS, type Sampled } from '$core/samples/sampled';

const encode = (text: string) => new TextEncoder().encode(text);
const sourceOf = (content: Uint8Array | string, name = 'a.uff'): Source => {
  const bytes = typeof content === 'string' ? encode(content) : content;
  return { name, length: bytes.length, read: (at, count) => bytes.subarray(at, at + count) };
};
const signal = (name: string, values: ArrayLike<number>, more: Partial<Sampled> = {}): Sampled =>
  sampledOf(
    {
      id: name,
      name,
      quantity: '',
      unit: 'm/s²',
      rate: { num: 51_200, den: 1 },
      startNs: 0,
      width: 1,
      ...more,
    },
    Float32Array.from(values),
  );
const recording = (...signals: Sampled[]): Recording => ({ name: 'Spin-up', start: '2026-11-26T20:31:22.000Z', facts: [], signals }); // prettier-ignore
type Form = 'numbers as text' | 'numbers in binary';
const FORMS: Form[] = ['numbers as text', 'numbers in binary'];
const written = (r: Recording, form: Form, gaps: 'zeros' | 'the last value' = 'zeros'): Uint8Array =>
  Uint8Array.from([...uff.writing!.write(r, { form, gaps })].flatMap((p) => [...(typeof p === 'string' ? encode(p) : (p as Uint8Array))])); // prettier-ignore
const read = (content: Uint8Array | string) => uff.reading!.read(sourceOf(content), { unit: '1' });
const all = (s: Sampled) => [...s.read(0, s.length)];

/** A file as another program writes it: single precision, six a line, line ends of two letters, a head in fixed columns. */
const FOREIGN = [
  '    -1',
  '   151',
  'a model that nobody asked for',
  '    -1',
  '    -1',
  '    58',
  'Deck, vertical',
  'NONE',
  '02-MAR-26 07:08:09',
  'NONE',
  'NONE',
  '    1         0    1         0 NONE              12   3 NONE               0   0',
  '         2         7         1  2.50000E-01  1.95312E-05  0.00000E+00',
  '        17    0    0    0 Time                 s                   ',
  '        12    0    0    0 Acceleration         g                   ',
  '         0    0    0    0 NONE                 NONE                ',
  '         0    0    0    0 NONE                 NONE                ',
  '  1.00000E+00 -2.50000E+00  3.00000E-03  0.00000E+00  5.00000E+02 -6.00000E+01',
  '  7.00000E+00',
  '    -1',
  '',
].join('\r\n');

describe('universal files', () => {
  test('what is written is read again: every sample exactly, rates, starts, names, in text and in binary', () => {
    const floats = fc.array(fc.float({ noNaN: true, noDefaultInfinity: true }), {
      minLength: 1,
      maxLength: 40,
    });
    const rates = fc.record({
      num: fc.integer({ min: 1, max: 10_000_000 }),
      den: fc.integer({ min: 1, max: 1001 }),
    });
    fc.assert(
      fc.property(floats, rates, fc.integer({ min: -5e9, max: 5e12 }), fc.constantFrom(...FORMS), (values, rate, startNs, form) => {
        const signals = [signal('Nacelle, fore-aft', values, { rate, startNs }), signal('Deck', values.map((v) => -v), { unit: 'V' })];
        const back = read(written(recording(...signals), form));
        expect(back.name).toBe('Spin-up');
        expect(back.start).toBe('2026-11-26T20:31:22.000Z');
        expect(back.signals.map((s) => [s.name, s.rate, s.startNs])).toEqual(signals.map((s) => [s.name, s.rate, s.startNs]));
        expect(back.signals[1].unit).toBe('V');
        expect(back.signals.map((s) => all(s).map((v) => v + 0))).toEqual(signals.map((s) => all(s).map((v) => v + 0)));
      }),
      { numRuns: 150 },
    ); // prettier-ignore
  });

  test.each(FORMS)('complex samples stay in phase and in quadrature, %s', (form) => {
    const iq = signal('Band', [1, 2, 3, 4, 5, 6], { width: 2 });
    const [back] = read(written(recording(iq), form)).signals;
    expect([back.width, back.length, all({ ...back, length: back.length })]).toEqual([
      2,
      3,
      [1, 2, 3, 4, 5, 6],
    ]);
    expect([...back.read(1, 1)]).toEqual([3, 4]);
  });

  test('any part of a long function is read where it stands', () => {
    const long = signal(
      'Long',
      Float32Array.from({ length: 10_007 }, (_, i) => Math.sin(i) * 10 ** ((i % 9) - 4)),
    );
    for (const form of FORMS) {
      const [back] = read(written(recording(signal('before', [1, 2]), long, signal('after', [3])), form)).signals.slice(1); // prettier-ignore
      fc.assert(
        fc.property(fc.nat(10_006), fc.integer({ min: 1, max: 600 }), (first, count) => {
          const most = Math.min(count, 10_007 - first);
          expect([...back.read(first, most)]).toEqual([...long.read(first, most)]);
        }),
        { numRuns: 40 },
      );
    }
  });

  test('a gap, for which the format has no sign, is filled as is said', () => {
    const gap = signal('G', [NaN, 1, NaN, NaN, 4]);
    for (const form of FORMS) {
      expect(all(read(written(recording(gap), form)).signals[0])).toEqual([0, 1, 0, 0, 4]);
      expect(all(read(written(recording(gap), form, 'the last value')).signals[0])).toEqual([0, 1, 1, 1, 4]);
    }
  });

  test('the head stands in the columns of the format; text lines hold four numbers of twenty letters', () => {
    const lines = new TextDecoder().decode(written(recording(signal('Kraft µε Ω', [1, -2.5, 2 ** -20, 4, 5])), 'numbers as text')).split('\n'); // prettier-ignore
    expect(lines.slice(0, 6)).toEqual(['    -1', '    58', 'Kraft ue Ohm', 'Spin-up', '26-NOV-26 20:31:22', 'Rate 51200/1 per second, first at 0 ns']); // prettier-ignore
    expect(lines[7]).toBe('    1         0    1         0 NONE               1   0 NONE               0   0');
    expect(lines[8]).toBe('         4         5         1  0.00000E+00  1.95313E-05  0.00000E+00');
    expect(lines[9].slice(0, 10)).toBe('        17');
    expect(lines[13]).toBe(
      '  1.000000000000E+00 -2.500000000000E+00  9.536743164063E-07  4.000000000000E+00',
    );
    expect(lines[14]).toBe('  5.000000000000E+00');
    expect(lines.slice(15)).toEqual(['    -1', '']);
  });

  test('a binary head says how many bytes follow, little end first', () => {
    const bytes = written(recording(signal('A', [1, 2, 3])), 'numbers in binary');
    const head = new TextDecoder('latin1').decode(bytes).split('\n')[1];
    expect([head.slice(0, 7), head.slice(7, 13), head.slice(13, 19), head.slice(19, 31), head.slice(31, 43)]).toEqual(['    58b', '     1', '     2', '          11', '          12']); // prettier-ignore
  });

  test('a file of another program: single precision, six a line, its step of six digits meant as a whole rate', () => {
    const { signals, start, name } = read(FOREIGN);
    expect(signals).toHaveLength(1);
    const [s] = signals;
    expect([s.name, s.unit, rateHz(s), startS(s)]).toEqual(['Deck, vertical', 'g', 51_200, 0.25]);
    expect(start).toBe('2026-03-02T07:08:09.000Z');
    expect(name).toBe('a');
    expect(all(s)).toEqual([1, -2.5, Math.fround(0.003), 0, 500, -60, 7]);
  });

  test('numbers that stand without a blank between them, and exponents with D, are told apart', () => {
    const tight = FOREIGN.replace('  1.00000E+00 -2.50000E+00', ' 1.00000D+000-2.50000D+000');
    expect(all(read(tight).signals[0]).slice(0, 3)).toEqual([1, -2.5, Math.fround(0.003)]);
  });

  test('it is known by how it begins; a name alone is enough, too', () => {
    expect(formatOf(sourceOf(FOREIGN, 'x.dat')).kind).toBe('uff');
    expect(formatOf(sourceOf(written(recording(signal('A', [1])), 'numbers in binary'), 'x.bin')).kind).toBe(
      'uff',
    );
    expect(formatOf(sourceOf('nothing of the kind', 'x.uff')).kind).toBe('uff');
  });

  test('functions over frequency, uneven steps, no function at all: said, with what to choose', () => {
    expect(() => read(FOREIGN.replace('        17    0', '        18    0'))).toThrow(
      /not responses over time/,
    );
    expect(() => read(FOREIGN.replace('         7         1  2.5', '         3         0  2.5'))).toThrow(
      /even step/,
    );
    expect(() => read('    -1\n   151\nx\n    -1\n')).toThrow(/no function/);
    expect(() => read('')).toThrow(/no function/);
    expect(() => [...uff.writing!.write(recording(), { form: FORMS[0], gaps: 'zeros' })]).toThrow(/channel/);
  });

  test('a file that ends early, or says what cannot be, is damaged: it says where', () => {
    expect(() => read(FOREIGN.slice(0, FOREIGN.indexOf('  7.00000E+00')))).toThrow(/6 of the 7 numbers/);
    expect(() => read(FOREIGN.slice(0, 400))).toThrow(/cut short|numbers/);
    expect(() => read(FOREIGN.replace('         2         7', '         9         7'))).toThrow(/type \(9\)/);
    expect(() => read(FOREIGN.replace('         2         7', '         2999999999'))).toThrow(
      /number of values/,
    );
    const binary = written(
      recording(
        signal(
          'A',
          Array.from({ length: 100 }, (_, i) => i),
        ),
      ),
      'numbers in binary',
    );
    expect(() => read(binary.subarray(0, binary.length - 50))).toThrow(/middle of its numbers/);
    expect(() => read(`    -1\n${'x'.repeat(20_000)}`)).toThrow(/never ends/);
  });

  test('whatever bytes come, it reads or refuses in words, and soon', () => {
    const seeds = [encode(FOREIGN), written(recording(signal('A', [1, 2, 3, 4, 5])), 'numbers in binary')];
    fc.assert(
      fc.property(fc.constantFrom(...seeds), fc.array(fc.tuple(fc.nat(2000), fc.nat(255)), { maxLength: 12 }), fc.nat(2000), (seed, changes, cut) => {
        const bytes = seed.slice(0, cut % 3 === 0 ? cut : seed.length);
        for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
        let found: Recording;
        try {
          found = read(bytes);
        } catch (error) {
          expect(['bad_input', 'damaged']).toContain((error as { code?: string }).code);
          return;
        }
        for (const s of found.signals) s.read(0, Math.min(s.length, 1000));
      }),
      { numRuns: 3000 },
    ); // prettier-ignore
  });

  test('lines are found whatever pieces they lie across', () => {
    const text = Array.from({ length: 3000 }, (_, i) => 'abc'.repeat(i % 40)).join('\n');
    const lines = new SourceLines(sourceOf(text));
    const found: string[] = [];
    for (let line = lines.next(); line; line = lines.next()) {
      found.push(line.text);
      expect(text.slice(line.at, line.at + line.text.length)).toBe(line.text);
    }
    expect(found.join('\n')).toBe(text.endsWith('\n') ? text.slice(0, -1) : text);
  });
});
