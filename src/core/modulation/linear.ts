import { middleOfPower, raised, strongestLines, turned } from './carrier';
import { slopesOf, symbolErrors } from './metrics';
import { Filtered, type ReceiveFilter } from './pulse';
import { nearest, turnsOf, type Point } from './schemes';
import { findStaggered, findTiming, readSymbols, type Timing } from './timing';

/** What was found in a capture: symbols with their carrier and beat taken out. */
export interface Found {
  /** At the symbols, I and Q in turn; of rms like that of the ideal points. */
  received: Float64Array;
  symbols: Uint16Array;
  /** Carrier offset, Hz, and symbol rate as it is, Hz. */
  offsetHz: number;
  symbolHz: number;
  /** Behind the filter, the carrier taken out; where the symbols are; and a reading there is divided by the gain. */
  filtered: Filtered;
  timing: Timing;
  carrier: Carrier;
  /** Symbols from one on, before the first, too: with the same carrier and beat. */
  read: (from: number, count: number) => Float64Array;
}
/** Cycles a symbol, rad at the first symbol, and gain that the readings still have. */
interface Carrier {
  cycles: number;
  phase: number;
  gain: number;
}

export interface LinearWish {
  points: readonly Point[];
  filter: ReceiveFilter;
  symbolHz: number;
  /** Whether each symbol is turned on by 45° against the one before, or the quadrature lies half a symbol later. */
  turnsOn: boolean;
  staggered: boolean;
}
const LEAST = 16;
/** Times that symbols are decided and fitted by turns at the most; a beat that moves by less, symbols, has come to rest. */
const ROUNDS = 5;
const AT_REST = 1e-4;
/** Error vector from which on it is asked whether another carrier fits better, %. */
const DOUBTFUL = 12;

/** Reads the symbols of a capture whose carrier, phase and beat are not known: the middle of its power, the beat of its envelope, the carrier by the power of the symbols
 *  that takes their turns away (Viterbi and Viterbi, IEEE Trans. IT-29, 1983), then by decisions and least squares.
 *  @param iq I and Q in turn @param sampleRateHz at least twice the symbol rate; samples in which something is sent; carrier offset where it is known, Hz @returns null for a capture too short to be read */
export function readLinear(
  iq: Float32Array,
  sampleRateHz: number,
  wish: LinearWish,
  { from: begin, to: end }: { from: number; to: number },
  near: number | null = null,
): Found | null {
  const coarse = near ?? middleOfPower(iq.subarray(2 * begin, 2 * end), sampleRateHz, 0.75 * wish.symbolHz);
  const best = readFrom(coarse, iq, sampleRateHz, wish, { begin, end });
  if (best && best.evm < DOUBTFUL) return best.found;
  // The turns of the symbols hide whole parts of the symbol rate: what lies one part away may fit better.
  const part = wish.symbolHz / turnsOf(wish.points);
  const others = [-part, part].flatMap(
    (by) => readFrom(coarse + by, iq, sampleRateHz, wish, { begin, end }) ?? [],
  );
  return [...(best ? [best] : []), ...others].sort((a, b) => a.evm - b.evm).at(0)?.found ?? null;
}

/** Reads from a carrier offset on, Hz. */
function readFrom(
  coarse: number,
  iq: Float32Array,
  sampleRateHz: number,
  wish: LinearWish,
  { begin, end }: { begin: number; end: number },
): { found: Found; evm: number } | null {
  const { filter, symbolHz, staggered } = wish;
  let offset = coarse;
  let best: { found: Found; evm: number; shift: number } | null = null;
  // A carrier that was off by much lies in the slope of the filter at first: again, with what was found.
  for (let pass = 0; pass < 3; pass++) {
    const perSymbol = sampleRateHz / symbolHz;
    const filtered = new Filtered(turned(iq, -offset / sampleRateHz), perSymbol, filter);
    // The tail of a pulse that begins within a symbol of the capture is as good as nothing.
    const from = Math.max(begin, filtered.reach - perSymbol);
    const to = Math.min(end, iq.length / 2 - filtered.reach + perSymbol);
    const count = Math.floor((to - from) / perSymbol) - 2;
    if (count < LEAST) return null;
    const begun = staggered
      ? findStaggered(filtered, perSymbol, from, count)
      : { timing: findTiming(filtered, perSymbol, from, count), cycles: 0, phase: 0 };
    // Of a staggered one the two halves of a symbol look alike until they are read.
    const former: typeof best = best;
    const shifts: number[] = staggered ? (best?.shift === 0.5 ? [0.5, 0] : [0, 0.5]) : [0];
    for (const shift of shifts) {
      const timing = { ...begun.timing, first: begun.timing.first + shift * begun.timing.each };
      const room = to - timing.first - (staggered ? timing.each / 2 : 0);
      const n = Math.min(count + 2, Math.floor(room / timing.each));
      if (n < LEAST) continue;
      const carrier = {
        cycles: begun.cycles,
        phase: begun.phase + 2 * Math.PI * begun.cycles * shift,
        gain: 1,
      };
      const found = new Reading(filtered, timing, n, wish, carrier).found(sampleRateHz);
      found.offsetHz += offset;
      const { evmRms } = symbolErrors(found.received, found.symbols, wish.points, false);
      if (!best || evmRms < best.evm) best = { found, evm: evmRms, shift };
      // The half that fits is the right one; the one that was so before is so again, if it is as good.
      if (evmRms < DOUBTFUL || (former && evmRms < 1.2 * former.evm)) break;
    }
    if (!best) return null;
    const next = best.found.offsetHz;
    if (Math.abs(next - offset) < symbolHz / 2000) break;
    offset = next;
  }
  return best;
}

interface Readings {
  timing: Timing;
  own: Float64Array;
  late: Float64Array | null;
}
/** Symbols of one beat: their carrier, and what they are. */
class Reading {
  private readonly symbols: Uint16Array;
  private z: Float64Array;
  private last: Readings | null = null;

  constructor(
    private readonly filtered: Filtered,
    private timing: Timing,
    private readonly n: number,
    private readonly wish: LinearWish,
    private readonly carrier: Carrier,
  ) {
    this.symbols = new Uint16Array(n);
    const { points, staggered } = wish;
    const rms = Math.sqrt(points.reduce((s, p) => s + p.re ** 2 + p.im ** 2, 0) / points.length);
    const raw = this.at(timing, { cycles: 0, phase: 0, gain: 1 });
    carrier.gain = Math.sqrt(raw.reduce((s, v) => s + v * v, 0) / n) / rms || 1;
    if (!staggered) this.bySquares(raw);
    this.z = this.at(timing, carrier);
  }

  /** Frequency and phase by a power of the symbols. */
  private bySquares(raw: Float64Array): void {
    const { points } = this.wish;
    const { carrier } = this;
    const turns = turnsOf(points);
    const scaled = raw.map((v) => v / carrier.gain);
    const angle = (v: Float64Array): number => {
      const r = raised(v, turns);
      let [re, im] = [0, 0];
      for (let i = 0; i < r.length; i += 2) [re, im] = [re + r[i], im + r[i + 1]];
      return Math.atan2(im, re);
    };
    const own = Float64Array.from(points.flatMap((p) => [p.re, p.im]));
    // In a crowded constellation the line may be lower than what the symbols themselves make: of the highest, the one that fits the points best.
    let least = Infinity;
    for (const line of strongestLines(
      raised(scaled, turns),
      points.length > 16 ? 40 : 6,
      points.length > 16 ? 0.25 : 0.5,
    )) {
      const cycles = line / turns;
      const still = turned(scaled, -cycles);
      const phase = (angle(still) - angle(own)) / turns;
      const z = turned(still, 0, -phase);
      let error = 0;
      for (let i = 0; i < z.length; i += 2) {
        const p = points[nearest(points, z[i], z[i + 1])];
        error += (z[i] - p.re) ** 2 + (z[i + 1] - p.im) ** 2;
      }
      if (error < least) [least, carrier.cycles, carrier.phase] = [error, cycles, phase];
    }
  }

  /** Readings at a beat, and those half a symbol later where the quadrature lies there. Another carrier needs no others: the last ones are at hand. */
  private readings(timing: Timing, from: number, n: number): Readings {
    const { filtered, wish, last } = this;
    if (last?.timing === timing && from === 0 && n === this.n) return last;
    const made = {
      timing,
      own: readSymbols(filtered, timing, n, from),
      late: wish.staggered ? readSymbols(filtered, timing, n, from + 0.5) : null,
    };
    if (from === 0 && n === this.n) this.last = made;
    return made;
  }

  /** Symbols at a beat with a carrier taken out. */
  private at(timing: Timing, carrier: Carrier, from = 0, n = this.n): Float64Array {
    const { wish } = this;
    const { cycles, gain } = carrier;
    const phase = carrier.phase + 2 * Math.PI * cycles * from;
    const { own, late } = this.readings(timing, from, n);
    let z = turned(own, -cycles, -phase);
    if (late) {
      const later = turned(late, -cycles, -phase - Math.PI * cycles);
      for (let i = 1; i < z.length; i += 2) z[i] = later[i];
    }
    if (wish.turnsOn) z = turned(z, -1 / 8, (-2 * Math.PI * from) / 8);
    for (let i = 0; i < z.length; i++) z[i] /= gain;
    return z;
  }

  private decide(): void {
    for (let k = 0; k < this.n; k++)
      this.symbols[k] = nearest(this.wish.points, this.z[2 * k], this.z[2 * k + 1]);
  }

  /** Decides and fits by turns until both hold. */
  found(sampleRateHz: number): Found {
    const { carrier, symbols, wish, filtered } = this;
    const before = new Uint16Array(symbols.length);
    let former = Infinity;
    for (let round = 0; round < ROUNDS; round++) {
      before.set(symbols);
      this.decide();
      const held = round > 0 && symbols.every((s, k) => s === before[k]);
      const { cycles } = slopesOf(this.z, symbols, wish.points);
      const { gainDb, gainPhaseDeg } = symbolErrors(turned(this.z, -cycles), symbols, wish.points, false);
      carrier.cycles += cycles;
      carrier.phase += (gainPhaseDeg * Math.PI) / 180;
      carrier.gain *= 10 ** (gainDb / 20);
      const moved = round < ROUNDS - 1 ? this.closer() : 0;
      this.z = this.at(this.timing, carrier);
      if (held && moved < AT_REST) break;
      // The wrong half of a staggered one never comes to rest.
      if (wish.staggered && round > 0 && moved > former) break;
      former = moved;
    }
    this.decide();
    return {
      received: this.z,
      symbols,
      offsetHz: (carrier.cycles * sampleRateHz) / this.timing.each,
      symbolHz: sampleRateHz / this.timing.each,
      filtered,
      timing: this.timing,
      carrier,
      read: (from, count) => this.at(this.timing, carrier, from, count),
    };
  }

  /** Moves the beat to where the error is least: a parabola through three places, for both halves, so that the rate follows. @returns by how much, symbols */
  private closer(): number {
    const { timing, n, wish, symbols, carrier } = this;
    const step = 1 / 32;
    const half = n >> 1;
    const errorAt = (shift: number): number[] => {
      const moved = shift === 0 ? timing : { ...timing, first: timing.first + shift * timing.each };
      const z = this.at(moved, { ...carrier, phase: carrier.phase + 2 * Math.PI * carrier.cycles * shift });
      const sums = [0, 0];
      for (let k = 0; k < n; k++) {
        const { re, im } = wish.points[symbols[k]];
        sums[k < half ? 0 : 1] += (z[2 * k] - re) ** 2 + (z[2 * k + 1] - im) ** 2;
      }
      return sums;
    };
    // The place where it is first: what was read there is at hand.
    const here = errorAt(0);
    const errors = [errorAt(-step), here, errorAt(step)];
    const least = (h: 0 | 1): number => {
      const [a, b, c] = errors.map((e) => e[h]);
      const bend = a - 2 * b + c;
      return bend > 0 ? Math.max(-2, Math.min(2, (a - c) / (2 * bend))) * step : 0;
    };
    const [early, late] = [least(0), least(1)];
    // Their middles lie a quarter and three quarters along.
    const turn = ((late - early) / Math.max(1, n / 2)) * timing.each;
    const middle = (early + late) / 2;
    this.timing = { first: timing.first + middle * timing.each - (turn * n) / 2, each: timing.each + turn };
    return Math.max(Math.abs(early), Math.abs(late));
  }
}
