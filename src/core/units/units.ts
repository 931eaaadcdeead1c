import { badInput } from '../errors';

interface UnitDefinition {
  quantity: string;
  /** Value in the quantity's base unit = value * factor + offset. */
  factor: number;
  offset?: number;
}

const GRAVITY = 9.80665; // standard acceleration of free fall, CGPM 1901

/** Units by symbol, grouped by quantity; the first of each quantity is its base. */
const UNITS: Record<string, UnitDefinition> = {
  'm/m': { quantity: 'strain', factor: 1 },
  µε: { quantity: 'strain', factor: 1e-6 },
  '%ε': { quantity: 'strain', factor: 1e-2 },
  K: { quantity: 'temperature', factor: 1 },
  '°C': { quantity: 'temperature', factor: 1, offset: 273.15 },
  '°F': { quantity: 'temperature', factor: 5 / 9, offset: 459.67 * (5 / 9) },
  'm/s²': { quantity: 'acceleration', factor: 1 },
  g: { quantity: 'acceleration', factor: GRAVITY },
  'N·m': { quantity: 'torque', factor: 1 },
  'kN·m': { quantity: 'torque', factor: 1e3 },
  N: { quantity: 'force', factor: 1 },
  kN: { quantity: 'force', factor: 1e3 },
  Pa: { quantity: 'pressure', factor: 1 },
  kPa: { quantity: 'pressure', factor: 1e3 },
  bar: { quantity: 'pressure', factor: 1e5 },
  MPa: { quantity: 'pressure', factor: 1e6 },
  'rad/s': { quantity: 'rotational speed', factor: 1 },
  rpm: { quantity: 'rotational speed', factor: Math.PI / 30 },
  'rev/s': { quantity: 'rotational speed', factor: 2 * Math.PI },
  Hz: { quantity: 'frequency', factor: 1 },
  kHz: { quantity: 'frequency', factor: 1e3 },
  m: { quantity: 'length', factor: 1 },
  mm: { quantity: 'length', factor: 1e-3 },
  cm: { quantity: 'length', factor: 1e-2 },
  'm/s': { quantity: 'speed', factor: 1 },
  'km/h': { quantity: 'speed', factor: 1 / 3.6 },
  kn: { quantity: 'speed', factor: 1852 / 3600 },
  'm³/s': { quantity: 'volume flow', factor: 1 },
  'L/min': { quantity: 'volume flow', factor: 1e-3 / 60 },
  V: { quantity: 'voltage', factor: 1 },
  mV: { quantity: 'voltage', factor: 1e-3 },
  A: { quantity: 'current', factor: 1 },
  mA: { quantity: 'current', factor: 1e-3 },
  Ω: { quantity: 'resistance', factor: 1 },
  kΩ: { quantity: 'resistance', factor: 1e3 },
  'V/V': { quantity: 'voltage ratio', factor: 1 },
  'mV/V': { quantity: 'voltage ratio', factor: 1e-3 },
  W: { quantity: 'power', factor: 1 },
  kW: { quantity: 'power', factor: 1e3 },
  '1': { quantity: 'ratio', factor: 1 },
  '%': { quantity: 'ratio', factor: 1e-2 },
  'yes/no': { quantity: 'logic', factor: 1 },
  s: { quantity: 'time', factor: 1 },
  ms: { quantity: 'time', factor: 1e-3 },
};

export const ALL_UNITS = Object.keys(UNITS);

/** The definition of a unit. @throws `bad_input` for a symbol that is not known */
function definition(symbol: string): UnitDefinition {
  if (!Object.hasOwn(UNITS, symbol)) throw badInput('unit', symbol, 'Choose a unit from the list.');
  return UNITS[symbol];
}

/** The quantity a unit measures, such as “temperature”. @throws `bad_input` for an unknown symbol */
export const quantityOf = (symbol: string) => definition(symbol).quantity;

/** Symbols of all units of one quantity. */
export const unitsOf = (quantity: string) =>
  ALL_UNITS.filter((symbol) => UNITS[symbol].quantity === quantity);

/** to = from * factor + offset, between two units of one quantity.
 *  @throws `bad_input` when they measure different quantities */
export function unitConversion(from: string, to: string): { factor: number; offset: number } {
  const a = definition(from);
  const b = definition(to);
  if (a.quantity !== b.quantity)
    throw badInput(
      'unit',
      to,
      `It measures ${b.quantity}, ${from} measures ${a.quantity}: choose one of ${unitsOf(a.quantity).join(', ')}.`,
    );
  if (from === to) return { factor: 1, offset: 0 };
  return { factor: a.factor / b.factor, offset: ((a.offset ?? 0) - (b.offset ?? 0)) / b.factor };
}

/** A value in another unit of its quantity. @throws as unitConversion */
export function convertUnit(value: number, from: string, to: string): number {
  const { factor, offset } = unitConversion(from, to);
  return value * factor + offset;
}
