import type { Point } from './schemes';

/** A straight line through values over their number; what is no number is left out. */
function slope(values: ArrayLike<number>): number {
  let [n, x, y] = [0, 0, 0];
  for (let k = 0; k < values.length; k++)
    if (values[k] === values[k]) [n, x, y] = [n + 1, x + k, y + values[k]];
  let [xy, xx] = [0, 0];
  for (let k = 0; k < values.length; k++) {
    if (values[k] !== values[k]) continue;
    xy += (k - x / n) * (values[k] - y / n);
    xx += (k - x / n) ** 2;
  }
  return n > 1 ? xy / xx : 0;
}

/** Least squares for complex unknowns: columns · c ≈ z. Solved by its normal equations, up to three unknowns. @returns re and im in turn */
function fit(columns: readonly Float64Array[], z: Float64Array): Float64Array {
  const m = columns.length;
  const a = Array.from({ length: m }, () => new Float64Array(2 * (m + 1)));
  const dot = (x: Float64Array, y: Float64Array): [number, number] => {
    let [re, im] = [0, 0];
    for (let i = 0; i < x.length; i += 2) {
      re += x[i] * y[i] + x[i + 1] * y[i + 1];
      im += x[i] * y[i + 1] - x[i + 1] * y[i];
    }
    return [re, im];
  };
  for (let r = 0; r < m; r++) {
    for (let c = 0; c < m; c++) [a[r][2 * c], a[r][2 * c + 1]] = dot(columns[r], columns[c]);
    [a[r][2 * m], a[r][2 * m + 1]] = dot(columns[r], z);
  }
  for (let p = 0; p < m; p++) {
    const [dr, di] = [a[p][2 * p], a[p][2 * p + 1]];
    const size = dr * dr + di * di || 1e-300;
    for (let c = p; c <= m; c++) {
      const [x, y] = [a[p][2 * c], a[p][2 * c + 1]];
      a[p][2 * c] = (x * dr + y * di) / size;
      a[p][2 * c + 1] = (y * dr - x * di) / size;
    }
    for (let r = 0; r < m; r++) {
      if (r === p) continue;
      const [fr, fi] = [a[r][2 * p], a[r][2 * p + 1]];
      for (let c = p; c <= m; c++) {
        const [x, y] = [a[p][2 * c], a[p][2 * c + 1]];
        a[r][2 * c] -= fr * x - fi * y;
        a[r][2 * c + 1] -= fr * y + fi * x;
      }
    }
  }
  return Float64Array.from(a.flatMap((row) => [row[2 * m], row[2 * m + 1]]));
}

/** Errors at the symbols. Levels in dB, shares in %, angles in °. */
export interface SymbolErrors {
  gainDb: number;
  gainPhaseDeg: number;
  /** Error vector, rms and peak, % of the rms of the ideal points; 95 % of the symbols lie below the third. */
  evmRms: number;
  evmPeak: number;
  evm95: number;
  /** Modulation error ratio, dB. */
  mer: number;
  magnitudeRms: number;
  magnitudePeak: number;
  phaseRms: number;
  phasePeak: number;
  /** Origin offset against the rms of the ideal points, dB; −∞ where it was not fitted. */
  originDb: number;
  /** Received symbols with gain and, where asked for, origin taken out, I and Q in turn; and what is left of each, % of the rms. */
  corrected: Float64Array;
  errors: Float64Array;
}

const DEG = 180 / Math.PI;
const ideal = (symbols: ArrayLike<number>, points: readonly Point[]): Float64Array => {
  const s = new Float64Array(2 * symbols.length);
  for (let k = 0; k < symbols.length; k++) {
    s[2 * k] = points[symbols[k]].re;
    s[2 * k + 1] = points[symbols[k]].im;
  }
  return s;
};
const ones = (count: number): Float64Array => Float64Array.from({ length: 2 * count }, (_, k) => 1 - (k % 2));

/** Error vectors after the best gain, and the best origin where that is asked for (least squares): z ≈ c·s + o, y = (z − o)/c, e = y − s. Definitions: ETSI TR 101 290
 *  (MER), 3GPP TS 25.141 and ITU-R SM.2117 (EVM by the rms of the reference).
 *  @param received I and Q in turn, shape [2n] @param symbols shape [n] */
export function symbolErrors(
  received: Float64Array,
  symbols: ArrayLike<number>,
  points: readonly Point[],
  origin: boolean,
): SymbolErrors {
  const n = symbols.length;
  const s = ideal(symbols, points);
  const c = fit(origin ? [s, ones(n)] : [s], received);
  const [or, oi] = origin ? [c[2], c[3]] : [0, 0];
  const size = c[0] * c[0] + c[1] * c[1];
  let [power, error, magnitude, phase] = [0, 0, 0, 0];
  let [magnitudePeak, phasePeak] = [0, 0];
  const corrected = new Float64Array(2 * n);
  const errors = new Float64Array(n);
  for (let k = 0; k < n; k++) power += s[2 * k] ** 2 + s[2 * k + 1] ** 2;
  const rms = Math.sqrt(power / n);
  for (let k = 0; k < n; k++) {
    const [zr, zi] = [received[2 * k] - or, received[2 * k + 1] - oi];
    const [yr, yi] = [(zr * c[0] + zi * c[1]) / size, (zi * c[0] - zr * c[1]) / size];
    const [sr, si] = [s[2 * k], s[2 * k + 1]];
    corrected[2 * k] = yr;
    corrected[2 * k + 1] = yi;
    const e = (yr - sr) ** 2 + (yi - si) ** 2;
    errors[k] = (100 * Math.sqrt(e)) / rms;
    error += e;
    const m = (Math.hypot(yr, yi) - Math.hypot(sr, si)) / rms;
    const p = Math.atan2(yi * sr - yr * si, yr * sr + yi * si);
    magnitude += m * m;
    phase += p * p;
    magnitudePeak = Math.max(magnitudePeak, Math.abs(m));
    phasePeak = Math.max(phasePeak, Math.abs(p));
  }
  const order = Float64Array.from(errors).sort();
  return {
    gainDb: 10 * Math.log10(size),
    gainPhaseDeg: DEG * Math.atan2(c[1], c[0]),
    evmRms: 100 * Math.sqrt(error / power),
    evmPeak: order[n - 1],
    evm95: order[Math.min(n - 1, Math.ceil(0.95 * n) - 1)],
    mer: 10 * Math.log10(power / error),
    magnitudeRms: 100 * Math.sqrt(magnitude / n),
    magnitudePeak: 100 * magnitudePeak,
    phaseRms: DEG * Math.sqrt(phase / n),
    phasePeak: DEG * phasePeak,
    originDb: origin ? 10 * Math.log10((or * or + oi * oi) / size) - 20 * Math.log10(rms) : -Infinity,
    corrected,
    errors,
  };
}

/** Slopes over the symbols: of the phase, cycles a symbol; of the level, dB a symbol (positive: it droops). */
export function slopesOf(
  received: Float64Array,
  symbols: ArrayLike<number>,
  points: readonly Point[],
): { cycles: number; droopDb: number } {
  const n = symbols.length;
  const phase = new Float64Array(n);
  const level = new Float64Array(n);
  let former = 0;
  for (let k = 0; k < n; k++) {
    const { re, im } = points[symbols[k]];
    // A point at 0 has no phase, and no level to droop.
    phase[k] = level[k] = NaN;
    if (Math.hypot(re, im) < 1e-9) continue;
    const [zr, zi] = [received[2 * k], received[2 * k + 1]];
    let angle = Math.atan2(zi * re - zr * im, zr * re + zi * im);
    angle -= 2 * Math.PI * Math.round((angle - former) / (2 * Math.PI));
    phase[k] = former = angle;
    level[k] = -20 * Math.log10(Math.hypot(zr, zi) / Math.hypot(re, im));
  }
  return { cycles: slope(phase) / (2 * Math.PI), droopDb: slope(level) };
}

/** Turns symbols back by a phase that grows with their number, and lifts them by what they droop. */
export function withoutSlopes(
  received: Float64Array,
  { cycles, droopDb }: { cycles: number; droopDb: number },
): Float64Array {
  const out = new Float64Array(received.length);
  for (let k = 0; k < received.length / 2; k++) {
    const angle = -2 * Math.PI * cycles * k;
    const g = 10 ** ((droopDb * k) / 20);
    const [c, s] = [g * Math.cos(angle), g * Math.sin(angle)];
    out[2 * k] = received[2 * k] * c - received[2 * k + 1] * s;
    out[2 * k + 1] = received[2 * k] * s + received[2 * k + 1] * c;
  }
  return out;
}

/** Errors of the modulator: z ≈ a·s + b·conj(s) + o, and (a+b)/(a−b) = gI/gQ·e^(−jφ) for z = gI·Re s + j·gQ·e^(jφ)·Im s. Points on a line through 0 cannot tell them: NaN.
 *  @returns dB by which I is larger than Q, ° by which Q is not at a right angle to I, origin offset as in the errors of symbols, but fitted together with them; dB of what is left over */
export function modulatorErrors(
  received: Float64Array,
  symbols: ArrayLike<number>,
  points: readonly Point[],
): { imbalanceDb: number; quadratureDeg: number; originDb: number; snr: number } {
  const n = symbols.length;
  const s = ideal(symbols, points);
  const conjugate = s.map((v, k) => (k % 2 ? -v : v));
  const flat = points.every((p) => Math.abs(p.im) < 1e-9) || points.every((p) => Math.abs(p.re) < 1e-9);
  const columns = flat ? [s, ones(n)] : [s, conjugate, ones(n)];
  const c = fit(columns, received);
  let [power, left] = [0, 0];
  for (let i = 0; i < 2 * n; i += 2) {
    let [re, im] = [received[i], received[i + 1]];
    columns.forEach((column, m) => {
      re -= c[2 * m] * column[i] - c[2 * m + 1] * column[i + 1];
      im -= c[2 * m] * column[i + 1] + c[2 * m + 1] * column[i];
    });
    left += re * re + im * im;
    power += (c[0] ** 2 + c[1] ** 2) * (s[i] ** 2 + s[i + 1] ** 2);
  }
  const snr = 10 * Math.log10(power / left);
  const o = 2 * (columns.length - 1);
  const rms = Math.sqrt(s.reduce((a, v) => a + v * v, 0) / n);
  const originDb = 20 * Math.log10(Math.hypot(c[o], c[o + 1]) / Math.hypot(c[0], c[1]) / rms);
  if (flat) return { imbalanceDb: NaN, quadratureDeg: NaN, originDb, snr };
  const [pr, pi, qr, qi] = [c[0] + c[2], c[1] + c[3], c[0] - c[2], c[1] - c[3]];
  const size = qr * qr + qi * qi;
  const [rr, ri] = [(pr * qr + pi * qi) / size, (pi * qr - pr * qi) / size];
  return {
    imbalanceDb: 20 * Math.log10(Math.hypot(rr, ri)),
    quadratureDeg: -DEG * Math.atan2(ri, rr),
    originDb,
    snr,
  };
}

/** Share of the received power that is the ideal signal’s: ρ = |Σ z·conj s|² / (Σ|z|²·Σ|s|²) (TIA-97). */
export function rho(received: Float64Array, symbols: ArrayLike<number>, points: readonly Point[]): number {
  const s = ideal(symbols, points);
  let [re, im, zz, ss] = [0, 0, 0, 0];
  for (let i = 0; i < s.length; i += 2) {
    re += received[i] * s[i] + received[i + 1] * s[i + 1];
    im += received[i + 1] * s[i] - received[i] * s[i + 1];
    zz += received[i] ** 2 + received[i + 1] ** 2;
    ss += s[i] ** 2 + s[i + 1] ** 2;
  }
  return (re * re + im * im) / (zz * ss);
}
