import FFT from 'fft.js';
import { badInput } from '../errors';

/** Correlation functions of responses with references over positive lags: values[(i·references + r)·lags + k] = E y_i(t + k·dt)·y_r(t). */
export interface Correlations {
  responses: number;
  references: number;
  lags: number;
  dtS: number;
  values: Float64Array;
  /** These are impulse responses to forces in their place; which part of a frequency response stands for resonance (imaginary of accelerations and
   *  displacements, real of velocities). */
  driven?: { resonant: 're' | 'im' };
}

export const CORRELATING = ['over the whole span', 'by averaged segments'] as const;
export type Correlating = (typeof CORRELATING)[number];

export interface CorrelatingOptions {
  responses: number;
  /** Which of the responses are references. */
  references: readonly number[];
  lags: number;
  dtS: number;
  /** Over the whole span: Σ y_i(t + k)·y_r(t) over all t, divided by how many there were (positive lags of the correlogram). By averaged
   *  segments: segments of twice the lags under a Hann window, half overlapping, what the window takes from each lag given back
   *  (Blackman and Tukey; Bendat and Piersol, Random Data, 11.4). */
  method: Correlating;
}

/** What was found over a part of the span. */
export interface CorrelationBlock {
  values: Float64Array;
  /** Pieces that were taken. */
  pieces: number;
}

/** Powers at each line from which a steady tone is told from a resonance: mean of |X|² and of |X|⁴, shape [responses][lines]. */
export interface LinePowers {
  lines: number;
  stepHz: number;
  pieces: number;
  second: Float64Array;
  fourth: Float64Array;
}

/** Correlates responses with references as their samples come: by pieces, in the frequency domain, so that what it costs does not grow with the
 *  lags. A piece in which a sample is missing is left out and counted. */
export class Correlator {
  private readonly piece: number;
  private readonly size: number;
  private readonly fft: FFT;
  private readonly window: Float64Array | null;
  private readonly pending: Float64Array[];
  private readonly spectra: Float64Array[];
  private readonly packed: Float64Array;
  private readonly both: Float64Array;
  private readonly cross: Float64Array[];
  private readonly products: Float64Array;
  private readonly hann: Float64Array;
  private readonly powers: LinePowers;
  private readonly line: FFT;
  private readonly one: Float64Array;
  private filled = 0;
  private taken = 0;
  private skipped = 0;

  /** @throws `bad_input` for lags that are no power of two from 8 up, or no reference */
  constructor(private readonly options: CorrelatingOptions) {
    const { lags, references, responses } = options;
    if (!(Number.isInteger(Math.log2(lags)) && lags >= 8 && lags <= 1 << 18))
      throw badInput('lags', lags, 'Give a power of two from 8 to 262144.');
    if (references.length === 0) throw badInput('references', 'none', 'Choose at least one.');
    const segments = options.method === 'by averaged segments';
    this.piece = segments ? 2 * lags : 3 * lags;
    // What goes round reaches none of the lags.
    this.size = 4 * lags;
    this.fft = new FFT(this.size);
    this.window = segments ? hann(this.piece) : null;
    this.pending = Array.from({ length: responses }, () => new Float64Array(this.span));
    this.spectra = Array.from({ length: responses + references.length }, () => new Float64Array(2 * this.size)); // prettier-ignore
    this.packed = new Float64Array(2 * this.size);
    this.both = new Float64Array(2 * this.size);
    this.cross = Array.from({ length: responses * references.length }, () => new Float64Array(2 * this.size));
    this.products = segments ? ownProducts(this.window!, lags) : new Float64Array(lags).fill(this.piece);
    const lines = lags / 2 + 1;
    this.hann = hann(lags);
    this.line = new FFT(lags);
    this.one = new Float64Array(2 * lags);
    this.powers = {
      lines,
      stepHz: 1 / (lags * options.dtS),
      pieces: 0,
      second: new Float64Array(responses * lines),
      fourth: new Float64Array(responses * lines),
    };
  }

  /** Samples that a piece looks at: over the whole span, the lags behind it as well. */
  private get span(): number {
    return this.window ? this.piece : this.piece + this.options.lags - 1;
  }
  private get hop(): number {
    return this.window ? this.piece / 2 : this.piece;
  }

  /** @param blocks shape [responses][count], NaN where missing */
  push(blocks: readonly ArrayLike<number>[], count = blocks[0].length): void {
    for (let read = 0; read < count;) {
      const take = Math.min(this.span - this.filled, count - read);
      blocks.forEach((block, i) => {
        const own = this.pending[i];
        for (let k = 0; k < take; k++) own[this.filled + k] = block[read + k];
      });
      this.filled += take;
      read += take;
      if (this.filled < this.span) return;
      this.add();
      for (const own of this.pending) own.copyWithin(0, this.hop);
      this.filled -= this.hop;
    }
  }

  private add(): void {
    if (this.pending.some((own) => own.some((v) => v !== v))) {
      this.skipped++;
      return;
    }
    this.taken++;
    this.addPowers();
    const { references, responses } = this.options;
    const { size, fft, packed, window, span } = this;
    // What comes later: the whole of it; the references: what has all its lags behind it. Two real signals share a transform.
    const pairOf = (
      a: Float64Array,
      b: Float64Array | null,
      count: number,
      toA: Float64Array,
      toB: Float64Array | null,
    ) => {
      // prettier-ignore
      packed.fill(0);
      for (let k = 0; k < count; k++) {
        const w = window ? window[k] : 1;
        packed[2 * k] = a[k] * w;
        if (b) packed[2 * k + 1] = b[k] * w;
      }
      fft.transform(this.both, packed);
      apart(this.both, size, toA, toB);
    };
    const { pending, spectra } = this;
    for (let i = 0; i < responses; i += 2)
      pairOf(pending[i], pending[i + 1] ?? null, span, spectra[i], i + 1 < responses ? spectra[i + 1] : null);
    for (let k = 0; k < references.length; k += 2) {
      const [a, b] = [references[k], references[k + 1]];
      const [toA, toB] = [spectra[responses + k], b === undefined ? null : spectra[responses + k + 1]];
      if (window) {
        toA.set(spectra[a]);
        toB?.set(spectra[b]);
      } else pairOf(pending[a], b === undefined ? null : pending[b], this.piece, toA, toB);
    }
    for (let i = 0; i < responses; i++)
      for (let r = 0; r < references.length; r++) {
        const [y, x, sum] = [this.spectra[i], this.spectra[responses + r], this.cross[i * references.length + r]]; // prettier-ignore
        for (let k = 0; k <= size; k += 2) {
          sum[k] += y[k] * x[k] + y[k + 1] * x[k + 1];
          sum[k + 1] += y[k + 1] * x[k] - y[k] * x[k + 1];
        }
      }
  }

  private addPowers(): void {
    const { lags, responses } = this.options;
    const { lines, second, fourth } = this.powers;
    const step = lags / 2;
    const [a, b] = [new Float64Array(2 * lags), new Float64Array(2 * lags)];
    const add = (i: number, x: Float64Array) => {
      for (let k = 0; k < lines; k++) {
        const power = x[2 * k] ** 2 + x[2 * k + 1] ** 2;
        second[i * lines + k] += power;
        fourth[i * lines + k] += power * power;
      }
    };
    for (let at = 0; at + lags <= this.hop; at += step) {
      this.powers.pieces++;
      for (let i = 0; i < responses; i += 2) {
        const [own, next] = [this.pending[i], this.pending[i + 1] ?? null];
        for (let k = 0; k < lags; k++) {
          this.one[2 * k] = own[at + k] * this.hann[k];
          this.one[2 * k + 1] = next ? next[at + k] * this.hann[k] : 0;
        }
        this.line.transform(this.both, this.one);
        apart(this.both, lags, a, next ? b : null);
        add(i, a);
        if (next) add(i + 1, b);
      }
    }
  }

  /** What comes next does not follow what came before. */
  cut(): void {
    this.filled = 0;
  }

  /** Pieces taken since the last block, and pieces left out so far because a sample was missing. */
  get counted(): { taken: number; skipped: number } {
    return { taken: this.taken, skipped: this.skipped };
  }

  /** Correlations over what came since the last block; the next begins anew. */
  block(): CorrelationBlock {
    const { lags, references, responses } = this.options;
    const values = new Float64Array(responses * references.length * lags);
    const { size, fft } = this;
    const out = new Float64Array(2 * size);
    this.cross.forEach((sum, pair) => {
      for (let k = 1; k < size / 2; k++) {
        sum[2 * (size - k)] = sum[2 * k];
        sum[2 * (size - k) + 1] = -sum[2 * k + 1];
      }
      fft.inverseTransform(out, sum);
      for (let k = 0; k < lags; k++)
        values[pair * lags + k] = out[2 * k] / (this.products[k] * Math.max(1, this.taken));
      sum.fill(0);
    });
    const pieces = this.taken;
    this.taken = 0;
    return { values, pieces };
  }

  linePowers = (): LinePowers => this.powers;
}

/** Spectra of two real signals out of that of a + jb, from 0 to half the rate: A = (X(k) + X*(n−k))/2, B = (X(k) − X*(n−k))/2j. */
function apart(both: Float64Array, n: number, a: Float64Array, b: Float64Array | null): void {
  for (let k = 0; k <= n / 2; k++) {
    const [lo, hi] = [2 * k, 2 * ((n - k) % n)];
    const [p, q, r, s] = [both[lo], both[lo + 1], both[hi], both[hi + 1]];
    a[lo] = (p + r) / 2;
    a[lo + 1] = (q - s) / 2;
    if (!b) continue;
    b[lo] = (q + s) / 2;
    b[lo + 1] = (r - p) / 2;
  }
}

/** Periodic Hann window. */
const hann = (n: number): Float64Array =>
  Float64Array.from({ length: n }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n));

/** Σ w(t)·w(t + k): what a window leaves of each lag. */
const ownProducts = (w: Float64Array, lags: number): Float64Array =>
  Float64Array.from({ length: lags }, (_, k) => {
    let sum = 0;
    for (let t = 0; t + k < w.length; t++) sum += w[t] * w[t + k];
    return sum;
  });

/** The mean of blocks, each weighed by its pieces. @throws `bad_input` where no piece was whole */
export function meanOfBlocks(blocks: readonly CorrelationBlock[]): Float64Array {
  const pieces = blocks.reduce((sum, b) => sum + b.pieces, 0);
  if (pieces === 0)
    throw badInput('span', 'too short', 'Not one piece of it is long enough and without a gap: choose a longer span or fewer lags.'); // prettier-ignore
  const mean = new Float64Array(blocks[0].values.length);
  for (const { values, pieces: n } of blocks)
    for (let i = 0; i < mean.length; i++) mean[i] += (values[i] * n) / pieces;
  return mean;
}

/** Decay rate of the exponential window that leaves so much at the last lag, 1/s: w(k) = exp(−β·k·dt), β = −ln(left)/((lags − 1)·dt).
 *  @param left share, above 0 to 1 */
export function windowDecay(left: number, lags: number, dtS: number): number {
  if (!(left > 0 && left <= 1))
    throw badInput('what is left at the end', left, 'Give a share above 0 and up to 1.');
  return -Math.log(left) / ((lags - 1) * dtS);
}

/** Correlations under an exponential window of this decay, 1/s. Each pole is shifted by −β, exactly. */
export function windowed(set: Correlations, decay: number): Correlations {
  const w = Float64Array.from({ length: set.lags }, (_, k) => Math.exp(-decay * k * set.dtS));
  return { ...set, values: set.values.map((v, i) => v * w[i % set.lags]) };
}

/** What each pair has left at the end: rms of its last tenth over that of its first, a share, shape [responses][references].
 *  @param without so many lags at the very end */
export function leftAtEnd({ values, lags, responses, references }: Correlations, without = 0): Float64Array {
  const some = Math.max(4, Math.floor(lags / 10));
  const rms = (from: number) => {
    let sum = 0;
    for (let k = from; k < from + some; k++) sum += values[k] ** 2;
    return Math.sqrt(sum / some);
  };
  return Float64Array.from({ length: responses * references }, (_, p) => {
    const first = rms(p * lags);
    return first > 0 ? rms((p + 1) * lags - some - without) / first : 0;
  });
}
