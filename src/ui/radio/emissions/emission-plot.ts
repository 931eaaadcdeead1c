import { columnsOf, limitCorners, logTicks, tickText } from '$core/emissions/picture';
import type { LimitLine } from '$core/emissions/limits';
import type { EmissionLine, Suspect } from '$contract/radio-emissions';
import { begin, LEFT, MONO, RIGHT, WORDS, type CanvasInk } from '../../plot/canvas';

const TOP = 26;
const AXIS = 18;

export interface DrawnEmissions {
  fromHz: number;
  toHz: number;
  /** Edges of the ranges, Hz. */
  edges: number[];
  /** Looks: the first stands out, the others lie behind. */
  looks: { lines: readonly EmissionLine[]; name: string }[];
  limits: readonly LimitLine[];
  suspects: readonly Suspect[];
  chosen: number | null;
}

const scaleX = (d: Pick<DrawnEmissions, 'fromHz' | 'toHz'>, width: number) => {
  const per = (width - LEFT - RIGHT) / Math.log(d.toHz / d.fromHz);
  return (hz: number) => LEFT + Math.log(hz / d.fromHz) * per;
};
/** Ends of the vertical axis, whole twenties. */
function ends(d: DrawnEmissions, columns: Float32Array[]): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  const see = (v: number) => {
    if (v < low) low = v;
    if (v > high) high = v;
  };
  for (const c of columns) for (const v of c) if (Number.isFinite(v)) see(v);
  for (const l of d.limits) for (const p of l.points) if (p.hz >= d.fromHz && p.hz <= d.toHz) see(p.level);
  if (!(low <= high)) return [0, 80];
  return [Math.floor((low - 1) / 20) * 20, Math.ceil((high + 4) / 20) * 20];
}

/** Draws looks over a logarithmic axis: limits like ground in a section, hatched on the forbidden side; suspects as pins. @returns where the pins’ heads are */
export function drawEmissions(
  canvas: HTMLCanvasElement,
  d: DrawnEmissions,
  ink: CanvasInk,
): { id: number; x: number; y: number }[] {
  const started = begin(canvas);
  if (!started) return [];
  const { c, width, height } = started;
  const bottom = height - AXIS;
  const x = scaleX(d, width);
  const count = Math.max(50, Math.floor(width - LEFT - RIGHT));
  const looks = d.looks.map((look) => look.lines.map((l) => columnsOf(l, d.fromHz, d.toHz, count)));
  const [low, high] = ends(d, looks.flat());
  const y = (v: number) => TOP + ((high - v) / (high - low)) * (bottom - TOP);
  c.lineWidth = 1;
  c.strokeStyle = ink.hair;
  c.beginPath();
  for (let v = low; v <= high; v += 20) {
    c.moveTo(LEFT, Math.round(y(v)) + 0.5);
    c.lineTo(width - RIGHT, Math.round(y(v)) + 0.5);
  }
  const ticks = logTicks(d.fromHz, d.toHz, 3).filter((t) => t.major);
  for (const hz of [...ticks.map((t) => t.hz), ...d.edges]) {
    c.moveTo(Math.round(x(hz)) + 0.5, TOP - 8);
    c.lineTo(Math.round(x(hz)) + 0.5, bottom);
  }
  c.stroke();
  c.font = MONO;
  c.fillStyle = ink.muted;
  c.textAlign = 'right';
  c.textBaseline = 'middle';
  for (let v = low; v <= high; v += 20) c.fillText(String(v).replace('-', '−'), LEFT - 8, y(v));
  c.textBaseline = 'top';
  c.textAlign = 'center';
  const end = ` MHz`;
  c.fillText(end, width - RIGHT - 12, bottom + 4);
  let free = -Infinity;
  const most = width - RIGHT - 34;
  for (const { hz } of ticks) {
    const half = c.measureText(tickText(hz)).width / 2;
    if (x(hz) - half < free || x(hz) + half > most) continue;
    c.fillText(tickText(hz), x(hz), bottom + 4);
    free = x(hz) + half + 10;
  }
  [...looks].reverse().forEach((columns, k) => {
    const front = k === looks.length - 1;
    c.strokeStyle = front ? ink.plum : ink.muted;
    c.globalAlpha = front ? 1 : 0.5;
    c.lineWidth = 1;
    for (const column of columns) {
      c.beginPath();
      let broken = true;
      for (let p = 0; p < count; p++) {
        const [least, top] = [column[2 * p], column[2 * p + 1]];
        if (!Number.isFinite(least)) {
          // A narrow range has columns without a line of its own: what is beside them is joined.
          continue;
        }
        const px = LEFT + p + 0.5;
        if (broken) c.moveTo(px, y(least));
        else c.lineTo(px, y(least));
        c.lineTo(px, y(top));
        broken = false;
      }
      c.stroke();
    }
  });
  c.globalAlpha = 1;
  for (const limit of d.limits) drawLimit(c, limit, d, x, y, ink);
  return drawPins(c, d, x, y, ink, width);
}

/** A limit with its forbidden side hatched. */
function drawLimit(
  c: CanvasRenderingContext2D,
  limit: LimitLine,
  d: DrawnEmissions,
  x: (hz: number) => number,
  y: (v: number) => number,
  ink: CanvasInk,
): void {
  const corners = limitCorners(limit, d.fromHz, d.toHz);
  if (corners.length < 2) return;
  const dashed = limit.detector === 'average';
  c.strokeStyle = ink.ink;
  c.lineWidth = dashed ? 1 : 1.5;
  c.setLineDash(dashed ? [5, 3] : []);
  c.beginPath();
  for (const p of corners) c.lineTo(x(p.hz), y(p.level));
  c.stroke();
  c.setLineDash([]);
  c.strokeStyle = ink.muted;
  c.lineWidth = 0.75;
  c.globalAlpha = dashed ? 0.35 : 0.7;
  c.beginPath();
  for (let k = 1; k < corners.length; k++) {
    const [a, b] = [corners[k - 1], corners[k]];
    const [from, to] = [x(a.hz), x(b.hz)];
    for (let px = Math.ceil(from / 8) * 8; px < to; px += 8) {
      const py = y(a.level + ((px - from) / (to - from)) * (b.level - a.level));
      c.moveTo(px, py);
      c.lineTo(px + 6, py - 8);
    }
  }
  c.stroke();
  c.globalAlpha = 1;
}

/** Suspects as pins; heads that would lie over each other stand higher. */
function drawPins(
  c: CanvasRenderingContext2D,
  d: DrawnEmissions,
  x: (hz: number) => number,
  y: (v: number) => number,
  ink: CanvasInk,
  width: number,
): { id: number; x: number; y: number }[] {
  const heads: { id: number; x: number; y: number }[] = [];
  const order = [...d.suspects]
    .filter((s) => s.hz >= d.fromHz && s.hz <= d.toHz)
    .sort((a, b) => Number(b.id === d.chosen) - Number(a.id === d.chosen) || a.id - b.id);
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  for (const s of order) {
    const px = Math.max(LEFT + 6, Math.min(width - RIGHT - 6, x(s.hz)));
    const tip = y(s.level);
    let py = Math.max(10, tip - 16);
    for (let tries = 0; tries < 6 && heads.some((h) => Math.hypot(h.x - px, h.y - py) < 17); tries++)
      py -= 17;
    if (py < 9) continue;
    const colour = s.room < 0 && !s.ambient ? ink.red : ink.muted;
    c.strokeStyle = c.fillStyle = colour;
    c.lineWidth = 1;
    c.globalAlpha = s.ambient && s.id !== d.chosen ? 0.6 : 1;
    c.beginPath();
    c.moveTo(px, tip);
    c.lineTo(px, py);
    c.stroke();
    c.beginPath();
    c.arc(px, py, s.id === d.chosen ? 9.5 : 8, 0, 7);
    if (s.ambient) {
      // What is none of the device’s own is hollow.
      c.fillStyle = ink.card;
      c.fill();
      c.stroke();
      c.fillStyle = colour;
    } else {
      c.fill();
      c.fillStyle = ink.card;
    }
    c.font = `600 ${WORDS}`;
    c.fillText(String(s.id), px, py + 0.5);
    c.globalAlpha = 1;
    heads.push({ id: s.id, x: px, y: py });
  }
  return heads;
}
