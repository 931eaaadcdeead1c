/** Comparison and logic with a missing value give a missing value. */
const yesNo =
  (of: (x: number, y: number) => boolean) =>
  (x: number, y: number): number =>
    x !== x || y !== y ? NaN : of(x, y) ? 1 : 0;

/** Signs of the language with the number of values they take, each on one or two values. */
const ON_VALUES: Record<string, (x: number, y: number) => number> = {
  '- 1': (x) => -x,
  '+ 1': (x) => x,
  'not 1': (x) => (x !== x ? NaN : x === 0 ? 1 : 0),
  '+ 2': (x, y) => x + y,
  '- 2': (x, y) => x - y,
  '* 2': (x, y) => x * y,
  '/ 2': (x, y) => x / y,
  '^ 2': (x, y) => x ** y,
  '< 2': yesNo((x, y) => x < y),
  '<= 2': yesNo((x, y) => x <= y),
  '> 2': yesNo((x, y) => x > y),
  '>= 2': yesNo((x, y) => x >= y),
  '== 2': yesNo((x, y) => x === y),
  '!= 2': yesNo((x, y) => x !== y),
  'and 2': yesNo((x, y) => x !== 0 && y !== 0),
  'or 2': yesNo((x, y) => x !== 0 || y !== 0),
  'xor 2': yesNo((x, y) => (x !== 0) !== (y !== 0)),
};

/** A sign at work on the first n values of one or two blocks. */
type OnBlocks = (x: Float64Array, y: Float64Array, out: Float64Array, n: number) => void;

/** The four of arithmetic, as loops that a compiler can make the most of. */
const ARITHMETIC: Record<string, OnBlocks> = {
  '+ 2': (x, y, out, n) => {
    for (let i = 0; i < n; i++) out[i] = x[i] + y[i];
  },
  '- 2': (x, y, out, n) => {
    for (let i = 0; i < n; i++) out[i] = x[i] - y[i];
  },
  '* 2': (x, y, out, n) => {
    for (let i = 0; i < n; i++) out[i] = x[i] * y[i];
  },
  '/ 2': (x, y, out, n) => {
    for (let i = 0; i < n; i++) out[i] = x[i] / y[i];
  },
};

const keyOf = (op: string, values: number) => `${op} ${values}`;
export const isOperator = (op: string, values: number): boolean =>
  Object.hasOwn(ON_VALUES, keyOf(op, values));
export const onValues = (op: string, values: readonly number[]): number =>
  ON_VALUES[keyOf(op, values.length)](values[0], values[1]);

export function onBlocks(op: string, values: number): OnBlocks {
  const key = keyOf(op, values);
  const of = ON_VALUES[key];
  return (
    ARITHMETIC[key] ??
    ((x, y, out, n) => {
      for (let i = 0; i < n; i++) out[i] = of(x[i], y[i]);
    })
  );
}
