import fc from 'fast-check';
import { strFromU8, unzipSync } from 'fflate';
import { describe, expect, test } from 'vitest';
import { FileNames } from '$core/formats/file-names';
import type { Piece } from '$core/formats/format';
import { bytesOf, isSeveral } from '$core/formats/zipped';
import { signalsOfColumns } from '$core/formats/grid';

const joined = (pieces: Piece[]) => {
  const parts = [...bytesOf((function* () { yield* pieces; })())]; // prettier-ignore
  return Uint8Array.from(Buffer.concat(parts));
};

describe('pieces of files', () => {
  test('one file is its bytes, text as UTF-8; several are one archive of them, whatever their pieces', () => {
    expect(strFromU8(joined(['Flow µ', new Uint8Array([33])]))).toBe('Flow µ!');
    expect(joined([])).toEqual(new Uint8Array(0));
    fc.assert(
      fc.property(fc.uniqueArray(fc.string({ minLength: 1, maxLength: 12 }).map((s) => `${s.replace(/[^\w]/g, '_')}.csv`), { minLength: 1, maxLength: 6 }), fc.array(fc.uint8Array({ maxLength: 300 }), { minLength: 0, maxLength: 5 }), (names, parts) => {
        const files = unzipSync(joined(names.flatMap((file): Piece[] => [{ file }, file, ...parts])));
        expect(Object.keys(files).sort()).toEqual([...names].sort());
        const whole = (name: string) => [...new TextEncoder().encode(name), ...parts.flatMap((p) => [...p])];
        for (const name of names) expect([...files[name]]).toEqual(whole(name));
      }),
      { numRuns: 60 },
    ); // prettier-ignore
  });

  test('what begins files of its own is told by its first piece; a file without a name among them is a fault of the writer', () => {
    expect([isSeveral({ file: 'a' }), isSeveral('a'), isSeveral(new Uint8Array(1)), isSeveral(undefined)]).toEqual([true, false, false, false]); // prettier-ignore
    expect(() => joined(['a', { file: 'b' }])).toThrow(/in the middle/);
  });

  test('names of files: none twice whatever their case, none that leads elsewhere', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 120 }), { maxLength: 30 }), (wanted) => {
        const names = new FileNames();
        const made = wanted.map((name) => names.of(name, '.csv'));
        expect(new Set(made.map((n) => n.toLowerCase())).size).toBe(made.length);
        for (const name of made) {
          expect(name).not.toMatch(/[\\/:*?"<>|\p{Cc}]/u);
          expect(name.startsWith('.')).toBe(false);
          expect(name.length).toBeLessThan(100);
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe('columns on a grid of times', () => {
  const columns = (values: number[]) => [{ name: 'Load', unit: 'kN', values }];

  test('rows that are missing are gaps, wherever they are; values stay with their times', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(300), { minLength: 0, maxLength: 80 }), fc.integer({ min: 1, max: 2000 }), fc.nat(100), (missing, hz, first) => {
        const kept = Array.from({ length: 400 }, (_, i) => i).filter((i) => i < 3 || i > 396 || !missing.includes(i));
        // More than half of the steps are single ones, as in any file that was recorded.
        if (kept.filter((i, k) => k > 0 && i - kept[k - 1] === 1).length < kept.length / 2) return;
        const times = kept.map((i) => first + i / hz);
        const [signal] = signalsOfColumns(columns(kept.map((i) => i * 2)), times, null);
        expect([signal.length, signal.startNs]).toEqual([400, Math.round(first * 1e9)]);
        expect(signal.rate.num / signal.rate.den).toBeCloseTo(hz, 6);
        const all = signal.read(0, 400);
        const there = new Set(kept);
        for (let i = 0; i < 400; i++) expect(all[i]).toEqual(there.has(i) ? i * 2 : NaN);
      }),
      { numRuns: 100 },
    ); // prettier-ignore
  });

  test('a time that lies on no step, goes back, or pauses for ever is refused with its row', () => {
    const read = (times: number[]) => () => signalsOfColumns(columns(times.map(() => 1)), times, null);
    expect(read([0, 1, 2, 3.4, 4])).toThrow(/row 4 at 3.4 s/);
    expect(read([0, 1, 1, 2])).toThrow(/row 3 at 1 s/);
    expect(read([0, 0.001, 0.002, 1e9])).toThrow(/with their gaps/);
    expect(read([5])).toThrow(/1 in all/);
    expect(() => signalsOfColumns(columns([1]), null, null)).toThrow(/Give the sample rate/);
    expect(signalsOfColumns(columns([1, 2]), [0, 7], 10)[0].rate).toEqual({ num: 10, den: 1 });
  });
});
