import { badInput } from '../errors';
import { spelled } from './spellings';
import {
  dimensionText,
  plainSymbol,
  readSymbol,
  sameDimension,
  type Dimension,
  NO_DIMENSION,
} from './symbols';

/** Units offered for each quantity, the usual ones of the trade. Any other unit of the quantity can be written, too. */
const QUANTITIES: Record<string, readonly string[]> = {
  strain: ['m/m', 'µε', '%ε'],
  temperature: ['°C', 'K', '°F'],
  acceleration: ['m/s²', 'g'],
  torque: ['N·m', 'kN·m'],
  force: ['N', 'kN'],
  pressure: ['Pa', 'kPa', 'bar', 'mbar', 'MPa'],
  'rotational speed': ['rad/s', 'rpm', 'rev/s'],
  frequency: ['Hz', 'kHz'],
  angle: ['rad', '°', 'rev'],
  length: ['m', 'mm', 'cm', 'µm'],
  speed: ['m/s', 'mm/s', 'km/h', 'kn'],
  'volume flow': ['m³/s', 'L/min', 'm³/h'],
  volume: ['m³', 'L'],
  mass: ['kg', 't'],
  voltage: ['V', 'mV'],
  current: ['A', 'mA'],
  resistance: ['Ω', 'kΩ'],
  'voltage ratio': ['V/V', 'mV/V'],
  power: ['W', 'kW'],
  energy: ['J', 'kJ', 'kWh'],
  ratio: ['1', '%', '‰', 'ppm'],
  level: ['dB'],
  'radio level': ['dBm'],
  acidity: ['pH'],
  logic: ['yes/no'],
  time: ['s', 'ms', 'min', 'h'],
};

/** Symbols that mean something of their own beside what they are made of. */
const SPECIAL: Record<string, { factor: number; dimension: Dimension }> = {
  '%ε': { factor: 1e-2, dimension: NO_DIMENSION },
  'yes/no': { factor: 1, dimension: NO_DIMENSION },
  dB: { factor: 1, dimension: NO_DIMENSION },
  dBm: { factor: 1, dimension: NO_DIMENSION },
  pH: { factor: 1, dimension: NO_DIMENSION },
};
const OFFSETS: Record<string, number> = { '°C': 273.15, '°F': 459.67 * (5 / 9) };

export interface QuantityUnit {
  symbol: string;
  quantity: string;
  dimension: Dimension;
  /** Coherent SI value = value * factor + offset. */
  factor: number;
  offset: number;
}

const known = new Map<string, QuantityUnit>();
for (const [quantity, symbols] of Object.entries(QUANTITIES))
  for (const symbol of symbols)
    known.set(symbol, make(symbol, quantity, (SPECIAL[symbol] ?? readSymbol(symbol))!));

function make(symbol: string, quantity: string, of: { factor: number; dimension: Dimension }): QuantityUnit {
  return { symbol, quantity, ...of, offset: OFFSETS[symbol] ?? 0 };
}

export const ALL_UNITS = [...known.keys()];

/** The quantity of a dimension that only one of the listed quantities has; else the dimension itself. */
function quantityOfDimension(symbol: string, dimension: Dimension): string {
  if (sameDimension(dimension, NO_DIMENSION)) {
    if (/ε$/.test(symbol)) return 'strain';
    if (/rad$/.test(symbol)) return 'angle';
    return /V\/.?V$/.test(symbol) ? 'voltage ratio' : 'ratio';
  }
  if (/Hz$/.test(symbol)) return 'frequency';
  if (/(J|Wh)$/.test(symbol)) return 'energy';
  for (const unit of known.values())
    if (unit.quantity !== 'frequency' && sameDimension(unit.dimension, dimension)) return unit.quantity;
  return dimensionText(dimension);
}

/** The definition of a unit: one of the list, or made of prefixed symbols, “·”, “/” and exponents.
 *  @throws `bad_input` for a symbol that is not known */
export function definition(symbol: string): QuantityUnit {
  const found = known.get(symbol) ?? known.get(plainSymbol(symbol));
  if (found) return found;
  const read = readSymbol(symbol);
  if (!read)
    throw badInput('unit', symbol, 'Write it like kN·m, m/s² or L/min, or choose one from the list.');
  return make(plainSymbol(symbol), quantityOfDimension(plainSymbol(symbol), read.dimension), read);
}

/** The quantity a unit measures, such as “temperature”. @throws `bad_input` for an unknown symbol */
export const quantityOf = (symbol: string) => definition(symbol).quantity;

/** Whether a text is the symbol of a unit. */
export const isUnit = (symbol: string) => known.has(plainSymbol(symbol)) || readSymbol(symbol) !== null;

/** The symbol of a unit as a person wrote it: “Nm”, “degC” or “l/min” are understood. @throws `bad_input` for what is no unit, and for what can be two */
export function readUnit(text: string): string {
  const read = spelled(text);
  if ('doubt' in read) throw badInput('unit', text, read.doubt);
  return definition(read.symbol).symbol;
}

/** Symbols of the usual units of one quantity. */
export const unitsOf = (quantity: string): string[] => [...(QUANTITIES[quantity] ?? [])];

/** to = from * factor + offset, between two units of one quantity.
 *  @throws `bad_input` when they measure different quantities */
export function unitConversion(from: string, to: string): { factor: number; offset: number } {
  const a = definition(from);
  const b = definition(to);
  if (a.quantity !== b.quantity)
    throw badInput(
      'unit',
      to,
      `It measures ${b.quantity}, ${from} measures ${a.quantity}${unitsOf(a.quantity).length ? `: choose one of ${unitsOf(a.quantity).join(', ')}` : ''}.`,
    );
  if (a.symbol === b.symbol) return { factor: 1, offset: 0 };
  return { factor: a.factor / b.factor, offset: (a.offset - b.offset) / b.factor };
}

/** A value in another unit of its quantity. @throws as unitConversion */
export function convertUnit(value: number, from: string, to: string): number {
  const { factor, offset } = unitConversion(from, to);
  return value * factor + offset;
}

/** A level in dB of a field quantity: 20 lg(|value| / reference), both in one unit (ISO 80000-3, 3-21).
 *  @returns −Infinity for 0 */
export const levelDb = (value: number, reference: number) => 20 * Math.log10(Math.abs(value) / reference);

/** “2.05 mV/V”, “350 Ohm” or “2.05” as its number and unit. @returns null where it is neither, or its unit can be meant in two ways */
export function readQuantity(text: string): { value: number; unit: string | null } | null {
  const match = /^\s*([+\-−]?(?:\d+\.?\d*|\.\d+)(?:[eE][+\-−]?\d+)?)\s*(\S.*)?$/.exec(text);
  if (!match) return null;
  const value = Number(match[1].replaceAll('−', '-'));
  const unit = match[2]?.trim();
  if (!unit) return { value, unit: null };
  const read = spelled(unit);
  return 'symbol' in read && isUnit(read.symbol) ? { value, unit: read.symbol } : null;
}
