import { thermocoupleEmf, thermocoupleInverse, type ThermocoupleType } from '../sensors/thermocouple';
import { platinumTemperature } from '../sensors/platinum';
import { lookUp } from './table';
import { bridgeStrain, type BridgeArrangement } from '../sensors/bridge';

/** How a sensor turns what is measured into what the hardware reads; each law inverts it.
 *  linear: any raw unit → the law's own unit; bridge: mV/V → m/m; thermocouple: mV (and °C of the junction) → °C;
 *  platinum: Ω → °C (the leads' Ω taken off); polynomial and table: any raw unit → the law's own unit. */
export type Law =
  | { kind: 'linear'; slope: number; offset: number }
  | { kind: 'bridge'; arrangement: BridgeArrangement; gaugeFactor: number; poisson: number; zero: number }
  | { kind: 'thermocouple'; type: ThermocoupleType }
  | { kind: 'platinum'; r0: number; lead?: number }
  /** c0 + c1 x + c2 x² + … */
  | { kind: 'polynomial'; coefficients: number[] }
  /** Straight lines between points with rising x, gone on beyond the ends. */
  | { kind: 'table'; xs: number[]; ys: number[] };

/** From the hardware's number to the channel's unit: law, then correction by calibration (in the law's unit), then unit. */
export interface Conversion {
  law: Law;
  correction: { slope: number; offset: number };
  unit: { factor: number; offset: number };
}

export const linearConversion = (slope: number, offset: number): Conversion => ({
  law: { kind: 'linear', slope, offset },
  correction: { slope: 1, offset: 0 },
  unit: { factor: 1, offset: 0 },
});
export const IDENTITY = linearConversion(1, 0);

/** Whether the law needs a second raw signal, the temperature of the reference junction in °C. */
export const needsJunction = (conversion: Conversion) => conversion.law.kind === 'thermocouple';

/** A conversion over blocks. `raw` and `junction` have n values and are only read; n values of `out` are written.
 *  Without a junction signal 0 °C is taken. Nothing is allocated. */
export type BlockConversion = (
  raw: ArrayLike<number>,
  out: Float32Array | Float64Array,
  n: number,
  junction?: ArrayLike<number>,
) => void;

/** Compiles a conversion once into a function over blocks. */
export function compileConversion(conversion: Conversion): BlockConversion {
  const { law, correction, unit } = conversion;
  const gain = correction.slope * unit.factor;
  const shift = correction.offset * unit.factor + unit.offset;
  switch (law.kind) {
    case 'linear': {
      const slope = law.slope * gain;
      const offset = law.offset * gain + shift;
      return (raw, out, n) => {
        for (let i = 0; i < n; i++) out[i] = raw[i] * slope + offset;
      };
    }
    case 'bridge': {
      const { arrangement, gaugeFactor, poisson, zero } = law;
      return (raw, out, n) => {
        for (let i = 0; i < n; i++)
          out[i] = bridgeStrain(arrangement, gaugeFactor, poisson, raw[i] - zero) * gain + shift;
      };
    }
    case 'thermocouple': {
      const inverse = thermocoupleInverse(law.type);
      const junctionEmf = (celsius: number) => thermocoupleEmf(law.type, celsius);
      return (raw, out, n, junction) => {
        let last = NaN;
        let emf = 0;
        for (let i = 0; i < n; i++) {
          const celsius = junction ? junction[i] : 0;
          if (celsius !== last) {
            last = celsius;
            emf = junctionEmf(celsius);
          }
          out[i] = inverse(raw[i] + emf) * gain + shift;
        }
      };
    }
    case 'platinum': {
      const { lead = 0 } = law;
      return (raw, out, n) => {
        for (let i = 0; i < n; i++) out[i] = platinumTemperature(law.r0, raw[i] - lead) * gain + shift;
      };
    }
    case 'polynomial': {
      const { coefficients } = law;
      return (raw, out, n) => {
        for (let i = 0; i < n; i++) out[i] = polynomial(coefficients, raw[i]) * gain + shift;
      };
    }
    case 'table': {
      const { xs, ys } = law;
      return (raw, out, n) => {
        for (let i = 0; i < n; i++) out[i] = lookUp(xs, ys, raw[i], false) * gain + shift;
      };
    }
  }
}

/** Value of a polynomial by Horner's rule. @param c shape [n], c[0] first */
export function polynomial(c: readonly number[], x: number): number {
  let value = 0;
  for (let k = c.length - 1; k >= 0; k--) value = value * x + c[k];
  return value;
}

/** Raw values at which a law turns from rising to falling or back: between two of them it is monotonic. */
export function turningPoints(law: Law): number[] {
  if (law.kind === 'table')
    return law.xs.filter((_, k) => k > 0 && k < law.xs.length - 1 && turns(law.ys, k));
  return law.kind === 'polynomial' ? realRoots(law.coefficients.slice(1).map((c, k) => c * (k + 1))) : [];
}
/** A level piece counts as a turn at both of its ends: what comes after it may go the other way. */
const turns = (ys: number[], k: number) => (ys[k] - ys[k - 1]) * (ys[k + 1] - ys[k]) <= 0;

/** Real roots where the sign changes, by the roots of the derivative and bisection between them. @param c shape [n], c[0] first */
export function realRoots(c: readonly number[]): number[] {
  // A leading coefficient that is next to nothing turns the curve only far beyond any reading, and would spoil the bound below.
  const negligible = 1e-30 * Math.max(0, ...c.map(Math.abs));
  let degree = c.length - 1;
  while (degree >= 0 && Math.abs(c[degree]) <= negligible) degree--;
  if (degree < 1) return [];
  // Cauchy's bound: all roots lie within 1 + max |c_k / c_n|. Somewhat more, so that none lies on it where 1 is lost in rounding.
  const bound = 1.1 * (1 + Math.max(...c.slice(0, degree).map((v) => Math.abs(v / c[degree]))));
  const own = c.slice(0, degree + 1);
  const edges = [-bound, ...realRoots(own.slice(1).map((v, k) => v * (k + 1))), bound];
  const roots: number[] = [];
  for (let k = 0; k + 1 < edges.length; k++) {
    let [low, high] = [edges[k], edges[k + 1]];
    const rising = polynomial(own, low) < 0;
    if (rising === polynomial(own, high) < 0) continue;
    for (let step = 0; step < 200 && high - low > 1e-15 * Math.max(1, Math.abs(low)); step++) {
      const middle = (low + high) / 2;
      if (polynomial(own, middle) < 0 === rising) low = middle;
      else high = middle;
    }
    roots.push((low + high) / 2);
  }
  return roots;
}

/** Converts the extremes of buckets. A monotonic law maps extremes to extremes (swapped where the slope is negative); where a
 *  law turns within a bucket, its value there counts, too: the result bounds the true extremes. With a junction the result bounds the true extremes; they differ by the junction's change within one bucket. */
export function convertEnvelope(
  conversion: Conversion,
  min: Float32Array,
  max: Float32Array,
  junction?: { min: Float32Array; max: Float32Array },
): { min: Float32Array; max: Float32Array } {
  const convert = compileConversion(conversion);
  const a = new Float32Array(min.length);
  const b = new Float32Array(max.length);
  convert(min, a, min.length, junction?.min);
  convert(max, b, max.length, junction?.max);
  for (let i = 0; i < a.length; i++) {
    if (a[i] > b[i]) {
      const swap = a[i];
      a[i] = b[i];
      b[i] = swap;
    }
  }
  for (const turn of turningPoints(conversion.law)) {
    const at = new Float32Array(1);
    convert([turn], at, 1);
    for (let i = 0; i < a.length; i++) {
      if (!(min[i] < turn && turn < max[i])) continue;
      a[i] = Math.min(a[i], at[0]);
      b[i] = Math.max(b[i], at[0]);
    }
  }
  return { min: a, max: b };
}
