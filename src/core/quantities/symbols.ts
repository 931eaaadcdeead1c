/** Exponents of the base dimensions m, kg, s, A, K, mol, cd. Angle has none (SI Brochure, 9th ed., 5.4.8): torque times
 *  rotational speed is power. */
export type Dimension = readonly [number, number, number, number, number, number, number];

export const NO_DIMENSION: Dimension = [0, 0, 0, 0, 0, 0, 0];

interface Atom {
  dimension: Dimension;
  /** Coherent SI value of one. */
  factor: number;
  /** Whether SI prefixes go with it. */
  prefix?: true;
}

const dimension = (m = 0, kg = 0, s = 0, A = 0, K = 0, mol = 0, cd = 0): Dimension => [
  m,
  kg,
  s,
  A,
  K,
  mol,
  cd,
];
const si = (d: Dimension, factor = 1): Atom => ({ dimension: d, factor, prefix: true });
const other = (d: Dimension, factor: number): Atom => ({ dimension: d, factor });

/** Standard acceleration of free fall, m/s² (CGPM 1901). */
const GRAVITY = 9.80665;

const LENGTH = dimension(1);
const FORCE = dimension(1, 1, -2);
const PRESSURE = dimension(-1, 1, -2);
const ENERGY = dimension(2, 1, -2);

/** Symbols that composites are made of. In this trade “g” is the acceleration of free fall (gₙ in ISO 80000); masses are in kg and t, a gram
 *  is written out. */
const ATOMS: Record<string, Atom> = {
  '1': other(NO_DIMENSION, 1),
  m: si(LENGTH),
  kg: other(dimension(0, 1), 1),
  t: other(dimension(0, 1), 1e3),
  s: si(dimension(0, 0, 1)),
  min: other(dimension(0, 0, 1), 60),
  h: other(dimension(0, 0, 1), 3600),
  d: other(dimension(0, 0, 1), 86400),
  A: si(dimension(0, 0, 0, 1)),
  K: si(dimension(0, 0, 0, 0, 1)),
  '°C': other(dimension(0, 0, 0, 0, 1), 1),
  '°F': other(dimension(0, 0, 0, 0, 1), 5 / 9),
  mol: si(dimension(0, 0, 0, 0, 0, 1)),
  cd: si(dimension(0, 0, 0, 0, 0, 0, 1)),
  Hz: si(dimension(0, 0, -1)),
  rpm: other(dimension(0, 0, -1), Math.PI / 30),
  rev: other(NO_DIMENSION, 2 * Math.PI),
  rad: si(NO_DIMENSION),
  '°': other(NO_DIMENSION, Math.PI / 180),
  N: si(FORCE),
  lbf: other(FORCE, 4.4482216152605),
  Pa: si(PRESSURE),
  bar: si(PRESSURE, 1e5),
  psi: other(PRESSURE, 6894.757293168),
  J: si(ENERGY),
  W: si(dimension(2, 1, -3)),
  Wh: si(ENERGY, 3600),
  V: si(dimension(2, 1, -3, -1)),
  Ω: si(dimension(2, 1, -3, -2)),
  C: si(dimension(0, 0, 1, 1)),
  F: si(dimension(-2, -1, 4, 2)),
  H: si(dimension(2, 1, -2, -2)),
  T: si(dimension(0, 1, -2, -1)),
  L: si(dimension(3), 1e-3),
  g: si(dimension(1, 0, -2), GRAVITY),
  gₙ: si(dimension(1, 0, -2), GRAVITY),
  gram: si(dimension(0, 1), 1e-3),
  kn: other(dimension(1, 0, -1), 1852 / 3600),
  in: other(LENGTH, 0.0254),
  ft: other(LENGTH, 0.3048),
  '%': other(NO_DIMENSION, 0.01),
  '‰': other(NO_DIMENSION, 1e-3),
  ppm: other(NO_DIMENSION, 1e-6),
  ε: si(NO_DIMENSION),
};

const PREFIXES: Record<string, number> = {
  p: 1e-12,
  n: 1e-9,
  µ: 1e-6,
  m: 1e-3,
  c: 1e-2,
  d: 1e-1,
  h: 1e2,
  k: 1e3,
  M: 1e6,
  G: 1e9,
};
const RAISED = '⁰¹²³⁴⁵⁶⁷⁸⁹';

/** A symbol as it is compared: one sign for micro and ohm each, no blanks. */
export const plainSymbol = (text: string) =>
  text.trim().replaceAll('μ', 'µ').replaceAll('Ω', 'Ω').replace(/[*⋅∙]/g, '·').replace(/\s+/g, '');

function atom(symbol: string): { dimension: Dimension; factor: number } | null {
  if (Object.hasOwn(ATOMS, symbol)) return ATOMS[symbol];
  const prefix = PREFIXES[symbol[0]];
  const base = symbol.slice(1);
  if (prefix === undefined || !Object.hasOwn(ATOMS, base) || !ATOMS[base].prefix) return null;
  return { dimension: ATOMS[base].dimension, factor: ATOMS[base].factor * prefix };
}

/** The dimension and size of a unit made of prefixed symbols, “·”, “/” and exponents, such as kN·m, m/s² or mV/(m/s²).
 *  @returns null where it is no such unit */
export function readSymbol(text: string): { dimension: Dimension; factor: number } | null {
  const symbol = plainSymbol(text);
  if (symbol === '' || symbol.length > 40) return null;
  const whole = atom(symbol);
  if (whole) return whole;
  const nested = /^([^()]+)\/\(([^()]+)\)$/.exec(symbol);
  if (nested) {
    const [a, b] = [readSymbol(nested[1]), readSymbol(nested[2])];
    return a && b && { dimension: combine(a.dimension, b.dimension, -1), factor: a.factor / b.factor };
  }
  const [over, ...under] = symbol.split('/');
  if (under.length > 1) return null;
  let result: { dimension: Dimension; factor: number } = { dimension: NO_DIMENSION, factor: 1 };
  for (const [side, sign] of [
    [over, 1],
    [under[0], -1],
  ] as const) {
    if (side === undefined) continue;
    for (const part of side.split('·')) {
      const match = /^(.+?)(?:\^?(-?\d+)|(⁻?)([⁰¹²³⁴⁵⁶⁷⁸⁹]+))?$/.exec(part);
      if (!match) return null;
      const power = match[2]
        ? Number(match[2])
        : match[4]
          ? Number([...match[4]].map((c) => RAISED.indexOf(c)).join('')) * (match[3] ? -1 : 1)
          : 1;
      const base = atom(match[1]) ?? (power !== 1 ? null : atom(part));
      if (!base || Math.abs(power) > 9) return null;
      result = {
        dimension: combine(result.dimension, base.dimension, sign * power),
        factor: result.factor * base.factor ** (sign * power),
      };
    }
  }
  return result;
}

/** a · b^power. */
export const combine = (a: Dimension, b: Dimension, power: number) =>
  a.map((exponent, i) => exponent + b[i] * power) as unknown as Dimension;

export const sameDimension = (a: Dimension, b: Dimension) =>
  a.every((exponent, i) => Math.abs(exponent - b[i]) < 1e-9);

const BASE = ['m', 'kg', 's', 'A', 'K', 'mol', 'cd'];

/** A dimension in base units, such as m·s⁻²; “1” for none. */
export function dimensionText(d: Dimension): string {
  const raise = (power: number) =>
    power === 1
      ? ''
      : `${power < 0 ? '⁻' : ''}${[...String(Math.abs(power))].map((c) => RAISED[Number(c)] ?? c).join('')}`;
  return d.flatMap((power, i) => (power ? [`${BASE[i]}${raise(power)}`] : [])).join('·') || '1';
}
