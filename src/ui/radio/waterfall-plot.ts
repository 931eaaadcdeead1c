import type { Waterfall } from '$core/radio/waterfall';
import { begin, LEFT, MONO, RIGHT, type CanvasInk } from '../plot/canvas';
import { secondsText } from '$core/radio/words';

/** Rows of a waterfall as they were coloured: the highest of the lines of each pixel, 0 to 255. */
interface Coloured {
  of: string;
  cells: Uint8Array;
}

/** Draws a waterfall from now downwards, and the pointer in it. */
export class WaterfallPlot {
  private coloured = new WeakMap<Int16Array, Coloured>();
  private image: HTMLCanvasElement = document.createElement('canvas');

  /** @param span s from the top to the bottom @param pixels heat colours @returns time at a place, s */
  draw(
    canvas: HTMLCanvasElement,
    {
      waterfall,
      spanS,
      top,
      height,
      pointerS,
    }: { waterfall: Waterfall; spanS: number; top: number; height: number; pointerS: number | null },
    pixels: Uint32Array,
    ink: CanvasInk,
  ): ((y: number) => number) | null {
    const started = begin(canvas);
    const all = waterfall.span;
    if (!started || !all) return null;
    const { c, width } = started;
    const tall = started.height;
    const columns = Math.max(1, Math.round(width - LEFT - RIGHT));
    const { image } = this;
    if (image.width !== columns || image.height !== tall) [image.width, image.height] = [columns, tall];
    const own = image.getContext('2d')!;
    const data = own.createImageData(columns, tall);
    const out = new Uint32Array(data.data.buffer);
    const now = all.toS;
    const scale = `${columns} ${top} ${height}`;
    let place = waterfall.length - 1;
    for (let y = 0; y < tall; y++) {
      const t = now - ((y + 0.5) / tall) * spanS;
      if (t < all.fromS) break;
      while (place > 0 && waterfall.row(place).fromS > t) place--;
      const row = waterfall.row(place);
      const cells = this.cellsOf(row, columns, top, height, scale);
      const at = y * columns;
      for (let k = 0; k < columns; k++) out[at + k] = pixels[cells[k]];
    }
    own.putImageData(data, 0, 0);
    c.imageSmoothingEnabled = false;
    c.drawImage(image, LEFT, 0, columns, tall);
    c.font = MONO;
    c.fillStyle = ink.muted;
    c.textAlign = 'right';
    c.textBaseline = 'top';
    c.fillText('now', LEFT - 8, 1);
    c.textBaseline = 'bottom';
    c.fillText(`−${secondsText(spanS)}`, LEFT - 8, tall - 1);
    if (pointerS !== null)
      this.pointer(
        c,
        ((now - pointerS) / spanS) * tall,
        `${secondsText(Math.max(0, now - pointerS))}`,
        width,
        tall,
        ink,
      );
    return (y) => Math.max(all.fromS, Math.min(now, now - (y / tall) * spanS));
  }

  private cellsOf(
    row: { toS: number; levels: Int16Array },
    columns: number,
    top: number,
    height: number,
    scale: string,
  ): Uint8Array {
    const known = this.coloured.get(row.levels);
    const of = `${scale} ${row.toS}`;
    if (known?.of === of) return known.cells;
    const { levels } = row;
    const cells = new Uint8Array(columns);
    const n = levels.length;
    const [high, by] = [top * 100, 255 / (height * 100)];
    for (let k = 0; k < columns; k++) {
      const from = Math.floor((k * n) / columns);
      const to = Math.max(from + 1, Math.floor(((k + 1) * n) / columns));
      let best = -32768;
      for (let l = from; l < to; l++) if (levels[l] > best) best = levels[l];
      cells[k] = Math.max(0, Math.min(255, Math.round(255 - (high - best) * by)));
    }
    this.coloured.set(levels, { of, cells });
    return cells;
  }

  private pointer(
    c: CanvasRenderingContext2D,
    at: number,
    says: string,
    width: number,
    tall: number,
    ink: CanvasInk,
  ): void {
    const y = Math.round(Math.max(1, Math.min(tall - 1, at))) + 0.5;
    c.strokeStyle = c.fillStyle = ink.ink;
    c.lineWidth = 1.25;
    c.beginPath();
    c.moveTo(LEFT - 2, y);
    c.lineTo(width - RIGHT, y);
    c.stroke();
    c.beginPath();
    c.moveTo(LEFT, y);
    c.lineTo(LEFT - 8, y - 5);
    c.lineTo(LEFT - 8, y + 5);
    c.fill();
    const room = Math.max(14, Math.min(tall - 14, y));
    c.clearRect(0, room - 8, LEFT - 9, 16);
    c.textAlign = 'right';
    c.textBaseline = 'middle';
    c.fillText(says, LEFT - 11, room);
  }
}

/** Draws how often each level occurs: paper where never, plum where always. */
export function drawDensity(
  canvas: HTMLCanvasElement,
  { columns, rows, cells }: { columns: number; rows: number; cells: Uint8Array },
  pixels: Uint32Array,
): void {
  if (canvas.width !== columns || canvas.height !== rows) [canvas.width, canvas.height] = [columns, rows];
  const c = canvas.getContext('2d')!;
  const data = c.createImageData(columns, rows);
  const out = new Uint32Array(data.data.buffer);
  for (let i = 0; i < out.length; i++) out[i] = cells[i] ? pixels[Math.min(255, 30 + cells[i])] : 0;
  c.putImageData(data, 0, 0);
}
