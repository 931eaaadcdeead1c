/** One curve over places that rise: its extremes at each. */
export interface Trace {
  /** Rising, in the unit of the horizontal axis. */
  x: ArrayLike<number>;
  min: ArrayLike<number>;
  max: ArrayLike<number>;
  axis: number;
  colour: string;
  width: number;
  dash: readonly number[];
}
/** Between two curves over the same places. */
export interface TraceBand {
  x: ArrayLike<number>;
  low: ArrayLike<number>;
  high: ArrayLike<number>;
  /** A line within it. */
  middle?: ArrayLike<number>;
  axis: number;
  colour: string;
}

/** Where values of an axis stand: px = offset + slope · (value, or its logarithm). */
export interface Upright {
  slope: number;
  offset: number;
  logarithmic: boolean;
}
/** What is drawn: a stretch of the horizontal axis, and its places. */
export interface Stretch {
  from: number;
  to: number;
  /** px of `from`. */
  left: number;
  /** px a unit. */
  across: number;
}

/** First place at or after a value, among rising ones. */
export function firstPlace(x: ArrayLike<number>, value: number): number {
  let [low, high] = [0, x.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (x[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Which places lie in a stretch, with one beyond each end, so that lines go to its edges. */
const within = (x: ArrayLike<number>, { from, to }: Stretch): [first: number, last: number] => [
  Math.max(0, firstPlace(x, from) - 1),
  Math.min(x.length - 1, firstPlace(x, to)),
];

/** Draws a curve: down on even buckets, up on odd ones, so that neighbours join at their near ends. */
export function drawTrace(
  c: CanvasRenderingContext2D,
  { x, min, max, colour, width, dash }: Omit<Trace, 'axis'>,
  stretch: Stretch,
  { slope, offset, logarithmic }: Upright,
): void {
  const [first, last] = within(x, stretch);
  const { from, left, across } = stretch;
  c.beginPath();
  let broken = true;
  for (let i = first; i <= last; i++) {
    let low = min[i];
    let high = max[i];
    if (logarithmic) [low, high] = [Math.log(low), Math.log(high)];
    // Missing, or a logarithm of nothing.
    if (!(low - low === 0 && high - high === 0)) {
      broken = true;
      continue;
    }
    const at = left + (x[i] - from) * across;
    const one = offset + slope * (i & 1 ? high : low);
    const other = offset + slope * (i & 1 ? low : high);
    if (!broken) c.lineTo(at, one);
    // One that stands alone is a dot.
    else c.moveTo(at - (one === other && !(min[i + 1] - min[i + 1] === 0) ? 0.75 : 0), one);
    if (other !== one || broken) c.lineTo(at, other);
    broken = false;
  }
  c.strokeStyle = colour;
  c.lineWidth = width;
  c.lineJoin = 'bevel';
  c.setLineDash(dash as number[]);
  c.stroke();
  c.setLineDash([]);
}

/** Fills a band, and draws the line within it. */
export function drawBand(
  c: CanvasRenderingContext2D,
  { x, low, high, middle, colour }: TraceBand,
  stretch: Stretch,
  upright: Upright,
): void {
  const { slope, offset, logarithmic } = upright;
  const [first, last] = within(x, stretch);
  const px = (i: number) => stretch.left + (x[i] - stretch.from) * stretch.across;
  const py = (v: number) => offset + slope * (logarithmic ? Math.log(v) : v);
  const there = (i: number) => Number.isFinite(py(low[i])) && Number.isFinite(py(high[i]));
  c.fillStyle = colour;
  c.globalAlpha = 0.16;
  for (let i = first; i <= last;) {
    let end = i;
    while (end <= last && there(end)) end++;
    if (end > i) {
      c.beginPath();
      for (let k = i; k < end; k++) c.lineTo(px(k), py(low[k]));
      for (let k = end - 1; k >= i; k--) c.lineTo(px(k), py(high[k]));
      c.fill();
    }
    i = Math.max(end, i + 1);
  }
  c.globalAlpha = 1;
  if (middle)
    drawTrace(c, { x, min: middle, max: middle, colour, width: 1.5, dash: [6, 3] }, stretch, upright);
}
