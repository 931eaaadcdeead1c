import { parse, type MathNode } from 'mathjs';
import { FarrierError } from '../errors';

/** One signal an expression reads, by its position. */
export interface Expression {
  /** Names of the signals in the order in which values are handed over. */
  inputs: string[];
  /** out[i] = f(inputs[0][i], …). */
  run(inputs: ArrayLike<number>[], out: Float32Array, n: number): void;
}

const MAX_LENGTH = 2000;
const CONSTANTS: Record<string, number> = { pi: Math.PI, e: Math.E };
const FUNCTIONS: Record<string, { arity: number; of: (...values: number[]) => number }> = {
  abs: { arity: 1, of: Math.abs },
  sqrt: { arity: 1, of: Math.sqrt },
  exp: { arity: 1, of: Math.exp },
  log: { arity: 1, of: Math.log },
  log10: { arity: 1, of: Math.log10 },
  sin: { arity: 1, of: Math.sin },
  cos: { arity: 1, of: Math.cos },
  tan: { arity: 1, of: Math.tan },
  min: { arity: 2, of: Math.min },
  max: { arity: 2, of: Math.max },
};

type Evaluate = (i: number) => number;

/** Compiles a formula such as `"Shaft torque" * "Shaft speed" * pi / 30`. Signals are quoted names; yes/no results are 1 and 0;
 *  a comparison with NaN gives NaN, so that a missing value stays missing.
 *  Only numbers, names, arithmetic, comparison, logic and a fixed list of functions are taken; the formula is turned into closures,
 *  never into program text.
 *  @throws `bad_input` naming the place that is not understood */
export function compileExpression(text: string): Expression {
  if (text.length > MAX_LENGTH) throw refuse(text, `it is longer than ${MAX_LENGTH} characters`);
  let root: MathNode;
  try {
    root = parse(text);
  } catch (error) {
    throw refuse(text, (error as Error).message);
  }
  const inputs: string[] = [];
  const slots: { values: ArrayLike<number> }[] = [];
  const evaluate = build(root, text, (name) => {
    let at = inputs.indexOf(name);
    if (at < 0) {
      at = inputs.push(name) - 1;
      slots.push({ values: [] });
    }
    return slots[at];
  });
  return {
    inputs,
    run(values, out, n) {
      for (let k = 0; k < slots.length; k++) slots[k].values = values[k];
      for (let i = 0; i < n; i++) out[i] = evaluate(i);
    },
  };
}

function build(
  node: MathNode,
  text: string,
  signal: (name: string) => { values: ArrayLike<number> },
): Evaluate {
  // The node classes of the grammar, by their type name; each holds only what its type says.
  const n = node as unknown as {
    type: string;
    value: unknown;
    name: string;
    fn: string & { name: string };
    op: string;
    args: MathNode[];
    content: MathNode;
  };
  const sub = (child: MathNode) => build(child, text, signal);
  switch (n.type) {
    case 'ConstantNode':
      if (typeof n.value === 'number') {
        const value = n.value;
        return () => value;
      }
      if (typeof n.value === 'string') {
        const slot = signal(n.value);
        return (i) => slot.values[i];
      }
      break;
    case 'SymbolNode':
      if (Object.hasOwn(CONSTANTS, n.name)) {
        const value = CONSTANTS[n.name];
        return () => value;
      }
      throw refuse(text, `“${n.name}” is not known; put the name of a channel in quotation marks`);
    case 'ParenthesisNode':
      return sub(n.content);
    case 'OperatorNode':
      return operator(n.op, n.args.map(sub), text);
    case 'FunctionNode': {
      const name = n.fn.name;
      if (!Object.hasOwn(FUNCTIONS, name))
        throw refuse(text, `there is no function “${name}”; known are ${Object.keys(FUNCTIONS).join(', ')}`);
      const { arity, of } = FUNCTIONS[name];
      if (n.args.length !== arity)
        throw refuse(text, `${name} takes ${arity} value${arity > 1 ? 's' : ''}, not ${n.args.length}`);
      const [a, b] = n.args.map(sub);
      return arity === 1 ? (i) => of(a(i)) : (i) => of(a(i), b(i));
    }
  }
  throw refuse(text, `“${node.toString().slice(0, 40)}” cannot be used in a formula`);
}

const yesNo = (a: Evaluate, b: Evaluate, of: (x: number, y: number) => boolean): Evaluate => {
  return (i) => {
    const x = a(i);
    const y = b(i);
    return x !== x || y !== y ? NaN : of(x, y) ? 1 : 0;
  };
};

function operator(op: string, [a, b]: Evaluate[], text: string): Evaluate {
  if (b === undefined) {
    if (op === '-') return (i) => -a(i);
    if (op === '+') return a;
    if (op === 'not') return yesNo(a, a, (x) => x === 0);
  } else {
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
      case 'and':
        return yesNo(a, b, (x, y) => x !== 0 && y !== 0);
      case 'or':
        return yesNo(a, b, (x, y) => x !== 0 || y !== 0);
    }
  }
  throw refuse(text, `the sign “${op}” cannot be used here`);
}

function refuse(text: string, why: string): FarrierError {
  return new FarrierError('bad_input', {
    what: `The formula “${text.slice(0, 80)}” is not understood: ${why}.`,
    where: 'formula',
    next: 'Write it like "Shaft torque" * 2 + 1.',
  });
}
