import { badInput } from '../errors';

/** Natural logarithm of the gamma function for x > 0 (Lanczos approximation, g = 7, nine terms; relative error below 1e-14). */
export function logGamma(x: number): number {
  if (x < 0.5) return Math.log(Math.PI / Math.sin(Math.PI * x)) - logGamma(1 - x);
  const z = x - 1;
  let sum = LANCZOS[0];
  for (let k = 1; k < LANCZOS.length; k++) sum += LANCZOS[k] / (z + k);
  const t = z + 7.5;
  return 0.5 * Math.log(2 * Math.PI) + (z + 0.5) * Math.log(t) - t + Math.log(sum);
}
const LANCZOS = [
  0.99999999999980993, 676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059,
  12.507343278686905, -0.13857109526572012, 9.9843695780195716e-6, 1.5056327351493116e-7,
];

/** Regularised incomplete beta function I_x(a, b) by its continued fraction (NIST DLMF 8.17.22, Lentz's method). */
export function incompleteBeta(x: number, a: number, b: number): number {
  if (x <= 0) return 0;
  if (x >= 1) return 1;
  if (x > (a + 1) / (a + b + 2)) return 1 - incompleteBeta(1 - x, b, a);
  const front = Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log1p(-x));
  const tiny = 1e-300;
  const keep = (v: number) => (Math.abs(v) < tiny ? tiny : v);
  let c = 1;
  let d = 1 / keep(1 - ((a + b) * x) / (a + 1));
  let h = d;
  for (let m = 1; m < 10_000; m++) {
    const even = (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m));
    d = 1 / keep(1 + even * d);
    c = keep(1 + even / c);
    h *= d * c;
    const odd = (-(a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1));
    d = 1 / keep(1 + odd * d);
    c = keep(1 + odd / c);
    const step = d * c;
    h *= step;
    if (Math.abs(step - 1) < 1e-16) break;
  }
  return (front * h) / a;
}

const LARGE = 1e5;

/** Half width factor of a two-sided interval of Student's t distribution: t with P(|T| < t) = confidence (JCGM 100:2008, table G.2).
 *  @param confidence above 0 and below 1 @param dof degrees of freedom, any number above 0; Infinity gives the normal distribution
 *  @throws `bad_input` outside these */
export function studentFactor(confidence: number, dof: number): number {
  if (!(confidence > 0 && confidence < 1))
    throw badInput('confidence', confidence, 'Give a share between 0 and 1.');
  if (!(dof > 0)) throw badInput('degrees of freedom', dof, 'Give a number above 0.');
  if (dof > LARGE) {
    // Cornish-Fisher: t = z + (z³ + z)/(4ν) + …; the next term is below 1e-9 here, and the continued fraction would lose digits.
    const t = studentFactor(confidence, LARGE);
    return t + ((t ** 3 + t) / 4) * (1 / dof - 1 / LARGE);
  }
  const outside = 1 - confidence;
  // P(|T| > t) = I_x(ν/2, 1/2) with x = ν / (ν + t²): found by bisection over log t, which is monotonic.
  let low = Math.log(1e-12);
  let high = Math.log(1e12);
  for (let step = 0; step < 200 && high - low > 1e-15 * Math.max(1, Math.abs(low)); step++) {
    const middle = (low + high) / 2;
    const t = Math.exp(middle);
    if (incompleteBeta(dof / (dof + t * t), dof / 2, 0.5) > outside) low = middle;
    else high = middle;
  }
  return Math.exp((low + high) / 2);
}
