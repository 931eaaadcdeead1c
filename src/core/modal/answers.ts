import FFT from 'fft.js';
import { solveComplex } from '../matrix/solve';

/** Transforms real frames; the first half of their lines, interleaved. */
export class Spectra {
  private readonly fft: FFT;
  private readonly packed: Float64Array;
  constructor(private readonly size: number) {
    this.fft = new FFT(size);
    this.packed = new Float64Array(2 * size);
  }
  of(values: Float64Array): Float64Array {
    for (let k = 0; k < this.size; k++) this.packed[2 * k] = values[k] ?? 0;
    const out = new Float64Array(2 * this.size);
    this.fft.transform(out, this.packed);
    return out.subarray(0, this.size + 2);
  }
}

/** Auto and cross powers of answers and forces on lines, of which frequency responses are made: sums, so that parts can be taken off again. Shapes:
 *  yy [responses][lines] (per force, where each force is struck alone), yf [responses][forces][lines], ff [forces][forces][lines]. */
export class Powers {
  readonly yy: Float64Array;
  readonly yf: { re: Float64Array; im: Float64Array };
  readonly ff: { re: Float64Array; im: Float64Array };
  /** Frames of each force. */
  readonly frames: number[];

  constructor(
    readonly responses: number,
    readonly forces: number,
    readonly lines: number,
  ) {
    const some = (n: number) => new Float64Array(n * lines);
    this.yy = some(responses * forces);
    this.yf = { re: some(responses * forces), im: some(responses * forces) };
    this.ff = { re: some(forces * forces), im: some(forces * forces) };
    this.frames = new Array<number>(forces).fill(0);
  }

  /** A frame in which all forces act. @param y,f spectra, complex and interleaved, `lines` of them */
  together(y: readonly Float64Array[], f: readonly Float64Array[]): void {
    f.forEach((_, q) => this.frames[q]++);
    for (let a = 0; a < f.length; a++)
      for (let b = 0; b < f.length; b++) cross(f[a], f[b], this.ff, (a * this.forces + b) * this.lines, this.lines); // prettier-ignore
    y.forEach((own, i) => {
      for (let q = 0; q < f.length; q++) this.of(own, f[q], i, q);
    });
  }
  /** A frame in which one force alone acts. */
  alone(y: readonly Float64Array[], f: Float64Array, q: number): void {
    this.frames[q]++;
    cross(f, f, this.ff, (q * this.forces + q) * this.lines, this.lines);
    y.forEach((own, i) => this.of(own, f, i, q));
  }
  private of(y: Float64Array, f: Float64Array, i: number, q: number): void {
    const at = (i * this.forces + q) * this.lines;
    cross(y, f, this.yf, at, this.lines);
    for (let k = 0; k < this.lines; k++) this.yy[at + k] += y[2 * k] ** 2 + y[2 * k + 1] ** 2;
  }

  /** Adds what others hold, or takes it off. @param sign 1 or −1 */
  add(other: Powers, sign: 1 | -1 = 1): this {
    const pairs: [Float64Array, Float64Array][] = [
      [this.yy, other.yy],
      [this.yf.re, other.yf.re],
      [this.yf.im, other.yf.im],
      [this.ff.re, other.ff.re],
      [this.ff.im, other.ff.im],
    ];
    for (const [own, its] of pairs) for (let k = 0; k < own.length; k++) own[k] += sign * its[k];
    other.frames.forEach((n, q) => (this.frames[q] += sign * n));
    return this;
  }
}

/** Adds a·b* on each line. */
function cross(
  a: Float64Array,
  b: Float64Array,
  to: { re: Float64Array; im: Float64Array },
  at: number,
  lines: number,
): void {
  for (let k = 0; k < lines; k++) {
    const [x, y, u, v] = [a[2 * k], a[2 * k + 1], b[2 * k], b[2 * k + 1]];
    to.re[at + k] += x * u + y * v;
    to.im[at + k] += y * u - x * v;
  }
}

/** Frequency responses with how much of each answer the forces explain. Shapes [responses·forces][lines]. */
export interface Responses {
  re: Float64Array;
  im: Float64Array;
  /** 0 to 1: of one force alone the ordinary coherence, of several together the multiple one. */
  coherence: Float32Array;
  /** The highest line that each force reaches: from there on its power is less than a hundredth of its largest. */
  reach: number[];
}

/** Where a force has so little left of its largest power, nothing is divided by it. */
const NOTHING = 1e-5;
const REACHED = 1e-2;

/** Frequency responses H₁ = S_yf·S_ff⁻¹, which noise in the answers does not bend (Bendat and Piersol, Random Data, 6.1.4 and 7.2); 0 where a force has
 *  nothing left. @param together all forces act at once; else each was struck alone */
export function responsesOf(powers: Powers, together: boolean): Responses {
  const { responses: l, forces: m, lines, yf, ff, yy } = powers;
  const re = new Float64Array(l * m * lines);
  const im = new Float64Array(l * m * lines);
  const coherence = new Float32Array(l * m * lines);
  const own = Array.from({ length: m }, (_, q) => ff.re.subarray((q * m + q) * lines, (q * m + q + 1) * lines)); // prettier-ignore
  const largest = own.map((p) => p.reduce((a, b) => Math.max(a, b), 0));
  const reach = own.map((p, q) => {
    let k = lines - 1;
    while (k > 0 && p[k] < REACHED * largest[q]) k--;
    return k;
  });
  const at = (i: number, q: number, k: number) => (i * m + q) * lines + k;
  for (let k = 0; k < lines; k++) {
    if (own.some((p, q) => !(p[k] > NOTHING * largest[q])) && together) continue;
    if (together && m > 1) {
      // Sᵀ_ff·Hᵀ = Sᵀ_yf: the unknowns of a response are a column.
      const A = [ff.re, ff.im].map((x) => Array.from({ length: m }, (_, b) => Float64Array.from({ length: m }, (_, a) => x[(a * m + b) * lines + k]))); // prettier-ignore
      const B = [yf.re, yf.im].map((x) => Array.from({ length: m }, (_, b) => Float64Array.from({ length: l }, (_, i) => x[at(i, b, k)]))); // prettier-ignore
      // Forces that say the same are not told apart.
      if (!solveComplex(A[0], A[1], B[0], B[1])) continue;
      for (let i = 0; i < l; i++) {
        let explained = 0;
        for (let q = 0; q < m; q++) {
          const p = at(i, q, k);
          [re[p], im[p]] = [B[0][q][i], B[1][q][i]];
          explained += re[p] * yf.re[p] + im[p] * yf.im[p];
        }
        for (let q = 0; q < m; q++) coherence[at(i, q, k)] = share(explained, yy[at(i, q, k)]);
      }
      continue;
    }
    for (let q = 0; q < m; q++) {
      const power = own[q][k];
      if (!(power > NOTHING * largest[q])) continue;
      for (let i = 0; i < l; i++) {
        const p = at(i, q, k);
        [re[p], im[p]] = [yf.re[p] / power, yf.im[p] / power];
        coherence[p] = share((yf.re[p] ** 2 + yf.im[p] ** 2) / power, yy[p]);
      }
    }
  }
  return { re, im, coherence, reach };
}
/** Mean coherence of two forces over the lines on which both have something. */
export function alike({ ff, forces: m, lines }: Powers, a: number, b: number): number {
  let [sum, n] = [0, 0];
  for (let k = 1; k < lines; k++) {
    const [x, y] = [ff.re[(a * m + a) * lines + k], ff.re[(b * m + b) * lines + k]];
    const p = (a * m + b) * lines + k;
    if (x > 0 && y > 0) [sum, n] = [sum + (ff.re[p] ** 2 + ff.im[p] ** 2) / (x * y), n + 1];
  }
  return n ? sum / n : 0;
}
const share = (part: number, of: number) => (of > 0 ? Math.min(1, Math.max(0, part / of)) : 0);

/** Share of the lines from which on responses are faded out before they become impulses: a sharp end would ring over all lags, before 0 as well. */
const FADES = 0.8;

/** Impulse responses of frequency responses: h(k) so that dt·Σ h(k)·e^(−jω·k·dt) gives them back below `FADES` of what the forces reach; the first
 *  `lags` of 2·(lines − 1) values. */
export function impulses(
  { re, im }: Pick<Responses, 're' | 'im'>,
  lines: number,
  lags: number,
  dtS: number,
): Float64Array {
  const size = 2 * (lines - 1);
  const fft = new FFT(size);
  const spectrum = new Float64Array(2 * size);
  const out = new Float64Array(2 * size);
  const pairs = re.length / lines;
  const h = new Float64Array(pairs * lags);
  for (let p = 0; p < pairs; p++) {
    let top = lines - 1;
    while (top > 0 && re[p * lines + top] === 0 && im[p * lines + top] === 0) top--;
    const from = FADES * top;
    for (let k = 0; k < lines; k++) {
      const fade = k <= from ? 1 : k >= top ? 0 : 0.5 * (1 + Math.cos((Math.PI * (k - from)) / (top - from)));
      const [a, b] = [fade * re[p * lines + k], k === 0 || k === lines - 1 ? 0 : fade * im[p * lines + k]];
      spectrum[2 * k] = a;
      spectrum[2 * k + 1] = b;
      if (k > 0 && k < lines - 1) {
        spectrum[2 * (size - k)] = a;
        spectrum[2 * (size - k) + 1] = -b;
      }
    }
    fft.inverseTransform(out, spectrum);
    for (let k = 0; k < lags; k++) h[p * lags + k] = out[2 * k] / dtS;
  }
  return h;
}
