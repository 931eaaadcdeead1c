import { REFERENCE_FUNCTIONS, type ThermocoupleType } from './thermocouple-coefficients';

export { THERMOCOUPLE_TYPES, type ThermocoupleType } from './thermocouple-coefficients';

/** Where the emf of type B has come back to 0 and rises with temperature from then on, °C: below it one emf belongs to two temperatures. */
const B_FROM = 42;

/** Range in which a letter type can be read, °C: that of its reference function, for type B its part from 42 °C up. */
export function thermocoupleRange(type: ThermocoupleType): { from: number; to: number } {
  const { from, pieces } = REFERENCE_FUNCTIONS[type];
  return { from: type === 'B' ? B_FROM : from, to: pieces[pieces.length - 1].to };
}

/** Reference emf with the reference junction at 0 °C (IEC 60584-1, ITS-90).
 *  @param celsius temperature in °C; outside the type's range the result is NaN
 *  @returns mV */
export function thermocoupleEmf(type: ThermocoupleType, celsius: number): number {
  const { from, pieces } = REFERENCE_FUNCTIONS[type];
  if (!(celsius >= from)) return NaN;
  for (const { to, c, exponential } of pieces) {
    if (celsius > to) continue;
    let emf = 0;
    for (let power = c.length - 1; power >= 0; power--) emf = emf * celsius + c[power];
    if (exponential) emf += exponential[0] * Math.exp(exponential[1] * (celsius - exponential[2]) ** 2);
    return emf;
  }
  return NaN;
}

const INVERSE_KNOTS = 4096;
/** Below these the emf hardly changes with temperature and the knots lie kelvins apart, °C. */
const POLISHED_BELOW: Partial<Record<ThermocoupleType, number>> = { B: 300 };
const COLD = -200;
/** Half width in which the inverse is looked for around the curve between knots, K. */
const NEAR = 8;
const inverses = new Map<ThermocoupleType, (millivolts: number) => number>();

/** Temperature from emf by inversion of the reference function, °C from mV (reference junction at 0 °C).
 *  The reference function is inverted by bisection once, at 4096 knots evenly spaced in emf; between them a cubic Hermite with the exact
 *  slopes is used. Below −200 °C (type B: 300 °C) the reference function itself is solved, so that the result stays within 0.001 K of the
 *  inverse in the whole range. Outside the range: NaN. */
export function thermocoupleInverse(type: ThermocoupleType): (millivolts: number) => number {
  const known = inverses.get(type);
  if (known) return known;
  const { from: low, to: high } = thermocoupleRange(type);
  const fromEmf = thermocoupleEmf(type, low);
  const toEmf = thermocoupleEmf(type, high);
  const step = (toEmf - fromEmf) / (INVERSE_KNOTS - 1);
  const t = new Float64Array(INVERSE_KNOTS);
  const slope = new Float64Array(INVERSE_KNOTS); // dt/dE * step
  for (let k = 0; k < INVERSE_KNOTS; k++) {
    t[k] = bisect(type, fromEmf + k * step, low, high);
    const h = 1e-3;
    const a = Math.max(low, t[k] - h);
    const b = Math.min(high, t[k] + h);
    slope[k] = (step * (b - a)) / (thermocoupleEmf(type, b) - thermocoupleEmf(type, a));
  }
  const polished = POLISHED_BELOW[type] ?? COLD;
  const end = INVERSE_KNOTS - 1;
  const inverse = (millivolts: number) => {
    let x = (millivolts - fromEmf) / step;
    // The ends belong to the range, whatever their rounding.
    if (!(x >= 0 && x <= end)) {
      if (!(x > -1e-9 && x < end + 1e-9)) return NaN;
      x = x < 0 ? 0 : end;
    }
    const k = Math.min(x | 0, INVERSE_KNOTS - 2);
    const u = x - k;
    const v = 1 - u;
    const celsius =
      t[k] * (1 + 2 * u) * v * v +
      slope[k] * u * v * v +
      t[k + 1] * u * u * (3 - 2 * u) -
      slope[k + 1] * u * u * v;
    if (celsius > polished) return celsius;
    return bisect(type, millivolts, Math.max(low, celsius - NEAR), Math.min(high, celsius + NEAR));
  };
  inverses.set(type, inverse);
  return inverse;
}

function bisect(type: ThermocoupleType, millivolts: number, from: number, to: number): number {
  let low = from;
  let high = to;
  while (high - low > 1e-6) {
    const middle = (low + high) / 2;
    if (middle === low || middle === high) break;
    if (thermocoupleEmf(type, middle) < millivolts) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** Temperature from a measured emf and the temperature of the reference junction: E⁻¹(E_measured + E(t_junction)). */
export const thermocoupleTemperature = (
  type: ThermocoupleType,
  millivolts: number,
  junctionCelsius: number,
) => thermocoupleInverse(type)(millivolts + thermocoupleEmf(type, junctionCelsius));
