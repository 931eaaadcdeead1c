import type { Evaluate } from './running';

const yesNo = (a: Evaluate, b: Evaluate, of: (x: number, y: number) => boolean): Evaluate => {
  return (i) => {
    const x = a(i);
    const y = b(i);
    return x !== x || y !== y ? NaN : of(x, y) ? 1 : 0;
  };
};

/** Signs of the language with the number of values they take. */
export const OPERATORS = new Set([
  '- 1',
  '+ 1',
  'not 1',
  '+ 2',
  '- 2',
  '* 2',
  '/ 2',
  '^ 2',
  '< 2',
  '<= 2',
  '> 2',
  '>= 2',
  '== 2',
  '!= 2',
  'and 2',
  'or 2',
  'xor 2',
]);

/** A sign at work on one or two values. Comparison and logic with a missing value give a missing value. */
export function operator(op: string, [a, b]: Evaluate[]): Evaluate {
  if (b === undefined) {
    if (op === '-') return (i) => -a(i);
    return op === 'not' ? yesNo(a, a, (x) => x === 0) : a;
  }
  switch (op) {
    case '+':
      return (i) => a(i) + b(i);
    case '-':
      return (i) => a(i) - b(i);
    case '*':
      return (i) => a(i) * b(i);
    case '/':
      return (i) => a(i) / b(i);
    case '^':
      return (i) => a(i) ** b(i);
    case '<':
      return yesNo(a, b, (x, y) => x < y);
    case '<=':
      return yesNo(a, b, (x, y) => x <= y);
    case '>':
      return yesNo(a, b, (x, y) => x > y);
    case '>=':
      return yesNo(a, b, (x, y) => x >= y);
    case '==':
      return yesNo(a, b, (x, y) => x === y);
    case '!=':
      return yesNo(a, b, (x, y) => x !== y);
    case 'and':
      return yesNo(a, b, (x, y) => x !== 0 && y !== 0);
    case 'or':
      return yesNo(a, b, (x, y) => x !== 0 || y !== 0);
    default:
      return yesNo(a, b, (x, y) => (x !== 0) !== (y !== 0));
  }
}
