import { area, line } from 'd3-shape';
import { coarser, heatColours, heatColumns, heatEnds, heatRange, heatRows, heatShare } from './heat';
import { thinned, type Box, type Layout } from './layout';
import {
  barWidth,
  isNamed,
  placeAt,
  type DimensionMark,
  type Figure,
  type HeatMark,
  type Mark,
  type Tone,
} from './figure';
import type { Tick } from './scale';

/** Colours and faces of a page. */
export interface Ink {
  trace(colour: number): string;
  dash(colour: number): number[];
  tones: Record<Exclude<Tone, 'trace'>, string>;
  line: string;
  muted: string;
  ink: string;
  /** Ends of the colours of heat. */
  heat: readonly [from: string, to: string];
  words: string;
  mono: string;
}

const LABEL = 7.5;
const DASHES = { true: '4 3', dotted: '0.9 2.2', false: '' };
const WEIGHTS = { light: 0.5, usual: 0.8, bold: 1.8 };
/** Cells of a heat picture that paper can tell apart. */
const HEAT_CELLS = [240, 120] as const;
const HEAT_STEPS = 24;

export const escapeXml = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
const n = (value: number) => value.toFixed(2);
const attributes = (of: Record<string, string | number | undefined>) =>
  Object.entries(of)
    .filter(([, v]) => v !== undefined && v !== '')
    .map(([k, v]) => ` ${k}="${typeof v === 'number' ? n(v) : escapeXml(v!)}"`)
    .join('');
const element = (name: string, of: Record<string, string | number | undefined>) =>
  `<${name}${attributes(of)}/>`;

/** A figure where it was drawn. */
export interface Plot {
  figure: Figure;
  box: Box;
  layout: Layout;
}

/** A drawing on paper: figures as vectors (SVG 1.1), with words as words. */
export class Vectors {
  readonly parts: string[] = [];
  /** @param plots takes what is drawn where, for readings */
  constructor(
    readonly ink: Ink,
    private readonly plots: Plot[] = [],
  ) {}

  text(
    x: number,
    y: number,
    words: string,
    { anchor = 'start', colour = this.ink.muted, size = LABEL, bold = false, mono = false } = {},
  ): void {
    const font = attributes({
      x,
      y,
      'font-family': mono ? this.ink.mono : this.ink.words,
      'font-size': String(size),
      'font-weight': bold ? 'bold' : undefined,
      'text-anchor': anchor,
      fill: colour,
    });
    this.parts.push(`<text${font}>${escapeXml(words)}</text>`);
  }
  line(x1: number, y1: number, x2: number, y2: number, colour = this.ink.line, width = 0.5, dash = ''): void {
    const stroke = { stroke: colour, 'stroke-width': width, 'stroke-dasharray': dash };
    this.parts.push(element('line', { x1, y1, x2, y2, ...stroke }));
  }
  fill(x: number, y: number, width: number, height: number, fill: string, opacity: number): void {
    this.parts.push(element('rect', { x, y, width, height, fill, 'fill-opacity': opacity }));
  }
  path(d: string | null, of: Record<string, string | number | undefined>): void {
    if (d) this.parts.push(element('path', { d, ...of }));
  }
  svg(width: number, height: number): string {
    return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${n(height)}" viewBox="0 0 ${width} ${n(height)}">${this.parts.join('')}</svg>`;
  }

  colourOf(mark: { colour?: number; tone?: Tone }, k: number): string {
    return mark.tone && mark.tone !== 'trace' ? this.ink.tones[mark.tone] : this.ink.trace(mark.colour ?? k);
  }

  upright(box: Box, { y }: Layout): void {
    for (const tick of y.ticks) {
      this.line(box.x, tick.at, box.x + box.width, tick.at);
      this.tick(tick, box.x - 5, tick.at + 2.5, 'end');
    }
  }
  /** An upright axis by itself, in the colour of what it measures. @param at where its line stands */
  axis({ y }: Layout, at: number, box: Box, colour: string, right: boolean): void {
    const out = right ? 3 : -3;
    this.line(at, box.y, at, box.y + box.height, colour, 0.7);
    for (const tick of y.ticks) {
      this.line(at, tick.at, at + out, tick.at, colour, 0.7);
      this.tick(tick, at + 2 * out, tick.at + 2.5, right ? 'start' : 'end', colour);
    }
  }
  across(box: Box, { x }: Layout, grid: boolean): void {
    const bottom = box.y + box.height;
    for (const tick of x.ticks) {
      if (grid) this.line(tick.at, box.y, tick.at, bottom);
      this.tick(tick, tick.at, bottom + 11, 'middle');
    }
  }
  /** A power of ten is set as one: the fonts of paper have few raised figures. */
  private tick(
    { text, exponent }: Tick,
    x: number,
    y: number,
    anchor: 'start' | 'middle' | 'end',
    colour = this.ink.muted,
  ): void {
    if (exponent === undefined) return this.text(x, y, text, { anchor, mono: true, colour });
    const base = anchor === 'end' ? x - 7 : anchor === 'start' ? x + 10 : x + 2;
    this.text(base, y, '10', { anchor: 'end', mono: true, colour });
    this.text(base, y - 3, String(exponent).replace('-', '−'), { mono: true, size: 5.5, colour });
  }

  marks(figure: Figure, box: Box, layout: Layout): void {
    const { marks } = figure;
    this.plots.push({ figure, box, layout });
    for (const mark of marks.filter((m) => m.mark === 'heat')) this.heat(mark, layout);
    marks.forEach((mark, k) => mark.mark !== 'heat' && this.mark(mark, k, box, layout));
  }

  private mark(mark: Exclude<Mark, HeatMark>, k: number, box: Box, layout: Layout): void {
    const { x, y } = layout;
    const colour = this.colourOf(mark as { tone?: Tone }, k);
    switch (mark.mark) {
      case 'line':
      case 'step': {
        const points = thinned(mark.x, mark.y, [x.low, x.high], Math.ceil(box.width));
        const there = (i: number) => Number.isFinite(y.at(points.y[i])) && Number.isFinite(points.x[i]);
        const places = inside(points.x, x);
        const draw = line<number>().defined(there).x((i) => x.at(points.x[i])).y((i) => y.at(clip(points.y[i], y))); // prettier-ignore
        const usual = () => this.ink.dash(mark.colour ?? k).join(' ');
        const dash = mark.dashed === undefined ? usual() : DASHES[String(mark.dashed) as keyof typeof DASHES];
        const of = {
          fill: 'none',
          stroke: colour,
          'stroke-width': WEIGHTS[mark.weight ?? 'usual'],
          'stroke-dasharray': dash,
        };
        if (mark.mark === 'line') this.path(draw.digits(2)(places), of);
        else this.path(stairs(places, points, layout), of);
        return;
      }
      case 'band': {
        const there = (i: number) =>
          Number.isFinite(y.at(mark.low[i])) && Number.isFinite(y.at(mark.high[i]));
        const draw = area<number>()
          .defined(there)
          .x((i) => x.at(placeAt(mark.x, i)))
          .y0((i) => y.at(clip(mark.low[i], y)))
          .y1((i) => y.at(clip(mark.high[i], y)));
        const d = draw.digits(2)(Array.from({ length: mark.x.length }, (_, i) => i));
        this.path(d, {
          fill: colour,
          'fill-opacity': mark.solid ? 0.85 : 0.14,
          ...(mark.solid && { stroke: colour, 'stroke-width': 0.55, 'stroke-linejoin': 'round' }),
        });
        return;
      }
      case 'bar': {
        const half = barWidth(mark) / 2;
        const base = y.at(clip(mark.base ?? 0, y));
        for (let i = 0; i < mark.x.length; i++) {
          const at = placeAt(mark.x, i);
          const [left, right, top] = [x.at(at - half), x.at(at + half), y.at(clip(mark.y[i], y))];
          if (![left, right, top].every(Number.isFinite)) continue;
          const gap = Math.min(0.5, (right - left) * 0.08);
          const rect = { x: left + gap, y: Math.min(top, base), width: right - left - 2 * gap };
          this.parts.push(element('rect', { ...rect, height: Math.abs(top - base), fill: colour, 'fill-opacity': 0.8 })); // prettier-ignore
        }
        return;
      }
      case 'stems': {
        const base = y.at(clip(mark.base ?? 0, y));
        for (let i = 0; i < mark.x.length; i++) {
          const [px, py] = [x.at(placeAt(mark.x, i)), y.at(mark.y[i])];
          if (!Number.isFinite(px) || !Number.isFinite(py)) continue;
          this.line(px, base, px, py, colour, 0.8);
          this.parts.push(element('circle', { cx: px, cy: py, r: 1.6, fill: colour }));
        }
        return;
      }
      case 'points':
        for (let i = 0; i < mark.x.length; i++) {
          const [px, py] = [x.at(placeAt(mark.x, i)), y.at(mark.y[i])];
          if (!Number.isFinite(px) || !Number.isFinite(py)) continue;
          const reach = mark.reach?.[i] ?? 0;
          if (reach > 0) this.line(px, y.at(mark.y[i] - reach), px, y.at(mark.y[i] + reach), colour, 0.7);
          const d = mark.shape === 'diamond' && `M${n(px)} ${n(py - 2.8)}L${n(px + 2.8)} ${n(py)}L${n(px)} ${n(py + 2.8)}L${n(px - 2.8)} ${n(py)}Z`; // prettier-ignore
          if (d) this.path(d, { fill: 'none', stroke: colour, 'stroke-width': 1 });
          else this.parts.push(element('circle', { cx: px, cy: py, r: 2, fill: colour }));
        }
        return;
      case 'text':
        return this.text(x.at(mark.x), y.at(mark.y), mark.says, {
          colour: mark.tone ? colour : this.ink.ink,
        });
      case 'dimension':
        return this.dimension(mark, layout, mark.tone ? colour : this.ink.muted);
    }
  }

  /** A dimension line with its short strokes at the ends. */
  private dimension({ along, from, to, level, says }: DimensionMark, { x, y }: Layout, colour: string): void {
    const END = 3;
    if (along === 'x') {
      const [a, b, h] = [x.at(from), x.at(to), y.at(level)];
      this.line(a, h, b, h, colour);
      for (const at of [a, b]) this.line(at, h - END, at, h + END, colour);
      this.text((a + b) / 2, h - 3, says, { anchor: 'middle', colour, mono: true });
    } else {
      const [a, b, v] = [y.at(from), y.at(to), x.at(level)];
      this.line(v, a, v, b, colour);
      for (const at of [a, b]) this.line(v - END, at, v + END, at, colour);
      this.text(v + 4, (a + b) / 2 + 2.5, says, { colour, mono: true });
    }
  }

  /** Cells of one colour as one path: rows are run together where neighbours have the same. */
  private heat(whole: HeatMark, { x, y }: Layout): void {
    const mark = coarser(whole, ...HEAT_CELLS);
    // Where there is no value, neither end of the colours shows.
    const at = (edges: HeatMark['x'], scale: Layout['x']) =>
      [0, edges.length - 1].map((i) =>
        scale.at(Math.max(scale.low, Math.min(scale.high, placeAt(edges, i)))),
      );
    if (mark.x.length > 1 && mark.y.length > 1) {
      const [[left, right], [bottom, top]] = [at(mark.x, x), at(mark.y, y)];
      this.path(`M${n(left)} ${n(top)}H${n(right)}V${n(bottom)}H${n(left)}Z`, { fill: this.ink.line });
    }
    const share = heatShare(mark, heatRange(whole));
    const nx = heatColumns(mark);
    const paths: string[] = Array.from({ length: HEAT_STEPS }, () => '');
    for (let k = 0; k < heatRows(mark); k++) {
      const [bottom, top] = [y.at(placeAt(mark.y, k)), y.at(placeAt(mark.y, k + 1))];
      if (!Number.isFinite(bottom) || !Number.isFinite(top)) continue;
      const step = (i: number) =>
        i < nx ? Math.min(HEAT_STEPS - 1, Math.floor(share(mark.z[k * nx + i]) * HEAT_STEPS)) : NaN;
      for (let i = 0, from = 0; i < nx; i++) {
        const colour = step(i);
        if (colour === step(i + 1)) continue;
        const [left, right] = [x.at(placeAt(mark.x, from)), x.at(placeAt(mark.x, i + 1))];
        if (colour >= 0 && Number.isFinite(left))
          paths[colour] += `M${n(left)} ${n(top)}H${n(right)}V${n(bottom)}H${n(left)}Z`;
        from = i + 1;
      }
    }
    heatColours(...this.ink.heat, HEAT_STEPS).forEach(([r, g, b], k) =>
      this.path(paths[k], { fill: `rgb(${r},${g},${b})` }),
    );
  }

  /** Names of the marks above a figure, each in its colour; of heat what its colours mean. @param end of the room there is */
  legend(figure: Figure, x: number, y: number, end: number): void {
    figure.marks.forEach((mark, k) => {
      if (!isNamed(mark) || !mark.name || x > end) return;
      const fits = Math.max(3, Math.floor((end - x) / 4.9));
      const name = mark.name.length > fits ? `${mark.name.slice(0, fits - 1)}…` : mark.name;
      const colour = mark.mark === 'heat' ? this.ink.ink : this.colourOf(mark, k);
      this.text(x, y, name, { colour, bold: true, size: 8.5 });
      x += name.length * 4.9 + 14;
      if (mark.mark === 'heat') x = this.colours(mark, x, y) + 14;
    });
  }

  /** The colours of heat with their ends. @returns where they end */
  private colours(mark: HeatMark, x: number, y: number): number {
    const [low, high] = heatEnds(mark);
    const unit = mark.unit && mark.unit !== '1' ? ` ${mark.unit}` : '';
    const from = x + low.length * 4.6 + 4;
    this.text(from - 4, y, low, { anchor: 'end', mono: true });
    heatColours(...this.ink.heat, HEAT_STEPS).forEach(([r, g, b], k) =>
      this.parts.push(
        element('rect', { x: from + k * 2, y: y - 6, width: 2.1, height: 6, fill: `rgb(${r},${g},${b})` }),
      ),
    );
    const end = from + HEAT_STEPS * 2 + 4;
    this.text(end, y, high + unit, { mono: true });
    return end + (high + unit).length * 4.6;
  }
}

/** Keeps a value near what the axis shows: a line leaves the picture without drawing across the page. */
const clip = (value: number, { low, high }: { low: number; high: number }) =>
  value < low ? low : value > high ? high : value;

/** Indices of places within the axis. */
const inside = (xs: Float64Array, { low, high }: { low: number; high: number }) =>
  Array.from(xs, (_, i) => i).filter((i) => xs[i] >= low - 1e-12 && xs[i] <= high * (1 + 1e-12));

function stairs(
  places: number[],
  { x: xs, y: ys }: { x: Float64Array; y: Float64Array },
  { x, y }: Layout,
): string {
  let d = '';
  let open = false;
  places.forEach((i, k) => {
    const level = y.at(clip(ys[i], y));
    if (!Number.isFinite(level)) return void (open = false);
    const end = k + 1 < places.length ? xs[places[k + 1]] : xs[i];
    d += `${open ? 'V' + n(level) : `M${n(x.at(xs[i]))} ${n(level)}`}H${n(x.at(end))}`;
    open = true;
  });
  return d;
}
