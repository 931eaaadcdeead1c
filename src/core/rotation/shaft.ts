import { badInput } from '../errors';
import { firstAt } from '../figures/figure';

/** How a shaft turned: revolutions at instants that rise, with a smooth curve through them. */
export interface Shaft {
  /** Revolutions since the first instant. @returns NaN outside */
  revolutionsAt(seconds: number): number;
  /** Instant of an angle. @returns NaN outside */
  secondsAt(revolutions: number): number;
  /** Instants of angles that rise by one step, written to an array. NaN outside. */
  instants(fromRevolution: number, step: number, out: Float64Array): void;
  rpmAt(seconds: number): number;
  fromS: number;
  toS: number;
  revolutions: number;
}

/** A shaft by the instants of its pulses. Between pulses the time is a cubic curve of the angle with the slopes of parabolas through three pulses, lowered where it
 *  would turn back (Fritsch and Carlson, SIAM J. Numer. Anal. 17(2), 1980): a run-up is followed.
 *  @param edgesS rising @param pulses a revolution
 *  @throws `bad_input` for less than two pulses, or instants that do not rise */
export function shaftOfPulses(edgesS: ArrayLike<number>, pulses: number): Shaft {
  if (edgesS.length < 2)
    throw badInput(
      'pulses',
      edgesS.length,
      'At least two pulses tell a speed: choose a longer span, or look at the level of the pulses.',
    );
  for (let i = 1; i < edgesS.length; i++)
    if (!(edgesS[i] > edgesS[i - 1]))
      throw badInput('pulses', `${edgesS[i]} s`, 'Their instants have to rise.');
  const turns = Float64Array.from(edgesS, (_, i) => i / pulses);
  return shaftThrough(Float64Array.from(edgesS), turns);
}

/** A shaft by its speed at instants one step apart: revolutions are its integral (trapezoids). A gap or a shaft at rest ends what can be followed.
 *  @param rpm either direction, but one only @throws `bad_input` for a reversed or resting shaft, or one that is not measured */
export function shaftOfSpeed(rpm: ArrayLike<number>, fromS: number, stepS: number): Shaft {
  let sign = 0;
  let whole = 0;
  const times: number[] = [];
  const turns: number[] = [];
  for (let i = 0; i < rpm.length; i++) {
    const v = rpm[i];
    if (!Number.isFinite(v)) {
      if (times.length)
        throw badInput('speed', `a gap at ${(fromS + i * stepS).toFixed(3)} s`, 'Choose a span without one.');
      continue;
    }
    if (v !== 0 && sign === 0) sign = Math.sign(v);
    if (v * sign < 0)
      throw badInput(
        'speed',
        `it turns the other way at ${(fromS + i * stepS).toFixed(3)} s`,
        'Choose a span in which it turns one way.',
      );
    if (times.length) whole += ((Math.abs(v) + Math.abs(rpm[i - 1])) / 2 / 60) * stepS;
    // What does not turn has no instant of an angle.
    if (times.length && !(whole > turns[turns.length - 1])) {
      times[times.length - 1] = fromS + i * stepS;
      continue;
    }
    times.push(fromS + i * stepS);
    turns.push(whole);
  }
  if (times.length < 2) throw badInput('speed', 'no rotation', 'Choose a span in which the shaft turns.');
  return shaftThrough(Float64Array.from(times), Float64Array.from(turns));
}

function shaftThrough(times: Float64Array, turns: Float64Array): Shaft {
  const n = times.length;
  const slope = slopes(turns, times);
  const cubic = (i: number, at: number): number => {
    const h = turns[i + 1] - turns[i];
    const u = (at - turns[i]) / h;
    const v = 1 - u;
    return (
      v * v * (1 + 2 * u) * times[i] +
      u * u * (1 + 2 * v) * times[i + 1] +
      h * u * v * (v * slope[i] - u * slope[i + 1])
    );
  };
  const secondsAt = (revolutions: number): number => {
    if (!(revolutions >= turns[0] && revolutions <= turns[n - 1])) return NaN;
    return cubic(Math.min(n - 2, Math.max(0, firstAt(turns, revolutions) - 1)), revolutions);
  };
  const revolutionsAt = (seconds: number): number => {
    if (!(seconds >= times[0] && seconds <= times[n - 1])) return NaN;
    const i = Math.min(n - 2, Math.max(0, firstAt(times, seconds) - 1));
    // The curve rises: halving closes in on it.
    let [low, high] = [turns[i], turns[i + 1]];
    for (let k = 0; k < 48; k++) {
      const middle = (low + high) / 2;
      if (cubic(i, middle) < seconds) low = middle;
      else high = middle;
    }
    return (low + high) / 2;
  };
  const instants = (from: number, step: number, out: Float64Array): void => {
    let i = Math.min(n - 2, Math.max(0, firstAt(turns, from) - 1));
    for (let j = 0; j < out.length; j++) {
      const at = from + j * step;
      while (i < n - 2 && turns[i + 1] < at) i++;
      out[j] = at >= turns[0] && at <= turns[n - 1] ? cubic(i, at) : NaN;
    }
  };
  return {
    revolutionsAt,
    secondsAt,
    instants,
    rpmAt: (seconds) => {
      const at = revolutionsAt(seconds);
      if (Number.isNaN(at)) return NaN;
      const d = Math.min(0.02, (turns[n - 1] - turns[0]) / 10);
      const [a, b] = [Math.max(turns[0], at - d), Math.min(turns[n - 1], at + d)];
      return ((b - a) * 60) / (secondsAt(b) - secondsAt(a));
    },
    fromS: times[0],
    toS: times[n - 1],
    revolutions: turns[n - 1] - turns[0],
  };
}

/** Slopes of y over x at each point: those of the parabola through it and its neighbours, lowered where the curve would turn back. */
function slopes(x: Float64Array, y: Float64Array): Float64Array {
  const n = x.length;
  const d = (i: number) => (y[i + 1] - y[i]) / (x[i + 1] - x[i]);
  if (n === 2) return Float64Array.of(d(0), d(0));
  const inner = (i: number) => {
    const [h, k] = [x[i] - x[i - 1], x[i + 1] - x[i]];
    return (d(i - 1) * k + d(i) * h) / (h + k);
  };
  const out = Float64Array.from({ length: n }, (_, i) =>
    i === 0 ? 2 * d(0) - inner(1) : i === n - 1 ? 2 * d(n - 2) - inner(n - 2) : inner(i),
  );
  // Fritsch and Carlson: within three times the steps beside it the curve is monotone.
  for (let i = 0; i < n; i++) {
    const least = Math.min(i > 0 ? d(i - 1) : Infinity, i < n - 1 ? d(i) : Infinity);
    out[i] = Math.min(Math.max(out[i], 0), 3 * least);
  }
  return out;
}

/** A signal read at instants between its samples by the polynomial through six of them (Lagrange; Abramowitz and Stegun, 25.2.17), near its ends by
 *  a straight line. @param values shape [m], one step apart in time @param instants in samples from the first
 *  @param out shape of the instants: NaN where a neighbour is missing */
export function between(values: Float32Array, instants: Float64Array, out: Float64Array): void {
  const last = values.length - 1;
  for (let j = 0; j < instants.length; j++) {
    const at = instants[j];
    const i = Math.floor(at);
    const u = at - i;
    if (i >= 2 && i + 3 <= last) {
      const [p, q] = [u * (u - 1), (u + 1) * (u - 2)];
      const r = (u + 2) * (u - 3);
      out[j] =
        p * q * (((u + 2) * values[i + 3] - (u - 3) * values[i - 2]) / 120) +
        p * r * (((u - 2) * values[i - 1] - (u + 1) * values[i + 2]) / 24) +
        q * r * ((u * values[i + 1] - (u - 1) * values[i]) / 12);
    } else if (i >= 0 && i < last) out[j] = values[i] + u * (values[i + 1] - values[i]);
    else out[j] = i === last && u === 0 ? values[i] : NaN;
  }
}
