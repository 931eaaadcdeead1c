import { z } from 'zod';
import { badInput } from '../errors';
import { differentiated, integrated } from '../filters/calculus';
import { Cascade, bothWays } from '../filters/cascade';
import { designFilter, responseOf } from '../filters/design';
import { ALL_UNITS, definition, isUnit } from '../quantities/quantities';
import { NO_DIMENSION, combine, sameDimension } from '../quantities/symbols';
import { rateHz } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { responseFigure } from './filter';
import type { MakingKind } from './making';
import { byRuns } from './runs';

const WHAT = ['integral', 'integral twice', 'derivative', 'derivative twice'] as const;
type What = (typeof WHAT)[number];
const STEPS: Record<What, number> = {
  integral: 1,
  'integral twice': 2,
  derivative: -1,
  'derivative twice': -2,
};
const WAYS = ['both ways, without delay', 'forwards, as it would be live'] as const;

const schema = z.strictObject({
  channels: field(z.array(z.string()).min(1, 'Choose at least one channel.').max(200), {
    label: 'Channels',
    editor: 'channels',
  }),
  what: field(z.enum(WHAT), { label: 'What', editor: 'choice', options: WHAT }),
  corner: field(z.number().positive('Give a frequency above 0 Hz.').max(1e8).nullable(), {
    label: 'High pass',
    editor: 'number',
    unit: 'Hz',
    none: 'no high pass',
    help: 'An offset becomes a ramp and drift a swing: what is slower than this is taken out after each integral (Butterworth, order 2).',
  }),
  ways: field(z.enum(WAYS), { label: 'Direction', editor: 'choice', options: WAYS }),
  unit: field(z.string().trim().max(40).nullable(), {
    label: 'In',
    editor: 'text',
    none: 'its usual unit',
    help: 'Such as mm/s or mm.',
  }),
});

/** The unit that comes out, and by what the numbers are multiplied for it. @throws `bad_input` for a unit that does not fit */
export function unitAfter(
  unit: string,
  steps: number,
  wanted: string | null,
): { unit: string; factor: number } {
  const known = isUnit(unit) ? definition(unit) : null;
  const time = { 1: 's', 2: 's²', [-1]: 's⁻¹', [-2]: 's⁻²' }[steps]!;
  const plain = { unit: unit === '1' ? time : `${unit}·${time}`, factor: 1 };
  if (!known || known.offset !== 0) {
    if (wanted)
      throw badInput(
        'In',
        wanted,
        `What becomes of ${unit} over time has no other unit: leave it to its usual one.`,
      );
    return plain;
  }
  const dimension = combine(known.dimension, definition('s').dimension, steps);
  const fits = (symbol: string) => isUnit(symbol) && sameDimension(definition(symbol).dimension, dimension);
  if (wanted && !fits(wanted))
    throw badInput(
      'In',
      wanted,
      `That is no unit of what becomes of ${unit}: leave it empty, or give one of its kind.`,
    );
  // A strain over time is no time.
  const pure = sameDimension(known.dimension, NO_DIMENSION);
  const symbol = wanted ?? (pure ? undefined : ALL_UNITS.find(fits));
  return symbol ? { unit: symbol, factor: known.factor / definition(symbol).factor } : plain;
}

/** Integral and derivative over time. */
export const integrate: MakingKind<typeof schema> = {
  kind: 'integrate',
  title: 'Integral or derivative over time',
  sentence: {
    schema,
    template: ({ what, corner }) =>
      STEPS[what] > 0
        ? `The {what} of {channels} over time by trapezoids, ${corner === null ? 'with {corner}' : 'each followed by a high pass at {corner}, {ways}'}; in {unit}.`
        : 'The {what} of {channels} over time by central differences; in {unit}.',
  },
  defaults: { channels: [], what: 'integral', corner: 1, ways: 'both ways, without delay', unit: null },
  roles: [{ key: 'channels', takes: 'several' }],
  gaps: 'A gap of one sample is bridged by a line and left out again; after a longer one an integral begins anew at 0.',
  make: ({ channels }, settings) =>
    channels.map((input) => {
      const rate = rateHz(input);
      const steps = STEPS[settings.what];
      const { unit, factor } = unitAfter(input.unit, steps, settings.unit);
      const times = Math.abs(steps);
      const pass =
        steps > 0 && settings.corner !== null
          ? designFilter(
              { family: 'butterworth', band: 'high pass', order: 2, edgesHz: [settings.corner] },
              rate,
            )
          : null;
      const work = (run: Float64Array) => {
        for (let k = 0; k < times; k++) {
          run = steps > 0 ? integrated(run, rate) : differentiated(run, rate);
          if (pass && settings.ways === 'both ways, without delay') bothWays(pass, run);
          else if (pass) new Cascade(pass).run(run);
        }
        for (let i = 0; i < run.length; i++) run[i] *= factor;
        return run;
      };
      return {
        name: `${input.name}, ${settings.what}`,
        unit,
        rate: input.rate,
        startNs: input.startNs,
        length: input.length,
        blocks: (signal) => byRuns(input, 1, work, signal),
      };
    }),
  response: (settings, rate) => {
    const steps = STEPS[settings.what];
    if (steps < 0 || settings.corner === null)
      throw badInput('High pass', 'none', 'There is no filter to draw.');
    const pass = designFilter(
      { family: 'butterworth', band: 'high pass', order: 2, edgesHz: [settings.corner] },
      rate,
    );
    const power = steps * (settings.ways === 'both ways, without delay' ? 2 : 1);
    const size = (hz: number) => Math.hypot(...responseOf(pass, hz, rate)) ** power;
    return responseFigure(size, [settings.corner / 30, rate / 2], 'Response of the high pass');
  },
};
