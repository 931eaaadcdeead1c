/** Shapes of a symbol’s pulse. */
export const PULSES = ['root raised cosine', 'raised cosine', 'Gaussian', 'half sine', 'rectangle', 'none', 'own taps'] as const; // prettier-ignore
export type PulseShape = (typeof PULSES)[number];

/** Impulse response at a time in symbols, of unit height or, for the root raised cosine, unit energy a symbol. Sources: Proakis, Digital Communications, 4th ed., 9.2
 *  (raised cosine); Murota and Hirade, IEEE Trans. COM-29, 1981 (Gaussian, 3 dB bandwidth times symbol time). @param a roll-off, of a Gaussian its BT */
export function pulseAt(shape: PulseShape, t: number, a: number): number {
  switch (shape) {
    case 'root raised cosine': {
      if (Math.abs(t) < 1e-9) return 1 - a + (4 * a) / Math.PI;
      if (a > 0 && Math.abs(Math.abs(4 * a * t) - 1) < 1e-9)
        return (
          (a / Math.SQRT2) *
          ((1 + 2 / Math.PI) * Math.sin(Math.PI / (4 * a)) + (1 - 2 / Math.PI) * Math.cos(Math.PI / (4 * a)))
        );
      return (
        (Math.sin(Math.PI * t * (1 - a)) + 4 * a * t * Math.cos(Math.PI * t * (1 + a))) /
        (Math.PI * t * (1 - (4 * a * t) ** 2))
      );
    }
    case 'raised cosine': {
      const sinc = Math.abs(t) < 1e-9 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t);
      const below = 1 - (2 * a * t) ** 2;
      return Math.abs(below) < 1e-9 ? (Math.PI / 4) * sinc : (sinc * Math.cos(Math.PI * a * t)) / below;
    }
    case 'Gaussian': {
      const s = Math.sqrt(Math.LN2) / (2 * Math.PI * a);
      return Math.exp(-(t * t) / (2 * s * s)) / (s * Math.sqrt(2 * Math.PI));
    }
    case 'half sine':
      return Math.abs(t) <= 0.5 ? (Math.PI / 2) * Math.cos(Math.PI * t) : 0;
    case 'rectangle':
      return Math.abs(t) < 0.5 ? 1 : Math.abs(t) === 0.5 ? 0.5 : 0;
    default:
      return Math.abs(t) < 1e-9 ? 1 : 0;
  }
}

/** Symbols on either side after which a pulse has gone. */
const halfSpan = (shape: PulseShape): number =>
  ({ 'root raised cosine': 8, 'raised cosine': 8, Gaussian: 2, 'half sine': 0.5, rectangle: 0.5, none: 0, 'own taps': 0 })[shape]; // prettier-ignore

/** Taps of a pulse. @param span symbols in all; span · perSymbol + 1 taps */
export const pulseTaps = (shape: PulseShape, a: number, perSymbol: number, span: number): Float64Array =>
  Float64Array.from({ length: span * perSymbol + 1 }, (_, k) => pulseAt(shape, k / perSymbol - span / 2, a));

/** How a receiver filters: by a pulse, or only between the samples. */
export interface ReceiveFilter {
  shape: PulseShape;
  rollOff: number;
  /** Of own taps: how many a symbol. */
  taps?: readonly number[];
  perSymbol?: number;
}

const FINE = 256;
/** Places between two samples that are told apart. */
const PHASES = 1024;
/** Half length of the interpolation between samples, samples. */
const BETWEEN = 10;

/** Reads complex samples at any time behind a filter. */
export class Filtered {
  private readonly table: Float64Array;
  private readonly half: number;
  /** Table places a sample. */
  private readonly per: number;
  private readonly scale: number;

  /** @param iq I and Q in turn @param perSymbol samples a symbol, need not be whole */
  constructor(
    private readonly iq: Float32Array | Float64Array,
    perSymbol: number,
    { shape, rollOff, taps, perSymbol: tapsPerSymbol = 1 }: ReceiveFilter,
  ) {
    if (shape === 'own taps' && taps?.length) {
      this.half = ((taps.length - 1) / 2 / tapsPerSymbol) * perSymbol;
      const sum = taps.reduce((a, v) => a + v, 0) / tapsPerSymbol || 1;
      this.table = this.sampled((x) => {
        const at = (x / perSymbol) * tapsPerSymbol + (taps.length - 1) / 2;
        const k = Math.floor(at);
        const u = at - k;
        const tap = (i: number) => taps[i] ?? 0;
        const [a, b, c, d] = [tap(k - 1), tap(k), tap(k + 1), tap(k + 2)];
        // A cubic through the four nearest (Catmull and Rom, 1974): a straight line between taps would be a filter of its own.
        return (b + (u / 2) * (c - a + u * (2 * a - 5 * b + 4 * c - d + u * (3 * (b - c) + d - a)))) / sum;
      });
      this.scale = 1 / perSymbol;
    } else if (shape === 'none' || shape === 'own taps') {
      this.half = BETWEEN;
      this.table = this.sampled((x) => {
        const sinc = Math.abs(x) < 1e-12 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
        return sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / BETWEEN));
      });
      this.scale = 1;
    } else {
      this.half = halfSpan(shape) * perSymbol;
      this.table = this.sampled((x) => pulseAt(shape, x / perSymbol, rollOff));
      this.scale = 1 / perSymbol;
    }
    this.per = (this.table.length - 2) / (2 * this.half);
  }
  private sampled(of: (x: number) => number): Float64Array {
    const n = Math.max(64, Math.ceil((2 * this.half * FINE) / Math.max(1, Math.min(8, this.half))));
    return Float64Array.from({ length: n + 2 }, (_, k) => of(-this.half + (k / n) * 2 * this.half));
  }

  /** Samples on either side that a reading needs. */
  get reach(): number {
    return this.half;
  }

  /** The filter as taps for places this far behind a sample, in steps; made when they are needed first. */
  private readonly phases = new Map<number, Float64Array>();
  private taps(phase: number): Float64Array {
    const known = this.phases.get(phase);
    if (known) return known;
    const { half, table, per, scale } = this;
    const wide = Math.ceil(half);
    const made = new Float64Array(2 * wide + 1);
    for (let t = 0; t < made.length; t++) {
      // The filter turned round: what lies before counts with the tail of the pulse.
      const away = phase / PHASES - (t - wide);
      if (Math.abs(away) > half) continue;
      const x = (away + half) * per;
      const k = x | 0;
      made[t] = scale * (table[k] + (x - k) * (table[k + 1] - table[k]));
    }
    this.phases.set(phase, made);
    return made;
  }

  /** @param at place among the samples, need not be whole: a thousandth of a sample is told apart @param out gets re and im */
  read(at: number, out: Float64Array, o = 0): void {
    const { iq } = this;
    const near = Math.floor(at + 0.5 / PHASES);
    const taps = this.taps(Math.round((at - near) * PHASES));
    const first = near - ((taps.length - 1) >> 1);
    const from = Math.max(0, -first);
    const to = Math.min(taps.length, iq.length / 2 - first);
    let [re, im] = [0, 0];
    for (let t = from, i = 2 * (first + from); t < to; t++, i += 2) {
      re += taps[t] * iq[i];
      im += taps[t] * iq[i + 1];
    }
    out[o] = re;
    out[o + 1] = im;
  }
}
