import type { Lines } from './half-spectra';
import type { FoundPole, OrderPoles } from './poles';
import { shapesOf, type Residuals } from './residues';
import { mac, type Shape } from './shape';

/** How near a pole has to be to one of the order before to count as at rest. */
export interface Tolerances {
  /** Share of its frequency. */
  frequency: number;
  /** Share of its damping. */
  damping: number;
  /** Least MAC of the shapes. */
  shape: number;
}
/** How far a pole has come to rest: 0 new, 1 its frequency, 2 its damping too, 3 its shape too. */
export type Rest = 0 | 1 | 2 | 3;

export interface JudgedPole extends FoundPole {
  shape: Shape;
  rest: Rest;
}
export interface JudgedOrder extends Omit<OrderPoles, 'poles'> {
  poles: JudgedPole[];
}

/** Poles of each order against those of the order before, and their shapes, by least squares on the lines where the method gives none.
 *  @param residuals what the shapes are computed with */
export function judged(
  lines: Lines,
  orders: readonly OrderPoles[],
  tolerances: Tolerances,
  residuals: Residuals,
  decay: number,
): JudgedOrder[] {
  let before: JudgedPole[] = [];
  return orders.map((found) => {
    const known = found.poles.every((p) => p.shape);
    const modes = known || found.poles.length === 0 ? [] : shapesOf(lines, found.poles, residuals, decay).modes; // prettier-ignore
    const poles = found.poles.map((pole, k): JudgedPole => {
      const shape = pole.shape ?? modes[k].shape;
      return { ...pole, shape, rest: restOf({ ...pole, shape }, before, tolerances) };
    });
    before = poles;
    return { ...found, poles };
  });
}

/** Dampings that differ by less are both next to none, as those of steady tones are. */
const NEXT_TO_NONE = 3e-4;

function restOf(
  pole: FoundPole & { shape: Shape },
  before: readonly JudgedPole[],
  tolerances: Tolerances,
): Rest {
  let best: Rest = 0;
  for (const other of before) {
    if (Math.abs(other.hz - pole.hz) > tolerances.frequency * pole.hz) continue;
    const damped = Math.abs(other.damping - pole.damping) <= Math.max(NEXT_TO_NONE, tolerances.damping * pole.damping); // prettier-ignore
    const shaped = damped && mac(pole.shape, other.shape) >= tolerances.shape;
    best = Math.max(best, shaped ? 3 : damped ? 2 : 1) as Rest;
  }
  return best;
}

/** Where a pole stands in the diagram. */
export interface PlaceOfPole {
  order: number;
  /** Its number within the order. */
  index: number;
}
/** Poles of several orders that are one mode. */
export interface Cluster {
  /** Median of its members. */
  hz: number;
  damping: number;
  members: PlaceOfPole[];
  /** The member that stands for it. */
  best: PlaceOfPole;
}

/** The rule in words, as the page states it. */
export const CLUSTER_RULE =
  'Poles whose shape is at rest are gathered where they lie within the tolerance of frequency of each other and their shapes are alike. A group that holds half of the orders from the first at which one of it rests, and four at least, is suggested by the member nearest to its median frequency and damping. A smaller group beside it with nearly its shape (MAC 0.8) is the same mode, split by noise, and is not suggested';

/** Suggested poles: see `CLUSTER_RULE`. */
export function clustersOf(orders: readonly JudgedOrder[], { frequency, shape }: Tolerances): Cluster[] {
  const resting = orders
    .flatMap((o) => o.poles.map((pole, index) => ({ order: o.order, index, pole })))
    .filter((p) => p.pole.rest === 3);
  // From the highest orders down: their poles are the most settled.
  const groups: (typeof resting)[] = [];
  for (const one of [...resting].reverse()) {
    const group = groups.find((g) =>
      g.some(
        (other) =>
          other.order !== one.order &&
          Math.abs(other.pole.hz - one.pole.hz) <= frequency * one.pole.hz &&
          mac(other.pole.shape, one.pole.shape) >= shape - 0.03,
      ),
    );
    if (group) group.push(one);
    else groups.push([one]);
  }
  const joined = merged(groups, frequency, shape);
  return joined
    .map((group) => {
      const first = Math.min(...group.map((g) => g.order));
      const could = orders.filter((o) => o.order >= first).length;
      return { group, share: new Set(group.map((g) => g.order)).size / could };
    })
    .filter(({ group, share }) => group.length >= 4 && share >= 0.5)
    .map(({ group }) => {
      const [hz, damping] = [median(group.map((g) => g.pole.hz)), median(group.map((g) => g.pole.damping))];
      const far = (g: (typeof group)[number]) =>
        Math.abs(g.pole.hz / hz - 1) / frequency +
        Math.abs(g.pole.damping - damping) / Math.max(damping, 1e-3);
      const best = group.reduce((a, b) => (far(b) < far(a) ? b : a));
      const place = ({ order, index }: PlaceOfPole) => ({ order, index });
      return { hz, damping, members: group.map(place), best: place(best), shape: best.pole.shape };
    })
    .sort((a, b) => b.members.length - a.members.length)
    .filter((one, k, all) => !all.slice(0, k).some((larger) => splits(one, larger, frequency)))
    .map(({ hz, damping, members, best }) => ({ hz, damping, members, best }))
    .sort((a, b) => a.hz - b.hz);
}

/** Whether a group is what noise has split off a larger one. */
const splits = (
  one: { hz: number; shape: Shape },
  larger: { hz: number; shape: Shape },
  frequency: number,
): boolean => Math.abs(one.hz - larger.hz) < 10 * frequency * larger.hz && mac(one.shape, larger.shape) > 0.8;

/** Groups whose medians are one mode are one group. */
function merged<G extends { pole: JudgedPole }>(groups: G[][], frequency: number, shape: number): G[][] {
  const out: G[][] = [];
  for (const group of [...groups].sort((a, b) => b.length - a.length)) {
    const hz = median(group.map((g) => g.pole.hz));
    const home = out.find(
      (g) =>
        Math.abs(median(g.map((x) => x.pole.hz)) - hz) <= frequency * hz &&
        mac(g[0].pole.shape, group[0].pole.shape) >= shape - 0.03,
    );
    if (home) home.push(...group);
    else out.push(group);
  }
  return out;
}

export const median = (values: readonly number[]): number => {
  const sorted = [...values].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
};

/** How densely poles of all orders lie: their number in each of so many equal parts of the band. */
export function poleDensity(
  orders: readonly JudgedOrder[],
  band: { fromHz: number; toHz: number },
  parts: number,
): Uint32Array {
  const out = new Uint32Array(parts);
  for (const { poles } of orders)
    for (const { hz } of poles) {
      const at = Math.floor(((hz - band.fromHz) / (band.toHz - band.fromHz)) * parts);
      if (at >= 0 && at < parts) out[at]++;
    }
  return out;
}

/** The pole of other orders that is the same mode as this one: nearest in frequency among those whose shape is alike; null where none is.
 *  @param least MAC */
export function sameMode(
  pole: { hz: number; shape: Shape },
  among: readonly JudgedPole[],
  frequency: number,
  least = 0.8,
): number | null {
  let best: number | null = null;
  among.forEach((other, k) => {
    if (Math.abs(other.hz - pole.hz) > frequency * pole.hz || mac(other.shape, pole.shape) < least) return;
    if (best === null || Math.abs(other.hz - pole.hz) < Math.abs(among[best].hz - pole.hz)) best = k;
  });
  return best;
}

/** The best pole of a column: of those at rest the nearest to their median frequency and damping, of the highest kind of rest there is; null
 *  where none lies in it. */
export function bestOf(orders: readonly JudgedOrder[], fromHz: number, toHz: number): PlaceOfPole | null {
  const within = orders.flatMap((o) =>
    o.poles.flatMap((pole, index) =>
      pole.hz >= fromHz && pole.hz <= toHz ? [{ order: o.order, index, pole }] : [],
    ),
  );
  const rest = Math.max(-1, ...within.map((p) => p.pole.rest));
  const top = within.filter((p) => p.pole.rest === rest);
  if (top.length === 0) return null;
  const [hz, damping] = [median(top.map((p) => p.pole.hz)), median(top.map((p) => p.pole.damping))];
  const far = ({ pole }: (typeof top)[number]) =>
    Math.abs(pole.hz - hz) / Math.max(1e-9, toHz - fromHz) + Math.abs(pole.damping - damping) / Math.max(damping, 1e-3); // prettier-ignore
  const { order, index } = top.reduce((a, b) => (far(b) < far(a) ? b : a));
  return { order, index };
}
