import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FormulaError, compileExpression } from '$core/expression/expression';
import { Random } from '$core/random';
import { referenceCase } from '../../reference';

const run = (text: string, inputs: Record<string, ArrayLike<number>>, rateHz = 1, blocks = [Infinity]) => {
  const expression = compileExpression(text);
  const step = expression.start(rateHz);
  const n = Object.values(inputs)[0]?.length ?? 1;
  const out = new Float32Array(n);
  for (let from = 0, k = 0; from < n; k++) {
    const count = Math.min(n - from, blocks[k % blocks.length]);
    step(
      expression.inputs.map((name) => Array.prototype.slice.call(inputs[name], from, from + count)),
      out.subarray(from, from + count),
      count,
    );
    from += count;
  }
  return out;
};
const value = (text: string, inputs: Record<string, number> = {}) =>
  run(text, Object.fromEntries(Object.entries(inputs).map(([k, v]) => [k, [v]])))[0];

test.each([
  ['"a" + 2 * "b"', 5],
  ['-"a" ^ 2', -1],
  ['"b" > 1 and not ("a" > 1)', 1],
  ['("a" > 0) xor ("b" > 0)', 0],
  ['"a" > 2 ? "a" : "b"', 2],
  ['max("a", "b", 7) - min("a", "b", -1)', 8],
  ['select("b", 10, 20, 30)', 30],
  ['level(2 * "a", 0.2)', 20],
])('%s', (text, expected) => expect(value(text, { a: 1, b: 2 })).toBeCloseTo(expected, 5));

const reference = referenceCase('14_expressions');
const { fs, a, b } = reference.inputs as { fs: number; a: number[]; b: number[] };
const held = 'hysteresis("a", 0.6, -0.2)';
test.each([
  ['linear_combination', '2 * "a" - 0.5 * "b" - 0.25'],
  ['moving_average', 'mean("a", 0.3)'],
  ['moving_rms', 'rms("a", 0.3)'],
  ['moving_median', 'median("b", 0.3)'],
  ['integral', 'integral("b")'],
  ['magnitude', 'sqrt("a"^2 + "b"^2)'],
  ['angle_deg', 'atan2("b", "a") * 180 / pi'],
  ['hysteresis', held],
  ['and_or_not', '("a" > 0.6 and not ("b" > 0)) or (abs("b") < 0.1)'],
  ['exclusive_or', '("a" > 0) xor ("b" > 0)'],
  ['rising_edge_count', `count(${held})`],
  ['on_time', `ontime(${held})`],
  ['time_since_on', `timer(${held})`],
  ['running_max', 'peak("a")'],
  ['running_min', 'trough("b")'],
  ['clip', 'clip("b", -0.7, 0.9)'],
  ['delay', 'delay("a", 0.26)'],
  ['polynomial', '0.1 + 1.5 * "a" - 0.4 * "a"^2 + 0.05 * "a"^3'],
  ['table', 'table("b", -2, -1, -0.5, 0.2, 0, 0, 1, 2, 1.8, 2.1)'],
  ['low_pass_first_order', 'smooth("a", 0.15)'],
  ['conditional', '"a" >= "b" ? "a" : -"b"'],
  ['level_db', 'level(max(abs("a"), 1e-6), 0.5)'],
  ['nested', 'sqrt(abs("a"*"b")) + exp(-abs("a")) * sin("b") - ("a" - "b")^2 / (1 + abs("b"))'],
  ['precedence', '-"a"^2 + "b"*2 - "a"/4*2'],
])('reference %s, in one piece and in uneven blocks alike', (id, text) => {
  const { expected } = reference as unknown as {
    expected: { items: { id: string; values: number[] }[] | Record<string, number[]> };
  };
  const wanted = (
    Array.isArray(expected.items)
      ? Object.values(expected.items.find((e) => e.id === id)!).find(Array.isArray)
      : expected.items[id]
  ) as number[];
  const whole = run(text, { a, b }, fs);
  // Results are single precision: its rounding is the only difference there may be.
  wanted.forEach((w, i) =>
    expect(Math.abs(whole[i] - w), `${id} at ${i}`).toBeLessThanOrEqual(1e-7 * Math.max(1, Math.abs(w))),
  );
  expect(run(text, { a, b }, fs, [1, 7, 50, 3])).toEqual(whole);
});

test('the derivative is the difference to the sample before; two of them in a row are the central difference of the reference', () => {
  const { expected } = reference as unknown as {
    expected: { items: { id: string }[] | Record<string, number[]> };
  };
  const wanted = (
    Array.isArray(expected.items)
      ? Object.values(expected.items.find((e) => e.id === 'derivative')!).find(Array.isArray)
      : expected.items.derivative
  ) as number[];
  const back = run('derivative("a")', { a }, fs);
  for (let i = 1; i < a.length - 1; i++) expect((back[i] + back[i + 1]) / 2).toBeCloseTo(wanted[i], 4);
});

test('filters: a steady value passes or is stopped; at the corner 3 dB are lost, a decade beyond 40 dB', () => {
  const rate = 1000;
  const sine = (hz: number) =>
    Float64Array.from({ length: 8000 }, (_, i) => Math.SQRT2 * Math.sin((2 * Math.PI * hz * i) / rate));
  const rmsOf = (x: Float32Array) => Math.sqrt(x.slice(4000).reduce((s, v) => s + v * v, 0) / 4000);
  expect(run('lowpass("a", 10)', { a: [5, 5, 5] }, rate)).toEqual(Float32Array.from([5, 5, 5]));
  expect(run('highpass("a", 10)', { a: [5, 5, 5] }, rate)[2]).toBeCloseTo(0, 6);
  for (const kind of ['lowpass', 'highpass'])
    expect(rmsOf(run(`${kind}("a", 10)`, { a: sine(10) }, rate))).toBeCloseTo(Math.SQRT1_2, 3);
  expect(20 * Math.log10(rmsOf(run('lowpass("a", 10)', { a: sine(100) }, rate)))).toBeLessThan(-39.9);
  expect(rmsOf(run('bandpass("a", 5, 50)', { a: sine(16) }, rate))).toBeGreaterThan(0.98);
});

test('windows of a long noisy signal keep their precision, and extremes are those of a plain search', () => {
  const random = new Random(5);
  const x = Float64Array.from({ length: 20_000 }, () => 1000 + random.gauss());
  const [mean, high, slope] = ['mean("a", 0.5)', 'highest("a", 0.5)', 'slope("a", 0.5)'].map((f) =>
    run(f, { a: x }, 1000),
  );
  for (const i of [10, 700, 19_999]) {
    const last = x.subarray(Math.max(0, i - 499), i + 1);
    expect(mean[i]).toBeCloseTo(last.reduce((s, v) => s + v, 0) / last.length, 3);
    expect(high[i]).toBeCloseTo(Math.max(...last), 3);
  }
  expect(
    run('slope("a", 0.5)', { a: Float64Array.from({ length: 900 }, (_, i) => 3 * i * 0.001) }, 1000)[899],
  ).toBeCloseTo(3, 4);
  expect(Math.abs(slope[19_999])).toBeLessThan(3);
});

test('a missing value stays missing, and what remembers goes on after it', () => {
  expect(value('"a" * 2', { a: NaN })).toBeNaN();
  expect(value('not "a"', { a: NaN })).toBeNaN();
  expect([...run('mean("a", 3)', { a: [1, NaN, 3] })]).toEqual([1, NaN, 2]);
  expect([...run('count("a" > 0)', { a: [0, 1, 0, 1, 1] })]).toEqual([0, 1, 1, 2, 2]);
  expect([...run('integral("a", "r")', { a: [2, 2, 2, 2], r: [0, 0, 1, 0] })]).toEqual([0, 2, 0, 2]);
});

describe('what is no formula is refused with its place and reason', () => {
  test.each([
    ['"a" +', /not understood/, '+'],
    ['flow * 2', /“flow” is not known; put the name of a channel in quotation marks/, 'flow'],
    ['2 + import("fs")', /there is no function “import”/, 'import("fs")'],
    ['atan2("a")', /atan2 takes 2 values \(y, x\), not 1/, 'atan2("a")'],
    ['mean("a", "b")', /value 2 of mean \(x, seconds\) has to be a number/, 'mean("a", "b")'],
    ['"a".constructor', /cannot be used/, null],
    ['x = 3', /cannot be used/, null],
    ['1 < "a" < 2', /two comparisons in a row/, null],
    ['"a" % 2', /sign “%”/, '"a" % 2'],
  ])('%s', (text, reason, place) => {
    try {
      compileExpression(text);
      expect.unreachable();
    } catch (error) {
      expect(error).toBeInstanceOf(FormulaError);
      const fault = error as FormulaError;
      expect(fault.message).toMatch(reason);
      if (place) expect(text.slice(fault.from, fault.to)).toBe(place);
    }
  });
  test('a corner above half the rate, a window of no length', () => {
    expect(() => compileExpression('lowpass("a", 60)').start(100)).toThrow(
      /60 Hz does not go with 100 samples/,
    );
    expect(() => compileExpression('mean("a", -1)').start(100)).toThrow(/above 0 s/);
  });
});

const UNITS: Record<string, string> = {
  torque: 'kN·m',
  speed: 'rpm',
  temp: '°C',
  temp2: '°C',
  kelvin: 'K',
  force: 'N',
  big: 'kN',
  angle: '°',
};
const units = (text: string, result: string) => compileExpression(text).checkUnits((n) => UNITS[n], result);
test('units are followed through a formula', () => {
  units('"torque" * "speed" * pi / 30', 'kW');
  units('convert("torque" * "speed", "kW")', 'W'.replace('W', 'kW'));
  units('derivative("temp") > 0.1', 'yes/no');
  units('"temp" - "temp2"', 'K');
  units('integral("force")', 'N·s');
  units('sqrt("force" * "force")', 'N');
  units('max("temp", "temp2") > 62 or "force" > 3', 'yes/no');
});
test.each([
  ['"temp" + "force"', 'K', /“temp” \[K\] and “force” \[m·kg·s⁻²\] do not go together/],
  ['"force" + "big"', 'N', /units of different size.*convert/],
  ['"force"', 'kN', /it gives “force”.*convert\(…, "kN"\)/],
  ['"torque" * "speed"', 'N', /the channel is in N/],
  ['sin("angle")', '1', /sin takes a pure number/],
  ['convert("force" * 2, "kN")', 'kN', /a plain number has scaled/],
  ['"temp" > "force"', 'yes/no', /do not go together/],
])('units that do not fit: %s in %s', (text, result, reason) =>
  expect(() => units(text, result)).toThrow(reason),
);
test('convert changes the number with the unit, temperatures with their zero', () => {
  const expression = compileExpression('convert("temp", "°F")');
  expression.checkUnits(() => '°C', '°F');
  const out = new Float32Array(1);
  expression.start(1)([[100]], out, 1);
  expect(out[0]).toBeCloseTo(212, 4);
});

test('whatever is typed, it compiles or is refused as bad input; nothing else happens', () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.stringMatching(/^["a-z()+*/. 0-9=<>,?:^]{0,40}$/)), (text) => {
      try {
        const expression = compileExpression(text);
        expression.checkUnits(() => 'N', 'N');
        expect(typeof expression.start(100)).toBe('function');
      } catch (error) {
        expect((error as { code?: string }).code).toBe('bad_input');
      }
    }),
    { numRuns: 400 },
  );
});
