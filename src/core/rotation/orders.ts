import FFT from 'fft.js';
import { badInput } from '../errors';
import { spectralWindow, type WindowName } from '../spectrum/windows';
import { between, type Shaft } from './shaft';

/** Samples a revolution at most: beyond, the shaft turns too slowly for what was sampled. */
const MOST = 4096;

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

/** How many samples a revolution are taken: as many as keep everything that was sampled at the lowest speed apart, a power of two. */
function samplesARevolution(rateHz: number, lowestHz: number, highest: number): number {
  const least = Math.max(4 * highest, Math.min(MOST, (1.2 * rateHz) / Math.max(lowestHz, 1e-9)), 32);
  const n = 2 ** Math.ceil(Math.log2(least));
  if (n > 2 * MOST)
    throw badInput('highest order', highest, `At most ${MOST / 2} are looked at: choose a lower one.`);
  return n;
}

/** Samples at equal steps of angle. @param values shape [m] @param startS instant of the first @returns samples from the shaft’s first revolution on */
function overAngle(
  values: ArrayLike<number>,
  startS: number,
  rateHz: number,
  shaft: Shaft,
  perRevolution: number,
  fromRevolution: number,
  count: number,
): Float64Array {
  const instants = Float64Array.from(
    { length: count },
    (_, i) => (shaft.secondsAt(fromRevolution + i / perRevolution) - startS) * rateHz,
  );
  return between(values, instants);
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
  const first = Math.ceil(Math.max(0, shaft.revolutionsAt(Math.max(shaft.fromS, startS)) || 0) - 1e-9);
  const endS = Math.min(shaft.toS, startS + (values.length - 1) / rateHz);
  const last = Math.floor(shaft.revolutionsAt(endS) + 1e-9);
  if (!(last - first >= revolutions))
    throw badInput(
      'span',
      `${Math.max(0, last - first) || 0} whole revolutions`,
      `A block needs ${revolutions}: choose a longer span, or fewer revolutions a block.`,
    );
  let lowest = Infinity;
  for (let r = first; r < last; r++)
    lowest = Math.min(lowest, 1 / (shaft.secondsAt(r + 1) - shaft.secondsAt(r)));
  const perRevolution = samplesARevolution(rateHz, lowest, highest);
  const n = perRevolution * revolutions;
  const fft = new FFT(n);
  const taper = spectralWindow(window, n);
  const gain = taper.reduce((a, b) => a + b, 0) / 2;
  const spectrum = new Float64Array(2 * n);
  const lines = Math.floor(highest * revolutions) + 1;
  const step = Math.max(1, Math.round(revolutions * (1 - overlap)));
  const blocks: OrderBlock[] = [];
  let skipped = 0;
  for (let from = first; from + revolutions <= last; from += step) {
    const samples = overAngle(values, startS, rateHz, shaft, perRevolution, from, n);
    let mean = 0;
    for (let i = 0; i < n; i++) mean += samples[i] / n;
    if (Number.isNaN(mean)) skipped++;
    else {
      for (let i = 0; i < n; i++) samples[i] = (samples[i] - mean) * taper[i];
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
  let revolutions = 0;
  const first = Math.ceil(Math.max(0, shaft.revolutionsAt(Math.max(shaft.fromS, startS)) || 0) - 1e-9);
  const last = Math.floor(
    shaft.revolutionsAt(Math.min(shaft.toS, startS + (values.length - 1) / rateHz)) + 1e-9,
  );
  for (let r = first; r < last; r++) {
    const one = overAngle(values, startS, rateHz, shaft, points, r, points);
    if (one.some(Number.isNaN)) continue;
    for (let i = 0; i < points; i++) sum[i] += one[i];
    revolutions++;
  }
  return { mean: sum.map((v) => (revolutions ? v / revolutions : NaN)), revolutions };
}
