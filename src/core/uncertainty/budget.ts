import { badInput } from '../errors';
import { studentFactor } from '../statistics/student-t';

/** How a half width becomes a standard uncertainty (JCGM 100:2008, 4.3). For “normal” the half width is one standard uncertainty,
 *  or k of them where the divisor says so. */
export const DISTRIBUTIONS = ['normal', 'rectangular', 'triangular', 'U-shaped'] as const;
export type Distribution = (typeof DISTRIBUTIONS)[number];

const DIVISOR: Record<Distribution, number> = {
  normal: 1,
  rectangular: Math.sqrt(3),
  triangular: Math.sqrt(6),
  'U-shaped': Math.SQRT2,
};

/** One line of an uncertainty budget, for a quantity that depends on it with sensitivity 1. */
export interface Contribution {
  name: string;
  /** A: from repeated observations; B: from anything else. */
  type: 'A' | 'B';
  distribution: Distribution;
  /** Half width that does not depend on the reading, in the quantity's unit. */
  halfWidth: number;
  /** Half width as a share of the reading. */
  relative: number;
  /** Coverage factor of a normal half width; 1 for a standard uncertainty. */
  coverage: number;
  /** null: known for certain, infinitely many. */
  dof: number | null;
  /** Grows with the distance of the reading from `mean`, in units of `spread`: the part of a fitted slope. */
  about: { mean: number; spread: number } | null;
  /** Parts that were all found from one estimated variance, such as the residuals of one fit, carry its name: together they have its
   *  degrees of freedom, not each its own. */
  estimate: string | null;
  /** What two quantities share when this part is one and the same for both, such as the serial number of a reference. */
  shared: string | null;
}

export const contribution = (
  part: Pick<Contribution, 'name' | 'type'> & Partial<Contribution>,
): Contribution => ({
  distribution: 'normal',
  halfWidth: 0,
  relative: 0,
  coverage: 1,
  dof: null,
  about: null,
  estimate: null,
  shared: null,
  ...part,
});

/** Standard uncertainty of one contribution at a reading, in the reading's unit. */
export function standardUncertainty(part: Contribution, reading: number): number {
  const width = part.halfWidth + part.relative * Math.abs(reading);
  const lever = part.about ? Math.abs(reading - part.about.mean) / part.about.spread : 1;
  return (width * lever) / (DIVISOR[part.distribution] * part.coverage);
}

export interface Combined {
  /** Combined standard uncertainty. */
  standard: number;
  /** Effective degrees of freedom; Infinity when all are. */
  dof: number;
  /** Coverage factor for the confidence. */
  factor: number;
  /** Expanded uncertainty. */
  expanded: number;
}

/** One standard uncertainty, times its sensitivity coefficient, as it enters a combination. */
export interface Part {
  u: number;
  /** null: infinitely many. */
  dof: number | null;
  /** Parts of one estimate share its degrees of freedom. @default null, one of its own */
  estimate?: string | null;
}

/** Combines standard uncertainties that are independent (JCGM 100:2008, equation 10), with effective degrees of freedom by
 *  Welch-Satterthwaite (G.2b) cut off to a whole number as G.4.1 says. The formula asks for independent estimates of variances: parts that
 *  come from one estimate are one term of it, so that those of a fitted line give the prediction interval of linear regression. */
export function combine(parts: readonly Part[], confidence = 0.95): Combined {
  let squares = 0;
  const variances = new Map<string | number, { square: number; dof: number }>();
  parts.forEach(({ u, dof, estimate }, k) => {
    if (!(u >= 0)) throw badInput('standard uncertainty', u, 'Give a number of 0 or above.');
    squares += u * u;
    if (dof === null || u === 0) return;
    const known = variances.get(estimate ?? k);
    variances.set(estimate ?? k, { square: (known?.square ?? 0) + u * u, dof });
  });
  let fourths = 0;
  for (const { square, dof } of variances.values()) fourths += square ** 2 / dof;
  const standard = Math.sqrt(squares);
  const dof = fourths > 0 ? squares ** 2 / fourths : Infinity;
  // Rounding must not cost a degree of freedom.
  const factor = studentFactor(confidence, dof >= 1 ? Math.floor(dof * (1 + 1e-9)) : dof);
  return { standard, dof, factor, expanded: standard === 0 ? 0 : factor * standard };
}

/** A budget at a reading. @returns combined standard and expanded uncertainty at about 95 %, in the reading's unit */
export const uncertaintyAt = (
  budget: readonly Contribution[],
  reading: number,
  confidence = 0.95,
): Combined =>
  combine(
    budget.map((part) => ({
      u: standardUncertainty(part, reading),
      dof: part.dof,
      estimate: part.estimate,
    })),
    confidence,
  );

/** Standard uncertainty of y = f(x1 … xn) from the covariances of its inputs: sqrt(cᵀ V c) (JCGM 100:2008, equation 13).
 *  @param gradient ∂f/∂xi, shape [n] @param covariance shape [n][n], symmetric */
export function propagate(gradient: readonly number[], covariance: readonly (readonly number[])[]): number {
  let variance = 0;
  gradient.forEach((ci, i) => gradient.forEach((cj, j) => (variance += ci * cj * covariance[i][j])));
  return Math.sqrt(Math.max(0, variance));
}

/** One input of a computed quantity: how strongly it acts, where it stands, and its budget. */
export interface UncertainInput {
  sensitivity: number;
  reading: number;
  budget: readonly Contribution[];
}

/** Uncertainty of a computed quantity, first order. Parts that carry the same `shared` name are fully correlated and add with their
 *  signs, all others are independent (JCGM 100:2008, 5.2.2, F.1.2.3). An input that is used twice is one input with one sensitivity. */
export function combineInputs(inputs: readonly UncertainInput[], confidence = 0.95): Combined {
  const own: Part[] = [];
  const shared = new Map<string, { u: number; dof: number | null }>();
  inputs.forEach(({ sensitivity, reading, budget }, k) => {
    for (const part of budget) {
      const u = sensitivity * standardUncertainty(part, reading);
      const estimate = part.estimate === null ? null : `${k} ${part.estimate}`;
      if (part.shared === null) own.push({ u: Math.abs(u), dof: part.dof, estimate });
      else {
        const held = shared.get(part.shared);
        shared.set(part.shared, { u: (held?.u ?? 0) + u, dof: held?.dof ?? part.dof });
      }
    }
  });
  return combine(
    [...own, ...[...shared.values()].map(({ u, dof }) => ({ u: Math.abs(u), dof }))],
    confidence,
  );
}

/** Partial derivatives by central differences. @param steps one for each input, above 0 */
export function gradientOf(
  f: (x: number[]) => number,
  at: readonly number[],
  steps: readonly number[],
): number[] {
  return at.map((value, i) => {
    const probe = [...at];
    probe[i] = value + steps[i];
    const above = f(probe);
    probe[i] = value - steps[i];
    return (above - f(probe)) / (2 * steps[i]);
  });
}
