import { Sliding, SlidingSlope } from '../signal/sliding';

/** Value of a part of a formula at sample i of the block at hand. Calls come in order, once a sample. */
export type Evaluate = (i: number) => number;

const MAX_WINDOW = 20_000_000;

/** Samples of a window or delay. @throws string with the reason when there are more than 20 million */
export function samplesOf(seconds: number, rateHz: number): number {
  const samples = Math.max(1, Math.round(seconds * rateHz));
  if (samples > MAX_WINDOW)
    throw `${seconds} s are ${samples} samples at ${rateHz} samples/s, and it holds ${MAX_WINDOW} at most: take a shorter time or a lower rate`;
  return samples;
}

/** A missing value passes through and leaves the state as it is. */
const skipping =
  (x: Evaluate, step: (value: number) => number): Evaluate =>
  (i) => {
    const value = x(i);
    return value !== value ? NaN : step(value);
  };

export const movingMean = (x: Evaluate, samples: number): Evaluate => {
  const span = new Sliding(samples, [(v) => v]);
  return (i) => {
    const value = x(i);
    span.push(value);
    return value !== value ? NaN : span.sum(0) / span.valid;
  };
};

export const movingRms = (x: Evaluate, samples: number): Evaluate => {
  const span = new Sliding(samples, [(v) => v * v]);
  return (i) => {
    const value = x(i);
    span.push(value);
    return value !== value ? NaN : Math.sqrt(span.sum(0) / span.valid);
  };
};

/** Largest (sign 1) or smallest (sign −1) of the last samples: a queue of candidates, each sample enters and leaves once. */
export function movingExtreme(x: Evaluate, samples: number, sign: 1 | -1): Evaluate {
  const size = samples + 1;
  const values = new Float64Array(size);
  const indices = new Float64Array(size);
  let head = 0;
  let length = 0;
  let index = 0;
  return (i) => {
    const value = x(i);
    if (length > 0 && indices[head] <= index - samples) {
      head = (head + 1) % size;
      length--;
    }
    index++;
    if (value !== value) return NaN;
    const signed = sign * value;
    while (length > 0 && values[(head + length - 1) % size] <= signed) length--;
    values[(head + length) % size] = signed;
    indices[(head + length) % size] = index - 1;
    length++;
    return sign * values[head];
  };
}

/** Median of the last samples, kept in order by insertion. */
export function movingMedian(x: Evaluate, samples: number): Evaluate {
  const ring = new Float64Array(samples).fill(NaN);
  let at = 0;
  const sorted: number[] = [];
  const place = (value: number) => {
    let low = 0;
    let high = sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle] < value) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  return (i) => {
    const value = x(i);
    const old = ring[at];
    if (old === old) sorted.splice(place(old), 1);
    ring[at] = value;
    at = (at + 1) % samples;
    if (value !== value) return NaN;
    sorted.splice(place(value), 0, value);
    const middle = sorted.length >> 1;
    return sorted.length % 2 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
  };
}

/** Slope of the straight line of least squares through the last samples, each at its own time, per second. 0 at the first. */
export function movingSlope(x: Evaluate, samples: number, rateHz: number): Evaluate {
  const slope = new SlidingSlope(Math.max(2, samples), rateHz);
  let begun = false;
  return (i) => {
    const value = x(i);
    const found = slope.push(value);
    if (value !== value) return NaN;
    if (begun) return found;
    begun = true;
    return 0;
  };
}

/** Backward difference over the time since the last value: a live value cannot see the next sample. 0 at the first. */
export function derivative(x: Evaluate, rateHz: number): Evaluate {
  let last = NaN;
  let since = 0;
  return (i) => {
    const value = x(i);
    since++;
    if (value !== value) return NaN;
    const rate = last !== last ? 0 : ((value - last) * rateHz) / since;
    last = value;
    since = 0;
    return rate;
  };
}

/** Trapezoidal integral over time from 0; held at 0 while reset is yes. The time of a gap is left out: what was not measured is not made up. */
export function integral(x: Evaluate, rateHz: number, reset: Evaluate | undefined): Evaluate {
  let sum = 0;
  let last = NaN;
  return (i) => {
    const value = x(i);
    const cleared = reset !== undefined && reset(i) > 0;
    if (cleared) sum = 0;
    else if (last === last && value === value) sum += (value + last) / 2 / rateHz;
    last = value;
    return value !== value ? NaN : sum;
  };
}

/** Second-order Butterworth section by the bilinear transform, warped to its corner, started as if the first value had always been there.
 *  After a gap longer than a period of its corner it begins anew: what was before is forgotten by then, and a step over the gap is none.
 *  Source: Oppenheim & Schafer, Discrete-Time Signal Processing, 7.2. */
export function butterworth(x: Evaluate, kind: 'low' | 'high', cornerHz: number, rateHz: number): Evaluate {
  const k = Math.tan((Math.PI * cornerHz) / rateHz);
  const norm = 1 / (1 + Math.SQRT2 * k + k * k);
  const b0 = (kind === 'low' ? k * k : 1) * norm;
  const b1 = kind === 'low' ? 2 * b0 : -2 * b0;
  const a1 = 2 * (k * k - 1) * norm;
  const a2 = (1 - Math.SQRT2 * k + k * k) * norm;
  const memory = rateHz / cornerHz;
  let z1 = NaN;
  let z2 = 0;
  let missing = 0;
  return (i) => {
    const value = x(i);
    if (value !== value) {
      if (++missing > memory) z1 = NaN;
      return NaN;
    }
    missing = 0;
    if (z1 !== z1) {
      const settled = kind === 'low' ? value : 0;
      z2 = b0 * value - a2 * settled;
      z1 = b1 * value - a1 * settled + z2;
    }
    const out = b0 * value + z1;
    z1 = b1 * value - a1 * out + z2;
    z2 = b0 * value - a2 * out;
    return out;
  };
}

/** First-order low-pass of a time constant in s, started at the first value; a gap counts as the time that it is. */
export function smooth(x: Evaluate, tau: number, rateHz: number): Evaluate {
  let y = NaN;
  let since = 0;
  return (i) => {
    const value = x(i);
    since++;
    if (value !== value) return NaN;
    y = y !== y ? value : y + (1 - Math.exp(-since / (rateHz * tau))) * (value - y);
    since = 0;
    return y;
  };
}

/** The value of some samples ago, NaN where that one was missing; the first one until then. */
export function delay(x: Evaluate, samples: number): Evaluate {
  const ring = new Float64Array(samples);
  let at = -1;
  return (i) => {
    const value = x(i);
    if (at < 0) {
      if (value !== value) return NaN;
      ring.fill(value);
      at = 0;
    }
    const old = ring[at];
    ring[at] = value;
    at = (at + 1) % samples;
    return old;
  };
}

/** 1 from rising above `on` until falling below `off`. */
export function hysteresis(x: Evaluate, on: Evaluate, off: Evaluate): Evaluate {
  let held = 0;
  return (i) => {
    const value = x(i);
    if (value > on(i)) held = 1;
    else if (value < off(i)) held = 0;
    return value !== value ? NaN : held;
  };
}

/** 1 once set, until reset; reset wins. */
export function latch(set: Evaluate, reset: Evaluate): Evaluate {
  let held = 0;
  return (i) => {
    const a = set(i);
    if (reset(i) > 0) held = 0;
    else if (a > 0) held = 1;
    return held;
  };
}

/** 1 at the sample at which x turns from no to yes. */
export function edge(x: Evaluate): Evaluate {
  let last = 0;
  return skipping(x, (value) => {
    const rises = value > 0 && last <= 0 ? 1 : 0;
    last = value;
    return rises;
  });
}

/** Number of turns from no to yes so far. */
export function count(x: Evaluate, reset: Evaluate | undefined): Evaluate {
  const rises = edge(x);
  let total = 0;
  return (i) => {
    const up = rises(i);
    if (reset !== undefined && reset(i) > 0) total = 0;
    else if (up > 0) total++;
    return total;
  };
}

/** Seconds for which x has been yes: without a break, or in all. */
export function timer(x: Evaluate, rateHz: number, inAll: boolean): Evaluate {
  let samples = 0;
  return skipping(x, (value) => {
    if (value > 0) samples++;
    else if (!inAll) samples = 0;
    return samples / rateHz;
  });
}

/** Largest or smallest value since the start or the last reset. */
export function record(x: Evaluate, sign: 1 | -1, reset: Evaluate | undefined): Evaluate {
  let best = NaN;
  return (i) => {
    const value = x(i);
    if (reset !== undefined && reset(i) > 0) best = NaN;
    if (value === value && !(sign * best >= sign * value)) best = value;
    return best;
  };
}
