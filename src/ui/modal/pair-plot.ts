import { axisScale } from '$core/figures/scale';
import { begin, curve, MONO, type CanvasInk } from '../plot/canvas';

const LEFT = 8;
const RIGHT = 8;
const AXIS = 18;
const TOP = 6;

export interface PairCourse {
  values: ArrayLike<number>;
  colour: string;
}
export interface DrawnPair {
  /** First and last of the axis. */
  from: number;
  to: number;
  unit: string;
  /** Values over the axis, evenly; those of a picture in decibels are powers already in dB. */
  courses: PairCourse[];
  /** From low to high; null: what the courses have. */
  ends: [number, number] | null;
  /** Zero in the middle, drawn as a line. */
  zero: boolean;
}

/** A small picture of one or several courses over an even axis, without numbers upward: what counts is how they lie over each other. */
export function drawPair(canvas: HTMLCanvasElement, d: DrawnPair, ink: CanvasInk): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const bottom = height - AXIS;
  const x = axisScale({ label: '', unit: d.unit, scale: 'linear' }, [d.from, d.to], [LEFT, width - RIGHT], Math.max(width > 200 ? 3 : 2, Math.floor(width / 80))); // prettier-ignore
  let [low, high] = d.ends ?? [Infinity, -Infinity];
  if (!d.ends)
    for (const { values } of d.courses)
      for (let k = 0; k < values.length; k++)
        if (Number.isFinite(values[k])) [low, high] = [Math.min(low, values[k]), Math.max(high, values[k])];
  if (!(high > low)) [low, high] = [0, 1];
  if (d.zero) [low, high] = [-Math.max(-low, high), Math.max(-low, high)];
  const y = (v: number) => bottom - ((v - low) / (high - low)) * (bottom - TOP);
  c.strokeStyle = ink.hair;
  c.lineWidth = 1;
  c.beginPath();
  for (const { at } of x.ticks) {
    c.moveTo(Math.round(at) + 0.5, TOP);
    c.lineTo(Math.round(at) + 0.5, bottom);
  }
  if (d.zero) {
    c.moveTo(LEFT, Math.round(y(0)) + 0.5);
    c.lineTo(width - RIGHT, Math.round(y(0)) + 0.5);
  }
  c.stroke();
  c.font = MONO;
  c.fillStyle = ink.muted;
  c.textBaseline = 'top';
  x.ticks.forEach(({ at, text }, k) => {
    const says = k === x.ticks.length - 1 ? `${text} ${d.unit}` : text;
    const half = c.measureText(says).width / 2;
    c.textAlign = 'center';
    c.fillText(says, Math.max(half + 1, Math.min(at, width - half - 2)), bottom + 4);
  });
  c.save();
  c.beginPath();
  c.rect(LEFT, 0, width - LEFT - RIGHT, bottom + 1);
  c.clip();
  for (const { values, colour } of d.courses)
    if (values.length > 1) curve(c, values, colour, [LEFT, width - RIGHT], y);
  c.restore();
}

/** Sizes of complex values in decibels. */
export const inDb = (re: ArrayLike<number>, im: ArrayLike<number>): Float64Array =>
  Float64Array.from({ length: re.length }, (_, k) => 10 * Math.log10(re[k] ** 2 + im[k] ** 2 + 1e-300));
