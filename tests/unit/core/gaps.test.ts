import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Detector } from '$core/condition/detector';
import { compileExpression } from '$core/expression/expression';
import { Sliding, SlidingSlope } from '$core/signal/sliding';

const RATE = 100;
/** What a formula of one signal gives, fed in blocks of a size. */
function run(formula: string, a: number[], size = a.length, rateHz = RATE): number[] {
  const step = compileExpression(formula).start(rateHz);
  const out: number[] = [];
  for (let at = 0; at < a.length; at += size) {
    const block = a.slice(at, at + size);
    const made = new Float32Array(block.length);
    step([Float64Array.from(block)], made, block.length);
    out.push(...made);
  }
  return out;
}
const ramp = (n: number, perSecond = 1) => Array.from({ length: n }, (_, i) => (perSecond * i) / RATE);
/** The same with samples missing. */
const gappy = (values: number[], from: number, to: number) =>
  values.map((v, i) => (i >= from && i < to ? NaN : v));

describe('a slope is a change over time, whatever is missing in it', () => {
  const signal = gappy(ramp(400), 100, 190);
  test.each(['slope("a", 0.5)', 'derivative("a")', 'slope("a", 2)'])(
    'a ramp of 1/s with a gap of 0.9 s reads 1/s all through: %s',
    (formula) => {
      const out = run(formula, signal);
      expect(out.slice(100, 190).every(Number.isNaN)).toBe(true);
      for (const i of [50, 99, 191, 195, 250, 399]) expect(out[i], `sample ${i}`).toBeCloseTo(1, 3);
    },
  );
  test('the step over a gap counts as the time that it took', () => {
    expect(run('derivative("a")', gappy(ramp(400), 100, 190))[190]).toBeCloseTo(1, 4);
  });
  test('a condition’s slope says nothing while most of its time is a gap, and the truth after', () => {
    const slope = new SlidingSlope(51, RATE);
    const found = signal.map((v) => {
      const s = slope.push(v);
      return slope.full ? s : NaN;
    });
    expect(found[200]).toBeNaN();
    expect(found.filter((s) => s === s).every((s) => Math.abs(s - 1) < 1e-9)).toBe(true);
    expect(found[399]).toBeCloseTo(1, 9);
  });
  test('a window of many samples costs no more memory than a million places and keeps the slope', () => {
    const slope = new SlidingSlope(3_000_000, RATE);
    let last = NaN;
    for (let i = 0; i < 3_200_000; i++) last = slope.push((2 * i) / RATE);
    expect(slope.full).toBe(true);
    expect(last).toBeCloseTo(2, 9);
  });
});

test('the slope over a window with any gaps is that of the least-squares line through what is there', () => {
  fc.assert(
    fc.property(
      fc.array(fc.oneof(fc.double({ min: -1e3, max: 1e3, noNaN: true }), fc.constant(NaN)), {
        minLength: 4,
        maxLength: 80,
      }),
      fc.integer({ min: 3, max: 12 }),
      (values, n) => {
        const slope = new SlidingSlope(n, 10);
        values.forEach((v, end) => {
          const got = slope.push(v);
          const window = values
            .slice(Math.max(0, end + 1 - n), end + 1)
            .map((y, x) => [x / 10, y])
            .filter(([, y]) => y === y);
          if (window.length < 2) return expect(got).toBeNaN();
          const mx = window.reduce((s, [x]) => s + x, 0) / window.length;
          const my = window.reduce((s, [, y]) => s + y, 0) / window.length;
          const top = window.reduce((s, [x, y]) => s + (x - mx) * (y - my), 0);
          const bottom = window.reduce((s, [x]) => s + (x - mx) ** 2, 0);
          expect(Math.abs(got - top / bottom)).toBeLessThan(1e-6 * (1 + Math.abs(top / bottom)));
        });
      },
    ),
  );
});

describe('windows are spans of time', () => {
  test('what is older than the window has left it, though samples were missing meanwhile', () => {
    const signal = gappy([...Array(100).fill(10), ...Array(100).fill(0)], 60, 130);
    for (const name of ['mean', 'rms', 'highest', 'median'])
      expect(run(`${name}("a", 0.5)`, signal)[135], name).toBe(0);
    expect(run('lowest("a", 0.5)', signal)[59]).toBe(10);
  });
  test('a huge spike is forgotten with the sample that leaves the window', () => {
    const signal = Array.from({ length: 300 }, (_, i) => (i === 50 ? 1e30 : Math.sin(i)));
    const plain = signal.map((v) => (v === 1e30 ? 0 : v));
    for (const formula of ['mean("a", 0.2)', 'rms("a", 0.2)'])
      expect(run(formula, signal).slice(80)).toEqual(run(formula, plain).slice(80));
  });
  test('sums of any span are those of its samples, in whatever order of size they come', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.integer({ min: -1000, max: 1000 }), fc.constant(NaN)), { maxLength: 60 }),
        fc.integer({ min: 1, max: 9 }),
        (values, n) => {
          const span = new Sliding(n, [(v) => v]);
          values.forEach((v, end) => {
            span.push(v);
            const window = values.slice(Math.max(0, end + 1 - n), end + 1).filter((x) => x === x);
            expect(span.valid).toBe(window.length);
            expect(span.sum(0)).toBe(window.reduce((a, b) => a + b, 0));
          });
        },
      ),
    );
  });
  test('a window that cannot be held is refused with its size, not shortened without a word', () => {
    expect(() => compileExpression('mean("a", 3600)').start(51_200)).toThrow(
      /184320000 samples.*20000000 at most/,
    );
  });
  test('blocks of any size give the same, gaps and all', () => {
    const signal = gappy(
      Array.from({ length: 200 }, (_, i) => Math.sin(i / 7) * 5),
      40,
      90,
    );
    for (const f of [
      'slope("a", 0.3)',
      'mean("a", 0.3)',
      'smooth("a", 0.2)',
      'lowpass("a", 5)',
      'integral("a")',
    ])
      for (const size of [1, 7, 64]) expect(run(f, signal, size)).toEqual(run(f, signal));
  });
});

describe('what has a memory keeps to the rule for gaps', () => {
  test('an integral leaves the time of a gap out: what was not measured is not made up', () => {
    const out = run('integral("a")', gappy(Array(301).fill(2), 100, 200));
    // 0 … 0.99 s and 2.00 … 3.00 s of 2: 0.99·2 + 1·2
    expect(out[300]).toBeCloseTo(3.98, 4);
    expect(out[150]).toBeNaN();
  });
  test('a low-pass of first order goes on as if it had seen the time pass', () => {
    const signal = [...Array(100).fill(0), ...Array(100).fill(NaN), 10];
    // One time constant of 1 s has passed since the last value when the next one comes.
    expect(run('smooth("a", 1)', signal).at(-1)).toBeCloseTo(10 * (1 - Math.exp(-1.01)), 3);
  });
  test('a high-pass makes no step of a gap that is longer than its memory', () => {
    const signal = [...Array(100).fill(0), ...Array(50).fill(NaN), ...Array(50).fill(1000)];
    expect(Math.max(...run('highpass("a", 5)', signal).filter((v) => v === v))).toBeLessThan(1);
  });
  test('a delayed value is missing where the one of then was, and none is made up before the first', () => {
    expect(run('delay("a", 0.02)', [NaN, 1, 2, NaN, 4, 5])).toEqual([NaN, 1, 1, 1, 2, NaN]);
  });
});

describe('a band with hysteresis', () => {
  const band = (hysteresis: number) => new Detector({ low: 0, high: 10, inside: false, hysteresis });
  test('one as wide as the band itself still clears, at its middle', () => {
    const d = band(10);
    expect([11, 6, 5.1, 5].map((v) => (d.next(v), d.on))).toEqual([true, true, true, false]);
  });
  test('coming back counts from the side on which it was left', () => {
    const d = band(3);
    // Back from above it clears at 7, although the lower side would ask for 3.
    expect([11, 8, 7].map((v) => (d.next(v), d.on))).toEqual([true, true, false]);
    expect([-1, 2, 3].map((v) => (d.next(v), d.on))).toEqual([true, true, false]);
    expect([11, -1, 2.9, 3].map((v) => (d.next(v), d.on))).toEqual([true, true, true, false]);
  });
});
