import { sameDimension, NO_DIMENSION } from '../quantities/symbols';
import { FUNCTIONS, type UnitRule } from './functions';
import { PLAIN, PURE, measureOf, product, sum, together, unitText, type Measure } from './measure';
import { constant, isConversion, type Node } from './node';

/** Makes the error that names a part of the formula. */
export type Refuse = (why: string, node?: Node, next?: string) => Error;

/** Follows units through a formula: what each part is measured in, and what does not go together. */
export class UnitCheck {
  /** What conversions named in the formula come to, found on the way. */
  readonly conversions = new Map<Node, (x: number) => number>();

  /** @param unitOf unit of each input */
  constructor(
    private readonly unitOf: (name: string) => string,
    private readonly refuse: Refuse,
  ) {}

  /** @throws what `refuse` makes of parts that do not go together */
  measure(node: Node): Measure {
    switch (node.type) {
      case 'ConstantNode':
        return typeof node.value === 'number'
          ? PLAIN
          : measureOf(this.unitOf(node.value as string), `“${String(node.value)}”`);
      case 'SymbolNode':
        return PLAIN;
      case 'ParenthesisNode':
        return this.measure(node.content);
      case 'ConditionalNode':
        this.measure(node.condition);
        return this.alike(node, [node.trueExpr, node.falseExpr]);
      case 'OperatorNode':
        return this.measureOperator(node);
    }
    const name = node.fn.name;
    if (isConversion(name)) {
      const from = this.measure(node.args[0]);
      const unit = String(node.args[1].value);
      const to = measureOf(unit);
      if (!sameDimension(from.dimension, to.dimension) || from.plain)
        throw this.refuse(`${unitText(from)} cannot be converted to ${unit}`, node);
      if (from.scale === null)
        throw this.refuse(
          `${name} needs a value whose unit is known: a plain number has scaled this one`,
          node,
        );
      const factor = from.scale / to.scale!;
      const offset = from.difference ? 0 : (from.offset - to.offset) / to.scale!;
      this.conversions.set(node, (x) => x * factor + offset);
      if (name === 'number') return PLAIN;
      return from.difference ? { ...to, offset: 0, difference: true, says: unit } : { ...to, says: unit };
    }
    const { unit, numbers = [] } = FUNCTIONS[name];
    return this.rule(
      unit,
      node,
      node.args.filter((_, k) => !numbers.includes(k)),
    );
  }

  private rule(rule: UnitRule, node: Node, values: Node[]): Measure {
    switch (rule) {
      case 'same':
        return this.alike(node, values);
      case 'first': {
        const [first] = values.map((v) => this.measure(v));
        return first;
      }
      case 'compare':
        this.alike(node, values);
        return PURE;
      case 'pure':
        for (const value of values) {
          const m = this.measure(value);
          if (!m.plain && (!sameDimension(m.dimension, NO_DIMENSION) || (m.scale !== null && m.scale !== 1)))
            throw this.refuse(`${node.fn.name} takes a pure number, not ${unitText(m)}`, node);
        }
        // Of bare numbers it is one itself, and takes the unit of what it stands beside.
        return values.length > 0 && values.every((v) => this.measure(v).plain) ? PLAIN : PURE;
      case 'logic':
        values.forEach((v) => this.measure(v));
        return PURE;
      default:
        return rule(values.map((v) => this.measure(v)));
    }
  }

  private alike(node: Node, parts: Node[]): Measure {
    const measures = parts.map((p) => this.measure(p));
    return together(measures) ?? this.unlike(node, measures);
  }

  private unlike(node: Node, measures: Measure[]): never {
    const [a, ...others] = measures.filter((m) => !m.plain);
    const b = others.find((m) => together([a, m]) === null) ?? others[0];
    const scaled = sameDimension(a.dimension, b.dimension);
    const size = a.scale !== null && b.scale !== null && Math.abs(a.scale / b.scale - 1) < 1e-9;
    throw this.refuse(
      `${unitText(a)} and ${unitText(b)} ${!scaled ? 'do not go together' : size ? 'have their zeros at different places' : 'are in units of different size'}`,
      node,
      scaled
        ? 'Bring one to the unit of the other with convert(…, "unit").'
        : 'Check which channels are meant.',
    );
  }

  private measureOperator(node: Node): Measure {
    const { op, args } = node;
    if (args.length === 1) return op === 'not' ? (this.measure(args[0]), PURE) : this.measure(args[0]);
    switch (op) {
      case '+':
      case '-': {
        const [a, b] = args.map((part) => this.measure(part));
        return sum(a, b, op) ?? this.unlike(node, [a, b]);
      }
      case '*':
        return product(this.measure(args[0]), this.measure(args[1]), 1);
      case '/':
        return product(this.measure(args[0]), this.measure(args[1]), -1);
      case '^': {
        const base = this.measure(args[0]);
        const power = constant(args[1]);
        if (base.plain) return PLAIN;
        if (power === null) {
          if (!sameDimension(base.dimension, NO_DIMENSION))
            throw this.refuse('the power of a value with a unit has to be a number', node);
          return PURE;
        }
        return product({ ...PURE, says: base.says }, base, power);
      }
      case 'and':
      case 'or':
      case 'xor':
        args.forEach((a) => this.measure(a));
        return PURE;
      default:
        this.alike(node, args);
        return PURE;
    }
  }
}
