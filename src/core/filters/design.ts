import { badInput } from '../errors';
import { minus, over, plus, productOf, rootsOf, scaled, squareRoot, times, type Complex } from './complex';

/** b0 + b1 z⁻¹ + b2 z⁻² over 1 + a1 z⁻¹ + a2 z⁻². */
export interface Section {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

export const BANDS = ['low pass', 'high pass', 'band pass', 'band stop'] as const;
export type Band = (typeof BANDS)[number];
export const hasTwoEdges = (band: Band) => band === 'band pass' || band === 'band stop';

/** What the magnitude of the prototype does: `butterworth` is as flat as can be, −3 dB at the edge; `chebyshev` has equal ripples in the
 *  pass band, which ends at the edge; `inverse chebyshev` has equal ripples in the stop band, which begins at the edge; `bessel` has
 *  the flattest delay, −3 dB at the edge, or with the phase of a Butterworth filter far above it. */
export type Family =
  | { family: 'butterworth' }
  | { family: 'chebyshev'; rippleDb: number }
  | { family: 'inverse chebyshev'; attenuationDb: number }
  | { family: 'bessel'; norm: '−3 dB at the edge' | 'phase' };

interface Roots {
  zeros: Complex[];
  poles: Complex[];
  gain: number;
}

const arcSinh = Math.asinh;

/** Analog low-pass of order n with its edge at 1 rad/s. */
function prototype(n: number, family: Family): Roots {
  const angles = Array.from({ length: n }, (_, k) => (Math.PI * (2 * k - n + 1)) / (2 * n));
  const gainOf = ({ zeros, poles }: Omit<Roots, 'gain'>) =>
    over(productOf(poles.map((p) => scaled(p, -1))), productOf(zeros.map((z) => scaled(z, -1))))[0];
  switch (family.family) {
    case 'butterworth':
      return { zeros: [], poles: angles.map((a): Complex => [-Math.cos(a), Math.sin(a)]), gain: 1 };
    case 'chebyshev': {
      const ripple = Math.sqrt(10 ** (0.1 * family.rippleDb) - 1);
      const mu = arcSinh(1 / ripple) / n;
      const poles = angles.map((a): Complex => [-Math.sinh(mu) * Math.cos(a), Math.cosh(mu) * Math.sin(a)]);
      const gain = gainOf({ zeros: [], poles });
      return { zeros: [], poles, gain: n % 2 ? gain : gain / Math.sqrt(1 + ripple * ripple) };
    }
    case 'inverse chebyshev': {
      const mu = arcSinh(Math.sqrt(10 ** (0.1 * family.attenuationDb) - 1)) / n;
      const zeros = angles.filter((a) => Math.abs(a) > 1e-9).map((a): Complex => [0, 1 / Math.sin(a)]);
      const poles = angles.map((a): Complex =>
        over([1, 0], [-Math.sinh(mu) * Math.cos(a), Math.cosh(mu) * Math.sin(a)]),
      );
      return { zeros, poles, gain: gainOf({ zeros, poles }) };
    }
    case 'bessel':
      return bessel(n, family.norm);
  }
}

/** Thomson's filter: its poles are the roots of the reverse Bessel polynomial. */
function bessel(n: number, norm: '−3 dB at the edge' | 'phase'): Roots {
  const factorial = (k: number): number => (k < 2 ? 1 : k * factorial(k - 1));
  const c = Array.from(
    { length: n + 1 },
    (_, k) => factorial(2 * n - k) / (2 ** (n - k) * factorial(k) * factorial(n - k)),
  );
  const plain = rootsOf(c);
  const squared = (w: number) =>
    c[0] ** 2 / Math.hypot(...productOf(plain.map((p) => minus([0, w], p)))) ** 2;
  let [low, high] = [0, 2 * n + 2];
  for (let k = 0; k < 200 && norm !== 'phase'; k++) {
    const mid = (low + high) / 2;
    if (squared(mid) > 0.5) low = mid;
    else high = mid;
  }
  const edge = norm === 'phase' ? c[0] ** (1 / n) : low;
  const poles = plain.map((p) => scaled(p, 1 / edge));
  return { zeros: [], poles, gain: c[0] / edge ** n };
}

/** The prototype with its edges where they are wanted. @param w rad/s, one edge or two */
function placed({ zeros, poles, gain }: Roots, band: Band, w: readonly number[]): Roots {
  const missing = poles.length - zeros.length;
  const none = (count: number, at: Complex) => Array.from({ length: count }, () => at);
  const negated = (of: Complex[]) => productOf(of.map((x) => scaled(x, -1)));
  if (band === 'low pass')
    return {
      zeros: zeros.map((z) => scaled(z, w[0])),
      poles: poles.map((p) => scaled(p, w[0])),
      gain: gain * w[0] ** missing,
    };
  const inverted = (x: Complex, by: number) => over([by, 0], x);
  const turned = gain * over(negated(zeros), negated(poles))[0];
  if (band === 'high pass')
    return {
      zeros: [...zeros.map((z) => inverted(z, w[0])), ...none(missing, [0, 0])],
      poles: poles.map((p) => inverted(p, w[0])),
      gain: turned,
    };
  const width = w[1] - w[0];
  const mid = w[0] * w[1];
  const both = (x: Complex): Complex[] => {
    const root = squareRoot(minus(times(x, x), [mid, 0]));
    return [plus(x, root), minus(x, root)];
  };
  if (band === 'band pass')
    return {
      zeros: [...zeros.flatMap((z) => both(scaled(z, width / 2))), ...none(missing, [0, 0])],
      poles: poles.flatMap((p) => both(scaled(p, width / 2))),
      gain: gain * width ** missing,
    };
  return {
    zeros: [
      ...zeros.flatMap((z) => both(inverted(z, width / 2))),
      ...none(missing, [0, Math.sqrt(mid)]),
      ...none(missing, [0, -Math.sqrt(mid)]),
    ],
    poles: poles.flatMap((p) => both(inverted(p, width / 2))),
    gain: turned,
  };
}

/** Bilinear transform of an analog filter, sampled at 1/2 Hz: s = (z − 1)/(z + 1). */
function sampled({ zeros, poles, gain }: Roots): Roots {
  const turn = (x: Complex) => over(plus([1, 0], x), minus([1, 0], x));
  const size = (of: Complex[]) => productOf(of.map((x) => minus([1, 0], x)));
  return {
    zeros: [
      ...zeros.map(turn),
      ...Array.from({ length: poles.length - zeros.length }, (): Complex => [-1, 0]),
    ],
    poles: poles.map(turn),
    gain: gain * over(size(zeros), size(poles))[0],
  };
}

/** Roots as conjugate pairs, then the real ones two by two. */
function pairs(roots: Complex[]): Complex[][] {
  const real = roots.filter(([, im]) => Math.abs(im) < 1e-10).map(([re]): Complex => [re, 0]);
  const upper = roots.filter(([, im]) => im >= 1e-10);
  real.sort(([a], [b]) => a - b);
  const out: Complex[][] = upper.map((x) => [x, [x[0], -x[1]]]);
  // Equal ones apart: −1 with 1 makes a smoother section than −1 with −1 only where both are there, as in a band pass.
  while (real.length > 1) out.push([real.shift()!, real.pop()!]);
  if (real.length) out.push([real[0]]);
  return out;
}

/** Sections of a digital filter by the bilinear transform with its edges pre-warped (Oppenheim and Schafer, Discrete-Time Signal Processing,
 *  ch. 7). Band pass and band stop have twice as many poles as the order says.
 *  @param edgesHz one edge, of a band two @throws `bad_input` for edges that do not lie in order between 0 and half the rate */
export function designFilter(
  wanted: Family & { band: Band; order: number; edgesHz: readonly number[] },
  rateHz: number,
): Section[] {
  const { band, order, edgesHz } = wanted;
  checkEdges(band, edgesHz, rateHz);
  const w = edgesHz.map((f) => Math.tan((Math.PI * f) / rateHz));
  const { zeros, poles, gain } = sampled(placed(prototype(order, wanted), band, w));
  // The sharpest poles go with the zeros nearest to them, which keeps numbers within the cascade small.
  const sharp = (p: Complex[]) => Math.max(...p.map((x) => Math.hypot(...x)));
  const left = pairs(zeros);
  const sections = pairs(poles)
    .sort((a, b) => sharp(b) - sharp(a))
    .map((p) => {
      const distance = (z: Complex[]) => Math.hypot(...minus(z[0], p[0])) + (z.length === p.length ? 0 : 10);
      const nearest = left.reduce((best, z, k) => (distance(z) < distance(left[best]) ? k : best), 0);
      return section(left.splice(nearest, 1)[0], p);
    })
    .reverse();
  const [first, ...rest] = sections;
  return [{ ...first, b0: first.b0 * gain, b1: first.b1 * gain, b2: first.b2 * gain }, ...rest];
}

function section(zeros: Complex[], poles: Complex[]): Section {
  const polynomial = (roots: Complex[]): [number, number, number] => {
    if (roots.length === 0) return [1, 0, 0];
    if (roots.length === 1) return [1, -roots[0][0], 0];
    return [1, -(roots[0][0] + roots[1][0]), times(roots[0], roots[1])[0]];
  };
  const [b0, b1, b2] = polynomial(zeros);
  const [, a1, a2] = polynomial(poles);
  return { b0, b1, b2, a1, a2 };
}

/** @throws `bad_input` for edges that do not lie in order between 0 and half the rate */
export function checkEdges(band: Band, edgesHz: readonly number[], rateHz: number): void {
  const odd = edgesHz.find((f) => !(f > 0 && f < rateHz / 2));
  if (odd !== undefined)
    throw badInput(
      'edge',
      `${odd} Hz`,
      `At ${Number(rateHz.toPrecision(6))} samples/s it has to lie between 0 and ${Number((rateHz / 2).toPrecision(6))} Hz.`,
    );
  if (hasTwoEdges(band) && !(edgesHz[0] < edgesHz[1]))
    throw badInput('edges', `${edgesHz[0]} Hz to ${edgesHz[1]} Hz`, 'The first has to lie below the second.');
}

/** A second-order filter around one frequency: `stop` takes it out, `pass` leaves it alone; −3 dB at f0 ± f0/2q. */
export function designNarrow(kind: 'stop' | 'pass', f0: number, q: number, rateHz: number): Section[] {
  checkEdges('low pass', [f0], rateHz);
  const w = (2 * Math.PI * f0) / rateHz;
  const beta = Math.tan(w / q / 2);
  const gain = 1 / (1 + beta);
  const turn = -2 * Math.cos(w) * gain;
  const a = { a1: turn, a2: 2 * gain - 1 };
  return kind === 'stop'
    ? [{ b0: gain, b1: turn, b2: gain, ...a }]
    : [{ b0: 1 - gain, b1: 0, b2: gain - 1, ...a }];
}

/** Complex response at a frequency. */
export function responseOf(sections: readonly Section[], hz: number, rateHz: number): Complex {
  const w = (-2 * Math.PI * hz) / rateHz;
  const z: Complex = [Math.cos(w), Math.sin(w)];
  const z2 = times(z, z);
  return sections.reduce<Complex>(
    (all, { b0, b1, b2, a1, a2 }) => {
      const above = plus(plus([b0, 0], scaled(z, b1)), scaled(z2, b2));
      const below = plus(plus([1, 0], scaled(z, a1)), scaled(z2, a2));
      return times(all, over(above, below));
    },
    [1, 0],
  );
}

/** Samples after which nothing of an impulse larger than a share is left: by the slowest pole. */
export function settlingSamples(sections: readonly Section[], share: number): number {
  const radius = Math.max(
    ...sections.map(({ a1, a2 }) => {
      const inside = a1 * a1 - 4 * a2;
      return inside < 0 ? Math.sqrt(a2) : (Math.abs(a1) + Math.sqrt(inside)) / 2;
    }),
  );
  return radius <= 0
    ? 2
    : Math.ceil(Math.log(share) / Math.log(Math.min(radius, 1 - 1e-12))) + 2 * sections.length;
}
