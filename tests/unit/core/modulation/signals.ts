import { Random } from '$core/random';
import { pulseAt, type PulseShape } from '$core/modulation/pulse';
import type { Point } from '$core/modulation/schemes';

/** A modulated carrier that is known: each symbol’s pulse at its place, then what is done to it. */
export function modulated(of: {
  points: readonly Point[];
  symbols: number;
  perSymbol: number;
  shape?: PulseShape;
  rollOff?: number;
  seed?: number;
  /** Cycles a sample, rad, samples until the first symbol, share of the symbol rate by which it is off. */
  offset?: number;
  phase?: number;
  delay?: number;
  slower?: number;
  snr?: number;
  /** dB, °, and dB against the rms. */
  imbalance?: number;
  quadrature?: number;
  origin?: number;
  droop?: number;
  turnsOn?: boolean;
  staggered?: boolean;
  begin?: readonly number[];
  /** Taps of the path, a sample apart. */
  path?: readonly Point[];
}): { iq: Float32Array; symbols: number[] } {
  const {
    points,
    symbols: n,
    perSymbol,
    shape = 'root raised cosine',
    rollOff = 0.35,
    seed = 1,
    delay = 80.3,
  } = of;
  const random = new Random(seed);
  const symbols = Array.from(
    { length: n },
    (_, k) => of.begin?.[k] ?? Math.floor(random.uniform() * points.length),
  );
  const each = perSymbol * (1 + (of.slower ?? 0));
  const length = Math.ceil(delay + n * each + 60);
  const re = new Float64Array(length);
  const im = new Float64Array(length);
  const half = shape === 'rectangle' ? 0.5 : 10;
  const add = (to: Float64Array, at: number, v: number) => {
    for (let i = Math.max(0, Math.ceil(at - half * each)); i <= Math.min(length - 1, at + half * each); i++)
      to[i] += v * pulseAt(shape, (i - at) / each, rollOff);
  };
  symbols.forEach((s, k) => {
    const turn = of.turnsOn ? (k * Math.PI) / 4 : 0;
    const { re: a, im: b } = points[s];
    const [x, y] = [a * Math.cos(turn) - b * Math.sin(turn), a * Math.sin(turn) + b * Math.cos(turn)];
    add(re, delay + k * each, x);
    add(im, delay + (k + (of.staggered ? 0.5 : 0)) * each, y);
  });
  const gi = 10 ** ((of.imbalance ?? 0) / 20);
  const phi = ((of.quadrature ?? 0) * Math.PI) / 180;
  const rms = Math.sqrt(points.reduce((s, p) => s + p.re ** 2 + p.im ** 2, 0) / points.length);
  const o = of.origin === undefined ? 0 : rms * 10 ** (of.origin / 20);
  const noise = of.snr === undefined ? 0 : rms * 10 ** (-of.snr / 20) * Math.sqrt(perSymbol / 2);
  const iq = new Float32Array(2 * length);
  for (let i = 0; i < length; i++) {
    // gI·Re s + j·gQ·e^(jφ)·Im s
    let [a, b] = [gi * re[i] - Math.sin(phi) * im[i] + o, Math.cos(phi) * im[i]];
    const fall = 10 ** ((-(of.droop ?? 0) * (i / each)) / 20);
    const angle = 2 * Math.PI * (of.offset ?? 0) * i + (of.phase ?? 0);
    [a, b] = [
      fall * (a * Math.cos(angle) - b * Math.sin(angle)),
      fall * (a * Math.sin(angle) + b * Math.cos(angle)),
    ];
    iq[2 * i] = a + noise * random.gauss();
    iq[2 * i + 1] = b + noise * random.gauss();
  }
  if (!of.path) return { iq, symbols };
  const out = new Float32Array(iq.length);
  of.path.forEach((p, d) => {
    for (let i = d; i < length; i++) {
      out[2 * i] += p.re * iq[2 * (i - d)] - p.im * iq[2 * (i - d) + 1];
      out[2 * i + 1] += p.re * iq[2 * (i - d) + 1] + p.im * iq[2 * (i - d)];
    }
  });
  return { iq: out, symbols };
}
