import type { LinePowers } from './correlations';
import type { Pole } from './shape';

/** Kurtosis of what passes through a narrow filter at a line: 3 for noise and for a resonance that noise shakes, 1.5 for a steady tone. Of a
 *  line’s power over pieces it is 1.5·E|X|⁴/(E|X|²)² (Antoni, Mech. Syst. Signal Process. 20, 2006; Jacobsen, IMAC XXV, 2007); the line and
 *  its neighbours count by their power. Not every response sees a tone: the quarter with the lowest says it. NaN with fewer than 8 pieces. */
function narrowKurtosis({ lines, stepHz, pieces, second, fourth }: LinePowers, hz: number): number {
  if (pieces < 8) return NaN;
  const at = Math.round(hz / stepHz);
  const found: number[] = [];
  for (let i = 0; i * lines < second.length; i++) {
    let [sum, weights] = [0, 0];
    for (let k = Math.max(1, at - 1); k <= Math.min(lines - 1, at + 1); k++) {
      const power = second[i * lines + k];
      if (!(power > 0)) continue;
      sum += (1.5 * pieces * fourth[i * lines + k]) / power;
      weights += power;
    }
    if (weights > 0) found.push(sum / weights);
  }
  found.sort((a, b) => a - b);
  return found[Math.floor(found.length / 4)] ?? NaN;
}

/** What speaks for a pole being a harmonic of something that turns. */
export interface Harmonic {
  /** Kurtosis at its line. */
  kurtosis: number;
  /** Multiple of the running speed, where one is known and it fits. */
  multiple: number | null;
  /** It is taken for a harmonic. */
  is: boolean;
}

/** The rule in words. */
export const HARMONIC_RULE =
  'A pole is taken for a harmonic of the running speed, not for a mode, where its line has the kurtosis of a steady tone (below 2.2; noise has 3, a tone 1.5), where it is nearly one and the damping is below 0.2 %, or where it lies on a multiple of the stated speed and its damping is below 0.3 %.';

/** Judges a pole by `HARMONIC_RULE`. @param speedHz turns a second, where known */
export function harmonicOf({ hz, damping }: Pole, powers: LinePowers, speedHz: number | null): Harmonic {
  const kurtosis = narrowKurtosis(powers, hz);
  const n = speedHz ? Math.round(hz / speedHz) : 0;
  const multiple = speedHz && n >= 1 && Math.abs(hz - n * speedHz) < Math.max(powers.stepHz / 2, 0.004 * hz) ? n : null; // prettier-ignore
  const is = kurtosis < 2.2 || (kurtosis < 2.6 && damping < 0.002) || (multiple !== null && damping < 0.003);
  return { kurtosis, multiple, is };
}
