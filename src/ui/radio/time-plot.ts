import { axisScale, type AxisScale } from '$core/figures/scale';
import { fixed } from '$core/readings';
import { secondsText } from '$core/radio/words';
import { begin, dimension, LEFT, MONO, RIGHT, WORDS, type CanvasInk, curve } from '../plot/canvas';

const TOP = 10;
const AXIS = 20;

/** A unit in which a time span is read. */
export const timeUnit = (spanS: number): { by: number; unit: string } =>
  spanS < 2e-3 ? { by: 1e6, unit: 'µs' } : spanS < 2 ? { by: 1e3, unit: 'ms' } : { by: 1, unit: 's' };

export interface DrawnTime {
  /** One value a sample; NaN where there is none. */
  values: ArrayLike<number>;
  sampleRateHz: number;
  /** Sample that stands at 0 on the axis. */
  zero: number;
  colour: string;
  /** Ends of the vertical axis; those of the values where none are given. */
  range?: { low: number; high: number };
  level?: { at: number; says: string };
  /** Widths along the time, samples; `row` 0 lies above the line, 1 below it. */
  dimensions?: { from: number; to: number; says: string; row: 0 | 1; own?: boolean }[];
  /** A height between two values, at a sample. */
  height?: { at: number; from: number; to: number; says: string };
}

/** Draws samples over time with what is measured on them. */
export function drawTime(canvas: HTMLCanvasElement, d: DrawnTime, ink: CanvasInk): void {
  const started = begin(canvas);
  const n = d.values.length;
  if (!started || n < 2) return;
  const { c, width, height } = started;
  const bottom = height - AXIS;
  const { by, unit } = timeUnit(n / d.sampleRateHz);
  const x = axisScale({ label: 'Time', unit, scale: 'linear' }, [(-d.zero / d.sampleRateHz) * by, ((n - 1 - d.zero) / d.sampleRateHz) * by], [LEFT, width - RIGHT], Math.max(3, Math.floor(width / 120))); // prettier-ignore
  const { low, high } = d.range ?? endsOf(d.values);
  const y = axisScale({ label: '', unit: '', scale: 'linear' }, [low, high], [bottom, TOP], 4);
  frame(c, x, y, width, bottom, unit, ink);
  c.save();
  c.beginPath();
  c.rect(LEFT, TOP, width - LEFT - RIGHT, bottom - TOP);
  c.clip();
  curve(c, d.values, d.colour, [LEFT, width - RIGHT], (v) => y.at(v));
  c.restore();
  if (d.level) {
    const at = Math.round(y.at(d.level.at)) + 0.5;
    if (at > TOP && at < bottom) {
      c.strokeStyle = ink.ink;
      c.setLineDash([1, 3]);
      c.beginPath();
      c.moveTo(LEFT, at);
      c.lineTo(width - RIGHT, at);
      c.stroke();
      c.setLineDash([]);
      c.font = WORDS;
      c.textAlign = 'right';
      c.textBaseline = 'bottom';
      c.fillStyle = ink.muted;
      c.fillText(d.level.says, width - RIGHT - 4, at - 2);
    }
  }
  const px = (sample: number) => LEFT + (sample / (n - 1)) * (width - LEFT - RIGHT);
  for (const m of d.dimensions ?? [])
    dimension(c, {
      from: px(m.from),
      to: px(m.to),
      y: m.row === 0 ? TOP + 10 : bottom - 12,
      text: m.says,
      colour: m.own ? ink.plum : ink.ink,
      paper: ink.card,
      down: m.row === 0 ? TOP + 2 : bottom - 18,
    });
  if (d.height) tall(c, px(d.height.at), y.at(d.height.from), y.at(d.height.to), d.height.says, ink);
}

/** Ends of an axis with some room around the values. */
export function endsOf(values: ArrayLike<number>): { low: number; high: number } {
  let [low, high] = [Infinity, -Infinity];
  for (let i = 0; i < values.length; i++) {
    if (values[i] < low) low = values[i];
    if (values[i] > high) high = values[i];
  }
  if (!(low < high)) return Number.isFinite(low) ? { low: low - 1, high: low + 1 } : { low: 0, high: 1 };
  const room = (high - low) * 0.06;
  return { low: low - room, high: high + room };
}

function frame(
  c: CanvasRenderingContext2D,
  x: AxisScale,
  y: AxisScale,
  width: number,
  bottom: number,
  unit: string,
  ink: CanvasInk,
): void {
  c.strokeStyle = ink.hair;
  c.lineWidth = 1;
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
    const says = k === x.ticks.length - 1 ? `${text} ${unit}` : text;
    const half = c.measureText(says).width / 2;
    c.fillText(says, Math.min(at, width - half - 2), bottom + 5);
  });
}

/** A height as an upright dimension. */
function tall(
  c: CanvasRenderingContext2D,
  x: number,
  from: number,
  to: number,
  says: string,
  ink: CanvasInk,
): void {
  const [a, b] = from < to ? [from, to] : [to, from];
  c.strokeStyle = c.fillStyle = ink.ink;
  c.lineWidth = 1;
  c.beginPath();
  c.moveTo(x + 0.5, a);
  c.lineTo(x + 0.5, b);
  c.stroke();
  for (const [y, way] of [
    [a, 1],
    [b, -1],
  ] as const) {
    c.beginPath();
    c.moveTo(x + 0.5, y);
    c.lineTo(x - 2.5, y + way * 6);
    c.lineTo(x + 3.5, y + way * 6);
    c.fill();
  }
  c.font = MONO;
  c.textAlign = 'left';
  c.textBaseline = 'middle';
  const wide = c.measureText(says).width + 8;
  c.fillStyle = ink.card;
  c.fillRect(x + 6, (a + b) / 2 - 8, wide, 16);
  c.fillStyle = ink.ink;
  c.fillText(says, x + 10, (a + b) / 2);
}

/** How often each interval comes, as bars. */
export function drawIntervals(canvas: HTMLCanvasElement, intervals: readonly number[], ink: CanvasInk): void {
  const started = begin(canvas);
  if (!started || intervals.length === 0) return;
  const { c, width, height } = started;
  const bottom = height - AXIS;
  const mean = intervals.reduce((a, b) => a + b, 0) / intervals.length;
  const ends = endsOf(intervals);
  const half = Math.max(ends.high - mean, mean - ends.low, mean * 1e-4);
  const [low, high] = [mean - half, mean + half];
  const bars = 24;
  const counts = new Array<number>(bars).fill(0);
  for (const v of intervals)
    counts[Math.max(0, Math.min(bars - 1, Math.floor(((v - low) / (high - low)) * bars)))]++;
  const most = Math.max(...counts);
  const { by, unit } = timeUnit(mean);
  const across = (width - LEFT - RIGHT) / bars;
  const y = axisScale({ label: '', unit: '', scale: 'linear' }, [0, most], [bottom, TOP], Math.min(4, most));
  const x = axisScale({ label: '', unit, scale: 'linear' }, [low * by, high * by], [LEFT, width - RIGHT], 3);
  frame(c, x, { ...y, ticks: y.ticks.filter((t) => Number.isInteger(t.value)) }, width, bottom, unit, ink);
  c.fillStyle = ink.plum;
  counts.forEach(
    (n, k) => n && c.fillRect(LEFT + k * across + 1, y.at(n), Math.max(1, across - 2), bottom - y.at(n)),
  );
  c.font = WORDS;
  c.textAlign = 'right';
  c.textBaseline = 'top';
  c.fillStyle = ink.muted;
  c.fillText(
    `${intervals.length} intervals about ${secondsText(mean)}, ${fixed(1 / mean, mean < 1 ? 1 : 3)} a second`,
    width - RIGHT,
    TOP - 8,
  );
}

/** A heat picture of rows over columns, oldest on top. */
export function drawRows(
  canvas: HTMLCanvasElement,
  {
    rows,
    lines,
    levels,
    top,
    bottom,
  }: { rows: number; lines: number; levels: Float32Array; top: number; bottom: number },
  pixels: Uint32Array,
): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const image = document.createElement('canvas');
  [image.width, image.height] = [lines, rows];
  const own = image.getContext('2d')!;
  const data = own.createImageData(lines, rows);
  const out = new Uint32Array(data.data.buffer);
  for (let i = 0; i < out.length; i++)
    out[i] = pixels[Math.max(0, Math.min(255, Math.round(((levels[i] - bottom) / (top - bottom)) * 255)))];
  own.putImageData(data, 0, 0);
  c.imageSmoothingEnabled = false;
  c.drawImage(image, 12, TOP, width - 24, height - TOP - 6);
}
