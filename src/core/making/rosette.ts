import { z } from 'zod';
import { badInput } from '../errors';
import { definition } from '../quantities/quantities';
import { rateText } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { ROSETTES, rosetteState, type SurfaceState } from '../sensors/rosette';
import type { MakingKind } from './making';
import { byChunks } from './runs';

const GIVES = [
  'principal strains',
  'principal direction',
  'principal stresses',
  'equivalent stress',
] as const;
const OUT: Record<(typeof GIVES)[number], [key: keyof SurfaceState, name: string][]> = {
  'principal strains': [
    ['strain1', 'ε1'],
    ['strain2', 'ε2'],
  ],
  'principal direction': [['angleDeg', 'φ']],
  'principal stresses': [
    ['stress1', 'σ1'],
    ['stress2', 'σ2'],
  ],
  'equivalent stress': [['vonMises', 'σv']],
};

const gauge = (label: string, help?: string) => field(z.string(), { label, editor: 'channel', help });
const schema = z.strictObject({
  a: gauge('Gauge a', 'Angles are counted from it towards b and c.'),
  b: gauge('Gauge b'),
  c: gauge('Gauge c'),
  rosette: field(z.enum(ROSETTES), { label: 'Angles', editor: 'choice', options: ROSETTES }),
  gives: field(z.array(z.enum(GIVES)).min(1, 'Choose at least one.'), {
    label: 'Gives',
    editor: 'several',
    options: GIVES,
    help: 'Equivalent stress by von Mises.',
  }),
  modulus: field(z.number().positive('Give a modulus above 0.').max(2000), {
    label: 'Young’s modulus',
    editor: 'number',
    unit: 'GPa',
  }),
  poisson: field(z.number().min(0).max(0.5), { label: 'Poisson’s ratio', editor: 'number' }),
  name: field(z.string().trim().min(1, 'Give a name.').max(60, 'At most 60 characters.'), {
    label: 'Name',
    editor: 'text',
    none: 'a name',
  }),
});

/** Principal strains and stresses from three gauges. */
export const rosette: MakingKind<typeof schema> = {
  kind: 'rosette',
  title: 'Rosette to principal strains and stresses',
  sentence: {
    schema,
    template: ({ gives }) =>
      `{gives} at {name} from gauges {a}, {b} and {c} at {rosette} degrees${gives.some((g) => g.endsWith('stresses') || g === 'equivalent stress') ? ', plane stress with {modulus} and ν {poisson}' : ''}.`,
  },
  defaults: { a: '', b: '', c: '', rosette: '0/45/90', gives: ['principal strains', 'principal direction'], modulus: 210, poisson: 0.3, name: 'Rosette' }, // prettier-ignore
  roles: ['a', 'b', 'c'].map((key) => ({ key, takes: 'one' as const, unit: 'µε' })),
  gaps: 'Where one of the three is missing the result is, too.',
  make({ a: [a], b: [b], c: [c] }, settings) {
    if (new Set([a.id, b.id, c.id]).size < 3)
      throw badInput('Gauges', [a, b, c].map((g) => g.name).join(', '), 'Choose three different ones.');
    for (const other of [b, c])
      if (other.rate.num * a.rate.den !== a.rate.num * other.rate.den || other.startNs !== a.startNs)
        throw badInput(
          'Gauges',
          `${rateText(a)} and ${rateText(other)} samples/s`,
          'The three have to be sampled together: bring them to one rate first.',
        );
    const strain = [a, b, c].map((g) => definition(g.unit).factor);
    const length = Math.min(a.length, b.length, c.length);
    const micro = definition('µε').factor;
    const unitOf: Record<keyof SurfaceState, [unit: string, factor: number]> = {
      strain1: ['µε', 1 / micro],
      strain2: ['µε', 1 / micro],
      angleDeg: ['°', 1],
      stress1: ['MPa', 1],
      stress2: ['MPa', 1],
      vonMises: ['MPa', 1],
    };
    return settings.gives.flatMap((gives) =>
      OUT[gives].map(([key, symbol]) => {
        const [unit, factor] = unitOf[key];
        return {
          name: `${settings.name}, ${symbol}`,
          unit,
          rate: a.rate,
          startNs: a.startNs,
          length,
          blocks: (signal) =>
            byChunks(
              length,
              (first, n) => {
                const [x, y, z] = [a, b, c].map((g) => Float32Array.from(g.read(first, n)));
                return x.map((v, i) => {
                  const state = rosetteState(settings.rosette, v * strain[0], y[i] * strain[1], z[i] * strain[2], settings.modulus * 1e3, settings.poisson); // prettier-ignore
                  return state[key] * factor;
                });
              },
              signal,
              settings.name,
            ),
        };
      }),
    );
  },
};
