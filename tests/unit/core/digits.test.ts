import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Digits } from '$core/formats/csv/digits';

const text = (write: (d: Digits) => void, point = '.') => {
  const digits = new Digits(point.charCodeAt(0));
  write(digits);
  return new TextDecoder().decode(digits.taken());
};
const significant = (value: number) => text((d) => d.significant(value));
const plainly = (value: number) => String(Number(value.toPrecision(7)));

describe('numbers written as bytes', () => {
  test('are digit for digit what exact arithmetic gives, for any 32-bit sample', () => {
    fc.assert(
      fc.property(fc.float({ noNaN: true, noDefaultInfinity: true }), (value) => {
        expect(significant(value)).toBe(plainly(value));
      }),
      { numRuns: 20_000 },
    );
    // Around the powers of ten, where the count of digits changes, and at the middle of two roundings.
    for (let e = -12; e <= 20; e++)
      for (const k of [0.9999999, 0.99999995, 0.999999949, 1, 1.0000001, 1.00000005, 1.5, 9.9999995, 9.99999949])
        for (const value of [k * 10 ** e, -k * 10 ** e, Math.fround(k * 10 ** e)]) expect(significant(value)).toBe(plainly(value)); // prettier-ignore
    for (const value of [0, -0, 1234567.5, 0.5, 123456.75, 8388607.5, 16777216, 1e-45, 3.4e38]) expect(significant(value)).toBe(plainly(value)); // prettier-ignore
  });

  test('a missing value is nothing; the decimal sign is the one that is wanted', () => {
    expect([NaN, Infinity, -Infinity].map(significant)).toEqual(['', '', '']);
    expect(text((d) => (d.significant(-12.5), d.byte(59), d.fixed(0.25, 3), d.byte(59), d.significant(1.25e-9)), ',')).toBe('-12,5;0,250;1,25e-9'); // prettier-ignore
  });

  test('times have as many digits behind the point as are wanted', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1e7, noNaN: true }), fc.integer({ min: 0, max: 9 }), (value, decimals) => {
        expect(text((d) => d.fixed(value, decimals))).toBe(value.toFixed(decimals));
      }),
      { numRuns: 20_000 },
    ); // prettier-ignore
    for (const [value, decimals] of [[0, 0], [0, 3], [9.9995, 3], [10, 0], [99.9, 1], [1e9, 6], [0.0005, 3], [1e16, 2], [-0.5, 1]]) expect(text((d) => d.fixed(value, decimals))).toBe(value.toFixed(decimals)); // prettier-ignore
  });

  test('what was taken is not given again, and there is room for any length', () => {
    const digits = new Digits(46);
    for (let i = 0; i < 100_000; i++) digits.significant(-1234.567);
    expect(digits.taken().length).toBe(100_000 * 9);
    expect(digits.taken().length).toBe(0);
  });
});
