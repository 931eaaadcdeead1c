import type { PinReading } from '$core/radio/measure';
import type { Width } from '$core/radio/widths';
import { fixed } from '$core/readings';
import { hertzText, megahertzDecimals } from '$core/radio/words';
import type { BandPlan } from '$core/radio/resolution';
import { begin, dimension, LEFT, MONO, RIGHT, WORDS, type CanvasInk, curve } from '../plot/canvas';
import { frequencyAxis, levelAxis } from './canvas';

export interface DrawnLine {
  levels: ArrayLike<number>;
  colour: string;
  faint?: boolean;
  /** A difference, dB about the middle of the picture. */
  apart?: boolean;
}
export interface DrawnBand {
  plan: BandPlan;
  top: number;
  height: number;
  lines: DrawnLine[];
  pins: PinReading[];
  /** Peaks without a pin: each is labelled with its frequency where there is room. */
  peaks: { hz: number; level: number }[];
  /** Pin to which the chosen one is compared, and that one. */
  to: number;
  chosen: number;
  level: number | null;
  limits: { name: string; points: { hz: number; level: number }[] }[];
  /** Dimensions under the axis: widths and powers. */
  dimensions: { width: Pick<Width, 'lowHz' | 'highHz'>; says: string; own: boolean; row: number }[];
  /** What is being dragged open. */
  region: { fromHz: number; toHz: number } | null;
  doubtful: boolean;
  aside: string;
}

const TOP = 12;
const AXIS = 20;
const ROW = 20;
const PIN = 9;

/** Where things stand, for the pointer. */
export interface BandPlaces {
  hzAt(x: number): number;
  levelAt(y: number): number;
  pinAt(x: number, y: number): number | null;
  onLevel(y: number): boolean;
  inside(x: number, y: number): boolean;
}

/** Draws a band: lines on paper, pins that stand on them, and what is measured as dimensions. */
export function drawBand(canvas: HTMLCanvasElement, d: DrawnBand, ink: CanvasInk): BandPlaces | null {
  const started = begin(canvas);
  if (!started) return null;
  const { c, width, height } = started;
  const rows = d.dimensions.length ? Math.max(...d.dimensions.map((m) => m.row)) + 1 : 0;
  const bottom = height - AXIS - rows * ROW;
  const { startHz, stepHz, lines } = d.plan;
  const x = frequencyAxis(startHz, startHz + (lines - 1) * stepHz, width);
  const y = levelAxis(d.top, d.height, [TOP, bottom]);
  grid(c, x.ticks, y.ticks, width, bottom, ink);
  c.save();
  c.beginPath();
  c.rect(LEFT, TOP, width - LEFT - RIGHT, bottom - TOP);
  c.clip();
  for (const limit of d.limits)
    drawLimit(
      c,
      limit.points,
      (hz) => x.at(hz / 1e6),
      (v) => y.at(v),
      ink,
    );
  // The first one is drawn last: it lies over the others.
  for (const line of [...d.lines].reverse()) {
    const at = line.apart ? (v: number) => y.at(d.top - d.height / 2 + v) : (v: number) => y.at(v);
    drawLine(c, line, [LEFT, width - RIGHT], at, d.doubtful);
  }
  c.restore();
  for (const limit of d.limits)
    nameLimit(
      c,
      limit,
      (hz) => x.at(hz / 1e6),
      (v) => y.at(v),
      ink,
    );
  if (d.level !== null)
    levelLine(c, y.at(d.level), width, `${fixed(d.level, 1)} dBm${d.aside ? ` · ${d.aside}` : ''}`, ink);
  for (const m of d.dimensions) {
    const mid = bottom + AXIS + m.row * ROW + ROW / 2 - 2;
    const [a, b] = [x.at(m.width.lowHz / 1e6), x.at(m.width.highHz / 1e6)];
    const down = m.own ? bottom + AXIS - 3 : mid - 5;
    if (Number.isFinite(a) && Number.isFinite(b))
      dimension(c, {
        from: a,
        to: b,
        y: mid,
        text: m.says,
        colour: m.own ? ink.plum : ink.ink,
        paper: ink.card,
        down,
      });
  }
  const places = d.pins.map((p) => ({ id: p.id, x: x.at(p.hz / 1e6), y: y.at(p.level) }));
  const [one, other] = [d.to, d.chosen].map((id) => d.pins.find((p) => p.id === id));
  if (one && other && one !== other)
    dimension(c, {
      from: x.at(one.hz / 1e6),
      to: x.at(other.hz / 1e6),
      y: TOP + 10,
      text: `${hertzText(Math.abs(other.hz - one.hz))} · ${signed(other.level - one.level)} dB`,
      colour: ink.ink,
      paper: ink.card,
    });
  const stands = places.map((p) => drawPin(c, p, p.id === d.to, ink, bottom));
  labelPeaks(c, d, stands, (hz) => x.at(hz / 1e6), y.at, width, ink);
  if (d.region) {
    const [a, b] = [x.at(d.region.fromHz / 1e6), x.at(d.region.toHz / 1e6)];
    c.fillStyle = ink.tint;
    c.globalAlpha = 0.6;
    c.fillRect(Math.min(a, b), TOP, Math.abs(b - a), bottom - TOP);
    c.globalAlpha = 1;
    c.strokeStyle = ink.plum;
    c.strokeRect(Math.min(a, b) + 0.5, TOP + 0.5, Math.abs(b - a), bottom - TOP);
  }
  return {
    hzAt: (px) => x.valueAt(px) * 1e6,
    levelAt: (py) => y.valueAt(py),
    pinAt: (px, py) => stands.find((s) => Math.hypot(s.x - px, s.y - py) <= PIN + 3)?.id ?? null,
    onLevel: (py) => d.level !== null && Math.abs(y.at(d.level) - py) < 5,
    inside: (px, py) => px >= LEFT && px <= width - RIGHT && py >= TOP && py <= bottom,
  };
}

/** Frequencies at their peaks, the highest first; one that would lie over another or over a pin is left out. */
function labelPeaks(
  c: CanvasRenderingContext2D,
  d: DrawnBand,
  pins: readonly { x: number; y: number }[],
  x: (hz: number) => number,
  y: (level: number) => number,
  width: number,
  ink: CanvasInk,
): void {
  const taken = pins.map((p) => ({ x: p.x, y: p.y, half: PIN + 2 }));
  const decimals = megahertzDecimals(d.plan.stepHz);
  c.font = MONO;
  c.fillStyle = ink.muted;
  c.textAlign = 'center';
  c.textBaseline = 'bottom';
  for (const peak of [...d.peaks].sort((a, b) => b.level - a.level)) {
    const text = fixed(peak.hz / 1e6, decimals);
    const half = c.measureText(text).width / 2 + 3;
    const [px, py] = [x(peak.hz), y(peak.level) - 5];
    if (px - half < LEFT || px + half > width - RIGHT || py < TOP + 24) continue;
    if (taken.some((t) => Math.abs(t.x - px) < t.half + half && Math.abs(t.y - py) < 18)) continue;
    // Read over whatever line lies behind it.
    c.globalAlpha = 0.75;
    c.fillStyle = ink.card;
    c.fillRect(px - half, py - 13, 2 * half, 13);
    c.globalAlpha = 1;
    c.fillStyle = ink.muted;
    c.fillText(text, px, py);
    taken.push({ x: px, y: py, half });
  }
}

const signed = (v: number) => (v >= 0 ? `+${fixed(v, 1)}` : fixed(v, 1));

function grid(
  c: CanvasRenderingContext2D,
  xs: { at: number; text: string }[],
  ys: { at: number; text: string }[],
  width: number,
  bottom: number,
  ink: CanvasInk,
): void {
  c.strokeStyle = ink.hair;
  c.lineWidth = 1;
  c.beginPath();
  for (const { at } of ys) {
    c.moveTo(LEFT, Math.round(at) + 0.5);
    c.lineTo(width - RIGHT, Math.round(at) + 0.5);
  }
  for (const { at } of xs) {
    c.moveTo(Math.round(at) + 0.5, TOP);
    c.lineTo(Math.round(at) + 0.5, bottom);
  }
  c.stroke();
  c.fillStyle = ink.muted;
  c.font = MONO;
  c.textAlign = 'right';
  c.textBaseline = 'middle';
  for (const { at, text } of ys) c.fillText(text, LEFT - 8, at);
  c.textBaseline = 'top';
  xs.forEach(({ at, text }, k) => {
    const last = k === xs.length - 1;
    const says = last ? `${text} MHz` : text;
    const half = c.measureText(says).width / 2;
    c.textAlign = 'center';
    c.fillText(says, Math.min(at, width - half - 2), bottom + 5);
  });
}

/** A line over the band. */
function drawLine(
  c: CanvasRenderingContext2D,
  { levels, colour, faint }: DrawnLine,
  ends: [number, number],
  y: (v: number) => number,
  doubtful: boolean,
): void {
  c.globalAlpha = faint ? 0.55 : 1;
  c.setLineDash(doubtful ? [4, 3] : []);
  curve(c, levels, colour, ends, y);
  c.setLineDash([]);
  c.globalAlpha = 1;
}

function levelLine(
  c: CanvasRenderingContext2D,
  y: number,
  width: number,
  says: string,
  ink: CanvasInk,
): void {
  c.strokeStyle = ink.ink;
  c.setLineDash([1, 3]);
  c.beginPath();
  c.moveTo(LEFT, Math.round(y) + 0.5);
  c.lineTo(width - RIGHT, Math.round(y) + 0.5);
  c.stroke();
  c.setLineDash([]);
  c.font = WORDS;
  c.textAlign = 'right';
  c.textBaseline = 'bottom';
  const wide = c.measureText(says).width;
  c.fillStyle = ink.card;
  c.globalAlpha = 0.8;
  c.fillRect(width - RIGHT - wide - 6, y - 17, wide + 6, 15);
  c.globalAlpha = 1;
  c.fillStyle = ink.muted;
  c.fillText(says, width - RIGHT - 3, y - 3);
}

/** A limit drawn like ground in a section: hatched on the forbidden side. */
function drawLimit(
  c: CanvasRenderingContext2D,
  points: { hz: number; level: number }[],
  x: (hz: number) => number,
  y: (v: number) => number,
  ink: CanvasInk,
): void {
  c.strokeStyle = ink.red;
  c.lineWidth = 1.25;
  c.beginPath();
  points.forEach((p, k) => (k ? c.lineTo(x(p.hz), y(p.level)) : c.moveTo(x(p.hz), y(p.level))));
  c.stroke();
  c.lineWidth = 0.75;
  c.beginPath();
  for (let k = 1; k < points.length; k++) {
    const [a, b] = [points[k - 1], points[k]];
    const [from, to] = [x(a.hz), x(b.hz)];
    for (let px = Math.ceil(from / 7) * 7; px < to; px += 7) {
      const py = y(a.level + ((px - from) / (to - from)) * (b.level - a.level));
      c.moveTo(px, py);
      c.lineTo(px + 6, py - 8);
    }
  }
  c.stroke();
}
function nameLimit(
  c: CanvasRenderingContext2D,
  { name, points }: { name: string; points: { hz: number; level: number }[] },
  x: (hz: number) => number,
  y: (v: number) => number,
  ink: CanvasInk,
): void {
  const at = points.find((p) => x(p.hz) >= LEFT) ?? points[0];
  c.font = WORDS;
  c.fillStyle = ink.red;
  c.textAlign = 'left';
  c.textBaseline = 'top';
  c.fillText(name, Math.max(LEFT + 4, x(at.hz) + 4), y(at.level) + 4);
}

/** A pin that stands on its line. @returns where its head is */
function drawPin(
  c: CanvasRenderingContext2D,
  { id, x, y }: { id: number; x: number; y: number },
  first: boolean,
  ink: CanvasInk,
  bottom: number,
): { id: number; x: number; y: number } {
  const foot = Math.max(TOP + 30, Math.min(bottom, y));
  const head = Math.max(TOP + PIN + 20, foot - 24);
  c.strokeStyle = c.fillStyle = first ? ink.plumFill : ink.ink;
  c.lineWidth = 1.25;
  c.beginPath();
  c.moveTo(x, foot);
  c.lineTo(x, head);
  c.stroke();
  c.beginPath();
  c.arc(x, head, PIN, 0, 2 * Math.PI);
  c.fill();
  c.fillStyle = first ? ink.onFill : ink.card;
  c.font = '600 11.5px "Commissioner Variable"';
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  c.fillText(String(id), x, head + 0.5);
  return { id, x, y: head };
}
