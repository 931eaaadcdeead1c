import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileExpression } from '$core/expression/expression';

const value = (text: string, inputs: Record<string, number> = {}) => {
  const expression = compileExpression(text);
  const out = new Float32Array(1);
  expression.run(
    expression.inputs.map((name) => [inputs[name]]),
    out,
    1,
  );
  return out[0];
};

test.each([
  ['"a" + 2 * "b"', 5],
  ['("a" + 2) * "b"', 6],
  ['-"a" ^ 2', -1],
  ['"b" > 1 and not ("a" > 1)', 1],
  ['"b" < 1 or "a" >= 1', 1],
  ['max("a", "b") - min("a", "b")', 1],
  ['sqrt(abs(-16)) + log10(100) + sin(pi / 2)', 7],
])('%s', (text, expected) => expect(value(text, { a: 1, b: 2 })).toBeCloseTo(expected, 6));

test('a missing value stays missing, in arithmetic and in logic', () => {
  expect(value('"a" * 2', { a: NaN })).toBeNaN();
  expect(value('"a" > 1', { a: NaN })).toBeNaN();
  expect(value('not "a"', { a: NaN })).toBeNaN();
});

describe('what is no formula is refused with its place or reason', () => {
  test.each([
    ['"a" +', /not understood/],
    ['flow * 2', /“flow” is not known; put the name of a channel in quotation marks/],
    ['import("fs")', /there is no function “import”/],
    ['max("a")', /max takes 2 values, not 1/],
    ['"a".constructor', /cannot be used/],
    ['x = 3', /cannot be used/],
    ['[1, 2]', /cannot be used/],
    ['"a" % 2', /sign “%”/],
  ])('%s', (text, reason) => expect(() => compileExpression(text)).toThrow(reason));
});

test('whatever is typed, it compiles or is refused as bad input; nothing else happens', () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.stringMatching(/^["a-z()+*/. 0-9=<>]{0,30}$/)), (text) => {
      try {
        expect(typeof compileExpression(text).run).toBe('function');
      } catch (error) {
        expect((error as { code?: string }).code).toBe('bad_input');
      }
    }),
    { numRuns: 400 },
  );
});
