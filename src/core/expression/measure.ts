import { combine, dimensionText, NO_DIMENSION, sameDimension, type Dimension } from '../units/symbols';
import { definition } from '../units/units';

/** What is known of the unit of a value within a formula. */
export interface Measure {
  dimension: Dimension;
  /** Coherent SI value of one, or null once a plain number has scaled it. */
  scale: number | null;
  /** Zero point in SI, for temperatures in °C or °F; 0 elsewhere. */
  offset: number;
  /** How it is named in an error. */
  says: string;
  /** A plain number takes the unit of whatever it is added to or compared with. */
  plain?: true;
}

export const PLAIN: Measure = {
  dimension: NO_DIMENSION,
  scale: null,
  offset: 0,
  says: 'a number',
  plain: true,
};
export const PURE: Measure = {
  dimension: NO_DIMENSION,
  scale: 1,
  offset: 0,
  says: 'a yes/no or pure number',
};
export const SECONDS: Measure = { dimension: definition('s').dimension, scale: 1, offset: 0, says: 's' };

/** The measure of a unit. @throws `bad_input` for an unknown one */
export function measureOf(unit: string, says = unit): Measure {
  const { dimension, factor, offset } = definition(unit);
  return { dimension, scale: factor, offset, says };
}

/** The common measure of values that are added, compared or chosen between; null where they do not go together. */
export function together(measures: Measure[]): Measure | null {
  const bound = measures.filter((m) => !m.plain);
  if (bound.length === 0) return PLAIN;
  let result = bound[0];
  for (const m of bound.slice(1)) {
    if (!sameDimension(result.dimension, m.dimension)) return null;
    if (result.scale !== null && m.scale !== null && Math.abs(m.scale / result.scale - 1) > 1e-9) return null;
    if (result.scale === null) result = { ...m, scale: null };
  }
  return result;
}

/** a · b^power. */
export function product(a: Measure, b: Measure, power: number): Measure {
  if (a.plain && b.plain) return PLAIN;
  return {
    dimension: combine(a.dimension, b.dimension, power),
    scale: a.scale === null || b.scale === null ? null : a.scale * b.scale ** power,
    offset: 0,
    says: a.plain ? b.says : b.plain ? a.says : `${a.says} ${power < 0 ? 'over' : 'times'} ${b.says}`,
  };
}

export const unitText = (m: Measure) => (m.plain ? 'a number' : `${m.says} [${dimensionText(m.dimension)}]`);
