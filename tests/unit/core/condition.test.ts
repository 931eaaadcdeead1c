import {
  neverOrAlways,
  conditionText,
  regionOf,
  when,
  EMPTY_TERM,
  type Term,
} from '$core/condition/condition';
import { Detector } from '$core/condition/detector';
import { SlidingSlope } from '$core/signal/sliding';
import { LimitWatch } from '$core/signal/limit-watch';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';

/** Samples at which a term turns, with what it turns to. */
function turns(rest: Partial<Term>, signal: number[], holdSamples = 0): [number, boolean][] {
  const term = { ...EMPTY_TERM, ...rest };
  const entering = ['rises above', 'falls below'].includes(term.test);
  const d = new Detector(regionOf(term)!, holdSamples, entering);
  return signal.flatMap((v, i) => (d.next(v) ? [[i, d.on] as [number, boolean]] : []));
}

describe('one term', () => {
  test('a level is passed once until the signal has come back by the hysteresis; what lies past it from the start does not count', () => {
    const signal = [11, 9, 10.5, 9.5, 11, 7.9, 10.1];
    expect(turns({ test: 'rises above', level: 10, hysteresis: 2 }, signal)).toEqual([
      [2, true],
      [5, false],
      [6, true],
    ]);
    expect(turns({ test: 'is above', level: 10, hysteresis: 2 }, signal)[0]).toEqual([0, true]);
  });
  test('held means without a break; a missing reading is no break', () => {
    const signal = [5, 2, 2, 2, 5, 2, NaN, 2, 2, 2, 2];
    expect(turns({ test: 'falls below', level: 3 }, signal, 4)).toEqual([[10, true]]);
  });
  test('inside and outside of a band, with hysteresis on both sides', () => {
    const signal = [0, 5, 9.5, 10.5, 11.5, 5, 0.5];
    expect(turns({ test: 'is inside', level: 10, high: 1, hysteresis: 1 }, signal)).toEqual([
      [1, true],
      [4, false],
      [5, true],
    ]);
    expect(turns({ test: 'is outside', level: 1, high: 10 }, signal)).toEqual([
      [0, true],
      [1, false],
      [3, true],
      [5, false],
      [6, true],
    ]);
  });
  test('limits are the same rule, and passing quickly over quiet blocks changes nothing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -6, max: 6 }), { maxLength: 60 }),
        fc.integer({ min: 0, max: 4 }),
        fc.integer({ min: 0, max: 3 }),
        fc.integer({ min: 1, max: 9 }),
        (signal, hold, back, size) => {
          const watch = new LimitWatch({ below: -3, above: 3 }, hold, back);
          const slow = new Detector({ low: -3, high: 3, inside: false, hysteresis: back }, hold);
          for (let at = 0; at < signal.length; at += size) {
            const block = signal.slice(at, at + size);
            let seen = slow.on;
            for (const v of block) if (slow.next(v)) seen ||= slow.on;
            expect(watch.step(block, block.length, Math.min(...block), Math.max(...block))).toBe(seen);
          }
        },
      ),
    );
  });
  test('what can never come true in a channel’s range, or always is, is known before', () => {
    const range = { min: 0, max: 100 };
    const fate = (rest: Partial<Term>) => neverOrAlways({ ...EMPTY_TERM, ...rest }, range);
    expect(fate({ test: 'rises above', level: 120 })).toBe('never');
    expect(fate({ test: 'is below', level: 120 })).toBe('always');
    expect(fate({ test: 'is outside', level: -5, high: 130 })).toBe('never');
    expect(fate({ test: 'is inside', level: 90, high: 120 })).toBeNull();
    expect(fate({ test: 'climbs faster than', level: 1e6 })).toBeNull();
  });
});

test('the running slope is that of the least-squares line through its window', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: -1e3, max: 1e3, noNaN: true }), { minLength: 8, maxLength: 60 }),
      fc.integer({ min: 2, max: 8 }),
      (values, n) => {
        const slope = new SlidingSlope(n, 10);
        values.forEach((v, end) => {
          const got = slope.push(v);
          if (end + 1 < n) return expect(slope.full).toBe(false);
          const window = values.slice(end + 1 - n, end + 1);
          const mean = window.reduce((a, b) => a + b) / n;
          const xm = (n - 1) / 2;
          const top = window.reduce((s, y, x) => s + (x - xm) * (y - mean), 0);
          const bottom = window.reduce((s, _, x) => s + (x - xm) ** 2, 0);
          expect(got).toBeCloseTo((top / bottom) * 10, 5);
        });
      },
    ),
  );
});

test('a condition says itself in words', () => {
  const names = { channel: (id: string) => ({ name: id, unit: 'rpm' }) };
  const { terms } = when('Speed', 'is inside', 5, { high: 9, hold: 2, hysteresis: 1 });
  expect(conditionText({ join: 'any', terms: [...terms, ...when('Door', 'turns to no').terms] }, names)).toBe(
    'Speed is inside 5 rpm to 9 rpm for 2 s, hysteresis 1 rpm or Door turns to no',
  );
});
