import { clockText, fixed, roundTicks } from '$core/readings';
import type { Figure } from '$core/studies/study';
import { PAPER, traceColour, traceDash } from '$contract/palette';

const LABEL = 7.5;
const LEFT = 46;
const RIGHT = 8;

interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Strip {
  name: string;
  unit: string;
  colour: number;
  fromS: number;
  stepS: number;
  min: Float32Array;
  max: Float32Array;
}

const escape = (text: string) =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
const n = (value: number) => value.toFixed(2);
const text = (
  x: number,
  y: number,
  words: string,
  options: { anchor?: string; colour?: string; size?: number; bold?: boolean; mono?: boolean } = {},
) =>
  `<text x="${n(x)}" y="${n(y)}" font-family="${options.mono ? 'Mono' : 'Words'}" font-size="${options.size ?? LABEL}"${options.bold ? ' font-weight="bold"' : ''} text-anchor="${options.anchor ?? 'start'}" fill="${options.colour ?? PAPER.muted}">${escape(words)}</text>`;
const line = (x1: number, y1: number, x2: number, y2: number, colour: string = PAPER.line, dash = '') =>
  `<line x1="${n(x1)}" y1="${n(y1)}" x2="${n(x2)}" y2="${n(y2)}" stroke="${colour}" stroke-width="0.5"${dash ? ` stroke-dasharray="${dash}"` : ''}/>`;
const svg = (width: number, height: number, content: string[]) =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${n(height)}" viewBox="0 0 ${width} ${n(height)}">${content.join('')}</svg>`;

/** Stacked strips over one time axis, as vectors. @param marks moments named along the axis @param width in points */
export function stripChart(
  strips: Strip[],
  fromS: number,
  toS: number,
  marks: { atS: number; says: string }[],
  width: number,
  stripHeight = 78,
): string {
  const out: string[] = [];
  const x = (s: number) => LEFT + ((s - fromS) / (toS - fromS)) * (width - LEFT - RIGHT);
  strips.forEach((strip, k) => {
    const box: Box = {
      x: LEFT,
      y: k * stripHeight + 17,
      width: width - LEFT - RIGHT,
      height: stripHeight - 25,
    };
    const { low, high } = extent([...strip.min], [...strip.max]);
    const y = (v: number) => box.y + box.height * (1 - (v - low) / (high - low));
    out.push(text(LEFT, box.y - 7, strip.name, { colour: traceColour(strip.colour), bold: true, size: 8.5 }));
    out.push(text(width - RIGHT, box.y - 7, strip.unit, { anchor: 'end' }));
    out.push(...valueAxis(box, low, high, y, 3));
    out.push(
      `<path d="${envelopePath(strip, x, y)}" fill="${traceColour(strip.colour)}" fill-opacity="0.85" stroke="${traceColour(strip.colour)}" stroke-width="0.55" stroke-linejoin="round"/>`,
    );
  });
  const bottom = strips.length * stripHeight - 4;
  for (const mark of marks.filter((m) => m.atS >= fromS && m.atS <= toS)) {
    out.push(line(x(mark.atS), 14, x(mark.atS), bottom - 4, PAPER.muted, '1.5 2'));
  }
  const { ticks, decimals } = roundTicks(fromS, toS, 7);
  for (const tick of ticks)
    out.push(
      text(x(tick), bottom + 8, toS > 120 ? clockText(tick, 0) : fixed(tick, decimals), {
        anchor: 'middle',
        mono: true,
      }),
    );
  out.push(text(4, bottom + 8, toS > 120 ? 'min:s' : 's'));
  return svg(width, bottom + 14, out);
}

/** Extremes as a closed shape, a piece for each run without gaps. */
function envelopePath(strip: Strip, x: (s: number) => number, y: (v: number) => number): string {
  let path = '';
  const close = (from: number, to: number) => {
    if (to <= from) return;
    const at = (i: number) => x(strip.fromS + (i + 0.5) * strip.stepS);
    path += `M${n(at(from))} ${n(y(strip.max[from]))}`;
    for (let i = from + 1; i < to; i++) path += `L${n(at(i))} ${n(y(strip.max[i]))}`;
    for (let i = to - 1; i >= from; i--) path += `L${n(at(i))} ${n(y(strip.min[i]))}`;
    path += 'Z';
  };
  let from = -1;
  for (let i = 0; i <= strip.min.length; i++) {
    const there = i < strip.min.length && !Number.isNaN(strip.min[i]);
    if (there && from < 0) from = i;
    if (!there && from >= 0) {
      close(from, i);
      from = -1;
    }
  }
  return path || 'M0 0';
}

function valueAxis(box: Box, low: number, high: number, y: (v: number) => number, wanted: number): string[] {
  const { ticks, decimals } = roundTicks(low, high, wanted);
  return ticks.flatMap((tick) => [
    line(box.x, y(tick), box.x + box.width, y(tick)),
    text(box.x - 5, y(tick) + 2.5, fixed(tick, decimals), { anchor: 'end', mono: true }),
  ]);
}

function extent(lows: number[], highs: number[]): { low: number; high: number } {
  let low = Infinity;
  let high = -Infinity;
  for (const v of lows) if (v < low) low = v;
  for (const v of highs) if (v > high) high = v;
  if (!(low <= high)) return { low: 0, high: 1 };
  const margin = (high - low) * 0.06 || Math.abs(high) * 0.05 || 0.5;
  return { low: low - margin, high: high + margin };
}

/** The figure of a study as vectors; logarithmic axes in decades. */
export function lineFigure(figure: Figure, width: number, height = 190): string {
  const box: Box = { x: LEFT + 6, y: 22, width: width - LEFT - RIGHT - 6, height: height - 52 };
  const log = figure.y.scale === 'logarithmic';
  const usable = (v: number) => Number.isFinite(v) && (!log || v > 0);
  const level = (v: number) => (log ? Math.log10(v) : v);
  const ys = figure.series.flatMap((s) => s.y.slice(1).filter(usable).map(level));
  const { low, high } = log ? { low: Math.floor(minimum(ys)), high: Math.ceil(maximum(ys)) } : extent(ys, ys);
  const xMax = maximum(figure.series.flatMap((s) => s.x));
  const x = (v: number) => box.x + (v / xMax) * box.width;
  const y = (v: number) => box.y + box.height * (1 - (Math.max(low, level(v)) - low) / (high - low || 1));
  const out: string[] = [];
  if (log)
    for (let p = low; p <= high; p += Math.max(1, Math.ceil((high - low) / 6))) {
      out.push(line(box.x, y(10 ** p), box.x + box.width, y(10 ** p)));
      out.push(
        text(box.x - 12, y(10 ** p) + 2.5, '10', { anchor: 'end', mono: true }),
        text(box.x - 12, y(10 ** p) - 0.5, String(p).replace('-', '−'), { mono: true, size: 5.5 }),
      );
    }
  else out.push(...valueAxis(box, low, high, y, 5));
  const { ticks, decimals } = roundTicks(0, xMax, 8);
  for (const tick of ticks)
    out.push(
      line(x(tick), box.y, x(tick), box.y + box.height),
      text(x(tick), box.y + box.height + 11, fixed(tick, decimals), { anchor: 'middle', mono: true }),
    );
  let legendX = box.x;
  figure.series.forEach((s, k) => {
    let path = '';
    s.x.forEach((v, i) => {
      if (i > 0 && usable(s.y[i])) path += `${path ? 'L' : 'M'}${n(x(v))} ${n(y(s.y[i]))}`;
    });
    const dash = traceDash(s.colour ?? k).join(' ');
    out.push(
      `<path d="${path || 'M0 0'}" fill="none" stroke="${traceColour(s.colour ?? k)}" stroke-width="0.8"${dash ? ` stroke-dasharray="${dash}"` : ''}/>`,
    );
    out.push(text(legendX, 12, s.name, { colour: traceColour(s.colour ?? k), bold: true, size: 8.5 }));
    legendX += s.name.length * 4.9 + 14;
  });
  out.push(
    text(box.x + box.width, box.y + box.height + 24, `${figure.x.label}, ${figure.x.unit}`, {
      anchor: 'end',
    }),
  );
  out.push(text(width - RIGHT, 12, figure.y.unit, { anchor: 'end' }));
  return svg(width, height, out);
}

const minimum = (values: number[]) => values.reduce((a, b) => Math.min(a, b), Infinity);
const maximum = (values: number[]) => values.reduce((a, b) => Math.max(a, b), -Infinity);
