import { combine, dimensionText, NO_DIMENSION, sameDimension, type Dimension } from '../quantities/symbols';
import { definition } from '../quantities/quantities';

/** What is known of the unit of a value within a formula. */
export interface Measure {
  dimension: Dimension;
  /** Coherent SI value of one, or null once a plain number has scaled it. */
  scale: number | null;
  /** Zero point in SI, for temperatures in °C or °F; 0 elsewhere. */
  offset: number;
  /** A difference of two temperatures: it has a size in °C, K or °F, and no place on their scales. */
  difference?: true;
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
const KELVIN = definition('K').dimension;
export const SECONDS: Measure = { dimension: definition('s').dimension, scale: 1, offset: 0, says: 's' };

/** The measure of a unit. @throws `bad_input` for an unknown one */
export function measureOf(unit: string, says = unit): Measure {
  const { dimension, factor, offset } = definition(unit);
  return { dimension, scale: factor, offset, says };
}

/** The common measure of values that are compared or chosen between; null where they do not go together: of other dimensions, of other
 *  size, or on scales with another zero, as °C and K. */
export function together(measures: Measure[]): Measure | null {
  const bound = measures.filter((m) => !m.plain);
  if (bound.length === 0) return PLAIN;
  let result = bound[0];
  for (const m of bound.slice(1)) {
    if (!sameDimension(result.dimension, m.dimension)) return null;
    if (result.scale !== null && m.scale !== null && !sameScale(result, m)) return null;
    if (result.scale === null) result = { ...m, scale: null };
  }
  return result;
}

const sameScale = (a: Measure, b: Measure) =>
  Math.abs(b.scale! / a.scale! - 1) < 1e-9 && Math.abs(a.offset - b.offset) < 1e-9;

const withoutZero = (m: Measure): Measure => ({ ...m, offset: 0 });

/** The measure of a + b or a − b; null where they do not go together. A difference of two temperatures is no temperature any more, but can
 *  be added to one or taken off it. */
export function sum(a: Measure, b: Measure, sign: '+' | '-'): Measure | null {
  // A plain number beside a temperature is so many degrees: the result stays on the scale.
  if (a.plain || b.plain) return a.plain ? b : a;
  if (b.difference && !a.difference) return together([withoutZero(a), b]) && a;
  if (a.difference && !b.difference && sign === '+') return together([a, withoutZero(b)]) && b;
  const common = together([a, b]);
  if (!common || sign === '+' || common.scale === null) return common;
  return isTemperature(common) ? { ...common, offset: 0, difference: true } : common;
}

/** Whether a value stands on a scale of temperature, in whatever unit. */
const isTemperature = (m: Measure) => sameDimension(m.dimension, KELVIN);

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
