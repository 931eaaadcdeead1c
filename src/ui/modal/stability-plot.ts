import { axisScale, type AxisScale } from '$core/figures/scale';
import type { JudgedOrder, PlaceOfPole } from '$core/modal/stability';
import { begin, curve, MONO, WORDS, type CanvasInk } from '../plot/canvas';

export const LEFT = 44;
export const RIGHT = 14;
const TOP = 26;
const AXIS = 22;

/** A curve over the lines, drawn behind the poles. */
export interface Behind {
  name: string;
  values: Float64Array;
  colour: string;
  /** Its own height: an indicator from 0 to 1 rather than a power. */
  plain?: boolean;
}
export interface DrawnStability {
  hz: Float64Array;
  behind: Behind[];
  orders: readonly JudgedOrder[];
  topOrder: number;
  band: { from: number; to: number };
  /** What stands at the band’s edges. */
  edges: { from: string; to: string };
  span: { from: number; to: number };
  picked: { order: number; hz: number; name: string; out: boolean }[];
  suggested: { order: number; hz: number; harmonic: boolean; multiple: number | null }[];
  hover: { order: number; hz: number } | null;
  /** Column that is dragged over, Hz. */
  column: [number, number] | null;
  /** Number of poles in equal parts of the band; null: not shown. */
  density: Uint32Array | null;
}

export const hzAxis = (span: { from: number; to: number }, width: number): AxisScale =>
  axisScale(
    { label: 'Frequency', unit: 'Hz', scale: 'linear' },
    [span.from, span.to],
    [LEFT, width - RIGHT],
    Math.max(3, Math.floor(width / 90)),
  );
export const orderAxis = (topOrder: number, height: number): AxisScale =>
  axisScale(
    { label: 'Order', unit: '', scale: 'linear' },
    [0, topOrder * 1.1],
    [height - AXIS, TOP],
    Math.max(3, Math.floor(height / 70)),
  );

/** The pole under the pointer: the nearest within reach. */
export function poleAt(
  orders: readonly JudgedOrder[],
  x: AxisScale,
  y: AxisScale,
  px: number,
  py: number,
  reach = 9,
): PlaceOfPole | null {
  let best: (PlaceOfPole & { far: number }) | null = null;
  for (const { order, poles } of orders) {
    const dy = y.at(order) - py;
    if (Math.abs(dy) > reach) continue;
    poles.forEach((pole, index) => {
      const far = Math.hypot(x.at(pole.hz) - px, dy);
      if (far <= reach && (!best || far < best.far)) best = { order, index, far };
    });
  }
  return best;
}

/** A pole’s mark: a point that fills as it comes to rest. */
function mark(c: CanvasRenderingContext2D, x: number, y: number, rest: number, ink: CanvasInk): void {
  if (rest === 0) {
    c.fillStyle = ink.muted;
    c.globalAlpha = 0.6;
    c.fillRect(x - 1, y - 1, 2, 2);
    c.globalAlpha = 1;
    return;
  }
  const r = 3.2;
  c.strokeStyle = ink.plum;
  c.fillStyle = rest === 3 ? ink.plum : ink.card;
  c.lineWidth = 1.2;
  c.beginPath();
  c.arc(x, y, r, 0, 2 * Math.PI);
  c.fill();
  c.stroke();
  if (rest === 2) {
    c.fillStyle = ink.plum;
    c.beginPath();
    c.arc(x, y, r, 0, Math.PI);
    c.fill();
  }
}

/** Draws the stabilization diagram: the sum and indicators behind, poles over order before them, the band’s edges, what is picked. */
export function drawStability(canvas: HTMLCanvasElement, d: DrawnStability, ink: CanvasInk): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const bottom = height - AXIS;
  const [x, y] = [hzAxis(d.span, width), orderAxis(d.topOrder, height)];
  const right = width - RIGHT;
  const [from, to] = [Math.max(LEFT, x.at(d.band.from)), Math.min(right, x.at(d.band.to))];
  c.fillStyle = ink.tint;
  c.globalAlpha = 0.45;
  c.fillRect(from, TOP, Math.max(0, to - from), bottom - TOP);
  c.globalAlpha = 1;
  if (d.column) {
    const [a, b] = d.column.map((hz) => x.at(hz));
    c.fillStyle = ink.plum;
    c.globalAlpha = 0.12;
    c.fillRect(Math.min(a, b), TOP, Math.abs(b - a), bottom - TOP);
    c.globalAlpha = 1;
  }
  c.strokeStyle = ink.hair;
  c.lineWidth = 1;
  c.beginPath();
  for (const { at } of x.ticks) {
    c.moveTo(Math.round(at) + 0.5, TOP);
    c.lineTo(Math.round(at) + 0.5, bottom);
  }
  c.stroke();
  c.font = MONO;
  c.fillStyle = ink.muted;
  c.textBaseline = 'middle';
  c.textAlign = 'right';
  for (const { at, value } of y.ticks) if (value > 0 && Number.isInteger(value)) c.fillText(String(value), LEFT - 10, at); // prettier-ignore
  c.textBaseline = 'top';
  x.ticks.forEach(({ at, text }, k) => {
    const last = k === x.ticks.length - 1;
    const says = last ? `${text} Hz` : text;
    const half = c.measureText(says).width / 2;
    c.textAlign = 'center';
    c.fillText(says, Math.min(at, width - half - 2), bottom + 6);
  });
  c.font = WORDS;
  c.textAlign = 'right';
  c.textBaseline = 'bottom';
  c.fillText('order', LEFT - 10, TOP - 3);
  c.save();
  c.beginPath();
  c.rect(LEFT, TOP - 2, right - LEFT, bottom - TOP + 3);
  c.clip();
  if (d.density) drawDensity(c, d.density, [x.at(d.band.from), x.at(d.band.to)], bottom, ink);
  drawBehind(c, d, x, [bottom - 4, TOP + 0.28 * (bottom - TOP)]);
  for (const { order, poles } of d.orders)
    for (const pole of poles) mark(c, x.at(pole.hz), y.at(order), pole.rest, ink);
  c.restore();
  drawEdges(c, d, [x.at(d.band.from), x.at(d.band.to)], bottom, ink, right);
  drawChosen(c, d, x, y, ink);
}

function drawBehind(
  c: CanvasRenderingContext2D,
  { hz, behind, span }: DrawnStability,
  x: AxisScale,
  [low, high]: [number, number],
): void {
  const step = hz.length > 1 ? hz[1] - hz[0] : 1;
  const first = Math.max(1, Math.floor(span.from / step));
  const last = Math.min(hz.length - 1, Math.ceil(span.to / step));
  if (last - first < 2) return;
  for (const { values, colour, plain } of behind) {
    const seen = values.subarray(first, last + 1);
    const level = plain ? seen : seen.map((v) => Math.log10(Math.max(v, 1e-300)));
    let [min, max] = plain ? [0, 1] : [Infinity, -Infinity];
    if (!plain) for (const v of level) if (v > -290) [min, max] = [Math.min(min, v), Math.max(max, v)]; // prettier-ignore
    if (!(max > min)) continue;
    curve(c, level, colour, [x.at(hz[first]), x.at(hz[last])], (v) => low + ((v - min) / (max - min)) * (high - low)); // prettier-ignore
  }
}

function drawDensity(
  c: CanvasRenderingContext2D,
  density: Uint32Array,
  [from, to]: [number, number],
  bottom: number,
  ink: CanvasInk,
): void {
  const most = Math.max(1, ...density);
  const wide = (to - from) / density.length;
  c.fillStyle = ink.plum;
  c.globalAlpha = 0.28;
  density.forEach((n, k) => {
    const tall = (28 * n) / most;
    if (n > 0) c.fillRect(from + k * wide, bottom - tall, Math.max(1, wide - 0.5), tall);
  });
  c.globalAlpha = 1;
}

function drawEdges(
  c: CanvasRenderingContext2D,
  { edges }: DrawnStability,
  [from, to]: [number, number],
  bottom: number,
  ink: CanvasInk,
  right: number,
): void {
  c.strokeStyle = c.fillStyle = ink.plum;
  c.lineWidth = 1.5;
  c.font = WORDS;
  c.textBaseline = 'top';
  for (const [at, says, side] of [
    [from, edges.from, 1],
    [to, edges.to, -1],
  ] as const) {
    if (at < LEFT - 1 || at > right + 1) continue;
    c.beginPath();
    c.moveTo(Math.round(at), TOP);
    c.lineTo(Math.round(at), bottom);
    c.stroke();
    c.textAlign = side > 0 ? 'left' : 'right';
    const wide = c.measureText(says).width;
    if (to - from > 2.4 * wide) c.fillText(says, at + side * 6, TOP + 3);
  }
}

function drawChosen(
  c: CanvasRenderingContext2D,
  d: DrawnStability,
  x: AxisScale,
  y: AxisScale,
  ink: CanvasInk,
): void {
  c.font = WORDS;
  c.textBaseline = 'middle';
  c.textAlign = 'left';
  c.lineWidth = 1.4;
  for (const s of d.suggested) {
    c.strokeStyle = s.harmonic ? ink.muted : ink.plum;
    c.setLineDash([2, 3]);
    c.beginPath();
    c.arc(x.at(s.hz), y.at(s.order), 7.5, 0, 2 * Math.PI);
    c.stroke();
    c.setLineDash([]);
    if (s.harmonic) {
      c.fillStyle = ink.muted;
      c.fillText(s.multiple ? `harmonic ${s.multiple}` : 'harmonic', x.at(s.hz) + 11, y.at(s.order));
    }
  }
  d.picked.forEach((p, k) => {
    const [px, py] = [x.at(p.hz), y.at(p.order)];
    c.strokeStyle = p.out ? ink.muted : ink.ink;
    c.beginPath();
    c.arc(px, py, 7.5, 0, 2 * Math.PI);
    c.stroke();
    c.fillStyle = ink.card;
    const says = String(k + 1);
    c.font = `600 ${WORDS}`;
    c.globalAlpha = 0.85;
    c.fillRect(px + 9, py - 7, c.measureText(says).width + 5, 14);
    c.globalAlpha = 1;
    c.fillStyle = p.out ? ink.muted : ink.ink;
    c.fillText(says, px + 11.5, py + 0.5);
    c.font = WORDS;
  });
  if (d.hover) {
    c.strokeStyle = ink.plum;
    c.beginPath();
    c.arc(x.at(d.hover.hz), y.at(d.hover.order), 5.5, 0, 2 * Math.PI);
    c.stroke();
  }
}
