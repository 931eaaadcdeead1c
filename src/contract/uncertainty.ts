import { compileExpression } from '$core/expression/expression';
import {
  combineInputs,
  contribution,
  type Combined,
  type Contribution,
  type UncertainInput,
} from '$core/uncertainty/budget';
import { unitConversion } from '$core/quantities/quantities';
import { commonOf, roleOf, type Channel } from './channel';
import type { Sensor } from './sensor';

/** The budget of a channel's reading, in its unit: of the calibration in force, else of its sensor's paper; null where nothing is known. */
export function budgetOf(channel: Channel, sensor: Sensor | undefined): Contribution[] | null {
  const { unit } = commonOf(channel);
  const { calibration } = channel;
  if (calibration?.budget.length) return calibration.budget.map((p) => inUnit(p, calibration.unit, unit));
  if (!sensor || !(sensor.goodTo > 0 || sensor.goodToShare > 0)) return null;
  const paper = contribution({
    name: `Certificate of ${sensor.serial}`,
    type: 'B',
    halfWidth: sensor.goodTo,
    relative: sensor.goodToShare / 100,
    coverage: 2,
  });
  return [sensor.unit ? inUnit(paper, sensor.unit, unit) : paper];
}

function inUnit(part: Contribution, from: string, to: string): Contribution {
  if (from === to) return part;
  try {
    const { factor, offset } = unitConversion(from, to);
    return {
      ...part,
      halfWidth: part.halfWidth * Math.abs(factor),
      about: part.about && {
        mean: part.about.mean * factor + offset,
        spread: part.about.spread * Math.abs(factor),
      },
    };
  } catch {
    return part; // of another quantity: its unit was only a name
  }
}

/** A channel of a job, or as it was in a take, with what its uncertainty needs. */
export interface Uncertain {
  channel: Channel;
  sensor: Sensor | undefined;
}

/** Uncertainty of channels' readings at about 95 %; computed channels propagate that of the measured ones they come from, first order.
 *  An input that reaches a result by several ways counts once, with all its ways together. */
export class Uncertainties {
  private readonly byName: Map<string, Uncertain>;

  constructor(channels: Uncertain[]) {
    this.byName = new Map(channels.map((c) => [c.channel.name, c]));
  }

  /** @param name of the channel @param valueOf readings by name @returns null where an input has no budget or no reading */
  at(name: string, valueOf: (name: string) => number): Combined | null {
    const of = this.byName.get(name);
    if (!of) return null;
    const roots = new Set<string>();
    if (!this.rootsOf(name, roots, new Set())) return null;
    const inputs: UncertainInput[] = [];
    for (const root of roots) {
      const { channel, sensor } = this.byName.get(root)!;
      const reading = valueOf(root);
      const budget = budgetOf(channel, sensor);
      if (!budget || !Number.isFinite(reading)) return null;
      const sensitivity = root === name ? 1 : this.sensitivity(name, root, valueOf);
      if (!Number.isFinite(sensitivity)) return null;
      inputs.push({ sensitivity, reading, budget });
    }
    return inputs.length ? combineInputs(inputs) : null;
  }

  /** The measured channels that a channel comes from. @returns false for a circle or an unknown name */
  private rootsOf(name: string, roots: Set<string>, above: Set<string>): boolean {
    const of = this.byName.get(name);
    if (!of || above.has(name)) return false;
    if (roleOf(of.channel) !== 'computed') {
      roots.add(name);
      return true;
    }
    return this.formulaOf(name).inputs.every((input) =>
      this.rootsOf(input, roots, new Set([...above, name])),
    );
  }

  private formulaOf(name: string) {
    const { channel } = this.byName.get(name)!;
    const expression = compileExpression(String(channel.settings.formula));
    // Conversions within a formula are found by the check of its units.
    const unitOf = (input: string) => commonOf(this.byName.get(input)!.channel).unit;
    if (expression.inputs.every((input) => this.byName.has(input)))
      expression.checkUnits(unitOf, commonOf(channel).unit);
    return expression;
  }

  /** ∂(name)/∂(root) by central differences over a thousandth of the root's range. A formula with memory is taken at rest. */
  private sensitivity(name: string, root: string, valueOf: (name: string) => number): number {
    const { range } = commonOf(this.byName.get(root)!.channel);
    const step = (range.max - range.min) / 1000;
    const above = this.evaluate(name, (n) => valueOf(n) + (n === root ? step : 0));
    const below = this.evaluate(name, (n) => valueOf(n) - (n === root ? step : 0));
    return (above - below) / (2 * step);
  }

  private evaluate(name: string, measured: (name: string) => number): number {
    if (roleOf(this.byName.get(name)!.channel) !== 'computed') return measured(name);
    const { inputs, start } = this.formulaOf(name);
    const out = new Float32Array(1);
    start(1000)(
      inputs.map((input) => Float64Array.of(this.evaluate(input, measured))),
      out,
      1,
    );
    return out[0];
  }
}
