import { fixed, roundTicks } from '$core/readings';
import { Chart, LineController, LineElement, LinearScale, LogarithmicScale, PointElement } from 'chart.js';

Chart.register(LineController, LineElement, PointElement, LinearScale, LogarithmicScale);

/** Left edge of every plot area, so that stacked strips share one time axis. */
export const PLOT_LEFT = 58;
export const PLOT_RIGHT = 14;

export interface PlotColours {
  line: string;
  text: string;
}

/** Reads the tokens of the theme in force. */
export function plotColours(element: HTMLElement): PlotColours {
  const style = getComputedStyle(element);
  return { line: style.getPropertyValue('--hair').trim(), text: style.getPropertyValue('--muted').trim() };
}

/** Few round ticks, but two at least: one alone says nothing of the scale. */
function stripTicks(low: number, high: number): ReturnType<typeof roundTicks> {
  const few = roundTicks(low, high, 3);
  return few.ticks.length >= 2 ? few : roundTicks(low, high, 6);
}

type Point = { x: number; y: number };

/** One strip on its canvas: extremes over time as one line that runs down and up each bucket. */
export class StripPlot {
  private readonly chart: Chart<'line', Point[]>;
  private readonly points: Point[] = [];
  private low = NaN;
  private high = NaN;

  constructor(canvas: HTMLCanvasElement, colour: string, colours: PlotColours) {
    const font = { family: 'JetBrains Mono Variable', size: 11 };
    this.chart = new Chart(canvas, {
      type: 'line',
      data: {
        datasets: [{ data: this.points, borderColor: colour, borderWidth: 1.25, spanGaps: false }],
      },
      options: {
        animation: false,
        parsing: false,
        normalized: true,
        events: [],
        responsive: true,
        maintainAspectRatio: false,
        layout: { padding: { left: 0, right: PLOT_RIGHT, top: 2, bottom: 2 } },
        elements: { point: { radius: 0 }, line: { tension: 0 } },
        scales: {
          x: { type: 'linear', display: false },
          y: {
            type: 'linear',
            border: { display: false },
            grid: { color: colours.line, tickLength: 0 },
            ticks: { color: colours.text, font, padding: 6, autoSkip: false },
            afterFit: (axis) => void (axis.width = PLOT_LEFT),
            afterBuildTicks: (axis) =>
              void (axis.ticks = stripTicks(axis.min, axis.max).ticks.map((value) => ({ value }))),
          },
        },
      },
    });
    this.chart.options.scales!.y!.ticks!.callback = (value) =>
      fixed(Number(value), stripTicks(this.low, this.high).decimals);
  }

  /** @param times of the buckets, any unit @param from and to the ends of the axis in the same unit @param limits levels that should be in view */
  draw(
    times: ArrayLike<number>,
    min: ArrayLike<number>,
    max: ArrayLike<number>,
    from: number,
    to: number,
    range: { min: number; max: number } | null = null,
  ): void {
    const { points } = this;
    const n = times.length;
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < n; i++) {
      // Down on even buckets, up on odd ones: neighbours join at their near ends.
      const first = i % 2 ? max[i] : min[i];
      const second = i % 2 ? min[i] : max[i];
      set(points, 2 * i, times[i], first);
      set(points, 2 * i + 1, times[i], second);
      if (min[i] < low) low = min[i];
      if (max[i] > high) high = max[i];
    }
    points.length = 2 * n;
    if (range) [this.low, this.high] = [range.min, range.max];
    else this.fit(low, high);
    const { x, y } = this.chart.options.scales!;
    x!.min = from;
    x!.max = to;
    y!.min = this.low;
    y!.max = this.high;
    this.chart.update('none');
  }

  /** Takes a new range only when the old one is left or far too wide, so that the axis stands still. */
  private fit(low: number, high: number): void {
    if (!(low <= high)) [low, high] = [0, 1];
    const span = high - low || Math.abs(high) * 0.02 || 1;
    const held = this.high - this.low;
    if (low >= this.low && high <= this.high && span > held * 0.35) return;
    this.low = low - span * 0.12;
    this.high = high + span * 0.12;
  }

  destroy(): void {
    this.chart.destroy();
  }
}

function set(points: Point[], i: number, x: number, y: number): void {
  const point = points[i];
  if (point) {
    point.x = x;
    point.y = y;
  } else points[i] = { x, y };
}
