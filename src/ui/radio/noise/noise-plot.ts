import { axisScale, type AxisScale } from '$core/figures/scale';
import { fixed } from '$core/readings';
import { begin, LEFT, MONO, RIGHT, WORDS, type CanvasInk } from '../../plot/canvas';

const TOP = 12;
const AXIS = 20;

/** One value over frequency with its ±; null where there is none. */
export interface Course {
  hz: readonly number[];
  values: readonly (number | null)[];
  expanded: readonly number[];
  colour: string;
  /** Drawn behind the others and without its ±. */
  behind: boolean;
  name: string;
}
export interface DrawnCourses {
  courses: Course[];
  fromHz: number;
  toHz: number;
  /** A level that is wanted, and how it is said. */
  wanted: { db: number; says: string } | null;
  /** Place of the pointer. */
  atHz: number | null;
  /** Pins that stay: lowest, highest. */
  pins: { hz: number; value: number; name: string }[];
  /** What is dragged over to look closer, px. */
  dragged: [number, number] | null;
}

/** Frequencies of a picture as its horizontal axis. */
export const courseAxis = (fromHz: number, toHz: number, width: number): AxisScale => {
  const [from, to] = fromHz < toHz ? [fromHz, toHz] : [fromHz - 5e5, fromHz + 5e5];
  return axisScale(
    { label: 'Frequency', unit: 'MHz', scale: 'linear' },
    [from / 1e6, to / 1e6],
    [LEFT, width - RIGHT],
    Math.max(3, Math.floor(width / 110)),
  );
};

function ends(courses: Course[], wanted: number | null): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const c of courses)
    c.values.forEach((v, k) => {
      if (v === null) return;
      const by = c.behind ? 0 : Math.min(c.expanded[k], 3);
      low = Math.min(low, v - by);
      high = Math.max(high, v + by);
    });
  if (!(low <= high)) return [0, Math.max(4, (wanted ?? 0) * 1.3)];
  if (wanted !== null) [low, high] = [Math.min(low, wanted), Math.max(high, wanted)];
  const room = Math.max(0.15, (high - low) * 0.12);
  return [low >= 0 && low < room ? 0 : low - room, high + room];
}

/** Draws noise figures or gains over frequency: each point with its ± as a band, one that was left out as a hole. */
export function drawCourses(canvas: HTMLCanvasElement, d: DrawnCourses, ink: CanvasInk): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const bottom = height - AXIS;
  const x = courseAxis(d.fromHz, d.toHz, width);
  const y = axisScale({ label: '', unit: 'dB', scale: 'linear' }, ends(d.courses, d.wanted?.db ?? null), [bottom, TOP], Math.max(3, Math.floor(height / 44))); // prettier-ignore
  c.lineWidth = 1;
  c.strokeStyle = ink.hair;
  c.beginPath();
  for (const { at } of y.ticks) {
    c.moveTo(LEFT, Math.round(at) + 0.5);
    c.lineTo(width - RIGHT, Math.round(at) + 0.5);
  }
  c.stroke();
  c.fillStyle = ink.muted;
  c.font = MONO;
  c.textAlign = 'right';
  c.textBaseline = 'middle';
  for (const { at, text } of y.ticks) c.fillText(text, LEFT - 8, at);
  c.textBaseline = 'top';
  c.textAlign = 'center';
  x.ticks.forEach(({ at, text }, k) => {
    const says = k === x.ticks.length - 1 ? `${text} MHz` : text;
    c.fillText(says, Math.min(at, width - c.measureText(says).width / 2 - 2), bottom + 5);
  });
  c.save();
  c.beginPath();
  c.rect(LEFT - 3, 0, width - LEFT - RIGHT + 6, bottom + 1);
  c.clip();
  if (d.wanted) {
    const at = Math.round(y.at(d.wanted.db)) + 0.5;
    c.strokeStyle = ink.ink;
    c.setLineDash([1, 3]);
    c.beginPath();
    c.moveTo(LEFT, at);
    c.lineTo(width - RIGHT, at);
    c.stroke();
    c.setLineDash([]);
    c.font = WORDS;
    c.fillStyle = ink.muted;
    c.textAlign = 'right';
    c.textBaseline = 'bottom';
    c.fillText(d.wanted.says, width - RIGHT, at - 3);
  }
  for (const course of [...d.courses].sort((a, b) => Number(b.behind) - Number(a.behind)))
    drawCourse(c, course, x, y);
  c.restore();
  for (const pin of d.pins) {
    const [px, py] = [x.at(pin.hz / 1e6), y.at(pin.value)];
    if (px < LEFT || px > width - RIGHT) continue;
    c.fillStyle = ink.ink;
    c.strokeStyle = ink.ink;
    c.beginPath();
    c.moveTo(px + 0.5, py - 4);
    c.lineTo(px + 0.5, py - 14);
    c.stroke();
    c.beginPath();
    c.arc(px, py, 2.5, 0, 7);
    c.fill();
    c.font = WORDS;
    c.textAlign = px > width - 120 ? 'right' : 'left';
    c.textBaseline = 'bottom';
    c.fillText(`${pin.name} ${fixed(pin.value, 2)} dB`, px + (px > width - 120 ? -4 : 4), py - 8);
  }
  if (d.atHz !== null) {
    const at = Math.round(x.at(d.atHz / 1e6)) + 0.5;
    c.strokeStyle = ink.ink;
    c.beginPath();
    c.moveTo(at, TOP);
    c.lineTo(at, bottom);
    c.stroke();
    const own = d.courses.find((k) => !k.behind);
    const k = own ? own.hz.indexOf(d.atHz) : -1;
    const value = own?.values[k];
    if (own && value !== null && value !== undefined) {
      c.fillStyle = own.colour;
      c.beginPath();
      c.arc(at, y.at(value), 4, 0, 7);
      c.fill();
    }
  }
  if (d.dragged) {
    c.fillStyle = ink.tint;
    c.globalAlpha = 0.6;
    c.fillRect(Math.min(...d.dragged), TOP, Math.abs(d.dragged[1] - d.dragged[0]), bottom - TOP);
    c.globalAlpha = 1;
  }
}

function drawCourse(c: CanvasRenderingContext2D, course: Course, x: AxisScale, y: AxisScale): void {
  const { hz, values, expanded, colour, behind, name } = course;
  /** Runs of points that are there. */
  const runs: number[][] = [];
  values.forEach((v, k) => {
    if (v === null) return;
    if (k > 0 && values[k - 1] !== null) runs[runs.length - 1].push(k);
    else runs.push([k]);
  });
  for (const run of runs) {
    const px = (k: number) => x.at(hz[k] / 1e6);
    if (!behind) {
      c.fillStyle = colour;
      c.globalAlpha = 0.14;
      c.beginPath();
      const edge = (sign: 1 | -1) => (k: number) => c.lineTo(px(k), y.at(values[k]! + sign * expanded[k]));
      if (run.length === 1)
        c.rect(px(run[0]) - 2, y.at(values[run[0]]! + expanded[run[0]]), 4, y.at(-expanded[run[0]]) - y.at(expanded[run[0]])); // prettier-ignore
      run.forEach(edge(1));
      [...run].reverse().forEach(edge(-1));
      c.fill();
      c.globalAlpha = 1;
    }
    c.strokeStyle = c.fillStyle = colour;
    c.lineWidth = behind ? 1 : 1.5;
    c.beginPath();
    run.forEach((k) => c.lineTo(px(k), y.at(values[k]!)));
    c.stroke();
    if (run.length === 1 || hz.length < 30)
      for (const k of run) {
        c.beginPath();
        c.arc(px(k), y.at(values[k]!), behind ? 1.5 : 2.5, 0, 7);
        c.fill();
      }
  }
  if (behind && runs.length) {
    const first = runs[0][0];
    c.font = WORDS;
    c.fillStyle = colour;
    c.textAlign = 'left';
    c.textBaseline = 'top';
    c.fillText(name, x.at(hz[first] / 1e6) + 4, y.at(values[first]!) + 4);
  }
}
