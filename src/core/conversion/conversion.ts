import { thermocoupleEmf, thermocoupleInverse, type ThermocoupleType } from '../sensors/thermocouple';
import { platinumTemperature } from '../sensors/platinum';
import { bridgeStrain, type BridgeArrangement } from '../sensors/bridge';

/** How a sensor turns what is measured into what the hardware reads; each law inverts it.
 *  linear: any raw unit → the law's own unit; bridge: mV/V → m/m; thermocouple: mV (and °C of the junction) → °C;
 *  platinum: Ω → °C. */
export type Law =
  | { kind: 'linear'; slope: number; offset: number }
  | { kind: 'bridge'; arrangement: BridgeArrangement; gaugeFactor: number; poisson: number; zero: number }
  | { kind: 'thermocouple'; type: ThermocoupleType }
  | { kind: 'platinum'; r0: number };

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
    case 'platinum':
      return (raw, out, n) => {
        for (let i = 0; i < n; i++) out[i] = platinumTemperature(law.r0, raw[i]) * gain + shift;
      };
  }
}

/** Converts the extremes of buckets. All laws are monotonic, so extremes map to extremes (swapped where the slope is
 *  negative). With a junction the result bounds the true extremes; they differ by the junction's change within one bucket. */
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
  return { min: a, max: b };
}
