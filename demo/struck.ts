import { Decimator } from '$core/modal/decimator';
import { Random } from '$core/random';
import { ACCELEROMETERS, TRUE_MODES } from './structure';

/** Hammers, and where and which way each strikes: rows of the accelerometers that stand at the point, so much of each. */
export const HAMMERS = [
  { name: 'Hammer, nacelle', point: 'N1', direction: [0.8, 0.6, 0], rows: { 'Nacelle fore–aft': 0.8, 'Nacelle side, front': 0.6 } }, // prettier-ignore
  { name: 'Hammer, blade 2', point: 'B2.8', direction: [0.8, -0.3, -0.5196], rows: { 'Blade 2 tip, flap': 0.8, 'Blade 2 tip, edge': 0.6 } }, // prettier-ignore
] as const;
/** Of every mode, its shape as it stands in the truth. */
export const MODAL_MASS = 60;
/** Largest force that the hammers’ channels take, N. */
export const RANGE = 400;

/** A strike: when, by which hammer, how hard. */
export interface Strike {
  atS: number;
  hammer: number;
  newtons: number;
  /** It bounces after so long, s. */
  bounces?: number;
}

/** How much a mode is driven by a force of 1 N at a hammer’s point. */
export const drivenBy = (mode: number, hammer: number): number =>
  Object.entries(HAMMERS[hammer].rows).reduce(
    (sum, [name, share]) => sum + share * TRUE_MODES[mode].shape[ACCELEROMETERS.findIndex((a) => a.name === name)], // prettier-ignore
    0,
  );

const FINE = 8;
/** Half a sine; a soft tip. */
const PULSE_S = 0.009;

/** Forces at each moment, N. */
type Drive = (t: number) => number[];
const strikes = (list: readonly Strike[]): Drive => {
  const pulses = list.flatMap((s) => [s, ...(s.bounces ? [{ ...s, atS: s.atS + s.bounces, newtons: 0.4 * s.newtons }] : [])]); // prettier-ignore
  return (t) => {
    const out = HAMMERS.map(() => 0);
    for (const { atS, hammer, newtons } of pulses)
      if (t >= atS && t < atS + PULSE_S) out[hammer] += newtons * Math.sin((Math.PI * (t - atS)) / PULSE_S);
    return out;
  };
};

/** Accelerations of the rotor at a standstill under forces, m/s², and the forces themselves, N: each mode m·(q″ + 2ζω·q′ + ω²·q) = φᵀf, followed at eight
 *  times the rate and thinned like the rack does. @returns [accelerometers, then hammers][samples] */
function answered(
  seed: number,
  seconds: number,
  rateHz: number,
  drive: Drive,
  noise: number,
): Float32Array[] {
  // prettier-ignore
  const random = new Random(seed);
  const dt = 1 / (FINE * rateHz);
  const m = ACCELEROMETERS.length;
  const states = TRUE_MODES.map(({ hz, damping, shape }, k) => {
    const w = 2 * Math.PI * hz;
    const wd = w * Math.sqrt(1 - damping * damping);
    const [e, c, s] = [Math.exp(-damping * w * dt), Math.cos(wd * dt), Math.sin(wd * dt)];
    // Exact for a force that holds over a step; the mean of a step’s ends stands for it.
    const step = [
      [e * (c + ((damping * w) / wd) * s), (e * s) / wd],
      [(-w * w * e * s) / wd, e * (c - ((damping * w) / wd) * s)],
    ];
    return { w, damping, shape, step, by: HAMMERS.map((_, h) => drivenBy(k, h) / MODAL_MASS), x: 0, v: 0 };
  });
  const thin = Array.from({ length: m + HAMMERS.length }, () => new Decimator(FINE));
  const n = Math.round(seconds * rateHz);
  const out = thin.map(() => new Float32Array(n));
  const { reach } = thin[0];
  const filled = thin.map(() => 0);
  const CHUNK = 1 << 14;
  let next = drive(-reach * dt);
  for (let from = -reach; from < n * FINE + reach; from += CHUNK) {
    const fine = thin.map(() => new Float64Array(CHUNK));
    for (let k = 0; k < CHUNK; k++) {
      const f = next;
      next = drive((from + k + 1) * dt);
      for (const s of states) {
        const force = s.by.reduce((sum, b, h) => sum + b * f[h], 0);
        const accelerates = force - 2 * s.damping * s.w * s.v - s.w * s.w * s.x;
        for (let i = 0; i < m; i++) fine[i][k] += s.shape[i] * accelerates;
        const mean = s.by.reduce((sum, b, h) => sum + (b * (f[h] + next[h])) / 2, 0);
        const rest = mean / (s.w * s.w);
        const [x, v] = [s.x - rest, s.v];
        s.x = rest + s.step[0][0] * x + s.step[0][1] * v;
        s.v = s.step[1][0] * x + s.step[1][1] * v;
      }
      f.forEach((value, h) => (fine[m + h][k] = value));
    }
    thin.forEach((d, i) => {
      for (const v of d.push(fine[i])) if (filled[i] < n) out[i][filled[i]++] = v;
    });
  }
  out.forEach((values, i) => {
    const size = i < m ? noise : 20 * noise;
    for (let k = 0; k < n; k++) values[k] += size * random.gauss();
    // A channel ends where its range does.
    if (i >= m) for (let k = 0; k < n; k++) values[k] = Math.max(-RANGE, Math.min(RANGE, values[k]));
  });
  return out;
}

/** The rotor struck. @param noise rms of each accelerometer, m/s² */
export const struck = (
  seed: number,
  seconds: number,
  rateHz: number,
  list: readonly Strike[],
  noise = 0.01,
): Float32Array[] =>
  // prettier-ignore
  answered(seed, seconds, rateHz, strikes(list), noise);

/** The rotor shaken by both hammers’ points at once with noise of some newtons that goes on. */
export function shakenBy(
  seed: number,
  seconds: number,
  rateHz: number,
  newtons: number,
  noise = 0.01,
): Float32Array[] {
  // prettier-ignore
  const random = new Random(seed + 1000);
  return answered(seed, seconds, rateHz, () => HAMMERS.map(() => newtons * random.gauss()), noise);
}

/** Strikes one after the other, one hammer after the other. */
export const inTurn = (count: number, everyS: number): Strike[] =>
  Array.from({ length: count * HAMMERS.length }, (_, k) => ({
    atS: 1 + k * everyS,
    hammer: Math.floor(k / count),
    newtons: 150 + 60 * ((k * 0.618) % 1),
  }));
