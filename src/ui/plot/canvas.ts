export const LEFT = 52;
export const RIGHT = 16;

/** Colours by the tokens of the theme in force. */
export interface CanvasInk {
  hair: string;
  line: string;
  muted: string;
  ink: string;
  plum: string;
  card: string;
  tint: string;
  onFill: string;
  plumFill: string;
  red: string;
}
export function canvasInk(element: Element): CanvasInk {
  const style = getComputedStyle(element);
  const token = (name: string) => style.getPropertyValue(name).trim();
  return {
    hair: token('--hair'),
    line: token('--line'),
    muted: token('--muted'),
    ink: token('--ink'),
    plum: token('--plum'),
    card: token('--card'),
    tint: token('--tint'),
    onFill: token('--on-fill'),
    plumFill: token('--plum-fill'),
    red: token('--red'),
  };
}

export const MONO = '11.5px "JetBrains Mono Variable"';
export const WORDS = '11.5px "Commissioner Variable"';

/** A canvas made as sharp as the screen, cleared. @returns null while it has no size */
export function begin(
  canvas: HTMLCanvasElement,
): { c: CanvasRenderingContext2D; width: number; height: number } | null {
  const { clientWidth: width, clientHeight: height } = canvas;
  const sharp = window.devicePixelRatio || 1;
  const [w, h] = [Math.round(width * sharp), Math.round(height * sharp)];
  if (w === 0 || h === 0) return null;
  if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
  const c = canvas.getContext('2d')!;
  c.setTransform(sharp, 0, 0, sharp, 0, 0);
  c.clearRect(0, 0, width, height);
  return { c, width, height };
}

/** A dimension as in a technical drawing: a line with small arrows at its ends and what it measures on it, beside it where there is no room.
 *  @param y of the line @param down where its extension lines come from */
export function dimension(
  c: CanvasRenderingContext2D,
  {
    from,
    to,
    y,
    text,
    colour,
    paper,
    down,
  }: { from: number; to: number; y: number; text: string; colour: string; paper: string; down?: number },
): void {
  const [a, b] = from < to ? [from, to] : [to, from];
  c.strokeStyle = c.fillStyle = colour;
  c.lineWidth = 1;
  c.beginPath();
  for (const x of [a, b]) {
    c.moveTo(Math.round(x) + 0.5, down ?? y - 5);
    c.lineTo(Math.round(x) + 0.5, y + 4);
  }
  c.moveTo(a, y + 0.5);
  c.lineTo(b, y + 0.5);
  c.stroke();
  const arrow = Math.min(6, (b - a) / 3);
  if (arrow > 1.5)
    for (const [x, way] of [
      [a, 1],
      [b, -1],
    ] as const) {
      c.beginPath();
      c.moveTo(x, y + 0.5);
      c.lineTo(x + way * arrow, y - 2.5);
      c.lineTo(x + way * arrow, y + 3.5);
      c.fill();
    }
  c.font = MONO;
  const wide = c.measureText(text).width + 12;
  c.textBaseline = 'middle';
  if (wide < b - a - 16) {
    c.fillStyle = paper;
    c.fillRect((a + b) / 2 - wide / 2, y - 7, wide, 14);
    c.fillStyle = colour;
    c.textAlign = 'center';
    c.fillText(text, (a + b) / 2, y + 1);
  } else {
    const right = c.canvas.clientWidth - RIGHT;
    const after = b + wide < right;
    c.fillStyle = paper;
    c.fillRect(after ? b + 3 : a - wide - 3, y - 7, wide, 14);
    c.fillStyle = colour;
    c.textAlign = after ? 'left' : 'right';
    c.fillText(text, after ? b + 8 : a - 8, y + 1);
  }
}

/** A curve through values at equal distances: of many to a pixel the highest and lowest. A value that is no number breaks it.
 *  @param ends where the first and the last value stand, px @param y place of a value */
export function curve(
  c: CanvasRenderingContext2D,
  values: ArrayLike<number>,
  colour: string,
  [left, right]: readonly [number, number],
  y: (v: number) => number,
): void {
  const n = values.length;
  const across = (right - left) / (n - 1);
  const each = Math.max(1, Math.floor(1 / across));
  c.strokeStyle = colour;
  c.lineWidth = 1.25;
  c.lineJoin = 'round';
  c.beginPath();
  let broken = true;
  for (let i = 0; i < n; i += each) {
    let [low, high] = [Infinity, -Infinity];
    for (let k = i; k < Math.min(n, i + each); k++) {
      if (values[k] < low) low = values[k];
      if (values[k] > high) high = values[k];
    }
    if (!(low <= high)) {
      broken = true;
      continue;
    }
    // Up on even places, down on odd ones: neighbours join at their near ends.
    const up = (i / each) % 2 === 0;
    const px = left + i * across;
    const first = y(up ? low : high);
    if (broken) c.moveTo(px, first);
    else c.lineTo(px, first);
    if (each > 1) c.lineTo(px, y(up ? high : low));
    broken = false;
  }
  c.stroke();
}

/** Colours from paper to plum in 256 steps, as pixels. */
export function heatPixels([low, high]: readonly [string, string]): Uint32Array {
  const channel = (hex: string, k: number) => parseInt(hex.slice(1 + 2 * k, 3 + 2 * k), 16);
  return Uint32Array.from({ length: 256 }, (_, i) => {
    const mix = (k: number) => Math.round(channel(low, k) + ((channel(high, k) - channel(low, k)) * i) / 255);
    return ((255 << 24) | (mix(2) << 16) | (mix(1) << 8) | mix(0)) >>> 0;
  });
}
