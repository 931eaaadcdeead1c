import { Vector3, type Camera } from 'three';
import type { Motion } from '$core/wireframe/motion';
import { displaced, reachOf } from '$core/wireframe/motion';
import { placesOf, type Vec, type Wireframe } from '$core/wireframe/wireframe';
import { WORDS, type CanvasInk } from '../plot/canvas';

/** A wireframe made ready for drawing: places, and lines by the numbers of their points. */
export interface ReadyFrame {
  frame: Wireframe;
  places: Vec[];
  lines: Uint32Array;
  surfaces: number[][];
  sensors: { at: number; direction: Vec }[];
  middle: Vec;
  /** Half of its largest extent, and of its diagonal, m. */
  size: number;
  radius: number;
}
export function readyFrame(frame: Wireframe): ReadyFrame {
  const map = placesOf(frame);
  const places = frame.points.map((p) => map.get(p.name)!);
  const index = new Map(frame.points.map((p, i) => [p.name, i]));
  const known = (names: readonly string[]) => names.flatMap((n) => index.get(n) ?? []);
  const lines = frame.lines.map(known).filter((l) => l.length === 2);
  const ends = [0, 1, 2].map((k) => {
    const all = places.map((p) => p[k]);
    return all.length ? [Math.min(...all), Math.max(...all)] : [0, 1];
  });
  return {
    frame,
    places,
    lines: Uint32Array.from(lines.flat()),
    surfaces: frame.surfaces.map(known).filter((s) => s.length >= 3),
    sensors: frame.sensors.flatMap((s) => {
      const at = index.get(s.point);
      return at === undefined ? [] : [{ at, direction: s.direction }];
    }),
    middle: ends.map(([a, b]) => (a + b) / 2) as unknown as Vec,
    size: Math.max(1e-6, ...ends.map(([a, b]) => (b - a) / 2)),
    radius: Math.max(1e-6, Math.hypot(...ends.map(([a, b]) => (b - a) / 2))),
  };
}

/** A shape over a wireframe, as it is drawn. */
export interface DrawnShape {
  motion: Motion;
  colour: string;
}
export interface FrameLook {
  /** Radians. */
  phase: number;
  /** How far the farthest point goes, as a share of the wireframe’s size. */
  reach: number;
  names: boolean;
  sensors: boolean;
  arrows: boolean;
  /** Lines coloured by how far they are out now. */
  coloured: boolean;
  /** The wireframe at rest behind. */
  rest: boolean;
  marked: number | null;
}

const at = new Vector3();
/** Places of points on the picture, px, and how far they are away. */
export function projected(
  values: ArrayLike<number>,
  camera: Camera,
  width: number,
  height: number,
): { x: Float32Array; y: Float32Array; z: Float32Array } {
  const n = values.length / 3;
  const out = { x: new Float32Array(n), y: new Float32Array(n), z: new Float32Array(n) };
  for (let i = 0; i < n; i++) {
    at.set(values[3 * i], values[3 * i + 1], values[3 * i + 2]).project(camera);
    out.x[i] = ((at.x + 1) / 2) * width;
    out.y[i] = ((1 - at.y) / 2) * height;
    out.z[i] = at.z;
  }
  return out;
}
export const flatPlaces = (places: readonly Vec[]): Float64Array => Float64Array.from(places.flat());

/** Two colours mixed, as #rrggbb. */
function mixed(low: string, high: string, share: number): string {
  const part = (hex: string, k: number) => parseInt(hex.slice(1 + 2 * k, 3 + 2 * k), 16);
  return `#${[0, 1, 2].map((k) => Math.round(part(low, k) + (part(high, k) - part(low, k)) * share).toString(16).padStart(2, '0')).join('')}`; // prettier-ignore
}

/** Draws a wireframe and the shapes over it onto a canvas that is cleared already. */
export function drawFrame(
  c: CanvasRenderingContext2D,
  width: number,
  height: number,
  ready: ReadyFrame,
  shapes: readonly DrawnShape[],
  camera: Camera,
  look: FrameLook,
  ink: CanvasInk,
): void {
  const rest = projected(flatPlaces(ready.places), camera, width, height);
  c.lineJoin = c.lineCap = 'round';
  if (shapes.length === 0 || look.rest) {
    const behind = shapes.length > 0;
    if (!behind) fill(c, ready, rest, ink);
    stroke(c, ready, rest, behind ? ink.line : ink.ink, behind ? 1 : 1.5, behind ? [2, 4] : []);
  }
  for (const { motion, colour } of shapes) {
    const reach = reachOf(motion);
    const most = Math.max(1e-300, ...reach);
    const scale = (look.reach * ready.size) / most;
    const moved = displaced(ready.places, motion, look.phase, scale);
    const p = projected(moved, camera, width, height);
    fill(c, ready, p, ink);
    if (look.coloured && shapes.length === 1) {
      const share = ready.places.map((place, i) => {
        const d = Math.hypot(moved[3 * i] - place[0], moved[3 * i + 1] - place[1], moved[3 * i + 2] - place[2]); // prettier-ignore
        return Math.min(1, d / (look.reach * ready.size));
      });
      const STEPS = 8;
      const colours = Array.from({ length: STEPS }, (_, k) => mixed(ink.ink, colour, k / (STEPS - 1)));
      const sorted: number[][] = colours.map(() => []);
      for (let k = 0; k < ready.lines.length; k += 2) {
        const mean = (share[ready.lines[k]] + share[ready.lines[k + 1]]) / 2;
        sorted[Math.min(STEPS - 1, Math.floor(mean * STEPS))].push(k);
      }
      sorted.forEach((lines, k) => stroke(c, ready, p, colours[k], 2, [], lines));
    } else stroke(c, ready, p, colour, 2);
    if (look.arrows) arrows(c, rest, p, motion, colour);
    c.strokeStyle = colour;
    c.fillStyle = ink.card;
    c.lineWidth = 1.3;
    for (const { at: i } of ready.sensors) {
      c.beginPath();
      c.arc(p.x[i], p.y[i], 3, 0, 2 * Math.PI);
      c.fill();
      c.stroke();
    }
  }
  if (look.sensors) sensorArrows(c, ready, rest, camera, width, height, ink);
  if (shapes.length === 0) dots(c, ready, rest, ink, look.marked);
  if (look.names) names(c, ready, rest, ink);
}

type Points = ReturnType<typeof projected>;
function stroke(
  c: CanvasRenderingContext2D,
  { lines }: ReadyFrame,
  p: Points,
  colour: string,
  wide: number,
  dash: number[] = [],
  some?: number[],
): void {
  c.strokeStyle = colour;
  c.lineWidth = wide;
  c.setLineDash(dash);
  c.beginPath();
  const draw = (k: number) => {
    c.moveTo(p.x[lines[k]], p.y[lines[k]]);
    c.lineTo(p.x[lines[k + 1]], p.y[lines[k + 1]]);
  };
  if (some) some.forEach(draw);
  else for (let k = 0; k < lines.length; k += 2) draw(k);
  c.stroke();
  c.setLineDash([]);
}

function fill(c: CanvasRenderingContext2D, { surfaces }: ReadyFrame, p: Points, ink: CanvasInk): void {
  if (surfaces.length === 0) return;
  const depth = (s: number[]) => s.reduce((sum, i) => sum + p.z[i], 0) / s.length;
  c.fillStyle = ink.hair;
  c.globalAlpha = 0.45;
  for (const s of [...surfaces].sort((a, b) => depth(b) - depth(a))) {
    c.beginPath();
    s.forEach((i, k) => (k ? c.lineTo(p.x[i], p.y[i]) : c.moveTo(p.x[i], p.y[i])));
    c.closePath();
    c.fill();
  }
  c.globalAlpha = 1;
}

function arrow(c: CanvasRenderingContext2D, x0: number, y0: number, x1: number, y1: number): void {
  const long = Math.hypot(x1 - x0, y1 - y0);
  if (long < 4) return;
  const [ux, uy] = [(x1 - x0) / long, (y1 - y0) / long];
  c.beginPath();
  c.moveTo(x0, y0);
  c.lineTo(x1, y1);
  c.stroke();
  c.beginPath();
  c.moveTo(x1, y1);
  c.lineTo(x1 - 6 * ux + 2.5 * uy, y1 - 6 * uy - 2.5 * ux);
  c.lineTo(x1 - 6 * ux - 2.5 * uy, y1 - 6 * uy + 2.5 * ux);
  c.fill();
}
function arrows(
  c: CanvasRenderingContext2D,
  rest: Points,
  p: Points,
  { known }: Motion,
  colour: string,
): void {
  // prettier-ignore
  c.strokeStyle = c.fillStyle = colour;
  c.lineWidth = 1;
  known.forEach((k, i) => k === 2 && arrow(c, rest.x[i], rest.y[i], p.x[i], p.y[i]));
}

function sensorArrows(
  c: CanvasRenderingContext2D,
  { sensors, places, size }: ReadyFrame,
  rest: Points,
  camera: Camera,
  width: number,
  height: number,
  ink: CanvasInk,
): void {
  const ends = sensors.flatMap(({ at: i, direction }) => {
    const long = Math.hypot(...direction) || 1;
    return places[i].map((v, k) => v + (direction[k] / long) * 0.16 * size);
  });
  const p = projected(ends, camera, width, height);
  c.strokeStyle = c.fillStyle = ink.plum;
  c.lineWidth = 1.5;
  sensors.forEach(({ at: i }, k) => {
    arrow(c, rest.x[i], rest.y[i], p.x[k], p.y[k]);
    // One that looks along the view is a dot.
    if (Math.hypot(p.x[k] - rest.x[i], p.y[k] - rest.y[i]) < 4) {
      c.beginPath();
      c.arc(rest.x[i], rest.y[i], 2.5, 0, 2 * Math.PI);
      c.fill();
    }
  });
}

function dots(
  c: CanvasRenderingContext2D,
  { places }: ReadyFrame,
  p: Points,
  ink: CanvasInk,
  marked: number | null,
): void {
  // prettier-ignore
  c.fillStyle = ink.ink;
  if (places.length < 1500)
    for (let i = 0; i < places.length; i++) c.fillRect(p.x[i] - 1.5, p.y[i] - 1.5, 3, 3);
  if (marked === null || marked >= places.length) return;
  c.strokeStyle = ink.plum;
  c.lineWidth = 1.5;
  c.beginPath();
  c.arc(p.x[marked], p.y[marked], 8, 0, 2 * Math.PI);
  c.stroke();
}

/** Names beside their points; one that would lie over another is left out. */
function names(c: CanvasRenderingContext2D, { frame }: ReadyFrame, p: Points, ink: CanvasInk): void {
  c.font = WORDS;
  c.fillStyle = ink.muted;
  c.textAlign = 'left';
  c.textBaseline = 'bottom';
  const taken: [number, number, number][] = [];
  const order = [...frame.points.keys()].sort((a, b) => p.z[a] - p.z[b]);
  for (const i of order) {
    const wide = c.measureText(frame.points[i].name).width;
    const [x, y] = [p.x[i] + 5, p.y[i] - 3];
    if (taken.some(([a, b, w]) => Math.abs(b - y) < 12 && x < a + w + 4 && a < x + wide + 4)) continue;
    taken.push([x, y, wide]);
    c.fillText(frame.points[i].name, x, y);
    if (taken.length > 400) return;
  }
}
