import { axisTicks, type Tick } from '$core/figures/scale';

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

/** Height of a tick's number, px. */
const LABEL = 12;
/** Which of some ticks can have their numbers without one lying over another. @param at their places, px, in order; @returns their indices */
export function readable(at: number[]): number[] {
  const kept: number[] = [];
  at.forEach((px, k) => {
    if (kept.length === 0 || Math.abs(px - at[kept.at(-1)!]) >= LABEL) kept.push(k);
  });
  return kept;
}

/** Few round ticks, but two at least: one alone says nothing of the scale. */
function stripTicks(low: number, high: number): Omit<Tick, 'at'>[] {
  const few = axisTicks(LEVEL, low, high, 3);
  return few.length >= 2 ? few : axisTicks(LEVEL, low, high, 6);
}
const LEVEL = { label: '', unit: '', scale: 'linear' } as const;

/** Space above and below the line, px. */
const ROOM = 4;

/** One strip on its canvas: extremes over time as one line that runs down and up each bucket. Drawn by hand: a charting library
 *  spends six times as much on it, and there may be sixteen of them, twenty times a second. */
export class StripPlot {
  private readonly context: CanvasRenderingContext2D;
  private readonly watch: ResizeObserver;
  private low = NaN;
  private high = NaN;
  private last: (() => void) | null = null;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly colour: string,
    private readonly colours: PlotColours,
  ) {
    Object.assign(canvas.style, { position: 'absolute', inset: '0', width: '100%', height: '100%' });
    this.context = canvas.getContext('2d')!;
    this.watch = new ResizeObserver(() => this.last?.());
    this.watch.observe(canvas);
  }

  /** @param times of the buckets, any unit @param from and to the ends of the axis in the same unit @param range of the vertical axis; its own when null */
  draw(
    times: ArrayLike<number>,
    min: ArrayLike<number>,
    max: ArrayLike<number>,
    from: number,
    to: number,
    range: { min: number; max: number } | null = null,
  ): void {
    if (range) [this.low, this.high] = [range.min, range.max];
    else this.fit(min, max);
    this.last = () => this.paint(times, min, max, from, to);
    this.last();
  }

  private paint(
    times: ArrayLike<number>,
    min: ArrayLike<number>,
    max: ArrayLike<number>,
    from: number,
    to: number,
  ): void {
    const { canvas, context: c, low, high } = this;
    const { clientWidth: width, clientHeight: height } = canvas;
    const sharp = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(width * sharp), Math.round(height * sharp)];
    if (w === 0 || h === 0) return;
    if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
    c.setTransform(sharp, 0, 0, sharp, 0, 0);
    c.clearRect(0, 0, width, height);
    const right = width - PLOT_RIGHT;
    const scale = (height - 2 * ROOM) / (high - low);
    const y = (v: number) => height - ROOM - (v - low) * scale;
    this.grid(y, right);
    c.save();
    c.beginPath();
    c.rect(PLOT_LEFT, 0, right - PLOT_LEFT, height);
    c.clip();
    c.beginPath();
    const across = (right - PLOT_LEFT) / (to - from);
    let broken = true;
    for (let i = 0; i < times.length; i++) {
      if (min[i] !== min[i]) {
        broken = true;
        continue;
      }
      const x = PLOT_LEFT + (times[i] - from) * across;
      // Down on even buckets, up on odd ones: neighbours join at their near ends.
      const first = y(i % 2 ? max[i] : min[i]);
      if (broken) c.moveTo(x, first);
      else c.lineTo(x, first);
      c.lineTo(x, y(i % 2 ? min[i] : max[i]));
      broken = false;
    }
    c.strokeStyle = this.colour;
    c.lineWidth = 1.25;
    c.lineJoin = 'round';
    c.stroke();
    c.restore();
  }

  private grid(y: (v: number) => number, right: number): void {
    const { context: c, colours } = this;
    const ticks = stripTicks(this.low, this.high);
    c.font = '11px "JetBrains Mono Variable"';
    c.textAlign = 'right';
    c.textBaseline = 'middle';
    c.fillStyle = colours.text;
    c.strokeStyle = colours.line;
    c.lineWidth = 1;
    c.beginPath();
    const lines = ticks.map((tick) => Math.round(y(tick.value)) + 0.5);
    for (const at of lines) {
      c.moveTo(PLOT_LEFT, at);
      c.lineTo(right, at);
    }
    for (const k of readable(lines)) c.fillText(ticks[k].text, PLOT_LEFT - 6, lines[k]);
    c.stroke();
  }

  /** Takes a new range only when the old one is left or far too wide, so that the axis stands still. */
  private fit(min: ArrayLike<number>, max: ArrayLike<number>): void {
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < min.length; i++) {
      if (min[i] < low) low = min[i];
      if (max[i] > high) high = max[i];
    }
    if (!(low <= high)) [low, high] = [0, 1];
    const span = high - low || Math.abs(high) * 0.02 || 1;
    const held = this.high - this.low;
    if (low >= this.low && high <= this.high && span > held * 0.35) return;
    this.low = low - span * 0.12;
    this.high = high + span * 0.12;
  }

  destroy(): void {
    this.watch.disconnect();
  }
}
