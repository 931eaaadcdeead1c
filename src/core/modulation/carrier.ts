import FFT from 'fft.js';

/** Where the strongest lines of complex values lie, cycles a value, −½ to ½, between the lines by a parabola; highest first.
 *  @param values re and im in turn @param within cycles a value from 0 */
export function strongestLines(values: Float64Array, most: number, within: number): number[] {
  let n = 64;
  while (n < values.length) n *= 2; // twice as fine as the values need
  const fft = new FFT(n);
  const input = new Float64Array(2 * n);
  input.set(values);
  const out = new Float64Array(2 * n);
  fft.transform(out, input);
  const height = Float64Array.from({ length: n }, (_, k) => Math.hypot(out[2 * k], out[2 * k + 1]));
  const at = (k: number) => height[(k + n) % n];
  return Array.from({ length: n }, (_, k) => k)
    .filter((k) => at(k) > at(k - 1) && at(k) >= at(k + 1))
    .filter((k) => Math.min(k, n - k) <= within * n)
    .sort((a, b) => at(b) - at(a))
    .slice(0, most)
    .map((k) => {
      const [a, b, c] = [at(k - 1), at(k), at(k + 1)];
      const bend = a - 2 * b + c;
      const cycles = (k + (bend < 0 ? (a - c) / (2 * bend) : 0)) / n;
      return cycles > 0.5 ? cycles - 1 : cycles;
    });
}

/** Values to a whole power. */
export function raised(values: Float64Array, power: number): Float64Array {
  const out = values.slice();
  for (let p = 1; p < power; p++)
    for (let i = 0; i < values.length; i += 2) {
      const [re, im] = [out[i], out[i + 1]];
      out[i] = re * values[i] - im * values[i + 1];
      out[i + 1] = re * values[i + 1] + im * values[i];
    }
  return out;
}

/** Turns values by a phase that grows: cycles a value, from a phase in rad on. */
export function turned<A extends Float64Array | Float32Array>(values: A, cycles: number, phase = 0): A {
  const out = values.slice() as A;
  const [c, s] = [Math.cos(2 * Math.PI * cycles), Math.sin(2 * Math.PI * cycles)];
  let [re, im] = [Math.cos(phase), Math.sin(phase)];
  for (let i = 0; i < values.length; i += 2) {
    out[i] = values[i] * re - values[i + 1] * im;
    out[i + 1] = values[i] * im + values[i + 1] * re;
    const next = re * c - im * s;
    im = re * s + im * c;
    re = next;
  }
  return out;
}

/** Middle of where the power lies around the middle of the band, over what is there all the way, Hz: a first guess at a carrier.
 *  @param iq I and Q in turn @param reachHz how far from its middle a signal has something */
export function middleOfPower(iq: Float32Array, sampleRateHz: number, reachHz: number): number {
  const n = 256;
  const fft = new FFT(n);
  const power = new Float64Array(n);
  const input = new Float64Array(2 * n);
  const out = new Float64Array(2 * n);
  for (let at = 0; at + 2 * n <= iq.length; at += n) {
    for (let k = 0; k < n; k++) {
      const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * k) / n);
      input[2 * k] = w * iq[at + 2 * k];
      input[2 * k + 1] = w * iq[at + 2 * k + 1];
    }
    fft.transform(out, input);
    for (let k = 0; k < n; k++) power[(k + n / 2) % n] += out[2 * k] ** 2 + out[2 * k + 1] ** 2;
  }
  const floor = Float64Array.from(power).sort()[n >> 3];
  const per = n / sampleRateHz;
  // What lies farther away is another’s: the middle is moved until what lies around it is even.
  let middle = 0;
  for (let round = 0; round < 8; round++) {
    let [sum, moment] = [0, 0];
    for (let k = 0; k < n; k++) {
      const away = (k - n / 2) / per - middle;
      if (Math.abs(away) > reachHz) continue;
      const over = Math.max(0, power[k] - 2 * floor);
      sum += over;
      moment += over * away;
    }
    if (!(sum > 0)) return middle;
    middle += moment / sum;
    if (Math.abs(moment / sum) < 0.05 / per) break;
  }
  return middle;
}
