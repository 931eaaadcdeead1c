import fc from 'fast-check';
import { zlibSync } from 'fflate';
import { read as otherReader } from 'mat-for-js';
import { describe, expect, test } from 'vitest';
import type { Recording, Source } from '$core/formats/format';
import { mat, variableName } from '$core/formats/mat/mat';
import { formatOf } from '$core/formats/registry';
import { rateHz, sampledOf, startS, type Sampled } from '$core/samples/sampled';

const sourceOf = (bytes: Uint8Array, name = 'a.mat'): Source => ({ name, length: bytes.length, read: (at, count) => bytes.subarray(at, at + count) }); // prettier-ignore
const signal = (name: string, values: ArrayLike<number>, more: Partial<Sampled> = {}): Sampled =>
  sampledOf(
    { id: name, name, quantity: '', unit: 'µε', rate: { num: 2000, den: 1 }, startNs: 0, width: 1, ...more },
    Float32Array.from(values),
  );
const recording = (...signals: Sampled[]): Recording => ({
  name: 'Spin-up',
  start: null,
  facts: [],
  signals,
});
const written = (...signals: Sampled[]): Uint8Array<ArrayBuffer> => {
  const pieces = [...mat.writing!.write(recording(...signals), {})] as Uint8Array[];
  const out = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const p of pieces) {
    out.set(p, at);
    at += p.length;
  }
  return out;
};
const read = (bytes: Uint8Array, options = mat.reading!.defaults) =>
  mat.reading!.read(sourceOf(bytes), options);
const all = (s: Sampled) => [...s.read(0, s.length)];

/** A file as another program writes it, number by number from the format’s description. */
function foreign(
  big: boolean,
  variables: {
    name: string;
    dims: number[];
    type: number;
    size: number;
    of: number;
    put: (v: DataView, at: number, x: number) => void;
    values: number[];
  }[],
): Uint8Array<ArrayBuffer> {
  // prettier-ignore
  const parts: number[] = [...new Uint8Array(124).fill(32), ...(big ? [1, 0, 77, 73] : [0, 1, 73, 77])];
  const u32 = (n: number) => {
    const v = new DataView(new ArrayBuffer(4));
    v.setUint32(0, n, !big);
    return [...new Uint8Array(v.buffer)];
  };
  const filled = (b: number[]) => [...b, ...new Array<number>((8 - (b.length % 8)) % 8).fill(0)];
  for (const { name, dims, type, size, of, put, values } of variables) {
    const numbers = new DataView(new ArrayBuffer(values.length * size));
    values.forEach((x, i) => put(numbers, i * size, x));
    const inside = [
      ...u32(6), ...u32(8), ...u32(of), ...u32(0),
      ...u32(5), ...u32(dims.length * 4), ...filled(dims.flatMap(u32)),
      ...u32(1), ...u32(name.length), ...filled([...name].map((c) => c.charCodeAt(0))),
      ...u32(type), ...u32(values.length * size), ...filled([...new Uint8Array(numbers.buffer)]),
    ]; // prettier-ignore
    parts.push(...u32(14), ...u32(inside.length), ...inside);
  }
  return Uint8Array.from(parts);
}
const doubles = (name: string, dims: number[], values: number[], big = false) => ({ name, dims, type: 9, size: 8, of: 6, put: (v: DataView, at: number, x: number) => v.setFloat64(at, x, !big), values }); // prettier-ignore

describe('MAT files', () => {
  test('what is written is read again: samples with their gaps, names, units, rates, starts', () => {
    const values = fc.array(fc.oneof(fc.float({ noDefaultInfinity: true }), fc.constant(NaN)), { minLength: 2, maxLength: 40 }); // prettier-ignore
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 0, max: 3600 }), fc.string({ minLength: 1, maxLength: 30, unit: 'grapheme' }), (list, rate, begin, name) => {
        const signals = [signal(name, list, { rate: { num: rate, den: 1 }, startNs: begin * 1e9 }), signal('Deck', [1, 2], { unit: 'm/s²' })];
        const back = read(written(...signals)).signals;
        expect(back.map((s) => [s.name, s.unit, rateHz(s), startS(s)])).toEqual(signals.map((s) => [s.name, s.unit, rateHz(s), startS(s)]));
        expect(back.map(all)).toEqual(signals.map(all));
      }),
      { numRuns: 150 },
    ); // prettier-ignore
  });

  test('another reader reads the same out of it', () => {
    const bytes = written(
      signal('Blade 1 flap, root', [1.5, -2, 3], { unit: 'kN' }),
      signal('2nd', [4, 5], { unit: 'V' }),
    );
    const { data } = otherReader(bytes.buffer) as { data: Record<string, Record<string, unknown>> };
    expect(Object.keys(data)).toEqual(['Blade_1_flap_root', 'x_2nd']);
    const numbers = (of: unknown) => [of].flat(3).flatMap((v) => (typeof v === 'number' ? [v] : [...(v as Float32Array)])); // prettier-ignore
    expect(numbers(data.Blade_1_flap_root.values)).toEqual([1.5, -2, 3]);
    expect(numbers(data.Blade_1_flap_root.rate)).toEqual([2000]);
    const words = (of: unknown) => String.fromCharCode(...([of].flat(3) as number[]));
    expect(words(data.Blade_1_flap_root.name)).toBe('Blade 1 flap, root');
    expect(words(data.Blade_1_flap_root.unit)).toBe('kN');
  });

  test('complex samples, and any part of a long signal', () => {
    const iq = signal('Band', [1, 2, 3, 4, 5, 6], { width: 2 });
    const [back] = read(written(iq)).signals;
    expect([back.width, back.length]).toEqual([2, 3]);
    expect([...back.read(1, 2)]).toEqual([3, 4, 5, 6]);
    const long = signal(
      'Long',
      Float32Array.from({ length: 70_001 }, (_, i) => i % 977),
    );
    const [part] = read(written(long)).signals;
    expect([...part.read(69_990, 11)]).toEqual([...long.read(69_990, 11)]);
  });

  test('names become variables that such programs take, each its own, whatever the letters', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 90, unit: 'grapheme' }), { maxLength: 30 }), (names) => {
        const taken = new Set<string>();
        const made = names.map((name) => variableName(name, taken));
        for (const name of made) expect(name).toMatch(/^[A-Za-z]\w{0,62}$/);
        expect(new Set(made.map((n) => n.toLowerCase())).size).toBe(names.length);
      }),
    );
  });

  test.each([false, true])('vectors and matrices of another program, the big end first: %s', (big) => {
    const whole = { name: 'counts', dims: [1, 3], type: 3, size: 2, of: 6, put: (v: DataView, at: number, x: number) => v.setInt16(at, x, !big), values: [-1, 2, 300] }; // prettier-ignore
    const bytes = foreign(big, [doubles('single', [1, 1], [7], big), whole, doubles('both', [2, 2], [1, 2, 3, 4], big)]); // prettier-ignore
    const { signals } = read(bytes, { rate: 50, unit: 'V' });
    // Numbers that are stored small are what they mean; columns are signals; a single number is none.
    expect(signals.map((s) => [s.name, all(s)])).toEqual([['counts', [-1, 2, 300]], ['both 1', [1, 2]], ['both 2', [3, 4]]]); // prettier-ignore
    expect(signals.map((s) => [rateHz(s), s.unit])).toEqual(signals.map(() => [50, 'V']));
  });

  test('packed variables are unpacked; one that would fill the memory is refused before', () => {
    const plain = foreign(false, [doubles('x', [1, 4], [1, 2, 3, 4])]);
    const packed = zlibSync(plain.subarray(128));
    const tag = (n: number) => [15, 0, 0, 0, n & 255, (n >> 8) & 255, 0, 0];
    const file = (body: Uint8Array) =>
      Uint8Array.from([...plain.subarray(0, 128), ...tag(body.length), ...body]);
    expect(all(read(file(packed)).signals[0])).toEqual([1, 2, 3, 4]);
    const bomb = new Uint8Array(1 << 20);
    new DataView(bomb.buffer).setUint32(0, 14, true);
    new DataView(bomb.buffer).setUint32(4, 0xfffffff0, true);
    expect(() => read(file(zlibSync(bomb)))).toThrow(/4295 MB unpacked/);
    expect(() => read(file(packed.subarray(0, 20)))).toThrow(/cannot be unpacked|middle/);
  });

  test('it is known by its head; what it is not is said with what to do', () => {
    const bytes = written(signal('A', [1, 2]));
    expect(formatOf(sourceOf(bytes, 'x.bin')).kind).toBe('mat');
    expect(() => read(new Uint8Array(50))).toThrow(/too short/);
    expect(() => read(new Uint8Array(200))).toThrow(/no MAT file/);
    const newer = bytes.slice();
    newer[125] = 2;
    expect(() => read(newer)).toThrow(/7\.3, which is HDF5/);
    expect(() => read(bytes.subarray(0, bytes.length - 8))).toThrow(/middle/);
    expect(() => read(foreign(false, [doubles('one', [1, 1], [1])]))).toThrow(/no vector/);
    expect(() => read(foreign(false, [doubles('lies', [1, 9], [1, 2])]))).toThrow(
      /says 9 numbers and holds 2/,
    );
    expect(() => [...mat.writing!.write(recording(), {})]).toThrow(/channel/);
  });

  test('whatever bytes come, it reads or refuses in words, and soon', () => {
    const seeds = [
      written(signal('A', [1, 2, 3])),
      foreign(true, [doubles('x', [2, 2], [1, 2, 3, 4], true)]),
    ];
    fc.assert(
      fc.property(fc.constantFrom(...seeds), fc.array(fc.tuple(fc.nat(900), fc.nat(255)), { maxLength: 10 }), fc.nat(1500), (seed, changes, cut) => {
        const bytes = seed.slice(0, cut % 4 === 0 ? cut : seed.length);
        for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
        try {
          for (const s of read(bytes).signals) s.read(0, Math.min(s.length, 1000));
        } catch (error) {
          expect(['bad_input', 'damaged']).toContain((error as { code?: string }).code);
        }
      }),
      { numRuns: 3000 },
    ); // prettier-ignore
  });
});
