import type { ChartDataset, Point } from 'chart.js';
import { barWidth, placeAt, type Figure, type Mark, type Numbers, type Places } from '$core/figures/figure';
import { layoutFigure, longestTick, thinned, type Box, type Layout, type Part } from '$core/figures/layout';
import type { Ink } from '$core/figures/vectors';
import type { AxisScale } from '$core/figures/scale';
import { Chart } from './chart';
import { colourOf, markPlugin, type Drawing } from './mark-plugins';
import { PLOT_LEFT, PLOT_RIGHT } from './strip-plot';

const TOP = 6;
const BOTTOM = 24;
const WEIGHTS = { light: 1, usual: 1.25, bold: 4 };
/** Least distance of ticks, px. */
const ROOM = { x: 76, y: 32 };
/** Width of a tick's letter, px. */
const LETTER = 7;

type Line = ChartDataset<'line', Point[]>;
type Set = Line | ChartDataset<'bar', Point[]>;

/** Draws figures on a canvas, as often as they change. Axes, ends and ticks are core’s: what paper shows, the screen shows. */
export class ScreenPainter {
  private chart: Chart<'line' | 'bar', Point[]> | null = null;
  private kinds = '';
  private left = PLOT_LEFT;
  private now: { figure: Figure; part: Part } | null = null;
  private drawing: Drawing | null = null;
  private readonly watch: ResizeObserver;

  /** @param onLayout told where things stand after each drawing */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly ink: Ink,
    private readonly onLayout: (layout: Layout, box: Box) => void = () => undefined,
  ) {
    this.watch = new ResizeObserver(() => this.now && this.draw(this.now.figure, this.now.part));
    this.watch.observe(canvas.parentElement ?? canvas);
  }

  /** @param part of the axes that is shown; all of it where it is not said */
  draw(figure: Figure, part: Part = {}): void {
    this.now = { figure, part };
    const { clientWidth: width, clientHeight: height } = this.canvas.parentElement ?? this.canvas;
    const within = (left: number): Box => ({
      x: left,
      y: TOP,
      width: width - left - PLOT_RIGHT,
      height: height - TOP - BOTTOM,
    });
    let box = within(PLOT_LEFT);
    if (box.width < 20 || box.height < 20) return;
    let layout = layoutFigure(figure, box, part, ROOM);
    this.left = Math.max(PLOT_LEFT, longestTick(layout) * LETTER + 10);
    if (this.left > PLOT_LEFT) layout = layoutFigure(figure, (box = within(this.left)), part, ROOM);
    this.drawing = { figure, layout, ink: this.ink };
    const sets = figure.marks.flatMap((mark, k) => this.sets(mark, k, layout, box));
    const kinds = [figure.x.scale, figure.y.scale, ...figure.marks.map((m) => m.mark)].join();
    if (!this.chart || kinds !== this.kinds) {
      this.chart?.destroy();
      this.chart = this.begin(figure, sets);
      this.kinds = kinds;
    } else this.chart.data.datasets = sets;
    const { scales } = this.chart.options;
    Object.assign(scales!.x!, { min: layout.x.low, max: layout.x.high });
    Object.assign(scales!.y!, { min: layout.y.low, max: layout.y.high });
    this.chart.update('none');
    // Where the library puts its lines counts: what is ours lies on them.
    const { left: x, top: y, width: w, height: h } = this.chart.chartArea;
    if ([x - box.x, y - box.y, w - box.width, h - box.height].some((off) => Math.abs(off) > 0.25)) {
      box = { x, y, width: w, height: h };
      this.drawing = { ...this.drawing, layout: (layout = layoutFigure(figure, box, part, ROOM)) };
      this.chart.draw();
    }
    this.onLayout(layout, box);
  }

  private begin(figure: Figure, datasets: Set[]): Chart<'line' | 'bar', Point[]> {
    const { ink } = this;
    const axis = (which: 'x' | 'y') => {
      const { scale } = figure[which];
      const ticks = (): AxisScale['ticks'] => this.drawing?.layout[which].ticks ?? [];
      return {
        type: scale === 'logarithmic' || scale === 'decibel' ? ('logarithmic' as const) : ('linear' as const),
        offset: false,
        border: { display: false },
        grid: {
          color: ink.line,
          tickLength: 0,
          // Over a picture a grid hides what it is meant to show.
          display: which === 'y' || figure.marks.every((m) => m.mark !== 'heat'),
        },
        ticks: {
          color: ink.muted,
          font: { family: ink.mono, size: 11.5 },
          maxRotation: 0,
          autoSkip: false,
          padding: which === 'x' ? 5 : 6,
          callback: (_: unknown, k: number) => ticks()[k]?.text ?? '',
        },
        afterBuildTicks: (own: { ticks: { value: number }[] }) =>
          void (own.ticks = ticks().map(({ value }) => ({ value }))),
        afterFit: (own: { width: number; height: number }) =>
          void (which === 'x' ? (own.height = BOTTOM) : (own.width = this.left)),
      };
    };
    return new Chart<'line' | 'bar', Point[]>(this.canvas, {
      type: 'line',
      data: { datasets },
      options: {
        animation: false,
        parsing: false,
        normalized: true,
        events: [],
        responsive: true,
        maintainAspectRatio: false,
        layout: { padding: { right: PLOT_RIGHT, top: TOP }, autoPadding: false },
        elements: { point: { radius: 0 }, line: { tension: 0 } },
        scales: { x: axis('x'), y: axis('y') },
      },
      plugins: [markPlugin(() => this.drawing)],
    } as never);
  }

  private sets(mark: Mark, k: number, layout: Layout, box: Box): Set[] {
    const { ink } = this;
    const { x } = layout;
    const line = (xs: Places, ys: Numbers): Point[] => {
      const points = thinned(xs, ys, [x.low, x.high], Math.ceil(box.width));
      return Array.from(points.x, (at, i) => ({ x: at, y: layout.y.at(points.y[i]) === layout.y.at(points.y[i]) ? points.y[i] : NaN })); // prettier-ignore
    };
    switch (mark.mark) {
      case 'line':
      case 'step': {
        const colour = colourOf(ink, mark, k);
        return [
          {
            data: line(mark.x, mark.y),
            borderColor: mark.weight === 'light' ? `${colour}66` : colour,
            borderDash: mark.dashed
              ? mark.dashed === 'dotted'
                ? [1, 3]
                : [3, 3]
              : mark.dashed === false
                ? []
                : ink.dash(mark.colour ?? 0),
            borderWidth: WEIGHTS[mark.weight ?? 'usual'],
            stepped: mark.mark === 'step' ? 'before' : false,
          } satisfies Line,
        ];
      }
      case 'band': {
        const colour = colourOf(ink, mark, k);
        const edge = { borderWidth: mark.solid ? 1 : 0, borderColor: colour };
        return [
          { ...edge, data: line(mark.x, mark.low) } satisfies Line,
          {
            ...edge,
            data: line(mark.x, mark.high),
            fill: '-1',
            backgroundColor: `${colour}${mark.solid ? 'd9' : '26'}`,
          } satisfies Line,
        ];
      }
      case 'bar': {
        const width = Math.abs(x.at(x.low + barWidth(mark)) - x.at(x.low));
        return [
          {
            type: 'bar',
            data: points(mark.x, mark.y),
            base: mark.base ?? (layout.y.low > 0 ? layout.y.low : 0),
            backgroundColor: `${colourOf(ink, mark, k)}cc`,
            barThickness: Math.max(1, Number.isFinite(width) ? width - Math.min(1, width * 0.16) : 8),
            grouped: false,
          } satisfies ChartDataset<'bar', Point[]>,
        ];
      }
      case 'points': {
        const colour = colourOf(ink, mark, k);
        const diamond = mark.shape === 'diamond';
        return [
          {
            data: points(mark.x, mark.y),
            showLine: false,
            pointRadius: diamond ? 6 : 4,
            pointStyle: diamond ? 'rectRot' : 'circle',
            pointBorderColor: colour,
            pointBorderWidth: diamond ? 2 : 0,
            pointBackgroundColor: diamond ? 'transparent' : colour,
          } satisfies Line,
        ];
      }
      default:
        return []; // the plugin’s
    }
  }

  destroy(): void {
    this.watch.disconnect();
    this.chart?.destroy();
    this.chart = null;
  }
}

const points = (x: Places, y: Numbers): Point[] =>
  Array.from({ length: x.length }, (_, i) => ({ x: placeAt(x, i), y: y[i] }));
