import FFT from 'fft.js';
import type { Filtered } from './pulse';

/** Places of symbols among the samples: the first one’s, and samples from one to the next. */
export interface Timing {
  first: number;
  each: number;
}

/** Readings within a symbol from which its beat is told: its squared envelope has nothing beyond twice the rate; of a staggered one the carrier adds to that. */
const WITHIN = 4;
const WITHIN_STAGGERED = 8;
/** Share by which a stated symbol rate may be off. */
const OFF = 0.025;

/** Readings of a filter, several a symbol, made to values, and their transform. */
class Beats {
  private readonly n: number;
  private readonly heights: Float64Array;

  /** @param values re and im in turn, `within` a symbol */
  constructor(
    private readonly values: Float64Array,
    private readonly within: number,
  ) {
    let n = 64;
    while (n < values.length) n *= 2; // twice as fine as the values need
    this.n = n;
    const fft = new FFT(n);
    const input = new Float64Array(2 * n);
    input.set(values);
    const out = new Float64Array(2 * n);
    fft.transform(out, input);
    this.heights = Float64Array.from({ length: n }, (_, k) => Math.hypot(out[2 * k], out[2 * k + 1]));
  }
  /** Bin of a frequency in cycles a symbol. */
  bin = (cycles: number): number => (cycles / this.within) * this.n;
  cycles = (bin: number): number => (bin / this.n) * this.within;
  height(bin: number): number {
    // The number of bins is a power of two.
    return this.heights[bin & (this.n - 1)];
  }
  /** Between the bins, by a parabola. */
  top(bin: number): number {
    const [a, b, c] = [this.height(bin - 1), this.height(bin), this.height(bin + 1)];
    const bend = a - 2 * b + c;
    return bin + (bend < 0 ? Math.max(-0.5, Math.min(0.5, (a - c) / (2 * bend))) : 0);
  }
  /** Phase of a line of this frequency, rad. */
  phase(cycles: number): number {
    let [re, im] = [0, 0];
    for (let k = 0; k < this.values.length / 2; k++) {
      const angle = (-2 * Math.PI * cycles * k) / this.within;
      re += this.values[2 * k] * Math.cos(angle) - this.values[2 * k + 1] * Math.sin(angle);
      im += this.values[2 * k] * Math.sin(angle) + this.values[2 * k + 1] * Math.cos(angle);
    }
    return Math.atan2(im, re);
  }
}

function readings(filtered: Filtered, { first, each }: Timing, count: number, within: number): Float64Array {
  const out = new Float64Array(2 * count * within);
  for (let k = 0; k < count * within; k++) filtered.read(first + (k / within) * each, out, 2 * k);
  return out;
}
/** The first symbol’s place is the first one after `from`. */
function within(at: Timing, from: number): Timing {
  const first = from + ((((at.first - from) / at.each) % 1) + 1) % 1 * at.each; // prettier-ignore
  return { ...at, first };
}

/** Finds the beat of the symbols by the line at their rate in the squared envelope: its frequency is the rate, its phase the timing.
 *  Source: Oerder and Meyr, IEEE Trans. COM-36(5), 1988. @param perSymbol samples a symbol, up to some 2 % off @param count symbols that are read */
export function findTiming(filtered: Filtered, perSymbol: number, from: number, count: number): Timing {
  let at: Timing = { first: from, each: perSymbol };
  for (let pass = 0; pass < 2; pass++) {
    const z = readings(filtered, at, count, WITHIN);
    let mean = 0;
    for (let i = 0; i < z.length; i += 2) {
      z[i] = z[i] * z[i] + z[i + 1] * z[i + 1];
      z[i + 1] = 0;
      mean += z[i];
    }
    mean /= z.length / 2;
    for (let i = 0; i < z.length; i += 2) z[i] -= mean;
    const beats = new Beats(z, WITHIN);
    const reach = pass === 0 ? OFF : OFF / 10;
    let best = Math.round(beats.bin(1));
    for (let bin = Math.floor(beats.bin(1 - reach)); bin <= Math.ceil(beats.bin(1 + reach)); bin++)
      if (beats.height(bin) > beats.height(best)) best = bin;
    const cycles = beats.cycles(beats.top(best));
    const shift = -beats.phase(cycles) / (2 * Math.PI) / cycles;
    at = within({ first: at.first + shift * at.each, each: at.each / cycles }, from);
  }
  return at;
}

/** Beat and carrier of one whose quadrature lies half a symbol later: the square of its readings has lines at twice the carrier plus and minus the symbol rate, whose middle is
 *  the carrier and whose distance the rate. @returns cycles a symbol and rad of the carrier at the first symbol */
export function findStaggered(
  filtered: Filtered,
  perSymbol: number,
  from: number,
  count: number,
): { timing: Timing; cycles: number; phase: number } {
  const at: Timing = { first: from, each: perSymbol };
  const z = readings(filtered, at, count, WITHIN_STAGGERED);
  for (let i = 0; i < z.length; i += 2)
    [z[i], z[i + 1]] = [z[i] * z[i] - z[i + 1] * z[i + 1], 2 * z[i] * z[i + 1]];
  const beats = new Beats(z, WITHIN_STAGGERED);
  let best = { low: 0, high: 0, height: -1 };
  const [near, far] = [Math.floor(beats.bin(2 * (1 - OFF))), Math.ceil(beats.bin(2 * (1 + OFF)))];
  // The carrier lies within half a symbol rate of where it was taken for.
  for (let low = Math.floor(beats.bin(-2)); low <= Math.ceil(beats.bin(0)); low++) {
    const own = beats.height(low);
    for (let apart = near; apart <= far; apart++) {
      const height = own * beats.height(low + apart);
      if (height > best.height) best = { low, high: low + apart, height };
    }
  }
  const [low, high] = [beats.cycles(beats.top(best.low)), beats.cycles(beats.top(best.high))];
  const [below, above] = [beats.phase(low), beats.phase(high)];
  const rate = (high - low) / 2;
  // Line phases are 2φ ± 2πτ of the first reading.
  const shift = -(above - below) / (4 * Math.PI) / rate;
  const timing = within({ first: from + shift * perSymbol, each: perSymbol / rate }, from);
  const cycles = (low + high) / 4;
  const moved = (timing.first - from) / perSymbol;
  return { timing, cycles: cycles / rate, phase: (above + below) / 4 + 2 * Math.PI * cycles * moved };
}

/** Symbols at their places. @param shift of all of them, symbols @returns re and im in turn */
export function readSymbols(
  filtered: Filtered,
  { first, each }: Timing,
  count: number,
  shift = 0,
): Float64Array {
  const out = new Float64Array(2 * count);
  for (let k = 0; k < count; k++) filtered.read(first + (k + shift) * each, out, 2 * k);
  return out;
}
