import { nameText } from './name-text';
import { polynomial, type Law } from '$core/conversion/conversion';
import { badInput } from '$core/errors';
import { isUnit } from '$core/quantities/quantities';
import { z } from 'zod';

const finite = z.number('Give a number.').min(-1e12).max(1e12);

export const ScaleLaw = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('linear'), slope: finite, offset: finite }),
  z.strictObject({
    kind: z.literal('polynomial'),
    coefficients: z
      .array(finite)
      .min(2, 'Give at least two coefficients.')
      .max(12, 'At most 12 coefficients.'),
  }),
  z.strictObject({
    kind: z.literal('table'),
    xs: z.array(finite).min(2, 'Give at least two points.').max(1000, 'At most 1000 points.'),
    ys: z.array(finite).min(2).max(1000),
  }),
]);

/** A conversion with a name: from what the hardware reads to a unit. Reused by several channels, kept whole in each. */
export const Scale = z.strictObject({
  id: z.string(),
  name: nameText(60),
  rawUnit: z.string().refine(isUnit, 'This is no unit.'),
  unit: z.string().refine(isUnit, 'This is no unit.'),
  law: ScaleLaw,
  note: z.string().max(500).default(''),
});
export type Scale = z.infer<typeof Scale>;

/** The straight line through two points. @throws `bad_input` when both raw values are the same */
export function twoPoints(
  a: { raw: number; value: number },
  b: { raw: number; value: number },
): Extract<Law, { kind: 'linear' }> {
  if (a.raw === b.raw) throw badInput('second point', b.raw, 'The two points need different raw values.');
  const slope = (b.value - a.value) / (b.raw - a.raw);
  return { kind: 'linear', slope, offset: a.value - slope * a.raw };
}

/** Checks what the schema alone cannot see. @throws `bad_input` with the reason */
export function checkScale(scale: Scale): Scale {
  const { law } = scale;
  if (law.kind === 'linear' && law.slope === 0)
    throw badInput('slope', 0, 'A slope of 0 would read the same whatever happens.');
  if (law.kind === 'polynomial' && law.coefficients.slice(1).every((c) => c === 0))
    throw badInput('coefficients', law.coefficients.join(', '), 'One beyond the first has to differ from 0.');
  if (law.kind === 'table') {
    if (law.xs.length !== law.ys.length)
      throw badInput(
        'table',
        `${law.xs.length} and ${law.ys.length} values`,
        'Each raw value needs its value.',
      );
    const at = law.xs.findIndex((x, k) => k > 0 && x <= law.xs[k - 1]);
    if (at > 0)
      throw badInput(
        `raw value ${at + 1}`,
        law.xs[at],
        `It has to be above ${law.xs[at - 1]}: sort the points by their raw value.`,
      );
  }
  return scale;
}

/** The law in words. */
export function scaleText({ law, rawUnit, unit }: Scale): string {
  const number = (v: number) => String(Number(v.toPrecision(6))).replace('-', '−');
  switch (law.kind) {
    case 'linear':
      return `${number(law.slope)} ${unit} for each ${rawUnit} plus ${number(law.offset)} ${unit}`;
    case 'polynomial':
      return `a polynomial of degree ${law.coefficients.length - 1}, ${number(polynomial(law.coefficients, 0))} ${unit} at 0 ${rawUnit}`;
    case 'table':
      return `a table of ${law.xs.length} points from ${number(law.xs[0])} to ${number(law.xs[law.xs.length - 1])} ${rawUnit}`;
  }
}
