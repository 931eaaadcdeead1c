import { fixed, readingText, roundTicks } from '$core/readings';
import { Chart } from '../plot/chart';
import { PLOT_LEFT, PLOT_RIGHT, type PlotColours } from '../plot/strip-plot';

export interface XyLine {
  x: ArrayLike<number>;
  y: ArrayLike<number>;
  colour: string;
  dash?: number[];
  width?: number;
}
export interface Axis {
  min: number;
  max: number;
  logarithmic?: boolean;
}

/** Lines over a horizontal axis of any quantity, redrawn many times a second. */
export class XyPlot {
  private readonly chart: Chart<'line', { x: number; y: number }[]>;

  constructor(canvas: HTMLCanvasElement, colours: PlotColours, logarithmic = false) {
    const font = { family: 'JetBrains Mono Variable', size: 11 };
    this.chart = new Chart(canvas, {
      type: 'line',
      data: { datasets: [] },
      options: {
        animation: false,
        parsing: false,
        normalized: true,
        events: [],
        responsive: true,
        maintainAspectRatio: false,
        layout: { padding: { right: PLOT_RIGHT, top: 4, bottom: 2 } },
        elements: { point: { radius: 0 }, line: { tension: 0 } },
        scales: {
          x: {
            type: 'linear',
            border: { display: false },
            grid: { color: colours.line, tickLength: 0 },
            ticks: {
              color: colours.text,
              font,
              maxRotation: 0,
              padding: 4,
              callback: (v) => label(Number(v)),
            },
            afterBuildTicks: (axis) =>
              void (axis.ticks = roundTicks(axis.min, axis.max, 6).ticks.map((value) => ({ value }))),
          },
          y: {
            type: logarithmic ? 'logarithmic' : 'linear',
            border: { display: false },
            grid: { color: colours.line, tickLength: 0 },
            ticks: {
              color: colours.text,
              font,
              padding: 6,
              maxTicksLimit: 5,
              callback: (v) => (logarithmic ? power(Number(v)) : label(Number(v))),
            },
            afterFit: (axis) => void (axis.width = PLOT_LEFT),
          },
        },
      },
    });
  }

  draw(lines: XyLine[], x: Axis, y: Axis): void {
    const { chart } = this;
    lines.forEach(({ x: xs, y: ys, colour, dash = [], width = 1.25 }, k) => {
      const set = (chart.data.datasets[k] ??= {
        data: [],
        borderColor: colour,
        borderDash: dash,
        borderWidth: width,
      });
      const held = set.data;
      for (let i = 0; i < xs.length; i++) {
        const point = held[i];
        if (point) [point.x, point.y] = [xs[i], ys[i]];
        else held[i] = { x: xs[i], y: ys[i] };
      }
      held.length = xs.length;
    });
    chart.data.datasets.length = lines.length;
    const scales = chart.options.scales!;
    Object.assign(scales.x!, { min: x.min, max: x.max });
    Object.assign(scales.y!, { min: y.min, max: y.max });
    chart.update('none');
  }

  destroy = () => this.chart.destroy();
}

const label = (v: number) =>
  Math.abs(v) >= 1e5 || (v !== 0 && Math.abs(v) < 1e-3)
    ? readingText(v, { digits: 1 })
    : fixed(v, decimalsOf(v));
const decimalsOf = (v: number) => (Number.isInteger(v) ? 0 : Math.abs(v) >= 1 ? 1 : 3);
/** Only whole powers of ten are named on a logarithmic axis. */
const power = (v: number) =>
  Math.abs(Math.log10(v) - Math.round(Math.log10(v))) < 1e-6 ? readingText(v, { digits: 1 }) : '';
