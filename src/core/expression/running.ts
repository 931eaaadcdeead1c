/** Value of a part of a formula at sample i of the block at hand. Calls come in order, once a sample. */
export type Evaluate = (i: number) => number;

/** The last N samples, with their running sums kept fresh: each sum is made anew once a turn of the ring, so that rounding does not pile up. */
class Window {
  private readonly ring: Float64Array;
  private at = 0;
  count = 0;
  sum = 0;
  squares = 0;

  constructor(samples: number) {
    this.ring = new Float64Array(Math.max(1, samples));
  }

  push(value: number): void {
    const { ring } = this;
    if (this.count === ring.length) {
      const old = ring[this.at];
      this.sum -= old;
      this.squares -= old * old;
    } else this.count++;
    ring[this.at] = value;
    this.sum += value;
    this.squares += value * value;
    if (++this.at === ring.length) {
      this.at = 0;
      this.sum = this.squares = 0;
      for (let k = 0; k < ring.length; k++) {
        this.sum += ring[k];
        this.squares += ring[k] * ring[k];
      }
    }
  }

  /** Values from the oldest to the newest. */
  *values(): Generator<number> {
    const { ring, count, at } = this;
    const first = count === ring.length ? at : 0;
    for (let k = 0; k < count; k++) yield ring[(first + k) % ring.length];
  }
}

const MAX_WINDOW = 20_000_000;

/** Samples of a window or delay. @returns 1 to 20 million */
export const samplesOf = (seconds: number, rateHz: number) =>
  Math.min(MAX_WINDOW, Math.max(1, Math.round(seconds * rateHz)));

/** A missing value passes through and leaves the state as it is. */
const skipping =
  (x: Evaluate, step: (value: number) => number): Evaluate =>
  (i) => {
    const value = x(i);
    return value !== value ? NaN : step(value);
  };

export const movingMean = (x: Evaluate, samples: number): Evaluate => {
  const window = new Window(samples);
  return skipping(x, (value) => {
    window.push(value);
    return window.sum / window.count;
  });
};

export const movingRms = (x: Evaluate, samples: number): Evaluate => {
  const window = new Window(samples);
  return skipping(x, (value) => {
    window.push(value);
    return Math.sqrt(Math.max(0, window.squares) / window.count);
  });
};

/** Largest (sign 1) or smallest (sign −1) of the last samples: a queue of candidates, each sample enters and leaves once. */
export function movingExtreme(x: Evaluate, samples: number, sign: 1 | -1): Evaluate {
  const size = samples + 1;
  const values = new Float64Array(size);
  const indices = new Float64Array(size);
  let head = 0;
  let length = 0;
  let index = 0;
  return skipping(x, (value) => {
    const signed = sign * value;
    while (length > 0 && values[(head + length - 1) % size] <= signed) length--;
    values[(head + length) % size] = signed;
    indices[(head + length) % size] = index;
    length++;
    if (indices[head] <= index - samples) {
      head = (head + 1) % size;
      length--;
    }
    index++;
    return sign * values[head];
  });
}

/** Median of the last samples, kept in order by insertion. */
export function movingMedian(x: Evaluate, samples: number): Evaluate {
  const ring: number[] = [];
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
  return skipping(x, (value) => {
    ring.push(value);
    if (ring.length > samples) sorted.splice(place(ring.shift()!), 1);
    sorted.splice(place(value), 0, value);
    const middle = sorted.length >> 1;
    return sorted.length % 2 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
  });
}

/** Slope of the straight line of least squares through the last samples, per second. 0 until there are two. */
export function movingSlope(x: Evaluate, samples: number, rateHz: number): Evaluate {
  const window = new Window(Math.max(2, samples));
  return skipping(x, (value) => {
    window.push(value);
    const n = window.count;
    if (n < 2) return 0;
    const middle = (n - 1) / 2;
    let product = 0;
    let k = 0;
    for (const v of window.values()) product += (k++ - middle) * v;
    return (product / ((n * (n * n - 1)) / 12)) * rateHz;
  });
}

/** Backward difference: a live value cannot see the next sample. 0 at the first. */
export function derivative(x: Evaluate, rateHz: number): Evaluate {
  let last = NaN;
  return skipping(x, (value) => {
    const rate = last !== last ? 0 : (value - last) * rateHz;
    last = value;
    return rate;
  });
}

/** Trapezoidal integral over time from 0; held at 0 while reset is yes. */
export function integral(x: Evaluate, rateHz: number, reset: Evaluate | undefined): Evaluate {
  let sum = 0;
  let last = NaN;
  return (i) => {
    const value = x(i);
    const cleared = reset !== undefined && reset(i) > 0;
    if (value !== value) return NaN;
    if (cleared) sum = 0;
    else if (last === last) sum += (value + last) / 2 / rateHz;
    last = value;
    return sum;
  };
}

/** Second-order Butterworth section by the bilinear transform, warped to its corner, started as if the first value had always been there.
 *  Source: Oppenheim & Schafer, Discrete-Time Signal Processing, 7.2. */
export function butterworth(x: Evaluate, kind: 'low' | 'high', cornerHz: number, rateHz: number): Evaluate {
  const k = Math.tan((Math.PI * cornerHz) / rateHz);
  const norm = 1 / (1 + Math.SQRT2 * k + k * k);
  const b0 = (kind === 'low' ? k * k : 1) * norm;
  const b1 = kind === 'low' ? 2 * b0 : -2 * b0;
  const a1 = 2 * (k * k - 1) * norm;
  const a2 = (1 - Math.SQRT2 * k + k * k) * norm;
  let z1 = NaN;
  let z2 = 0;
  return skipping(x, (value) => {
    if (z1 !== z1) {
      const settled = kind === 'low' ? value : 0;
      z2 = b0 * value - a2 * settled;
      z1 = b1 * value - a1 * settled + z2;
    }
    const out = b0 * value + z1;
    z1 = b1 * value - a1 * out + z2;
    z2 = b0 * value - a2 * out;
    return out;
  });
}

/** First-order low-pass of a time constant in s, started at the first value. */
export function smooth(x: Evaluate, tau: number, rateHz: number): Evaluate {
  const share = 1 - Math.exp(-1 / (rateHz * tau));
  let y = NaN;
  return skipping(x, (value) => (y = y !== y ? value : y + share * (value - y)));
}

/** The value of some samples ago; the first one until then. */
export function delay(x: Evaluate, samples: number): Evaluate {
  const ring = new Float64Array(samples);
  let at = -1;
  return (i) => {
    const value = x(i);
    if (at < 0) {
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
