import { z } from 'zod';
import { badInput } from '../errors';
import { compileExpression, type Expression } from '../expression/expression';
import { heldBeside } from '../samples/held';
import { rateHz } from '../samples/sampled';
import { field } from '../sentence/sentence';
import type { MakingKind } from './making';
import { byChunks } from './runs';

const schema = z.strictObject({
  formula: field(z.string().trim().min(1, 'Write a formula.').max(2000), {
    label: 'Formula',
    editor: 'formula',
    none: 'a formula',
    help: 'Names of channels in quotation marks, the same language as live: "Shaft torque" * "Shaft speed".',
  }),
  name: field(z.string().trim().min(1, 'Give a name.').max(80, 'At most 80 characters.'), {
    label: 'Name',
    editor: 'text',
    none: 'a name',
  }),
  unit: field(z.string().trim().max(40).nullable(), {
    label: 'In',
    editor: 'text',
    none: 'the unit that comes out',
  }),
});

/** A formula over channels of the take. */
export const formula: MakingKind<typeof schema> = {
  kind: 'formula',
  title: 'By a formula',
  sentence: { schema, template: () => '{name} is {formula}, in {unit}.' },
  defaults: { formula: '', name: '', unit: null },
  roles: [],
  gaps: 'Where a value is missing the result is, too. Slower channels are held at their last value.',
  make(_inputs, settings, { named }) {
    if (!settings.name) throw badInput('Name', 'nothing', 'Say what the result is called.');
    let expression = compileExpression(settings.formula);
    if (expression.inputs.length === 0)
      throw badInput('Formula', settings.formula, 'Name at least one channel, in quotation marks.');
    const inputs = expression.inputs.map((name) => {
      const input = named(name);
      if (!input)
        throw badInput(
          'Formula',
          name,
          'There is no such channel in the take: write its name as it stands there.',
        );
      if (input.width === 2) throw badInput('Formula', name, 'Formulas take real samples.');
      return input;
    });
    const unitOf = (name: string) => inputs[expression.inputs.indexOf(name)].unit;
    const unit = settings.unit || expression.usualUnit(unitOf);
    // A unit that comes out by itself may be of another size, as kN·rad/s is not kg·m/s³.
    const converted = !settings.unit && !fitsAsItIs(expression, unitOf, unit);
    if (converted) expression = compileExpression(`convert(${settings.formula}, "${unit}")`);
    expression.checkUnits(unitOf, unit);
    const fastest = inputs.reduce((a, b) => (rateHz(b) > rateHz(a) ? b : a));
    const { rate, startNs, length } = fastest;
    return [
      {
        name: settings.name,
        unit,
        rate,
        startNs,
        length,
        blocks: (signal) => {
          const run = expression.start(rateHz(fastest));
          const read = inputs.map((input) => heldBeside(input, fastest));
          return byChunks(
            length,
            (first, n) => {
              const out = new Float32Array(n);
              run(read.map((of) => of(first, n)), out, n); // prettier-ignore
              return out;
            },
            signal,
            settings.name,
          );
        },
      },
    ];
  },
};

function fitsAsItIs(expression: Expression, unitOf: (name: string) => string, unit: string): boolean {
  try {
    expression.checkUnits(unitOf, unit);
    return true;
  } catch {
    return false;
  }
}
