import { solveSymmetric } from '../matrix/solve';
import type { Shape } from '../modal/shape';
import { distance, placesOf, type Vec, type Wireframe } from './wireframe';

/** How each point of a wireframe moves: complex displacement along x, y, z, shape [points·3], points in their order. */
export interface Motion {
  re: Float64Array;
  im: Float64Array;
  /** 2 measured, 1 made from what is around it, 0 at rest for want of anything. */
  known: Uint8Array;
}

/** Sums of direction·directionᵀ and of direction·value over the sensors of a point. */
function fromSensors(directions: Vec[], re: number[], im: number[]): { re: number[]; im: number[] } {
  // The shortest motion that gives the measured values: least squares with a very small weight on its length.
  const A = [0, 1, 2].map((i) =>
    Float64Array.from({ length: 3 }, (_, j) =>
      directions.reduce((sum, d) => sum + d[i] * d[j], i === j ? 1e-9 : 0),
    ),
  );
  const B = [0, 1, 2].map((i) =>
    Float64Array.of(
      directions.reduce((sum, d, k) => sum + d[i] * re[k], 0),
      directions.reduce((sum, d, k) => sum + d[i] * im[k], 0),
    ),
  );
  const { x } = solveSymmetric(A, B);
  return { re: x.map((row) => row[0]), im: x.map((row) => row[1]) };
}

/** Motion of all points for a shape. A point with sensors moves as they say, and not where none looks; one that is held does not; one that follows
 *  another moves with it; one of a rigid part moves as the rigid body that fits the part’s sensors best; any other by what its neighbours along
 *  the lines do, the near ones more than the far ones.
 *  @param shape a number for each response @param channels which channel each response is */
export function motionOf(frame: Wireframe, shape: Shape, channels: readonly string[]): Motion {
  const n = frame.points.length;
  const index = new Map(frame.points.map((p, i) => [p.name, i]));
  const places = [...placesOf(frame).values()];
  const motion: Motion = {
    re: new Float64Array(3 * n),
    im: new Float64Array(3 * n),
    known: new Uint8Array(n),
  };
  const at = new Map(channels.map((c, i) => [c, i]));
  const set = (i: number, re: ArrayLike<number>, im: ArrayLike<number>, known: number) => {
    for (let k = 0; k < 3; k++) {
      motion.re[3 * i + k] = re[k];
      motion.im[3 * i + k] = im[k];
    }
    motion.known[i] = known;
  };
  const seen = new Map<number, { directions: Vec[]; re: number[]; im: number[] }>();
  for (const { channel, point, direction } of frame.sensors) {
    const [i, c] = [index.get(point), at.get(channel)];
    const length = Math.hypot(...direction);
    if (i === undefined || c === undefined || !(length > 0)) continue;
    const own = seen.get(i) ?? { directions: [], re: [], im: [] };
    own.directions.push(direction.map((v) => v / length) as unknown as Vec);
    own.re.push(shape.re[c]);
    own.im.push(shape.im[c]);
    seen.set(i, own);
  }
  for (const [i, own] of seen) {
    const { re, im } = fromSensors(own.directions, own.re, own.im);
    set(i, re, im, 2);
  }
  const zero = [0, 0, 0];
  for (const name of frame.held) {
    const i = index.get(name);
    if (i !== undefined) set(i, zero, zero, 2);
  }
  for (const part of frame.parts) if (part.rigid) moveRigidly(frame, part.name, places, seen, motion, set);
  const follow = () => {
    for (const { point, as } of frame.follows) {
      const [i, k] = [index.get(point), index.get(as)];
      if (i === undefined || k === undefined || motion.known[i] === 2 || !motion.known[k]) continue;
      set(i, motion.re.subarray(3 * k, 3 * k + 3), motion.im.subarray(3 * k, 3 * k + 3), 1);
    }
  };
  follow();
  between(frame, index, places, motion);
  follow();
  return motion;
}

/** The six numbers of a rigid body (where it goes, how it turns about the part’s middle) that fit the part’s sensors best. */
function moveRigidly(
  frame: Wireframe,
  part: string,
  places: Vec[],
  seen: Map<number, { directions: Vec[]; re: number[]; im: number[] }>,
  motion: Motion,
  set: (i: number, re: number[], im: number[], known: number) => void,
): void {
  const own = frame.points.flatMap((p, i) => (p.part === part ? [i] : []));
  const measured = own.filter((i) => seen.has(i));
  if (measured.length === 0) return;
  const middle = [0, 1, 2].map((k) => own.reduce((sum, i) => sum + places[i][k], 0) / own.length);
  const size = Math.max(1e-9, ...own.map((i) => distance(places[i], middle as unknown as Vec)));
  /** What the six numbers make of a point: rows for x, y, z. Turns are counted in lengths at the part’s rim. */
  const rows = (i: number) => {
    const [x, y, z] = [0, 1, 2].map((k) => (places[i][k] - middle[k]) / size);
    return [
      [1, 0, 0, 0, z, -y],
      [0, 1, 0, -z, 0, x],
      [0, 0, 1, y, -x, 0],
    ];
  };
  const A = Array.from({ length: 6 }, (_, k) => Float64Array.from({ length: 6 }, (_, j) => (k === j ? 1e-9 : 0))); // prettier-ignore
  const B = Array.from({ length: 6 }, () => new Float64Array(2));
  for (const i of measured) {
    const { directions, re, im } = seen.get(i)!;
    const r = rows(i);
    directions.forEach((d, s) => {
      const row = Array.from({ length: 6 }, (_, k) => d[0] * r[0][k] + d[1] * r[1][k] + d[2] * r[2][k]);
      row.forEach((v, k) => {
        row.forEach((w, j) => (A[k][j] += v * w));
        B[k][0] += v * re[s];
        B[k][1] += v * im[s];
      });
    });
  }
  const { x } = solveSymmetric(A, B);
  for (const i of own) {
    if (motion.known[i] === 2) continue;
    const r = rows(i);
    const sum = (c: 0 | 1) => r.map((row) => row.reduce((s, v, k) => s + v * x[k][c], 0));
    set(i, sum(0), sum(1), 1);
  }
}

/** Points that nothing says anything of take the mean of their neighbours, weighed by how near they are, until all agree. */
function between(frame: Wireframe, index: Map<string, number>, places: Vec[], motion: Motion): void {
  const neighbours: { to: number; weight: number }[][] = frame.points.map(() => []);
  for (const [a, b] of frame.lines) {
    const [i, k] = [index.get(a), index.get(b)];
    if (i === undefined || k === undefined || i === k) continue;
    const weight = 1 / Math.max(1e-9, distance(places[i], places[k]));
    neighbours[i].push({ to: k, weight });
    neighbours[k].push({ to: i, weight });
  }
  // Only what is joined to something known moves; from there outward.
  const queue = frame.points.flatMap((_, i) => (motion.known[i] ? [i] : []));
  const open: number[] = [];
  const reached = new Uint8Array(frame.points.length);
  queue.forEach((i) => (reached[i] = 1));
  for (let at = 0; at < queue.length; at++)
    for (const { to } of neighbours[queue[at]])
      if (!reached[to]) {
        reached[to] = 1;
        // A first guess: what the neighbour does that it was reached from.
        for (let k = 0; k < 3; k++) {
          motion.re[3 * to + k] = motion.re[3 * queue[at] + k];
          motion.im[3 * to + k] = motion.im[3 * queue[at] + k];
        }
        queue.push(to);
        open.push(to);
      }
  const ROUNDS = 400;
  for (let round = 0; round < ROUNDS && open.length > 0; round++) {
    let moved = 0;
    let largest = 0;
    for (const i of open)
      for (const part of [motion.re, motion.im])
        for (let k = 0; k < 3; k++) {
          let [sum, weights] = [0, 0];
          for (const { to, weight } of neighbours[i]) {
            sum += weight * part[3 * to + k];
            weights += weight;
          }
          const next = sum / weights;
          moved = Math.max(moved, Math.abs(next - part[3 * i + k]));
          largest = Math.max(largest, Math.abs(next));
          part[3 * i + k] = next;
        }
    if (moved <= 1e-9 * largest) break;
  }
  for (const i of open) motion.known[i] = 1;
}

/** Where the points stand at a phase: place + scale·Re(motion·e^(jφ)). @returns shape [points·3] */
export function displaced(
  places: readonly Vec[],
  motion: Motion,
  phase: number,
  scale: number,
): Float64Array {
  const [c, s] = [Math.cos(phase), Math.sin(phase)];
  const out = new Float64Array(places.length * 3);
  places.forEach((p, i) => {
    for (let k = 0; k < 3; k++)
      out[3 * i + k] = p[k] + scale * (motion.re[3 * i + k] * c - motion.im[3 * i + k] * s);
  });
  return out;
}

/** How far each point moves at most, as a length; shape [points]. */
export function reachOf(motion: Motion): Float64Array {
  return Float64Array.from({ length: motion.known.length }, (_, i) => {
    let [xx, yy, xy] = [0, 0, 0];
    for (let k = 3 * i; k < 3 * i + 3; k++) {
      xx += motion.re[k] ** 2;
      yy += motion.im[k] ** 2;
      xy += motion.re[k] * motion.im[k];
    }
    return Math.sqrt((xx + yy + Math.hypot(xx - yy, 2 * xy)) / 2);
  });
}
