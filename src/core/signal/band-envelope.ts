import { bothWays } from '../filters/cascade';
import { designFilter } from '../filters/design';

/** Envelope of a band by complex demodulation: 2·|low-pass of x·exp(−jωt)| about the band's middle, both ways, so that nothing is delayed
 *  (Butterworth of order 4). A tone in the band has its amplitude as its envelope. @param x without NaN @param band Hz
 *  @returns shape of x, in its unit @throws `bad_input` for a band out of order or beyond half the rate */
export function bandEnvelope(
  x: Float64Array,
  [low, high]: readonly [number, number],
  rateHz: number,
): Float64Array {
  const middle = (low + high) / 2;
  // What is asked of a band-pass: the same words for the same fault.
  designFilter({ family: 'butterworth', band: 'band pass', order: 1, edgesHz: [low, high] }, rateHz);
  const pass = designFilter(
    { family: 'butterworth', band: 'low pass', order: 4, edgesHz: [(high - low) / 2] },
    rateHz,
  );
  const [re, im] = [new Float64Array(x.length), new Float64Array(x.length)];
  // What is far below the band is taken off first: it would make a stroke at the ends.
  const level = x.slice();
  bothWays(
    designFilter({ family: 'butterworth', band: 'high pass', order: 4, edgesHz: [low / 3] }, rateHz),
    level,
  );
  const turn = (2 * Math.PI * middle) / rateHz;
  for (let i = 0; i < x.length; i++) {
    // The phase by its index, brought back to one turn: exact however long it is.
    const phase = turn * i;
    re[i] = level[i] * Math.cos(phase);
    im[i] = -level[i] * Math.sin(phase);
  }
  bothWays(pass, re);
  bothWays(pass, im);
  for (let i = 0; i < x.length; i++) re[i] = 2 * Math.hypot(re[i], im[i]);
  return re;
}
