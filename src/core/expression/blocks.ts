import { CONSTANTS, FUNCTIONS } from './functions';
import { compileKernel, type Kernel, type Operation, type Region } from './kernel';
import { constant, isConversion, type Node } from './node';
import { onBlocks } from './operators';

/** Samples that go through all parts before the next ones: what a part brings is still in the nearest cache when the next one reads it. */
const BLOCK = 1024;
const PAGE = 65536;

/** One sample after the other: out[i] = f(inputs[0][i], …). State goes on from call to call, so blocks of any size give the same. */
export type RunExpression = (inputs: ArrayLike<number>[], out: Float32Array, n: number) => void;

/** What a formula is made into. */
export interface Compiled {
  root: Node;
  inputs: readonly string[];
  rateHz: number;
  conversions: ReadonlyMap<Node, (x: number) => number>;
  refuse(why: string, node: Node): Error;
}

const SIGNS: Record<string, Operation> = {
  '- 1': 'neg', 'not 1': 'not', '+ 2': 'add', '- 2': 'sub', '* 2': 'mul', '/ 2': 'div',
  '< 2': 'lt', '<= 2': 'le', '> 2': 'gt', '>= 2': 'ge', '== 2': 'eq', '!= 2': 'ne', 'and 2': 'and', 'or 2': 'or', 'xor 2': 'xor',
}; // prettier-ignore
const NAMED = new Set<Operation>(['abs', 'sqrt', 'floor', 'ceil', 'min', 'max']);

/** Parts of a formula that remember nothing become kernels; the others are computed sample by sample from blocks that are there already. */
export function startInKernels(of: Compiled): RunExpression {
  const { root, inputs } = of;
  const parts = countParts(root) + inputs.length + 2;
  const memory = new WebAssembly.Memory({ initial: Math.ceil((parts * BLOCK * 8) / PAGE) });
  let used = 0;
  const region = (size: 4 | 8): Region => {
    const at = used;
    used += BLOCK * 8;
    return { at, size };
  };
  const doubles = ({ at }: Region) => new Float64Array(memory.buffer, at, BLOCK);
  const singles = ({ at }: Region) => new Float32Array(memory.buffer, at, BLOCK);
  const places = inputs.map(() => region(4));
  const steps: ((m: number) => void)[] = [];

  const kernelOf = (node: Node): Kernel => {
    const number = constant(node);
    if (number !== null) return { number };
    switch (node.type) {
      case 'ConstantNode':
        return { region: places[inputs.indexOf(node.value as string)] };
      case 'ParenthesisNode':
        return kernelOf(node.content);
      case 'ConditionalNode':
        return { of: 'choose', args: [node.condition, node.trueExpr, node.falseExpr].map(kernelOf) };
      case 'OperatorNode': {
        const sign = SIGNS[`${node.op} ${node.args.length}`];
        const args = node.args.map(kernelOf);
        if (sign) return { of: sign, args };
        return args.length === 1 ? args[0] : { region: byValues(args, onBlocks(node.op, 2)) };
      }
      default: {
        const { name } = node.fn;
        if (NAMED.has(name as Operation)) {
          const [first, ...rest] = node.args.map(kernelOf);
          if (rest.length === 0) return { of: name as Operation, args: [first] };
          return rest.reduce<Kernel>((a, b) => ({ of: name as Operation, args: [a, b] }), first);
        }
        if (name === 'clip') {
          const [x, low, high] = node.args.map(kernelOf);
          return { of: 'min', args: [high, { of: 'max', args: [low, x] }] };
        }
        return { region: remembered(node) };
      }
    }
  };
  /** Where the values of a part lie as doubles. */
  const laid = (kernel: Kernel): Float64Array => {
    if ('region' in kernel && kernel.region.size === 8) return doubles(kernel.region);
    const to = region(8);
    const values = doubles(to);
    if ('number' in kernel) values.fill(kernel.number);
    else steps.push(compileKernel(kernel, to, memory));
    return values;
  };
  function byValues(args: Kernel[], work: ReturnType<typeof onBlocks>): Region {
    const [x, y] = args.map(laid);
    const to = region(8);
    const out = doubles(to);
    steps.push((m) => work(x, y, out, m));
    return to;
  }
  function remembered(node: Node): Region {
    const to = region(8);
    const out = doubles(to);
    const evaluate = functionOf(of, node, (arg) => laid(kernelOf(arg)));
    steps.push((m) => {
      for (let i = 0; i < m; i++) out[i] = evaluate(i);
    });
    return to;
  }

  const result = region(4);
  const whole = kernelOf(root);
  steps.push(compileKernel(whole, result, memory));
  const slots = places.map(singles);
  const results = singles(result);
  return (values, out, n) => {
    for (let at = 0; at < n; at += BLOCK) {
      const m = Math.min(BLOCK, n - at);
      for (let k = 0; k < slots.length; k++) {
        const own = values[k];
        if (own instanceof Float32Array) slots[k].set(own.subarray(at, at + m));
        else for (let i = 0; i < m; i++) slots[k][i] = own[at + i];
      }
      for (const step of steps) step(m);
      out.set(m === BLOCK ? results : results.subarray(0, m), at);
    }
  };
}

const countParts = (node: Node): number => {
  let parts = 0;
  node.traverse(() => void parts++);
  // Each part may lie as itself, and as what a function reads.
  return 2 * parts;
};

/** A function or conversion of the language over blocks of its arguments. @throws FormulaError where it refuses its numbers */
function functionOf(of: Compiled, node: Node, block: (arg: Node) => Float64Array): (i: number) => number {
  if (isConversion(node.fn.name)) {
    const convert = of.conversions.get(node);
    if (!convert) throw of.refuse(`${node.fn.name} needs a value whose unit is known`, node);
    const x = block(node.args[0]);
    return (i) => convert(x[i]);
  }
  try {
    return FUNCTIONS[node.fn.name].make(
      node.args.map(block).map((values) => (i) => values[i]),
      of.rateHz,
      node.args.map((a) => constant(a) ?? NaN),
    );
  } catch (why) {
    if (typeof why !== 'string') throw why;
    throw of.refuse(`${node.fn.name}: ${why}`, node);
  }
}

/** The same in plain steps, from block to block: for a host without kernels, and for values that are no Float32Array. */
export function startInSteps(of: Compiled): RunExpression {
  const { root, inputs } = of;
  const slots = inputs.map(() => new Float64Array(BLOCK));
  const steps: ((m: number) => void)[] = [];
  const part = (node: Node): Float64Array => {
    const to = new Float64Array(BLOCK);
    switch (node.type) {
      case 'ConstantNode':
        if (typeof node.value === 'number') return to.fill(node.value);
        return slots[inputs.indexOf(node.value as string)];
      case 'SymbolNode':
        return to.fill(CONSTANTS[node.name]);
      case 'ParenthesisNode':
        return part(node.content);
      case 'ConditionalNode': {
        const [when, yes, no] = [part(node.condition), part(node.trueExpr), part(node.falseExpr)];
        steps.push((m) => {
          for (let i = 0; i < m; i++) to[i] = when[i] !== when[i] ? NaN : when[i] !== 0 ? yes[i] : no[i];
        });
        return to;
      }
      case 'OperatorNode': {
        const [x, y = x] = node.args.map(part);
        const work = onBlocks(node.op, node.args.length);
        steps.push((m) => work(x, y, to, m));
        return to;
      }
      default: {
        const evaluate = functionOf(of, node, part);
        steps.push((m) => {
          for (let i = 0; i < m; i++) to[i] = evaluate(i);
        });
        return to;
      }
    }
  };
  const result = part(root);
  return (values, out, n) => {
    for (let at = 0; at < n; at += BLOCK) {
      const m = Math.min(BLOCK, n - at);
      slots.forEach((slot, k) => {
        for (let i = 0; i < m; i++) slot[i] = values[k][at + i];
      });
      for (const step of steps) step(m);
      for (let i = 0; i < m; i++) out[at + i] = result[i];
    }
  };
}
