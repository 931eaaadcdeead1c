import { Random } from '$core/random';
import type { FrameSensor, Vec, Wireframe } from '$core/wireframe/wireframe';

/** The rotor of 4 m on its pylon as points and lines, x with the flow, z up, m: 41 points. */
const NACELLE: [string, Vec][] = [
  ['N1', [-0.7, -0.3, -0.3]],
  ['N2', [-0.7, 0.3, -0.3]],
  ['N3', [-0.7, 0.3, 0.3]],
  ['N4', [-0.7, -0.3, 0.3]],
  ['N5', [1.1, -0.25, -0.25]],
  ['N6', [1.1, 0.25, -0.25]],
  ['N7', [1.1, 0.25, 0.25]],
  ['N8', [1.1, -0.25, 0.25]],
];
const PYLON: [string, Vec][] = [
  ['P0', [0, 0, -3.2]],
  ['P1', [0, 0, -2.45]],
  ['P2', [0, 0, -1.7]],
  ['P3', [0, 0, -1]],
  ['P4', [0, 0, -0.3]],
];
const FEET: [string, Vec][] = [
  ['F1', [-0.9, -0.9, -3.2]],
  ['F2', [0.9, -0.9, -3.2]],
  ['F3', [0, 1.1, -3.2]],
];
const STATIONS = [0.3, 0.55, 0.8, 1.05, 1.3, 1.55, 1.8, 2];
const HUB_X = -1;
/** Blade 1 points up, the others follow by 120 degrees as one looks with the flow. */
const angleOf = (blade: number) => (2 * Math.PI * (blade - 1)) / 3;
const onBlade = (blade: number, r: number): Vec => [HUB_X, r * Math.sin(angleOf(blade)), r * Math.cos(angleOf(blade))]; // prettier-ignore
const round = (v: Vec): Vec => v.map((x) => Math.round(x * 1e4) / 1e4) as unknown as Vec;

const BLADES = [1, 2, 3].flatMap((b) => STATIONS.map((r, k): [string, Vec] => [`B${b}.${k + 1}`, round(onBlade(b, r))])); // prettier-ignore
const chain = (names: string[]): [string, string][] => names.slice(1).map((n, i) => [names[i], n]);

/** What is measured where: names of channels, with the point and direction of each. Blades are measured across (flap) and in the plane of the
 *  rotor (edge, toward the next blade). */
export const ACCELEROMETERS: { name: string; point: string; direction: Vec }[] = [
  { name: 'Nacelle fore–aft', point: 'N1', direction: [1, 0, 0] },
  { name: 'Nacelle side, front', point: 'N1', direction: [0, 1, 0] },
  { name: 'Nacelle side, tail', point: 'N5', direction: [0, 1, 0] },
  { name: 'Nacelle up, tail', point: 'N5', direction: [0, 0, 1] },
  { name: 'Pylon fore–aft', point: 'P2', direction: [1, 0, 0] },
  { name: 'Pylon side', point: 'P2', direction: [0, 1, 0] },
  { name: 'Hub fore–aft', point: 'H', direction: [1, 0, 0] },
  ...[1, 2, 3].flatMap((b) => [
    { name: `Blade ${b} mid, flap`, point: `B${b}.4`, direction: [1, 0, 0] as Vec },
    { name: `Blade ${b} tip, flap`, point: `B${b}.8`, direction: [1, 0, 0] as Vec },
    {
      name: `Blade ${b} tip, edge`,
      point: `B${b}.8`,
      direction: round([0, Math.cos(angleOf(b)), -Math.sin(angleOf(b))]),
    },
  ]),
];

/** The wireframe. @param channel the id of the channel of each accelerometer */
export const nacelleFrame = (channel: (name: string) => string): Wireframe => ({
  name: 'Nacelle and blades',
  parts: [{ name: 'nacelle', at: [0, 0, 0], turn: [0, 0, 0], rigid: true }],
  points: [
    ...NACELLE.map(([name, at]) => ({ name, part: 'nacelle', at })),
    ...[...PYLON, ...FEET, ['H', [HUB_X, 0, 0]] as [string, Vec], ...BLADES].map(([name, at]) => ({ name, part: '', at })), // prettier-ignore
  ],
  lines: [
    ...chain(['N1', 'N2', 'N3', 'N4', 'N1']),
    ...chain(['N5', 'N6', 'N7', 'N8', 'N5']),
    ...([1, 2, 3, 4].map((k) => [`N${k}`, `N${k + 4}`]) as [string, string][]),
    ...chain(['P0', 'P1', 'P2', 'P3', 'P4']),
    ...(['N1', 'N2', 'N5', 'N6'].map((n) => ['P4', n]) as [string, string][]),
    ...(['F1', 'F2', 'F3'].flatMap((n) => [
      [n, 'P0'],
      [n, 'P1'],
    ]) as [string, string][]),
    ...(['N1', 'N2', 'N3', 'N4'].map((n) => ['H', n]) as [string, string][]),
    ...[1, 2, 3].flatMap((b) => chain(['H', ...STATIONS.map((_, k) => `B${b}.${k + 1}`)])),
  ],
  surfaces: [['N1', 'N2', 'N6', 'N5'], ['N2', 'N3', 'N7', 'N6'], ['N3', 'N4', 'N8', 'N7'], ['N4', 'N1', 'N5', 'N8']], // prettier-ignore
  sensors: ACCELEROMETERS.map(({ name, point, direction }): FrameSensor => ({ channel: channel(name), point, direction })), // prettier-ignore
  held: ['F1', 'F2', 'F3', 'P0'],
  follows: [],
});

/** A mode of the model: what each accelerometer measures of it comes from how the parts move. */
export interface TrueMode {
  hz: number;
  damping: number;
  seenAs: string;
  /** How much of it the turbulence shakes. */
  level: number;
  shape: number[];
}

/** How a mode moves: fore–aft and to the side of the pylon’s top, nodding and yawing of the nacelle, flap and edge of each blade’s tip. */
interface Moves {
  fore?: number;
  side?: number;
  nod?: number;
  yaw?: number;
  flap?: [number, number, number];
  edge?: [number, number, number];
}
function shapeOf({
  fore = 0,
  side = 0,
  nod = 0,
  yaw = 0,
  flap = [0, 0, 0],
  edge = [0, 0, 0],
}: Moves): number[] {
  // prettier-ignore
  const places = new Map<string, Vec>([...NACELLE, ...PYLON, ...BLADES, ['H', [HUB_X, 0, 0]]]);
  return ACCELEROMETERS.map(({ point, direction }) => {
    const [x, y, z] = places.get(point)!;
    const blade = /^B(\d)/.exec(point);
    let move: Vec;
    if (point.startsWith('P')) {
      const share = ((z + 3.2) / 2.9) ** 2;
      move = [fore * share, side * share, 0];
    } else {
      move = [fore + nod * z, side + yaw * x, -nod * x];
      if (!blade) move = [fore + nod * z - yaw * y, side + yaw * x, -nod * x];
    }
    if (blade) {
      const b = Number(blade[1]) - 1;
      const r = Math.hypot(y, z) / 2;
      const across: Vec = [0, Math.cos(angleOf(b + 1)), -Math.sin(angleOf(b + 1))];
      // The hub carries the blade along; its own bending is added.
      const hub: Vec = [fore + nod * z - yaw * y, side + yaw * HUB_X, -nod * HUB_X];
      move = [hub[0] + flap[b] * r * r, hub[1] + edge[b] * r * r * across[1], hub[2] + edge[b] * r * r * across[2]]; // prettier-ignore
    }
    return move[0] * direction[0] + move[1] * direction[1] + move[2] * direction[2];
  });
}

const MODES: { hz: number; damping: number; level: number; seenAs: string; moves: Moves }[] = [
  { hz: 12.5, damping: 0.011, level: 1, seenAs: 'nacelle nods', moves: { fore: 1, nod: 0.45, flap: [0.2, 0.2, 0.2] } }, // prettier-ignore
  { hz: 17.5, damping: 0.01, level: 0.9, seenAs: 'nacelle sways', moves: { side: 1, yaw: -0.2, edge: [0.3, 0.2, 0.2] } }, // prettier-ignore
  { hz: 24.2, damping: 0.009, level: 0.8, seenAs: 'blades flap together', moves: { fore: -0.25, flap: [1, 1, 1] } }, // prettier-ignore
  { hz: 31.2, damping: 0.009, level: 0.8, seenAs: 'blade 1 against the others', moves: { nod: 0.15, flap: [1, -0.55, -0.5] } }, // prettier-ignore
  { hz: 31.9, damping: 0.01, level: 0.8, seenAs: 'blades 2 and 3 against each other', moves: { yaw: 0.15, flap: [0.05, 1, -1] } }, // prettier-ignore
  { hz: 39.4, damping: 0.012, level: 0.12, seenAs: 'nacelle yaws', moves: { yaw: 1, side: -0.1, flap: [0, 0.1, -0.1] } }, // prettier-ignore
  { hz: 47.3, damping: 0.008, level: 0.6, seenAs: 'blades swing in their plane', moves: { side: 0.1, edge: [1, 1, 1] } }, // prettier-ignore
];
/** What the model truly has. The sixth mode is hardly shaken. */
export const TRUE_MODES: TrueMode[] = MODES.map(({ moves, ...m }) => ({ ...m, shape: shapeOf(moves) }));
export const WEAK = 5;
/** Turns a second of the rotor: what it shakes itself stands at one and three times that. */
export const TURNS_HZ = 6.9;
const HARMONICS = [
  { multiple: 1, size: 0.6, moves: { side: 1, edge: [1, -0.4, -0.6] as [number, number, number] } },
  { multiple: 3, size: 0.8, moves: { fore: 1, flap: [0.6, 0.6, 0.6] as [number, number, number] } },
];

/** How a run differs from the one that the truth is told of. */
export interface Run {
  /** Turns a second. */
  turnsHz?: number;
  /** Factors of the modes’ frequencies. */
  stretched?: readonly number[];
}

/** Accelerations of the structure in turbulent flow: each mode a resonance that white noise shakes at every accelerometer, two harmonics of the
 *  rotor that stay steady, and the noise of each sensor. @returns [accelerometers][samples], m/s² */
export function shaken(
  seed: number,
  seconds: number,
  rateHz: number,
  { turnsHz = TURNS_HZ, stretched = [] }: Run = {},
): Float32Array[] {
  const random = new Random(seed);
  const n = Math.round(seconds * rateHz);
  const m = ACCELEROMETERS.length;
  const out = Array.from({ length: m }, () => new Float32Array(n));
  const states = TRUE_MODES.map(({ hz, damping, level, shape }, k) => {
    const w = 2 * Math.PI * hz * (stretched[k] ?? 1);
    const decay = Math.exp((-damping * w) / rateHz);
    const turn = (w * Math.sqrt(1 - damping * damping)) / rateHz;
    const size = Math.hypot(...shape);
    // Of the same variance however sharp it is.
    const scale = level * Math.sqrt(1 - decay * decay);
    return { a: decay * Math.cos(turn), b: decay * Math.sin(turn), scale, x: 0, y: 0, shape, size };
  });
  const steady = HARMONICS.map((h) => ({
    ...h,
    shape: shapeOf(h.moves),
    phase: 2 * Math.PI * random.uniform(),
  }));
  const forces = new Float64Array(m);
  const RUN_IN = Math.round(4 * rateHz);
  for (let t = -RUN_IN; t < n; t++) {
    for (let i = 0; i < m; i++) forces[i] = random.gauss();
    for (const s of states) {
      let force = 0.35 * random.gauss();
      for (let i = 0; i < m; i++) force += (s.shape[i] / s.size) * forces[i];
      [s.x, s.y] = [s.a * s.x - s.b * s.y + s.scale * force, s.a * s.y + s.b * s.x];
      if (t >= 0) for (let i = 0; i < m; i++) out[i][t] += s.shape[i] * s.x;
    }
    if (t < 0) continue;
    for (const h of steady) {
      const value = h.size * Math.cos((2 * Math.PI * h.multiple * turnsHz * t) / rateHz + h.phase);
      for (let i = 0; i < m; i++) out[i][t] += h.shape[i] * value;
    }
    for (let i = 0; i < m; i++) out[i][t] += 0.15 * random.gauss();
  }
  return out;
}
