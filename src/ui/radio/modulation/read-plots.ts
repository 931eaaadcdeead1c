import { axisScale } from '$core/figures/scale';
import type { ModulationRead } from '$core/modulation/read';
import { bitsPerSymbol } from '$core/modulation/schemes';
import { begin, curve, LEFT, MONO, RIGHT, WORDS, type CanvasInk } from '../../plot/canvas';

/** Pictures of a capture. */
export const READ_PICTURES = {
  symbols: { name: 'Where symbols fall', says: '+ where they ought to' },
  eye: { name: 'Eye, in phase', says: 'two symbols long' },
  quadrature: { name: 'Eye, in quadrature', says: 'two symbols long' },
  vector: { name: 'Way of the vector', says: 'from symbol to symbol' },
  errors: { name: 'Error vector', says: 'each symbol, % of the rms' },
  errorsOver: { name: 'Error over frequency', says: '% in each of the lines' },
  path: { name: 'The path', says: 'level over the symbol rate, dB' },
  delay: { name: 'Group delay of the path', says: 'µs over the symbol rate' },
  table: { name: 'Symbols as a table', says: 'of this capture' },
} as const;
export type ReadPicture = keyof typeof READ_PICTURES;

interface Colours {
  ink: CanvasInk;
  front: string;
  second: string;
  third: string;
}
const LABELS_MOST = 64;

/** Draws a capture’s picture; the table is none. @param symbolHz rate of the symbols */
export function drawRead(
  canvas: HTMLCanvasElement,
  what: Exclude<ReadPicture, 'table'>,
  read: ModulationRead,
  symbolHz: number,
  colours: Colours,
): void {
  if (what === 'symbols' || what === 'vector') return plane(canvas, read, what === 'vector', colours);
  if (what === 'eye' || what === 'quadrature') return eye(canvas, read, what === 'eye' ? 0 : 1, colours);
  if (what === 'errors') return errorBars(canvas, read, colours);
  return overFrequency(canvas, what, read, symbolHz, colours);
}

/** The plane of in phase and in quadrature: as many px a unit both ways. */
function plane(
  canvas: HTMLCanvasElement,
  read: ModulationRead,
  lines: boolean,
  { ink, front }: Colours,
): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  let most = 0.5;
  for (const p of read.points) most = Math.max(most, Math.abs(p.re), Math.abs(p.im));
  const per = (Math.min(width, height) / 2 - 26) / (most * 1.22);
  const [cx, cy] = [width / 2, height / 2];
  const x = (v: number) => cx + v * per;
  const y = (v: number) => cy - v * per;
  c.strokeStyle = ink.hair;
  c.lineWidth = 1;
  c.beginPath();
  c.moveTo(12, Math.round(cy) + 0.5);
  c.lineTo(width - 12, Math.round(cy) + 0.5);
  c.moveTo(Math.round(cx) + 0.5, 8);
  c.lineTo(Math.round(cx) + 0.5, height - 8);
  c.stroke();
  if (lines) {
    c.strokeStyle = front;
    c.globalAlpha = 0.35;
    c.beginPath();
    for (let i = 0; i < read.between.length; i += 2) c.lineTo(x(read.between[i]), y(read.between[i + 1]));
    c.stroke();
    c.globalAlpha = 1;
  }
  c.fillStyle = front;
  c.globalAlpha = read.symbols.length > 400 ? 0.3 : 0.45;
  for (let k = 0; k < read.symbols.length; k++) {
    c.beginPath();
    c.arc(x(read.received[2 * k]), y(read.received[2 * k + 1]), 1.8, 0, 7);
    c.fill();
  }
  c.globalAlpha = 1;
  clusters(c, read, x, y, per, ink);
  c.strokeStyle = ink.ink;
  c.lineWidth = 1.25;
  c.font = MONO;
  c.fillStyle = ink.muted;
  const bits = bitsPerSymbol(read.points);
  read.points.forEach((p, k) => {
    const [px, py] = [x(p.re), y(p.im)];
    c.beginPath();
    c.moveTo(px - 4, py);
    c.lineTo(px + 4, py);
    c.moveTo(px, py - 4);
    c.lineTo(px, py + 4);
    c.stroke();
    if (read.points.length > LABELS_MOST / 4) return;
    c.textAlign = p.re < -1e-6 ? 'right' : 'left';
    c.textBaseline = p.im < 0 ? 'top' : 'bottom';
    c.fillText(k.toString(2).padStart(bits, '0'), px + (p.re < -1e-6 ? -14 : 14), py + (p.im < 0 ? 10 : -10));
  });
}

/** Around each ideal point twice the deviation of what fell there, drawn as a dashed line. */
function clusters(
  c: CanvasRenderingContext2D,
  read: ModulationRead,
  x: (v: number) => number,
  y: (v: number) => number,
  per: number,
  ink: CanvasInk,
): void {
  if (read.points.length > LABELS_MOST / 4) return;
  c.strokeStyle = ink.muted;
  c.setLineDash([3, 2]);
  read.points.forEach((_, p) => {
    let [n, sx, sy, xx, yy] = [0, 0, 0, 0, 0];
    for (let k = 0; k < read.symbols.length; k++) {
      if (read.symbols[k] !== p) continue;
      const [re, im] = [read.received[2 * k], read.received[2 * k + 1]];
      [n, sx, sy, xx, yy] = [n + 1, sx + re, sy + im, xx + re * re, yy + im * im];
    }
    if (n < 3) return;
    const [mx, my] = [sx / n, sy / n];
    const [dx, dy] = [Math.sqrt(Math.max(0, xx / n - mx * mx)), Math.sqrt(Math.max(0, yy / n - my * my))];
    c.beginPath();
    c.ellipse(x(mx), y(my), Math.max(2, 2 * dx * per), Math.max(2, 2 * dy * per), 0, 0, 7);
    c.stroke();
  });
  c.setLineDash([]);
}

function eye(canvas: HTMLCanvasElement, read: ModulationRead, part: 0 | 1, { ink, front }: Colours): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const bottom = height - 20;
  const { between, within } = read;
  let most = 0.1;
  for (let i = part; i < between.length; i += 2) most = Math.max(most, Math.abs(between[i]));
  const y = axisScale({ label: '', unit: '', scale: 'linear' }, [-most * 1.05, most * 1.05], [bottom, 8], 4);
  ground(c, y.ticks, width, ink);
  const span = 2 * within;
  const x = (k: number) => LEFT + (k / span) * (width - LEFT - RIGHT);
  c.strokeStyle = front;
  c.lineWidth = 1;
  const traces = Math.floor(between.length / 2 / within) - 2;
  c.globalAlpha = Math.max(0.04, Math.min(0.4, 24 / Math.max(1, traces)));
  // From half a symbol before one on: it stands in the middle of the picture.
  for (let t = 0; t < traces; t++) {
    c.beginPath();
    for (let k = 0; k <= span; k++) c.lineTo(x(k), y.at(between[2 * (t * within + k) + part]));
    c.stroke();
  }
  c.globalAlpha = 1;
  const middle = Math.round(x(within)) + 0.5;
  c.strokeStyle = ink.ink;
  c.beginPath();
  c.moveTo(middle, 8);
  c.lineTo(middle, bottom);
  c.stroke();
  c.fillStyle = ink.muted;
  c.font = WORDS;
  c.textAlign = 'center';
  c.textBaseline = 'top';
  c.fillText('read here', middle, bottom + 4);
}

function ground(
  c: CanvasRenderingContext2D,
  ticks: readonly { at: number; text: string }[],
  width: number,
  ink: CanvasInk,
): void {
  c.strokeStyle = ink.hair;
  c.lineWidth = 1;
  c.beginPath();
  for (const { at } of ticks) {
    c.moveTo(LEFT, Math.round(at) + 0.5);
    c.lineTo(width - RIGHT, Math.round(at) + 0.5);
  }
  c.stroke();
  c.font = MONO;
  c.fillStyle = ink.muted;
  c.textAlign = 'right';
  c.textBaseline = 'middle';
  for (const { at, text } of ticks) c.fillText(text, LEFT - 8, at);
}

/** Error vectors as bars; those of the pattern in a colour of their own. */
function errorBars(canvas: HTMLCanvasElement, read: ModulationRead, { ink, front, third }: Colours): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const bottom = height - 20;
  const n = read.errors.length;
  let most = 1;
  for (const e of read.errors) most = Math.max(most, e);
  const y = axisScale({ label: '', unit: '%', scale: 'linear' }, [0, most * 1.05], [bottom, 8], 3);
  ground(c, y.ticks, width, ink);
  const across = (width - LEFT - RIGHT) / n;
  const known = read.match ? read.match.length : 0;
  for (let k = 0; k < n; k++) {
    c.fillStyle = k < known ? third : front;
    c.fillRect(
      LEFT + k * across,
      y.at(read.errors[k]),
      Math.max(0.6, across - (across > 3 ? 1 : 0)),
      bottom - y.at(read.errors[k]),
    );
  }
  c.fillStyle = ink.muted;
  c.font = MONO;
  c.textBaseline = 'top';
  c.textAlign = 'left';
  c.fillText('1', LEFT, bottom + 5);
  c.textAlign = 'right';
  c.fillText(String(n), width - RIGHT, bottom + 5);
}

/** Level or delay of the path, or the errors, over frequency. */
function overFrequency(
  canvas: HTMLCanvasElement,
  what: 'errorsOver' | 'path' | 'delay',
  read: ModulationRead,
  symbolHz: number,
  { ink, front, second }: Colours,
): void {
  const started = begin(canvas);
  if (!started) return;
  const { c, width, height } = started;
  const bottom = height - 20;
  const courses: { values: Float32Array; colour: string }[] = [];
  if (what === 'errorsOver') courses.push({ values: errorSpectrum(read), colour: front });
  else if (read.path && what === 'path') {
    courses.push({ values: read.path.before, colour: read.path.after ? second : front });
    if (read.path.after) courses.push({ values: read.path.after, colour: front });
  } else if (read.path)
    courses.push({ values: read.path.delay.map((v) => (v / symbolHz) * 1e6), colour: front });
  // The edges of the band hold little of the signal: what is read there is none.
  const inner = (v: Float32Array) =>
    what === 'errorsOver' ? v : v.subarray(Math.ceil(v.length * 0.06), Math.floor(v.length * 0.94));
  let [low, high] = what === 'errorsOver' ? [0, 1] : [-1, 1];
  for (const course of courses)
    for (const v of inner(course.values)) [low, high] = [Math.min(low, v), Math.max(high, v)];
  const room = (high - low) * 0.06;
  const y = axisScale(
    { label: '', unit: '', scale: 'linear' },
    [low === 0 ? 0 : low - room, high + room],
    [bottom, 8],
    3,
  );
  ground(c, y.ticks, width, ink);
  const half = (symbolHz / 2e3) * (what === 'errorsOver' ? 1 : 0.88);
  const x = axisScale(
    { label: '', unit: 'kHz', scale: 'linear' },
    [-half, half],
    [LEFT, width - RIGHT],
    Math.max(3, Math.floor(width / 110)),
  );
  c.textBaseline = 'top';
  c.textAlign = 'center';
  x.ticks.forEach(({ at, text }, k) => {
    const says = k === x.ticks.length - 1 ? `${text} kHz` : text;
    c.fillText(says, Math.min(at, width - c.measureText(says).width / 2 - 2), bottom + 5);
  });
  for (const course of courses)
    curve(c, inner(course.values), course.colour, [LEFT, width - RIGHT], (v) => y.at(v));
}

/** Error vectors over frequency: their power in lines over the symbol rate, as a share of the rms. */
function errorSpectrum(read: ModulationRead): Float32Array {
  const lines = 64;
  const n = read.symbols.length;
  const out = new Float32Array(lines);
  const pieces = Math.max(1, Math.floor(n / lines));
  for (let p = 0; p < pieces; p++)
    for (let l = 0; l < lines; l++) {
      let [re, im] = [0, 0];
      for (let k = 0; k < lines && p * lines + k < n; k++) {
        const at = p * lines + k;
        const ideal = read.points[read.symbols[at]];
        const [er, ei] = [read.received[2 * at] - ideal.re, read.received[2 * at + 1] - ideal.im];
        const angle = -2 * Math.PI * (l / lines - 0.5) * k;
        re += er * Math.cos(angle) - ei * Math.sin(angle);
        im += er * Math.sin(angle) + ei * Math.cos(angle);
      }
      out[l] += (re * re + im * im) / lines / lines;
    }
  return out.map((v) => 100 * Math.sqrt(v / pieces));
}
