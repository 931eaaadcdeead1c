import type { MathNode } from 'mathjs';
import { CONSTANTS } from './functions';
import { isOperator, onValues } from './operators';

/** A node of the grammar by its type name; each holds only what its type says. */
export type Node = MathNode & {
  type: string;
  value: unknown;
  name: string;
  fn: string & { name: string };
  op: string;
  args: Node[];
  content: Node;
  condition: Node;
  trueExpr: Node;
  falseExpr: Node;
  conditionals: string[];
  params: Node[];
};

/** Functions that bring a value to a unit, with what they say of themselves. */
export const CONVERSIONS: Record<string, string> = {
  convert: 'x in another unit',
  number: 'the bare number of x in a unit, for formulas found by trial',
};
export const isConversion = (name: string) => Object.hasOwn(CONVERSIONS, name);

/** The number a part stands for when no signal is in it; null otherwise. */
export function constant(node: Node): number | null {
  switch (node.type) {
    case 'ConstantNode':
      return typeof node.value === 'number' ? node.value : null;
    case 'SymbolNode':
      return CONSTANTS[node.name] ?? null;
    case 'ParenthesisNode':
      return constant(node.content);
    case 'OperatorNode': {
      const values = node.args.map(constant).filter((v) => v !== null);
      if (values.length < node.args.length || !isOperator(node.op, values.length)) return null;
      return onValues(node.op, values);
    }
  }
  return null;
}
