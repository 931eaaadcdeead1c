import FFT from 'fft.js';
import { badInput } from '../errors';
import { halved } from '../filters/halve';
import { spectralWindow, type WindowName } from '../spectrum/windows';
import { between, type Shaft } from './shaft';

/** The rate at which a block is read is at least so many times its highest order: between its samples a curve through six of them is as good as
 *  the signal, to 0.1 % at that order. */
const CLOSE = 8;
/** Orders that are looked at, at the most. */
const MOST = 512;

interface OrderBlock {
  /** Middle of the block. */
  atS: number;
  rpm: number;
  /** Revolution of its first sample. */
  from: number;
  /** Peak amplitude of each order, k · resolution. */
  amplitude: Float64Array;
  /** Phase of a sine at revolution angle 0 of the block’s first sample, rad. */
  phase: Float64Array;
}

interface OrderOptions {
  /** Highest order that is looked at. */
  highest: number;
  /** Revolutions of a block, a power of two: orders lie 1 / revolutions apart. */
  revolutions: number;
  /** Share of a block that the next one repeats. */
  overlap: number;
  window: WindowName;
}

/** A signal at its own rate, at half of it, at a quarter …: each made of the one before when it is first asked for. */
class Halves {
  private readonly levels: Float32Array[];
  constructor(
    values: ArrayLike<number>,
    private readonly rateHz: number,
  ) {
    this.levels = [values instanceof Float32Array ? values : Float32Array.from(values)];
  }
  /** How often it can be halved and still have a rate. */
  levelFor(leastHz: number): number {
    let level = 0;
    while (this.rateHz / 2 ** (level + 1) >= leastHz && level < 24) level++;
    return level;
  }
  at(level: number): { values: Float32Array; rateHz: number } {
    while (this.levels.length <= level) this.levels.push(halved(this.levels[this.levels.length - 1]));
    return { values: this.levels[level], rateHz: this.rateHz / 2 ** level };
  }
}

/** Reads a signal over the angle, revolution by revolution, from a whole one on. */
class OverAngle {
  private readonly at: Float64Array;
  constructor(
    private readonly values: Float32Array,
    private readonly startS: number,
    private readonly rateHz: number,
    private readonly shaft: Shaft,
    private readonly perRevolution: number,
  ) {
    this.at = new Float64Array(perRevolution);
  }
  /** @param out shape [perRevolution] */
  read(revolution: number, out: Float64Array): void {
    const { at, startS, rateHz } = this;
    this.shaft.instants(revolution, 1 / this.perRevolution, at);
    for (let i = 0; i < at.length; i++) at[i] = (at[i] - startS) * rateHz;
    between(this.values, at, out);
  }
}

/** The whole revolutions that lie in a record. */
function wholeRevolutions(shaft: Shaft, startS: number, endS: number): [first: number, last: number] {
  return [
    Math.ceil((shaft.revolutionsAt(Math.max(shaft.fromS, startS)) || 0) - 1e-9),
    Math.floor(shaft.revolutionsAt(Math.min(shaft.toS, endS)) + 1e-9),
  ];
}

/** Order spectra by blocks of whole revolutions (computed order tracking; Fyfe and Munck, Mech. Syst. Signal Process. 11(2), 1997).
 *  Blocks with a gap are left out.
 *  @throws `bad_input` for fewer revolutions than a block */
export function orderBlocks(
  values: ArrayLike<number>,
  startS: number,
  rateHz: number,
  shaft: Shaft,
  options: OrderOptions,
  told: (share: number) => void = () => undefined,
): { blocks: OrderBlock[]; skipped: number; perRevolution: number } {
  const { revolutions, overlap, highest, window } = options;
  const [first, last] = wholeRevolutions(shaft, startS, startS + (values.length - 1) / rateHz);
  if (!(last - first >= revolutions))
    throw badInput(
      'span',
      `${Math.max(0, last - first) || 0} whole revolutions`,
      `A block needs ${revolutions}: choose a longer span, or fewer revolutions a block.`,
    );
  if (highest > MOST)
    throw badInput('highest order', highest, `At most ${MOST} are looked at: choose a lower one.`);
  // What a block’s rate lets through folds at this many samples a revolution onto nothing that is looked at, as long as the
  // shaft turns less than twice as fast at its end as at its begin.
  const perRevolution = Math.max(32, 2 ** Math.ceil(Math.log2(2 * CLOSE * highest)));
  const n = perRevolution * revolutions;
  const fft = new FFT(n);
  const taper = spectralWindow(window, n);
  const gain = taper.reduce((a, b) => a + b, 0) / 2;
  const spectrum = new Float64Array(2 * n);
  const lines = Math.floor(highest * revolutions) + 1;
  const step = Math.max(1, Math.round(revolutions * (1 - overlap)));
  const blocks: OrderBlock[] = [];
  let skipped = 0;
  const halves = new Halves(values, rateHz);
  const readers = new Map<number, OverAngle>();
  const readerOf = (level: number) => {
    const held = readers.get(level);
    if (held) return held;
    const own = halves.at(level);
    const made = new OverAngle(own.values, startS, own.rateHz, shaft, perRevolution);
    readers.set(level, made);
    return made;
  };
  let level = -1;
  // Revolutions are read once: what the next block repeats is moved to its front.
  const held = new Float64Array(n);
  const samples = new Float64Array(n);
  let read = first;
  for (let from = first; from + revolutions <= last; from += step) {
    let fastest = 0;
    for (let r = from; r < from + revolutions; r++)
      fastest = Math.max(fastest, 1 / (shaft.secondsAt(r + 1) - shaft.secondsAt(r)));
    const suited = halves.levelFor(CLOSE * highest * fastest);
    const kept = suited === level ? Math.max(0, read - from) : 0;
    level = suited;
    const angle = readerOf(level);
    held.copyWithin(0, n - kept * perRevolution);
    for (let r = kept; r < revolutions; r++)
      angle.read(from + r, held.subarray(r * perRevolution, (r + 1) * perRevolution));
    read = from + revolutions;
    let mean = 0;
    for (let i = 0; i < n; i++) mean += held[i] / n;
    if (Number.isNaN(mean)) skipped++;
    else {
      for (let i = 0; i < n; i++) samples[i] = (held[i] - mean) * taper[i];
      fft.realTransform(spectrum, samples);
      const amplitude = new Float64Array(lines);
      const phase = new Float64Array(lines);
      for (let k = 0; k < lines; k++) {
        amplitude[k] = Math.hypot(spectrum[2 * k], spectrum[2 * k + 1]) / gain / (k === 0 ? 2 : 1);
        phase[k] = wrapped(Math.atan2(spectrum[2 * k + 1], spectrum[2 * k]) + Math.PI / 2);
      }
      const [a, b] = [shaft.secondsAt(from), shaft.secondsAt(from + revolutions)];
      blocks.push({ atS: (a + b) / 2, rpm: (revolutions * 60) / (b - a), from, amplitude, phase });
    }
    told((from - first + step) / Math.max(1, last - first));
  }
  return { blocks, skipped, perRevolution };
}
const wrapped = (angle: number) => Math.atan2(Math.sin(angle), Math.cos(angle));

/** Mean of all whole revolutions, sample by sample of the angle: what turns with the shaft stays, the rest goes down by the root of their number
 *  (shaft-synchronous averaging; Braun, Acustica 32(2), 1975). @returns the mean, and how many revolutions without a gap it holds */
export function synchronousMean(
  values: ArrayLike<number>,
  startS: number,
  rateHz: number,
  shaft: Shaft,
  points: number,
): { mean: Float64Array; revolutions: number } {
  const sum = new Float64Array(points);
  const one = new Float64Array(points);
  let revolutions = 0;
  const [first, last] = wholeRevolutions(shaft, startS, startS + (values.length - 1) / rateHz);
  const own = values instanceof Float32Array ? values : Float32Array.from(values);
  const angle = new OverAngle(own, startS, rateHz, shaft, points);
  for (let r = first; r < last; r++) {
    angle.read(r, one);
    let whole = 0;
    for (let i = 0; i < points; i++) whole += one[i];
    if (Number.isNaN(whole)) continue;
    for (let i = 0; i < points; i++) sum[i] += one[i];
    revolutions++;
  }
  return { mean: sum.map((v) => (revolutions ? v / revolutions : NaN)), revolutions };
}
