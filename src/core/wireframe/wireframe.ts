/** A place or a vector, m or without unit. */
export type Vec = readonly [x: number, y: number, z: number];

/** A point of a structure, in the axes of its part. */
export interface FramePoint {
  name: string;
  /** Name of its part; '' for the structure itself. */
  part: string;
  at: Vec;
}
/** A part with axes of its own. */
export interface FramePart {
  name: string;
  /** Where its origin lies, m. */
  at: Vec;
  /** Turned about x, then y, then z, degrees. */
  turn: Vec;
  /** Its points without sensors follow as a rigid body. */
  rigid: boolean;
}
/** A sensor on a point: what the channel measures is the motion along a direction in the axes of the structure. */
export interface FrameSensor {
  channel: string;
  point: string;
  /** Of any length above 0. */
  direction: Vec;
}
/** A structure as points, lines and surfaces. */
export interface Wireframe {
  name: string;
  parts: readonly FramePart[];
  points: readonly FramePoint[];
  /** Names of two points each. */
  lines: readonly (readonly [string, string])[];
  /** Names of three or four points each. */
  surfaces: readonly (readonly string[])[];
  sensors: readonly FrameSensor[];
  /** Points that stay where they are. */
  held: readonly string[];
  /** Points that move as another does. */
  follows: readonly { point: string; as: string }[];
}

export const EMPTY_FRAME: Omit<Wireframe, 'name'> = {
  parts: [],
  points: [],
  lines: [],
  surfaces: [],
  sensors: [],
  held: [],
  follows: [],
};

const rad = (degrees: number) => (degrees * Math.PI) / 180;
/** A vector turned about x, then y, then z, degrees. */
export function turned([x, y, z]: Vec, [rx, ry, rz]: Vec): Vec {
  const [a, b, c] = [rad(rx), rad(ry), rad(rz)];
  const [y1, z1] = [y * Math.cos(a) - z * Math.sin(a), y * Math.sin(a) + z * Math.cos(a)];
  const [x2, z2] = [x * Math.cos(b) + z1 * Math.sin(b), -x * Math.sin(b) + z1 * Math.cos(b)];
  return [x2 * Math.cos(c) - y1 * Math.sin(c), x2 * Math.sin(c) + y1 * Math.cos(c), z2];
}
const plus = ([a, b, c]: Vec, [d, e, f]: Vec): Vec => [a + d, b + e, c + f];

/** Where each point lies in the axes of the structure, by its name. */
export function placesOf(frame: Pick<Wireframe, 'parts' | 'points'>): Map<string, Vec> {
  const parts = new Map(frame.parts.map((p) => [p.name, p]));
  return new Map(
    frame.points.map(({ name, part, at }) => {
      const own = parts.get(part);
      return [name, own ? plus(own.at, turned(at, own.turn)) : at];
    }),
  );
}

const AXES = ['x', 'y', 'z'] as const;
export type Axis = (typeof AXES)[number];

/** A name that is free, made of another: with a letter or a number behind it. */
function freeName(name: string, taken: Set<string>): string {
  for (let k = 2; ; k++) {
    const next = `${name}.${k}`;
    if (!taken.has(next)) {
      taken.add(next);
      return next;
    }
  }
}

/** A copy of some points beside the structure, with the lines and surfaces between them; sensors stay where they are.
 *  @param where where a point of the structure’s axes goes */
function copied(frame: Wireframe, names: ReadonlySet<string>, where: (at: Vec) => Vec): Wireframe {
  const places = placesOf(frame);
  const taken = new Set(frame.points.map((p) => p.name));
  const called = new Map<string, string>();
  const points: FramePoint[] = [];
  for (const { name } of frame.points) {
    if (!names.has(name)) continue;
    const at = where(places.get(name)!);
    // A point on the plane of the mirror, or on the axis, is its own image.
    const there = frame.points.find((p) => distance(places.get(p.name)!, at) < 1e-9);
    if (there) {
      called.set(name, there.name);
      continue;
    }
    const own = freeName(name, taken);
    called.set(name, own);
    points.push({ name: own, part: '', at });
  }
  const both = (a: string, b: string) => a !== b && !frame.lines.some(([p, q]) => (p === a && q === b) || (p === b && q === a)); // prettier-ignore
  return {
    ...frame,
    points: [...frame.points, ...points],
    lines: [
      ...frame.lines,
      ...frame.lines
        .filter((l) => l.every((n) => names.has(n)))
        .map(([a, b]) => [called.get(a)!, called.get(b)!] as const)
        .filter(([a, b]) => both(a, b)),
    ],
    surfaces: [
      ...frame.surfaces,
      ...frame.surfaces.filter((s) => s.every((n) => names.has(n))).map((s) => s.map((n) => called.get(n)!)),
    ],
  };
}
const distance = (a: Vec, b: Vec) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
export { distance };

/** Some points mirrored at a plane across an axis. @param at where the plane cuts the axis, m */
export const mirrored = (frame: Wireframe, names: ReadonlySet<string>, axis: Axis, at: number): Wireframe => {
  const k = AXES.indexOf(axis);
  return copied(frame, names, (p) => p.map((v, i) => (i === k ? 2 * at - v : v)) as unknown as Vec);
};

/** Some points repeated along a step. @param times how many copies */
export function repeated(frame: Wireframe, names: ReadonlySet<string>, times: number, step: Vec): Wireframe {
  let out = frame;
  for (let k = 1; k <= times; k++)
    out = copied(out, names, (p) => plus(p, step.map((v) => v * k) as unknown as Vec));
  return out;
}

/** Some points repeated about an axis through the origin. @param degrees from one copy to the next */
export function turnedAbout(
  frame: Wireframe,
  names: ReadonlySet<string>,
  times: number,
  axis: Axis,
  degrees: number,
): Wireframe {
  let out = frame;
  const k = AXES.indexOf(axis);
  for (let n = 1; n <= times; n++) {
    const turn = [0, 0, 0];
    turn[k] = degrees * n;
    out = copied(out, names, (p) => turned(p, turn as unknown as Vec));
  }
  return out;
}
