import { equalise, pathOf } from './equaliser';
import { BETWEEN, readFrequency } from './frequency';
import { readLinear, type Found } from './linear';
import { modulatorErrors, rho, slopesOf, symbolErrors, withoutSlopes } from './metrics';
import { bitErrors, bitsOfSymbols, findPattern, symbolsOfBits } from './pattern';
import type { PulseShape } from './pulse';
import { sentRegion } from './region';
import { bitsPerSymbol, isFrequency, pointsOf, turnsOf, type Point, type Scheme } from './schemes';
import { turned } from './carrier';

/** How a capture is read. */
export interface ModulationWish {
  scheme: Scheme;
  own: readonly Point[];
  symbolHz: number;
  pulse: PulseShape;
  /** Roll-off; of a Gaussian filter its bandwidth times the symbol time. */
  rollOff: number;
  taps: readonly number[];
  tapsPerSymbol: number;
  /** Whether the receiver filters by the same pulse. */
  matched: boolean;
  /** Symbols that are read. */
  count: number;
  /** Known bits that are looked for; '' for none. How alike they have to be, and symbols from their begin to the first that is read. */
  pattern: string;
  alike: number;
  after: number;
  /** Bits that are expected, compared one by one; '' for none. */
  expected: string;
  equaliser: { taps: number; step: number; learns: 'decisions' | 'the pattern' } | null;
  /** Taps that the equaliser is held at. */
  held: Float64Array | null;
}

/** Numbers of one capture; NaN where one is not defined for the scheme. */
export const MEASURES = [
  'evmRms', 'evmPeak', 'evm95', 'mer', 'snr', 'magnitude', 'phase', 'offsetHz', 'symbolHz', 'droop', 'origin', 'imbalance', 'quadrature', 'rho', 'deviationHz', 'deviationError', 'bitErrors',
] as const; // prettier-ignore
export type Measure = (typeof MEASURES)[number];

export interface ModulationRead {
  numbers: Record<Measure, number>;
  points: Point[];
  /** At the symbols, I and Q in turn, and error vectors, %. */
  received: Float32Array;
  symbols: Uint16Array;
  errors: Float32Array;
  bits: string;
  /** Readings from symbol to symbol, `within` a symbol, for the eye and the path of the vector. */
  between: Float32Array;
  within: number;
  /** Place of the pattern among the symbols of the capture, and how alike it is; null where none was looked for. */
  match: { at: number; alike: number; length: number } | null;
  /** What the path did, before and after the equaliser; over frequency in Hz. */
  path: { hz: Float32Array; before: Float32Array; after: Float32Array | null; delay: Float32Array } | null;
  /** Taps of the equaliser. */
  taps: Float64Array | null;
}
/** Why a capture could not be read. */
export interface Unread {
  fault: string;
}

/** Symbols at the edges of a frame by which the carrier is not told; and how far beyond them there may be more. */
const EDGE = 3;
const BEYOND = 10;
/** Readings between the symbols. */
const WITHIN = 8;
const nothing = (): Record<Measure, number> =>
  Object.fromEntries(MEASURES.map((m) => [m, NaN])) as Record<Measure, number>;

/** Reads a capture: finds carrier, beat and, where one is known, the pattern; takes out what the path did where that is asked for; and measures. */
export function readModulation(
  iq: Float32Array,
  sampleRateHz: number,
  wish: ModulationWish,
): ModulationRead | Unread {
  if (sampleRateHz < 1.9 * wish.symbolHz)
    return { fault: 'The capture has fewer than two samples a symbol: widen it.' };
  return isFrequency(wish.scheme) ? byFrequency(iq, sampleRateHz, wish) : byPoints(iq, sampleRateHz, wish);
}

function byPoints(iq: Float32Array, sampleRateHz: number, wish: ModulationWish): ModulationRead | Unread {
  const points = pointsOf(wish.scheme, wish.own);
  if (points.length < 2) return { fault: 'The constellation has fewer than two points.' };
  const each = bitsPerSymbol(points);
  const turnsOn = wish.scheme === 'π/4-DQPSK';
  const staggered = wish.scheme === 'OQPSK';
  const filter = wish.matched
    ? { shape: wish.pulse, rollOff: wish.rollOff, taps: wish.taps, perSymbol: wish.tapsPerSymbol }
    : { shape: 'none' as const, rollOff: 0 };
  const perSymbol = sampleRateHz / wish.symbolHz;
  const region = insideOf(sentRegion(iq, perSymbol), iq.length / 2, EDGE * perSymbol);
  const asked = { points, filter, symbolHz: wish.symbolHz, turnsOn, staggered };
  let found = readLinear(iq, sampleRateHz, asked, region);
  if (!found) return { fault: 'The capture is too short for these symbols.' };
  let whole = wholeFrame(found, points, iq.length / 2, staggered);
  if (whole.inside) {
    // What was taken for symbols before or after the frame spoiled its carrier: once more, without.
    const { timing } = found;
    const at = (k: number) => timing.first + k * timing.each;
    const only = {
      from: Math.floor(at(whole.first - 0.5)),
      to: Math.ceil(at(whole.first + whole.received.length / 2)),
    };
    found = readLinear(iq, sampleRateHz, asked, only, found.offsetHz) ?? found;
    whole = wholeFrame(found, points, iq.length / 2, staggered);
  }
  const { first } = whole;
  let { received } = whole;
  const pattern = symbolsOfBits(wish.pattern, each);
  const known = (turnsOn ? stepped(pattern) : pattern).map((k) => points[Math.min(k, points.length - 1)]);
  let from = 0;
  let match: ModulationRead['match'] = null;
  if (pattern.length > 0) {
    const [seen] = findPattern(received, known, wish.alike);
    if (!seen) return { fault: 'The pattern was not found in this capture.' };
    match = { at: seen.at, alike: seen.alike, length: pattern.length };
    // A constellation that falls onto itself is turned to where the pattern tells.
    const turns = staggered ? 2 : turnsOf(points);
    const turn = (Math.round((seen.turn / (2 * Math.PI)) * turns) / turns) * 2 * Math.PI;
    received = turned(received, 0, -turn);
    found.carrier.phase += turn;
    from = seen.at + (turnsOn ? 1 : 0) + wish.after;
  }
  const count = Math.min(wish.count, received.length / 2 - from);
  if (count < 8 || from < 0)
    return { fault: 'Too few symbols are left in the capture from where they begin.' };
  let z: Float64Array = received.slice(2 * from, 2 * (from + count));
  let symbols = decided(z, points);
  const before = pathOf(symbolErrors(z, symbols, points, false).corrected, symbols, points);
  let path: NonNullable<ModulationRead['path']>;
  let taps: Float64Array | null = null;
  // Symbols that turn on are read as if they stood still: what the path does at a frequency is seen an eighth of the rate lower.
  const hz = Float32Array.from(before.cycles, (c) => (c + (turnsOn ? 1 / 8 : 0)) * found.symbolHz);
  if (wish.equaliser) {
    const twice = halves(found, first + from, count, turnsOn ? 1 / 8 : 0);
    const sent = turnsOn ? stepped(pattern) : pattern;
    const learned = new Map(
      wish.equaliser.learns === 'the pattern' && match
        ? sent.map((k, i) => [match!.at + i - from, k] as const).filter(([i]) => i >= 0)
        : [],
    );
    const out = equalise(twice, points, {
      ...wish.equaliser,
      staggered,
      known: learned.size ? learned : null,
      held: wish.held,
    });
    ({ received: z, symbols, taps } = out);
    const after = pathOf(z, symbols, points);
    path = {
      hz,
      before: Float32Array.from(before.level),
      after: Float32Array.from(after.level),
      delay: Float32Array.from(before.delay),
    };
  } else
    path = {
      hz,
      before: Float32Array.from(before.level),
      after: null,
      delay: Float32Array.from(before.delay),
    };
  const slopes = slopesOf(z, symbols, points);
  const still = withoutSlopes(z, slopes);
  const errors = symbolErrors(still, symbols, points, true);
  const modulator = modulatorErrors(still, symbols, points);
  const bits = bitsOfSymbols(
    turnsOn ? steps(decided(received, points)).slice(from, from + count) : symbols,
    each,
  );
  const numbers: Record<Measure, number> = {
    ...nothing(),
    evmRms: errors.evmRms,
    evmPeak: errors.evmPeak,
    evm95: errors.evm95,
    mer: errors.mer,
    snr: modulator.snr,
    magnitude: errors.magnitudeRms,
    phase: errors.phaseRms,
    offsetHz: found.offsetHz + slopes.cycles * found.symbolHz,
    symbolHz: found.symbolHz,
    droop: slopes.droopDb,
    origin: modulator.originDb,
    imbalance: modulator.imbalanceDb,
    quadrature: modulator.quadratureDeg,
    rho: rho(still, symbols, points),
    bitErrors: wish.expected.trim() ? bitErrors(bits, wish.expected).errors : NaN,
  };
  return {
    numbers,
    points,
    received: Float32Array.from(errors.corrected),
    symbols,
    errors: Float32Array.from(errors.errors),
    bits,
    between: between(found, first + from, count),
    within: WITHIN,
    match,
    path,
    taps,
  };
}

/** A region without its edges, where they are not those of the capture. */
const insideOf = (
  { from, to }: { from: number; to: number },
  n: number,
  edge: number,
): { from: number; to: number } => ({
  from: from > 0 ? from + edge : 0,
  to: to < n ? to - edge : n,
});

/** All symbols of a frame: those beyond where its carrier was told, as long as something is sent. A constellation with a point at 0 does not tell where it ends.
 *  @returns place of the first against those that were found; whether some of those were none */
function wholeFrame(
  found: Found,
  points: readonly Point[],
  samples: number,
  staggered: boolean,
): { first: number; received: Float64Array; inside: boolean } {
  const least = 0.5 * Math.min(...points.map((p) => Math.hypot(p.re, p.im)));
  const n = found.symbols.length;
  if (least < 0.02) return { first: 0, received: found.received, inside: false };
  const { timing } = found;
  const before = Math.max(0, Math.min(BEYOND, Math.floor(timing.first / timing.each) - 1));
  const after = Math.max(0, Math.min(BEYOND, Math.floor((samples - 1 - timing.first) / timing.each) - n));
  const z = found.read(-before, before + n + after);
  const sent = (k: number) => Math.hypot(z[2 * k], z[2 * k + 1]) >= least;
  let [from, to] = [before, before + n];
  while (from < to && !(sent(from) && sent(from + 1))) from++;
  while (to > from && !(sent(to - 1) && sent(to - 2))) to--;
  const inside = from > before || to < before + n;
  while (from > 0 && sent(from - 1)) from--;
  while (to < z.length / 2 && sent(to)) to++;
  // At the ends of a staggered one there may be one half of a symbol without the other.
  if (staggered) [from, to] = [from + 1, to - 1];
  return { first: from - before, received: z.slice(2 * from, 2 * to), inside };
}

/** Points of four phases in the order of their angles, and the steps between them as bits: +45° is 00, +135° 01, −135° 11, −45° 10. */
const BY_ANGLE = [0, 1, 3, 2];
/** Symbols as their steps from the ones before. */
const steps = (symbols: Uint16Array): Uint16Array =>
  symbols.map((s, k) => BY_ANGLE[(BY_ANGLE.indexOf(s) - BY_ANGLE.indexOf(symbols[k - 1] ?? s) + 4) % 4]);
/** Phases that some steps lead through, from an arbitrary one on. */
function stepped(pattern: readonly number[]): number[] {
  let at = 0;
  return [0, ...pattern.map((bits) => BY_ANGLE[(at = (at + BY_ANGLE.indexOf(bits)) % 4)])];
}
function decided(z: Float64Array, points: readonly Point[]): Uint16Array {
  const out = new Uint16Array(z.length / 2);
  for (let k = 0; k < out.length; k++) {
    let least = Infinity;
    points.forEach((p, i) => {
      const d = (z[2 * k] - p.re) ** 2 + (z[2 * k + 1] - p.im) ** 2;
      if (d < least) [least, out[k]] = [d, i];
    });
  }
  return out;
}

/** Readings half a symbol apart, the carrier and gain taken out. @param turning cycles a symbol by which symbols turn on */
function halves(
  { filtered, timing, carrier }: Found,
  from: number,
  count: number,
  turning: number,
): Float64Array {
  const out = new Float64Array(4 * count);
  for (let k = 0; k < 2 * count; k++) filtered.read(timing.first + (from + k / 2) * timing.each, out, 2 * k);
  const cycles = carrier.cycles + turning;
  const z = turned(out, -cycles / 2, -carrier.phase - 2 * Math.PI * cycles * from);
  return z.map((v) => v / carrier.gain);
}
function between({ filtered, timing, carrier }: Found, from: number, count: number): Float32Array {
  const n = count * WITHIN;
  const out = new Float64Array(2 * n);
  for (let k = 0; k < n; k++) filtered.read(timing.first + (from + k / WITHIN) * timing.each, out, 2 * k);
  const z = turned(out, -carrier.cycles / WITHIN, -carrier.phase - 2 * Math.PI * carrier.cycles * from);
  return Float32Array.from(z, (v) => v / carrier.gain);
}

function byFrequency(iq: Float32Array, sampleRateHz: number, wish: ModulationWish): ModulationRead | Unread {
  const levels = wish.scheme === '4-FSK' ? 4 : 2;
  const shift = wish.scheme === 'MSK' || wish.scheme === 'GMSK';
  const { from: begin, to: end } = sentRegion(iq, sampleRateHz / wish.symbolHz);
  const found = readFrequency(iq.subarray(2 * begin, 2 * end), sampleRateHz, {
    levels,
    symbolHz: wish.symbolHz,
    index: shift ? 0.5 : null,
    bt: wish.scheme === 'GMSK' || wish.pulse === 'Gaussian' ? wish.rollOff : null,
  });
  if (!found) return { fault: 'The capture is too short for these symbols, or it does not change.' };
  const each = Math.log2(levels);
  const pattern = symbolsOfBits(wish.pattern, each);
  let from = 0;
  let match: ModulationRead['match'] = null;
  if (pattern.length > 0) {
    const line = (k: number): Point => ({ re: (2 * k) / (levels - 1) - 1, im: 0 });
    const read = Float64Array.from({ length: 2 * found.frequencies.length }, (_, i) => (i % 2 ? 0 : found.frequencies[i / 2])); // prettier-ignore
    const first = findPattern(read, pattern.map(line), wish.alike).find((m) => Math.abs(m.turn) < 1);
    if (!first) return { fault: 'The pattern was not found in this capture.' };
    match = { at: first.at, alike: first.alike, length: pattern.length };
    from = first.at + wish.after;
  }
  const count = Math.min(wish.count, found.symbols.length - from);
  if (count < 8 || from < 0)
    return { fault: 'Too few symbols are left in the capture from where they begin.' };
  const symbols = found.symbols.slice(from, from + count);
  const bits = bitsOfSymbols(symbols, each);
  const numbers: Record<Measure, number> = {
    ...nothing(),
    evmRms: found.evmRms,
    evmPeak: found.evmPeak,
    evm95: found.evm95,
    mer: found.mer,
    magnitude: found.magnitude,
    phase: found.phase,
    rho: found.rho,
    droop: found.droopDb,
    offsetHz: found.offsetHz,
    symbolHz: found.symbolHz,
    deviationHz: found.deviationHz,
    deviationError: found.deviationError,
    bitErrors: wish.expected.trim() ? bitErrors(bits, wish.expected).errors : NaN,
  };
  // Frequencies of the levels lie along the line in phase: ±1 is the deviation.
  const received = new Float32Array(2 * count);
  for (let k = 0; k < count; k++) received[2 * k] = found.frequencies[from + k] / found.deviationHz;
  const wave = new Float32Array(2 * count * BETWEEN);
  for (let k = 0; k < count * BETWEEN; k++)
    wave[2 * k] = found.between[from * BETWEEN + k] / found.deviationHz;
  return {
    numbers,
    points: Array.from({ length: levels }, (_, k) => ({ re: (2 * k) / (levels - 1) - 1, im: 0 })),
    received,
    symbols,
    errors: Float32Array.from(found.errors.slice(from, from + count)),
    bits,
    between: wave,
    within: BETWEEN,
    match,
    path: null,
    taps: null,
  };
}
