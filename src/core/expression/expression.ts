import { create, parseDependencies } from 'mathjs/number';
import { FarrierError } from '../errors';
import { CONSTANTS, FUNCTIONS } from './functions';
import { PURE, measureOf, unitText } from './measure';
import { CONVERSIONS, constant, isConversion, type Node } from './node';
import { startInKernels, startInSteps, type Compiled, type RunExpression } from './blocks';
import { isOperator } from './operators';
import { dimensionText, sameDimension } from '../quantities/symbols';
import { ALL_UNITS } from '../quantities/quantities';
import { UnitCheck } from './unit-check';

/** The grammar alone: what formulas compute is our own. */
const { parse } = create(parseDependencies);

/** A compiled formula. */
export interface Expression {
  /** Names of the signals in the order in which values are handed over. */
  inputs: string[];
  /** Begins anew at a sample rate. @throws FormulaError for a time or corner that does not go with the rate */
  start(rateHz: number): RunExpression;
  /** Checks units all through. @param unitOf unit of each input @param result unit of the result
   *  @throws FormulaError naming what does not go together */
  checkUnits(unitOf: (name: string) => string, result: string): void;
  /** Whether its result is in just this unit, by what its inputs are in; false where a plain number has scaled it, or it has no unit of its own. */
  givesUnit(unitOf: (name: string) => string, unit: string): boolean;
  /** The unit that its result is in by nature: of an input where one fits, else a usual one. @throws FormulaError as checkUnits */
  usualUnit(unitOf: (name: string) => string): string;
}

/** A fault in a formula, with its place in the text. */
export class FormulaError extends FarrierError {
  constructor(
    why: string,
    text: string,
    readonly from: number,
    readonly to: number,
    next = 'Write it like "Shaft torque" * 2 + 1.',
  ) {
    super('bad_input', {
      what: `The formula “${text.slice(0, 80)}” is not understood: ${why}.`,
      where: 'formula',
      next,
    });
  }
}

/** Signs and functions whose result is yes or no. */
const YES_NO = /[<>]|==|!=|\b(and|or|xor|not|hysteresis|latch|edge)\b/;
const MAX_LENGTH = 2000;
const MAX_DEPTH = 100;

/** Compiles a formula such as `"Shaft torque" * "Shaft speed" * pi / 30`. Signals are quoted names; yes/no results are 1 and 0;
 *  a comparison with NaN gives NaN, so that a missing value stays missing. Values are read in their channels' units.
 *  Only numbers, names, arithmetic, comparison, logic, `condition ? a : b` and the functions of FUNCTIONS are taken; the formula is
 *  turned into closures, never into program text.
 *  @throws FormulaError (`bad_input`) with the place that is not understood */
export function compileExpression(text: string): Expression {
  if (text.length > MAX_LENGTH)
    throw new FormulaError(`it is longer than ${MAX_LENGTH} characters`, text, MAX_LENGTH, text.length);
  let root: Node;
  try {
    root = parse(text) as Node;
  } catch (error) {
    const { message, char } = error as { message: string; char?: number };
    const at = Math.min(text.length, Math.max(0, (char ?? text.length + 1) - 1));
    throw new FormulaError(
      message.replace(/ \(char \d+\)$/, ''),
      text,
      Math.max(0, at - (at === text.length ? 1 : 0)),
      Math.max(1, Math.min(text.length, at + 1)),
    );
  }
  const compiler = new Compiler(text);
  compiler.collect(root, 0);
  const { inputs } = compiler;
  return {
    inputs,
    start(rateHz) {
      return compiler.start(root, rateHz);
    },
    checkUnits: (unitOf, result) => compiler.checkUnits(root, unitOf, result),
    givesUnit: (unitOf, unit) => compiler.givesUnit(root, unitOf, unit),
    usualUnit: (unitOf) => compiler.usualUnit(root, unitOf),
  };
}

function inKernels(of: Compiled, plain: RunExpression): RunExpression {
  try {
    return startInKernels(of);
  } catch (error) {
    if (error instanceof FormulaError) throw error;
    return plain; // a host that takes no kernels, such as a page that forbids them
  }
}

class Compiler {
  readonly inputs: string[] = [];
  /** Conversions found by the check of units; a formula that was not checked cannot convert. */
  private conversions: ReadonlyMap<Node, (x: number) => number> = new Map();

  constructor(private readonly text: string) {}

  refuse(why: string, node?: Node, next?: string): FormulaError {
    const part = node ? node.toString() : '';
    // The grammar keeps no places: the part is looked for as it stands, then by its name.
    const found = [
      part,
      part.replace(/\s/g, ''),
      node?.type === 'FunctionNode' ? `${node.fn.name}(` : '',
      node?.type === 'ConstantNode' ? `"${String(node.value)}"` : '',
    ]
      .filter(Boolean)
      .map((piece) => ({ at: this.text.indexOf(piece), length: piece.length }))
      .find(({ at }) => at >= 0);
    return new FormulaError(
      why,
      this.text,
      found?.at ?? 0,
      found ? found.at + found.length : this.text.length,
      next,
    );
  }

  /** Finds inputs and refuses what is no part of the language. */
  collect(node: Node, depth: number): void {
    if (depth > MAX_DEPTH) throw this.refuse('it is nested too deeply', node);
    const each = (children: Node[]) => children.forEach((child) => this.collect(child, depth + 1));
    switch (node.type) {
      case 'ConstantNode':
        if (typeof node.value === 'number') return;
        if (typeof node.value === 'string') {
          if (!this.inputs.includes(node.value)) this.inputs.push(node.value);
          return;
        }
        break;
      case 'SymbolNode':
        if (Object.hasOwn(CONSTANTS, node.name)) return;
        throw this.refuse(`“${node.name}” is not known; put the name of a channel in quotation marks`, node);
      case 'ParenthesisNode':
        return each([node.content]);
      case 'ConditionalNode':
        return each([node.condition, node.trueExpr, node.falseExpr]);
      case 'RelationalNode':
        throw this.refuse('two comparisons in a row: join them with “and”', node);
      case 'OperatorNode': {
        if (!isOperator(node.op, node.args.length))
          throw this.refuse(`the sign “${node.op}” cannot be used here`, node);
        const bare = node.args.find((a) => a.type === 'OperatorNode' && a.op === 'not');
        if (bare && !['and', 'or', 'xor', 'not'].includes(node.op))
          throw this.refuse(
            `“not” before “${node.op}” can be meant in two ways`,
            node,
            `Write not (a ${node.op} b), or (not a) ${node.op} b.`,
          );
        return each(node.args);
      }
      case 'FunctionNode': {
        const name = node.fn.name;
        if (isConversion(name)) {
          if (node.args.length !== 2 || typeof node.args[1].value !== 'string')
            throw this.refuse(`${name} takes a value and a unit in quotation marks`, node);
          return each([node.args[0]]);
        }
        if (!Object.hasOwn(FUNCTIONS, name))
          throw this.refuse(
            `there is no function “${name}”`,
            node,
            `Known are ${Object.keys(FUNCTIONS).join(', ')}, ${Object.keys(CONVERSIONS).join(' and ')}.`,
          );
        const { least, most, takes, numbers = [] } = FUNCTIONS[name];
        const { length } = node.args;
        if (length < least || length > most)
          throw this.refuse(
            `${name} takes ${least === most ? least : `${least} to ${most}`} value${most > 1 ? 's' : ''} (${takes}), not ${length}`,
            node,
          );
        for (const k of numbers)
          if (k < length && constant(node.args[k]) === null)
            throw this.refuse(
              `value ${k + 1} of ${name} (${takes}) has to be a number written in the formula`,
              node,
            );
        return each(node.args);
      }
    }
    throw this.refuse(`“${node.toString().slice(0, 40)}” cannot be used in a formula`, node);
  }

  /** Begins at a rate. State lives in what is returned, so the way of computing is chosen once, by the first values that come. */
  start(root: Node, rateHz: number): RunExpression {
    const of = {
      root,
      inputs: this.inputs,
      rateHz,
      conversions: this.conversions,
      refuse: (why: string, node: Node) => this.refuse(why, node),
    };
    // What it refuses is refused at once.
    const plain = startInSteps(of);
    let run: RunExpression | null = null;
    return (values, out, n) => {
      run ??= values.every((v) => v instanceof Float32Array) ? inKernels(of, plain) : plain;
      run(values, out, n);
    };
  }

  checkUnits(root: Node, unitOf: (name: string) => string, result: string): void {
    const got = this.measure(root, unitOf);
    const wanted = measureOf(result);
    if (got.plain) return;
    if (!sameDimension(got.dimension, wanted.dimension))
      throw this.refuse(
        `it gives ${unitText(got)}, the channel is in ${result}`,
        root,
        `Change the unit of the channel, or the formula; number("…", "unit") takes a reading as a bare number, as formulas found by trial want it.`,
      );
    // A difference of temperatures is as large in K as in °C; a temperature is not.
    const apart = !got.difference && Math.abs(got.offset - wanted.offset) > 1e-9;
    if (got.scale !== null && (Math.abs(got.scale / wanted.scale! - 1) > 1e-9 || apart))
      throw this.refuse(
        `it gives ${unitText(got)}, the channel is in ${result}`,
        root,
        `Write convert(…, "${result}") around it, or change the unit of the channel.`,
      );
  }

  givesUnit(root: Node, unitOf: (name: string) => string, unit: string): boolean {
    const got = this.measure(root, unitOf);
    const wanted = measureOf(unit);
    return (
      !got.plain &&
      got.scale !== null &&
      sameDimension(got.dimension, wanted.dimension) &&
      Math.abs(got.scale / wanted.scale! - 1) < 1e-9 &&
      (got.difference === true || Math.abs(got.offset - wanted.offset) < 1e-9)
    );
  }

  usualUnit(root: Node, unitOf: (name: string) => string): string {
    const got = this.measure(root, unitOf);
    if (got.plain || got === PURE) return got === PURE && YES_NO.test(this.text) ? 'yes/no' : '1';
    const fits = (symbol: string) => {
      const m = measureOf(symbol);
      return (
        sameDimension(m.dimension, got.dimension) &&
        (got.scale === null ||
          (Math.abs(got.scale / m.scale! - 1) < 1e-9 &&
            (got.difference || Math.abs(got.offset - m.offset) < 1e-9)))
      );
    };
    const symbol = [...this.inputs.map(unitOf), ...ALL_UNITS].find(fits);
    return symbol ?? dimensionText(got.dimension);
  }

  private measure(root: Node, unitOf: (name: string) => string) {
    const check = new UnitCheck(unitOf, (why, node, next) => this.refuse(why, node, next));
    const measure = check.measure(root);
    this.conversions = check.conversions;
    return measure;
  }
}
