import type { Pole, Shape } from './shape';

/** A pole that a model of some order has. */
export interface FoundPole extends Pole {
  /** How the references take part: one complex number for each. */
  participation: Shape;
  /** Where the method gives it. */
  shape?: Shape;
}
/** What a model of one order has. */
export interface OrderPoles {
  order: number;
  poles: FoundPole[];
  /** Left out: damping below 0 or above what is plausible, and poles that stand alone (without their conjugate, real). */
  left: { negative: number; heavy: number; real: number; outside: number };
}

/** Damping above which a pole is taken to be none of the structure’s. */
const HEAVY = 0.2;
/** A steady tone has no damping: found a little below 0, it is still a pole. */
const STEADY = 0.001;

/** Sorts out what cannot be a mode; of each pair the one above the axis stays. A window’s decay is taken out: it shifted each pole by −β.
 *  @param s values of one order, rad/s, with what to make of the one at k
 *  @param decay of the window, 1/s */
export function physical(
  order: number,
  s: readonly (readonly [re: number, im: number])[],
  band: { fromHz: number; toHz: number },
  decay: number,
  make: (k: number) => Omit<FoundPole, 'hz' | 'damping'>,
): OrderPoles {
  const left = { negative: 0, heavy: 0, real: 0, outside: 0 };
  const poles: FoundPole[] = [];
  s.forEach(([re0, im], k) => {
    if (im < 0) return;
    const re = re0 + decay;
    if (!(im > 0)) return void left.real++;
    const size = Math.hypot(re, im);
    const hz = size / (2 * Math.PI);
    if (hz < band.fromHz || hz > band.toHz) return void left.outside++;
    const damping = -re / size;
    if (!(damping > -STEADY)) return void left.negative++;
    if (damping > HEAVY) return void left.heavy++;
    poles.push({ hz, damping, ...make(k) });
  });
  poles.sort((a, b) => a.hz - b.hz);
  return { order, poles, left };
}
