import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileExpression } from '$core/expression/expression';
import { compileKernel, type Kernel, type Operation } from '$core/expression/kernel';

// Formulas in machine code give what they give step by step: to the last bit of what is stored, with gaps, zeros of either sign and infinities.
const { a, b } = { a: '"a"', b: '"b"' };
const formulas = fc.letrec<{ tree: string }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 5, withCrossShrink: true },
    fc.constantFrom(a, b, '2', '0', '-1.5', 'pi', '(1 / 3)'),
    fc.tuple(tie('tree'), fc.constantFrom('+', '-', '*', '/', '^'), tie('tree')).map(([x, o, y]) => `((${x}) ${o} (${y}))`),
    fc.tuple(tie('tree'), fc.constantFrom('<', '<=', '>', '>=', '==', '!=', 'and', 'or', 'xor'), tie('tree')).map(([x, o, y]) => `((${x}) ${o} (${y}))`),
    fc.tuple(tie('tree'), tie('tree'), tie('tree')).map(([x, y, z]) => `((${x}) ? (${y}) : (${z}))`),
    fc.tuple(fc.constantFrom('abs', 'sqrt', 'floor', 'ceil', 'round', 'sign', 'sin', 'derivative', 'peak', 'integral'), tie('tree')).map(([f, x]) => `${f}(${x})`),
    fc.tuple(fc.constantFrom('min', 'max'), tie('tree'), tie('tree'), tie('tree')).map(([f, x, y, z]) => `${f}(${x}, ${y}, ${z})`),
    fc.tuple(tie('tree'), tie('tree'), tie('tree')).map(([x, y, z]) => `clip(${x}, ${y}, ${z})`),
    tie('tree').map((x) => `(-(${x}))`),
    tie('tree').map((x) => `(not (${x}))`),
    tie('tree').map((x) => `mean(${x}, 0.03)`),
    tie('tree').map((x) => `lowpass(${x}, 10)`),
  ),
})).tree; // prettier-ignore
const value = fc.oneof(
  { weight: 6, arbitrary: fc.float({ min: -100, max: 100, noNaN: true }) },
  fc.constantFrom(0, -0, 1, -1, NaN, Infinity, -Infinity),
);

/** Runs a formula over blocks of uneven sizes. */
function run(text: string, inputs: ArrayLike<number>[], sizes: number[]): Float32Array {
  const expression = compileExpression(text);
  const byName = { a: inputs[0], b: inputs[1] } as Record<string, ArrayLike<number>>;
  const go = expression.start(100);
  const n = inputs[0].length;
  const out = new Float32Array(n);
  for (let at = 0, k = 0; at < n; k++) {
    const m = Math.min(sizes[k % sizes.length], n - at);
    const part = new Float32Array(m);
    const cut = (x: ArrayLike<number>) => (x as Float32Array).slice(at, at + m);
    go(expression.inputs.map((name) => cut(byName[name])), part, m); // prettier-ignore
    out.set(part, at);
    at += m;
  }
  return out;
}

describe('formulas in machine code', () => {
  test('give what they give step by step', () => {
    fc.assert(
      fc.property(
        formulas,
        fc.array(fc.tuple(value, value), { minLength: 1, maxLength: 60 }),
        (text, rows) => {
          const singles = [0, 1].map((k) => Float32Array.from(rows, (r) => r[k]));
          const fast = run(text, singles, [rows.length]);
          const plain = run(text, singles.map((s) => Array.from(s)), [rows.length]); // prettier-ignore
          expect(Array.from(fast), text).toEqual(Array.from(plain));
        },
      ),
      { numRuns: 400 },
    );
  });

  test('whatever the blocks they come in, over several of their own', () => {
    fc.assert(
      fc.property(
        formulas,
        fc.array(fc.integer({ min: 1, max: 3000 }), { minLength: 1, maxLength: 5 }),
        (text, sizes) => {
          const n = 4000;
          const inputs = [Float32Array.from({ length: n }, (_, i) => Math.sin(i) * 9), Float32Array.from({ length: n }, (_, i) => (i % 97 === 0 ? NaN : (i % 13) - 6))]; // prettier-ignore
          const [whole, pieces] = [run(text, inputs, [n]), run(text, inputs, sizes)];
          const odd = whole.findIndex((v, i) => !Object.is(v, pieces[i]));
          expect(odd, text).toBe(-1);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('long formulas of many parts find their place', () => {
    const text = Array.from({ length: 60 }, (_, k) => `mean(${k % 2 ? a : b} * ${k}, 0.02)`).join(' + ');
    const inputs = [new Float32Array(50).fill(1), new Float32Array(50).fill(2)];
    const wanted = Array.from({ length: 60 }, (_, k) => (k % 2 ? k : 2 * k)).reduce((x, y) => x + y);
    expect(run(text, inputs, [50])[49]).toBe(wanted);
  });

  test('a kernel does each operation as the language says', () => {
    const memory = new WebAssembly.Memory({ initial: 1 });
    const [x, y, out] = [0, 64, 128].map((at) => new Float64Array(memory.buffer, at, 1));
    const tree = (of: Operation, values: number): Kernel => ({
      of,
      args: [{ region: { at: 0, size: 8 as const } }, { region: { at: 64, size: 8 as const } }].slice(
        0,
        values,
      ),
    });
    const of = (op: Operation, ...values: number[]) => {
      [x[0], y[0]] = [values[0], values[1] ?? 0];
      compileKernel(tree(op, values.length), { at: 128, size: 8 }, memory)(1);
      return out[0];
    };
    expect([of('add', 2, 3), of('sub', 2, 3), of('mul', 2, 3), of('div', 3, 2)]).toEqual([5, -1, 6, 1.5]);
    expect([of('lt', 2, 3), of('ge', 2, 3), of('eq', 2, 2), of('ne', 2, 2)]).toEqual([1, 0, 1, 0]);
    expect([of('and', 2, 0), of('or', 2, 0), of('xor', 2, -1), of('not', 0)]).toEqual([0, 1, 0, 1]);
    expect([of('lt', NaN, 1), of('and', NaN, 0), of('not', NaN), of('min', NaN, 1)]).toEqual([
      NaN,
      NaN,
      NaN,
      NaN,
    ]);
    expect(Object.is(of('neg', 0), -0)).toBe(true);
  });
});
