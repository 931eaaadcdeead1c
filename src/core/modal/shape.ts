/** A mode’s shape: one complex number for each response. */
export interface Shape {
  re: Float64Array;
  im: Float64Array;
}

/** One pole of a structure: s = −ζ·ω + jω·√(1 − ζ²), ω = 2π·hz. */
export interface Pole {
  /** Undamped natural frequency |s|/2π, Hz. */
  hz: number;
  /** Damping as a share of critical, −Re s/|s|. */
  damping: number;
}

/** Modal assurance criterion |aᴴb|²/((aᴴa)(bᴴb)): 1 for shapes that differ by a complex factor only, 0 for orthogonal ones
 *  (Allemang and Brown, IMAC I, 1982). NaN where one is nothing. */
export function mac(a: Shape, b: Shape): number {
  let [re, im, aa, bb] = [0, 0, 0, 0];
  for (let i = 0; i < a.re.length; i++) {
    re += a.re[i] * b.re[i] + a.im[i] * b.im[i];
    im += a.re[i] * b.im[i] - a.im[i] * b.re[i];
    aa += a.re[i] ** 2 + a.im[i] ** 2;
    bb += b.re[i] ** 2 + b.im[i] ** 2;
  }
  return (re * re + im * im) / (aa * bb);
}

/** @returns row i, column j: shape i of a against shape j of b */
export const macMatrix = (a: readonly Shape[], b: readonly Shape[]): number[][] =>
  a.map((x) => b.map((y) => mac(x, y)));

function moments({ re, im }: Shape): { xx: number; yy: number; xy: number } {
  let [xx, yy, xy] = [0, 0, 0];
  for (let i = 0; i < re.length; i++) {
    xx += re[i] ** 2;
    yy += im[i] ** 2;
    xy += re[i] * im[i];
  }
  return { xx, yy, xy };
}

/** How nearly all parts of a shape move in phase or against it: ((Sxx − Syy)² + 4Sxy²)/(Sxx + Syy)², 1 for a real shape, 0 for a turning one
 *  (modal phase collinearity, Pappa and others, AIAA 92-2136, no mean taken away). */
export function realness(shape: Shape): number {
  const { xx, yy, xy } = moments(shape);
  return ((xx - yy) ** 2 + 4 * xy * xy) / (xx + yy) ** 2;
}

/** Angle of the straight line through the origin that a shape’s numbers lie along, rad in (−π/2, π/2]: the one with the least sum of squared
 *  distances. */
export function meanPhase(shape: Shape): number {
  const { xx, yy, xy } = moments(shape);
  return Math.atan2(2 * xy, xx - yy) / 2;
}

/** How far a shape’s numbers stand from that line, weighed by their size, rad (mean phase deviation, Reynders and others, Mech. Syst. Signal
 *  Process. 29, 2012). */
export function phaseDeviation(shape: Shape): number {
  const at = meanPhase(shape);
  let [sum, weights] = [0, 0];
  for (let i = 0; i < shape.re.length; i++) {
    const size = Math.hypot(shape.re[i], shape.im[i]);
    if (size === 0) continue;
    const along = Math.abs(shape.re[i] * Math.cos(at) + shape.im[i] * Math.sin(at)) / size;
    sum += size * Math.acos(Math.min(1, along));
    weights += size;
  }
  return weights > 0 ? sum / weights : 0;
}

export const NORMALISATIONS = ['largest is 1', 'length is 1'] as const;
export type Normalisation = (typeof NORMALISATIONS)[number];

/** A shape brought to a stated size: turned so that its line of mean phase is real and its largest number positive, then divided by its largest
 *  number’s size or by its length. */
export function normalised(shape: Shape, by: Normalisation): Shape {
  const at = meanPhase(shape);
  const [c, s] = [Math.cos(at), Math.sin(at)];
  let [largest, length, sign] = [0, 0, 1];
  for (let i = 0; i < shape.re.length; i++) {
    const size = Math.hypot(shape.re[i], shape.im[i]);
    length += size * size;
    if (size > largest) {
      largest = size;
      sign = shape.re[i] * c + shape.im[i] * s < 0 ? -1 : 1;
    }
  }
  const scale = sign / (by === 'largest is 1' ? largest || 1 : Math.sqrt(length) || 1);
  return {
    re: shape.re.map((x, i) => (x * c + shape.im[i] * s) * scale),
    im: shape.im.map((y, i) => (y * c - shape.re[i] * s) * scale),
  };
}
