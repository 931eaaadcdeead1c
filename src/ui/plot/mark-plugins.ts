import type { Plugin } from 'chart.js';
import { placeAt, type DimensionMark, type Figure, type HeatMark, type Tone } from '$core/figures/figure';
import { heatColours, heatColumns, heatRange, heatRows, heatShare } from '$core/figures/heat';
import type { Layout } from '$core/figures/layout';
import type { Ink } from '$core/figures/vectors';

/** What the painter has laid out, as the plugins draw it. */
export interface Drawing {
  figure: Figure;
  layout: Layout;
  ink: Ink;
}
export const colourOf = (ink: Ink, mark: { colour?: number; tone?: Tone }, k: number): string =>
  mark.tone && mark.tone !== 'trace' ? ink.tones[mark.tone] : ink.trace(mark.colour ?? k);

/** A picture of heat, a pixel a cell, kept until its mark changes. */
class HeatPicture {
  private of: HeatMark | null = null;
  private ink: Ink | null = null;
  private readonly canvas = document.createElement('canvas');

  get(mark: HeatMark, ink: Ink): HTMLCanvasElement {
    if (this.of === mark && this.ink === ink) return this.canvas;
    [this.of, this.ink] = [mark, ink];
    const [nx, ny] = [heatColumns(mark), heatRows(mark)];
    Object.assign(this.canvas, { width: Math.max(1, nx), height: Math.max(1, ny) });
    const context = this.canvas.getContext('2d')!;
    const picture = context.createImageData(Math.max(1, nx), Math.max(1, ny));
    const colours = heatColours(...ink.heat);
    const share = heatShare(mark, heatRange(mark));
    for (let k = 0; k < ny; k++)
      for (let i = 0; i < nx; i++) {
        const s = share(mark.z[k * nx + i]);
        if (!(s >= 0)) continue; // nothing there: the paper shows through
        // Row 0 of a picture is at its top.
        picture.data.set([...colours[Math.round(s * 255)], 255], ((ny - 1 - k) * nx + i) * 4);
      }
    context.putImageData(picture, 0, 0);
    return this.canvas;
  }
}

/** Marks that the charting library does not know: heat behind its lines, stems among them, reaches, words and dimensions in front. */
export function markPlugin(drawing: () => Drawing | null): Plugin {
  const pictures: HeatPicture[] = [];
  return {
    id: 'farrier-marks',
    beforeDatasetsDraw({ ctx, chartArea }) {
      const now = drawing();
      if (!now) return;
      const { figure, layout, ink } = now;
      ctx.save();
      ctx.beginPath();
      ctx.rect(chartArea.left, chartArea.top, chartArea.width, chartArea.height);
      ctx.clip();
      figure.marks.forEach((mark, k) => {
        if (mark.mark === 'heat')
          heat(ctx, mark, (pictures[k] ??= new HeatPicture()).get(mark, ink), layout, ink.line);
        if (mark.mark === 'stems') {
          const base = layout.y.at(mark.base ?? 0);
          ctx.strokeStyle = ctx.fillStyle = colourOf(ink, mark, k);
          ctx.lineWidth = 1.25;
          for (let i = 0; i < mark.x.length; i++) {
            const [x, y] = [layout.x.at(placeAt(mark.x, i)), layout.y.at(mark.y[i])];
            stroke(ctx, x, base, x, y);
            ctx.beginPath();
            ctx.arc(x, y, 2.6, 0, 2 * Math.PI);
            ctx.fill();
          }
        }
        if (mark.mark === 'points' && mark.reach) {
          ctx.strokeStyle = colourOf(ink, mark, k);
          ctx.lineWidth = 1.4;
          for (let i = 0; i < mark.x.length; i++) {
            const x = layout.x.at(placeAt(mark.x, i));
            stroke(ctx, x, layout.y.at(mark.y[i] - mark.reach[i]), x, layout.y.at(mark.y[i] + mark.reach[i]));
          }
        }
      });
      ctx.restore();
    },
    afterDatasetsDraw({ ctx }) {
      const now = drawing();
      if (!now) return;
      const { figure, layout, ink } = now;
      ctx.save();
      ctx.font = `11.5px "${ink.mono}"`;
      for (const mark of figure.marks) {
        if (mark.mark === 'text') {
          ctx.fillStyle = mark.tone ? colourOf(ink, mark, 0) : ink.ink;
          ctx.fillText(mark.says, layout.x.at(mark.x), layout.y.at(mark.y));
        }
        if (mark.mark === 'dimension')
          dimension(ctx, mark, layout, mark.tone ? colourOf(ink, mark, 0) : ink.muted);
      }
      ctx.restore();
    },
  };
}

function stroke(ctx: CanvasRenderingContext2D, x1: number, y1: number, x2: number, y2: number): void {
  ctx.beginPath();
  ctx.moveTo(x1, y1);
  ctx.lineTo(x2, y2);
  ctx.stroke();
}

/** Cells that are one step apart on even axes are one picture; others are drawn column by column and row by row. */
function heat(
  ctx: CanvasRenderingContext2D,
  mark: HeatMark,
  picture: HTMLCanvasElement,
  { x, y }: Layout,
  none: string,
): void {
  const [nx, ny] = [heatColumns(mark), heatRows(mark)];
  if (nx === 0 || ny === 0) return;
  ctx.imageSmoothingEnabled = false;
  // Where there is no value, neither end of the colours shows.
  ctx.fillStyle = none;
  const [left, right] = [x.at(placeAt(mark.x, 0)), x.at(placeAt(mark.x, nx))];
  const [bottom, top] = [y.at(Math.max(y.low, placeAt(mark.y, 0))), y.at(placeAt(mark.y, ny))];
  ctx.fillRect(left, top, right - left, bottom - top);
  const even = (edges: HeatMark['x'], scale: Layout['x'], n: number) =>
    'step' in edges && Math.abs(scale.at(placeAt(edges, n >> 1)) - (scale.at(placeAt(edges, 0)) + ((n >> 1) / n) * (scale.at(placeAt(edges, n)) - scale.at(placeAt(edges, 0))))) < 0.5; // prettier-ignore
  const columns = even(mark.x, x, nx) ? [[0, nx]] : Array.from({ length: nx }, (_, i) => [i, i + 1]);
  const rows = even(mark.y, y, ny) ? [[0, ny]] : Array.from({ length: ny }, (_, k) => [k, k + 1]);
  for (const [c0, c1] of columns) {
    const [left, right] = [x.at(placeAt(mark.x, c0)), x.at(placeAt(mark.x, c1))];
    for (const [r0, r1] of rows) {
      const [bottom, top] = [y.at(placeAt(mark.y, r0)), y.at(placeAt(mark.y, r1))];
      ctx.drawImage(picture, c0, ny - r1, c1 - c0, r1 - r0, left, top, right - left, bottom - top);
    }
  }
}

function dimension(
  ctx: CanvasRenderingContext2D,
  { along, from, to, level, says }: DimensionMark,
  { x, y }: Layout,
  colour: string,
): void {
  const END = 4;
  ctx.strokeStyle = ctx.fillStyle = colour;
  ctx.lineWidth = 1;
  if (along === 'x') {
    const [a, b, h] = [x.at(from), x.at(to), y.at(level)];
    stroke(ctx, a, h, b, h);
    for (const at of [a, b]) stroke(ctx, at, h - END, at, h + END);
    ctx.textAlign = 'center';
    ctx.fillText(says, (a + b) / 2, h - 5);
  } else {
    const [a, b, v] = [y.at(from), y.at(to), x.at(level)];
    stroke(ctx, v, a, v, b);
    for (const at of [a, b]) stroke(ctx, v - END, at, v + END, at);
    ctx.textAlign = 'left';
    ctx.fillText(says, v + 6, (a + b) / 2 + 4);
  }
}
