import { badInput, FarrierError } from '../errors';

/** A steady sine and what is beside it. Amplitudes are rms, in the signal's unit. */
export interface Tone {
  frequencyHz: number;
  rms: number;
  mean: number;
  /** Harmonics 2 … 5 below half the sample rate, as a share of the tone. */
  distortion: number;
  /** What is neither tone nor harmonic, rms. */
  noise: number;
  /** Standard deviation of the tone's level from part to part of the record, as a share of it. */
  instability: number;
  /** Standard uncertainty of the rms from that spread: instability / sqrt(parts). */
  standardError: number;
  parts: number;
}

const PARTS = 10;
const HARMONICS = 5;
/** Power of the tone as a share of all that varies, below which it is no tone. */
const LEAST_SHARE = 0.2;

/** Finds a tone near a frequency and measures it alone: by a least-squares sine of four parameters (IEEE Std 1057-2017, annex B), so that
 *  hum and noise beside it do not count as they would in a broad-band rms.
 *  @param signal shape [n] @param nominalHz looked for within ±5 % @throws `bad_input` for a record of less than ten periods or a
 *  frequency the rate cannot carry, `unavailable` when there is no such tone or a value is missing */
export function measureTone(signal: ArrayLike<number>, sampleRateHz: number, nominalHz: number): Tone {
  const n = signal.length;
  if (!(nominalHz > 0 && nominalHz < 0.45 * sampleRateHz))
    throw badInput(
      'frequency',
      `${nominalHz} Hz`,
      `Give a frequency below ${(0.45 * sampleRateHz).toFixed(0)} Hz, or sample faster.`,
    );
  if (n * nominalHz < 10 * sampleRateHz)
    throw badInput('record', `${n} samples`, 'Measure at least ten periods of the tone.');
  for (let i = 0; i < n; i++)
    if (!Number.isFinite(signal[i]))
      throw new FarrierError('unavailable', {
        what: 'A value is missing in the record.',
        why: 'The input was open, over its range, or its unit was lost for a moment.',
        next: 'Measure again.',
      });
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < n; i++) {
    low = Math.min(low, signal[i]);
    high = Math.max(high, signal[i]);
  }
  if (low === high)
    throw new FarrierError('unavailable', {
      what: `There is no tone near ${nominalHz} Hz.`,
      why: `The record does not move: it stands at ${low}.`,
      next: 'Is the sensor connected, and the calibrator on?',
    });
  let frequencyHz = coarse(signal, sampleRateHz, nominalHz);
  for (let step = 0; step < 12; step++) {
    const { shift } = fourParameters(signal, sampleRateHz, frequencyHz);
    frequencyHz += shift;
    if (Math.abs(shift) < 1e-12 * sampleRateHz) break;
  }
  const whole = threeParameters(signal, sampleRateHz, frequencyHz, 0, n);
  const rms = whole.amplitude / Math.SQRT2;
  // Harmonics are sought in what the tone leaves: beside it even a distant part of it would count as one.
  const left = without(signal, sampleRateHz, frequencyHz, whole);
  let harmonicSquares = 0;
  for (let k = 2; k <= HARMONICS && k * frequencyHz < 0.45 * sampleRateHz; k++) {
    const harmonic = threeParameters(left, sampleRateHz, k * frequencyHz, 0, n);
    harmonicSquares += harmonic.amplitude ** 2 / 2;
    left.set(without(left, sampleRateHz, k * frequencyHz, { ...harmonic, mean: 0 }));
  }
  let squares = 0;
  for (let i = 0; i < n; i++) squares += (signal[i] - whole.mean) ** 2;
  const noise = Math.sqrt(left.reduce((sum, v) => sum + v * v, 0) / n);
  if (!(rms ** 2 > LEAST_SHARE * (squares / n)) || Math.abs(frequencyHz / nominalHz - 1) > 0.05)
    throw new FarrierError('unavailable', {
      what: `There is no tone near ${nominalHz} Hz.`,
      why: `Only ${((100 * rms ** 2) / (squares / n || 1)).toFixed(1)} % of what the sensor feels lies there.`,
      next: 'Is the calibrator on and firmly coupled? Is it set to this frequency?',
    });
  const levels = Array.from(
    { length: PARTS },
    (_, k) =>
      threeParameters(
        signal,
        sampleRateHz,
        frequencyHz,
        Math.floor((k * n) / PARTS),
        Math.floor(((k + 1) * n) / PARTS),
      ).amplitude,
  );
  const mean = levels.reduce((a, b) => a + b) / PARTS;
  const spread = Math.sqrt(levels.reduce((sum, v) => sum + (v - mean) ** 2, 0) / (PARTS - 1));
  return {
    frequencyHz,
    rms,
    mean: whole.mean,
    distortion: Math.sqrt(harmonicSquares) / rms,
    noise,
    instability: spread / mean,
    standardError: spread / mean / Math.sqrt(PARTS),
    parts: PARTS,
  };
}

/** The highest line of a Hann-windowed transform within ±5 %, refined by golden section. */
function coarse(signal: ArrayLike<number>, rate: number, nominal: number): number {
  const n = Math.min(signal.length, Math.ceil((200 * rate) / nominal));
  const power = (f: number) => {
    let re = 0;
    let im = 0;
    const w = (2 * Math.PI * f) / rate;
    for (let i = 0; i < n; i++) {
      const v = signal[i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n));
      re += v * Math.cos(w * i);
      im += v * Math.sin(w * i);
    }
    return re * re + im * im;
  };
  const step = rate / n / 2;
  let best = nominal;
  let most = -1;
  for (let f = nominal * 0.95; f <= nominal * 1.05; f += step) {
    const p = power(f);
    if (p > most) [best, most] = [f, p];
  }
  let [low, high] = [best - step, best + step];
  for (let k = 0; k < 20; k++) {
    const a = high - 0.618034 * (high - low);
    const b = low + 0.618034 * (high - low);
    if (power(a) > power(b)) high = b;
    else low = a;
  }
  return (low + high) / 2;
}

/** A record without a sine and a mean that were found in it. */
function without(
  signal: ArrayLike<number>,
  rate: number,
  f: number,
  { a, b, mean }: { a: number; b: number; mean: number },
): Float64Array {
  const w = (2 * Math.PI * f) / rate;
  return Float64Array.from(signal, (v, i) => v - a * Math.cos(w * i) - b * Math.sin(w * i) - mean);
}

/** A·cos + B·sin + C at a known frequency. */
function threeParameters(signal: ArrayLike<number>, rate: number, f: number, from: number, to: number) {
  const w = (2 * Math.PI * f) / rate;
  const [a, b, mean] = leastSquares(signal, from, to, 3, (i, row) => {
    row[0] = Math.cos(w * i);
    row[1] = Math.sin(w * i);
    row[2] = 1;
  });
  return { a, b, mean, amplitude: Math.hypot(a, b) };
}

/** One step of the four-parameter fit. @returns by how much the frequency is off, Hz */
function fourParameters(signal: ArrayLike<number>, rate: number, f: number): { shift: number } {
  const w = (2 * Math.PI * f) / rate;
  const n = signal.length;
  const { a, b } = threeParameters(signal, rate, f, 0, n);
  const solution = leastSquares(signal, 0, n, 4, (i, row) => {
    const c = Math.cos(w * i);
    const s = Math.sin(w * i);
    const t = i / n; // scaled, so that the equations stay well conditioned
    row[0] = c;
    row[1] = s;
    row[2] = 1;
    row[3] = -a * t * s + b * t * c;
  });
  return { shift: ((solution[3] / n) * rate) / (2 * Math.PI) };
}

/** Normal equations of a small linear fit, solved by elimination with pivoting. */
function leastSquares(
  y: ArrayLike<number>,
  from: number,
  to: number,
  size: number,
  fill: (i: number, row: Float64Array) => void,
): number[] {
  const m = Array.from({ length: size }, () => new Float64Array(size + 1));
  const row = new Float64Array(size);
  for (let i = from; i < to; i++) {
    fill(i, row);
    for (let r = 0; r < size; r++) {
      for (let c = r; c < size; c++) m[r][c] += row[r] * row[c];
      m[r][size] += row[r] * y[i];
    }
  }
  for (let r = 0; r < size; r++) for (let c = 0; c < r; c++) m[r][c] = m[c][r];
  for (let k = 0; k < size; k++) {
    let pivot = k;
    for (let r = k + 1; r < size; r++) if (Math.abs(m[r][k]) > Math.abs(m[pivot][k])) pivot = r;
    [m[k], m[pivot]] = [m[pivot], m[k]];
    for (let r = k + 1; r < size; r++) {
      const share = m[r][k] / m[k][k];
      for (let c = k; c <= size; c++) m[r][c] -= share * m[k][c];
    }
  }
  const x = Array.from({ length: size }, () => 0);
  for (let r = size - 1; r >= 0; r--) {
    let sum = m[r][size];
    for (let c = r + 1; c < size; c++) sum -= m[r][c] * x[c];
    x[r] = sum / m[r][r];
  }
  return x;
}
