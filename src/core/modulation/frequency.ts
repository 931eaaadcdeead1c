import { middleOfPower, turned } from './carrier';
import { rho, slopesOf, symbolErrors, withoutSlopes } from './metrics';
import { Filtered, pulseAt } from './pulse';
import { findTiming, readSymbols, type Timing } from './timing';

/** What was found of a capture that is keyed in frequency. */
export interface FoundFrequency {
  symbols: Uint16Array;
  /** Frequencies at the symbols, Hz from the centre, and the lowest and highest level as fitted. */
  frequencies: Float64Array;
  deviationHz: number;
  /** What frequencies differ by from their levels, rms, % of the deviation. */
  deviationError: number;
  /** Centre of the levels from the capture’s, Hz; symbol rate, Hz; index 2·deviation/rate (of the outermost levels of more than two over their number less one). */
  offsetHz: number;
  symbolHz: number;
  index: number;
  timing: Timing;
  /** At the symbols, turned back by the phase that the symbols make: 1 where nothing is wrong. I and Q in turn. */
  received: Float64Array;
  evmRms: number;
  evmPeak: number;
  evm95: number;
  /** Modulation error ratio, dB; errors of magnitude, %, and phase, °; share of the power that is the ideal signal’s; fall of the level, dB a symbol. */
  mer: number;
  magnitude: number;
  phase: number;
  rho: number;
  droopDb: number;
  errors: Float64Array;
  /** Frequencies between the symbols, `BETWEEN` a symbol from the first on, Hz from the centre: what their eye is drawn of. */
  between: Float64Array;
}
/** Readings of the frequency within a symbol. */
export const BETWEEN = 8;

/** Least symbols of a capture. */
const LEAST = 16;
/** Places within a symbol at which a phase is followed. */
const FINE = 16;

/** Reads frequency keying: the turning of the phase over the middle half of each symbol, its beat, its levels by least squares.
 *  @param levels 2 or 4 @param index given for MSK: the phase is then compared with that of exactly this index; null: with the one that is found
 *  @param bt of a Gaussian filter before the modulator; null for none @returns null for a capture too short to be read */
export function readFrequency(
  iq: Float32Array,
  sampleRateHz: number,
  {
    levels,
    symbolHz,
    index,
    bt,
  }: { levels: number; symbolHz: number; index: number | null; bt: number | null },
): FoundFrequency | null {
  const n = iq.length / 2;
  const perSymbol = sampleRateHz / symbolHz;
  if (n < (LEAST + 4) * perSymbol) return null;
  const coarse = middleOfPower(iq, sampleRateHz, 1.5 * symbolHz);
  const z = turned(iq, -coarse / sampleRateHz);
  /** Turning from sample to sample, Hz; stands half a sample after the first of the two. */
  const f = new Float64Array(2 * (n - 1));
  for (let k = 0; k < n - 1; k++) {
    const [a, b, c, d] = [z[2 * k], z[2 * k + 1], z[2 * k + 2], z[2 * k + 3]];
    f[2 * k] = (Math.atan2(d * a - c * b, c * a + d * b) * sampleRateHz) / (2 * Math.PI);
  }
  const half = new Filtered(f, perSymbol / 2, { shape: 'rectangle', rollOff: 0 });
  const count = Math.floor((n - 1) / perSymbol) - 3;
  const rough = new Float64Array(4 * count);
  for (let k = 0; k < 2 * count; k++) half.read((1 + k / 2) * perSymbol, rough, 2 * k);
  const order = Float64Array.from(rough.filter((_, i) => i % 2 === 0)).sort();
  const centre = (order[Math.floor(0.05 * order.length)] + order[Math.floor(0.95 * order.length)]) / 2;
  for (let k = 0; k < n - 1; k++) f[2 * k] -= centre;
  const timing = findTiming(half, perSymbol, perSymbol, count);
  const fits = Math.min(count, Math.floor((n - 2 - perSymbol / 2 - timing.first) / timing.each));
  if (fits < LEAST) return null;
  const read = readSymbols(half, timing, fits);
  const frequencies = Float64Array.from({ length: fits }, (_, k) => read[2 * k]);
  const symbols = new Uint16Array(fits);
  let deviation = (order[Math.floor(0.95 * order.length)] - order[Math.floor(0.05 * order.length)]) / 2;
  let middle = 0;
  /** Level k of −1 to 1. */
  const level = (k: number) => (2 * k) / (levels - 1) - 1;
  for (let round = 0; round < 6; round++) {
    let [sa, sf, saa, saf] = [0, 0, 0, 0];
    for (let k = 0; k < fits; k++) {
      const at = (((frequencies[k] - middle) / deviation + 1) / 2) * (levels - 1);
      symbols[k] = Math.max(0, Math.min(levels - 1, Math.round(at)));
      const a = level(symbols[k]);
      sa += a;
      sf += frequencies[k];
      saa += a * a;
      saf += a * frequencies[k];
    }
    const spread = saa - (sa * sa) / fits;
    if (!(spread > 0)) return null;
    deviation = (saf - (sa * sf) / fits) / spread;
    middle = (sf - deviation * sa) / fits;
  }
  let error = 0;
  for (let k = 0; k < fits; k++) error += (frequencies[k] - middle - deviation * level(symbols[k])) ** 2;
  const symbolRate = sampleRateHz / timing.each;
  const found = (2 * deviation) / symbolRate / (levels - 1);
  // The phase stands half a sample before the turning that is read of it.
  const made = phases(symbols, levels, index ?? found, bt);
  const at = { first: timing.first + 0.5, each: timing.each };
  const between = new Filtered(z, perSymbol, { shape: 'none', rollOff: 0 });
  const seen = turned(readSymbols(between, at, fits), -(centre + middle) / symbolRate);
  const received = new Float64Array(2 * fits);
  for (let k = 0; k < fits; k++) {
    const [c, s] = [Math.cos(made[k]), Math.sin(made[k])];
    received[2 * k] = seen[2 * k] * c + seen[2 * k + 1] * s;
    received[2 * k + 1] = seen[2 * k + 1] * c - seen[2 * k] * s;
  }
  const one = [{ re: 1, im: 0 }];
  const zero = new Uint16Array(fits);
  const steady = turned(received, -drift(received));
  // What the level falls by is a number of its own, and no error vector.
  const { droopDb } = slopesOf(steady, zero, one);
  const still = withoutSlopes(steady, { cycles: 0, droopDb });
  const errors = symbolErrors(still, zero, one, false);
  const wave = new Float64Array(2 * fits * BETWEEN);
  for (let k = 0; k < fits * BETWEEN; k++) half.read(timing.first + (k / BETWEEN) * timing.each, wave, 2 * k);
  return {
    symbols,
    frequencies: frequencies.map((v) => v - middle),
    deviationHz: deviation,
    deviationError: (100 * Math.sqrt(error / fits)) / deviation,
    offsetHz: coarse + centre + middle,
    symbolHz: symbolRate,
    index: found,
    timing: at,
    received: errors.corrected,
    evmRms: errors.evmRms,
    evmPeak: errors.evmPeak,
    evm95: errors.evm95,
    mer: errors.mer,
    magnitude: errors.magnitudeRms,
    phase: errors.phaseRms,
    rho: rho(still, zero, one),
    droopDb,
    errors: errors.errors,
    between: Float64Array.from({ length: fits * BETWEEN }, (_, k) => wave[2 * k] - middle),
  };
}

/** Cycles a symbol by which values turn on, by the mean turning between neighbours. */
function drift(z: Float64Array): number {
  let [re, im] = [0, 0];
  for (let i = 2; i < z.length; i += 2) {
    re += z[i] * z[i - 2] + z[i + 1] * z[i - 1];
    im += z[i + 1] * z[i - 2] - z[i] * z[i - 1];
  }
  return Math.atan2(im, re) / (2 * Math.PI);
}

/** Phase at the middle of each symbol that these symbols make, rad: the integral of their frequencies, smoothed by a Gaussian filter where there is one. */
function phases(symbols: Uint16Array, levels: number, index: number, bt: number | null): Float64Array {
  const n = symbols.length;
  const fine = new Float64Array((n + 1) * FINE);
  for (let k = 0; k < n; k++)
    for (let i = 0; i < FINE; i++) fine[k * FINE + i] = (2 * symbols[k] - (levels - 1)) * (index / 2);
  const smooth = bt === null ? fine : smoothed(fine, bt);
  const out = new Float64Array(n);
  let turn = 0;
  for (let i = 0; i < n * FINE; i++) {
    // A place stands in the middle of its stretch.
    const middle = i % FINE === FINE / 2;
    if (middle) out[(i - FINE / 2) / FINE] = 2 * Math.PI * turn;
    turn += smooth[i] / FINE;
  }
  return out;
}
function smoothed(x: Float64Array, bt: number): Float64Array {
  const half = Math.round(2 * FINE);
  const taps = Float64Array.from({ length: 2 * half + 1 }, (_, k) =>
    pulseAt('Gaussian', (k - half) / FINE, bt),
  );
  const sum = taps.reduce((a, v) => a + v, 0);
  return x.map((_, i) => {
    let v = 0;
    for (let k = -half; k <= half; k++) v += taps[k + half] * x[Math.max(0, Math.min(x.length - 1, i + k))];
    return v / sum;
  });
}
