import { scaleLinear, scaleLog } from 'd3-scale';
import { utcTicks } from 'd3-time';
import { clockText, dayText, fixed, readingText } from '../readings';
import type { FigureAxis } from './figure';
import { roundTicks, timeTicks } from './ticks';

export interface Tick {
  value: number;
  /** Along the axis, in px or points. */
  at: number;
  text: string;
  /** Of a power of ten that is written as one. */
  exponent?: number;
}
/** An axis with its ends and its place on the page. */
export interface AxisScale {
  low: number;
  high: number;
  /** Place of a value; NaN where the axis has none for it. */
  at(value: number): number;
  valueAt(place: number): number;
  ticks: Tick[];
}

const isLogarithmic = ({ scale }: FigureAxis) => scale === 'logarithmic' || scale === 'decibel';

/** An axis from `low` at `start` to `high` at `end`. @param wanted about how many ticks */
export function axisScale(
  axis: FigureAxis,
  [low, high]: readonly [number, number],
  [start, end]: readonly [number, number],
  wanted: number,
): AxisScale {
  const map = (isLogarithmic(axis) ? scaleLog() : scaleLinear()).domain([low, high]).range([start, end]);
  const at = (value: number) => (isLogarithmic(axis) && !(value > 0) ? NaN : map(value));
  // Two ticks make a scale, three a readable one where there is room; no more than it takes.
  const enough = Math.abs(end - start) > 60 ? 3 : 2;
  let ticks = axisTicks(axis, low, high, wanted);
  for (let more = wanted + 1; ticks.length < enough && more <= wanted * 4; more++)
    ticks = axisTicks(axis, low, high, more);
  return {
    low,
    high,
    at,
    valueAt: (place) => map.invert(place),
    ticks: ticks.map((tick) => ({ ...tick, at: at(tick.value) })),
  };
}

const ANGLES = [1, 2, 5, 10, 15, 30, 45, 90, 180, 360];

/** Ticks of an axis by its scale, with what each says. */
export function axisTicks(axis: FigureAxis, low: number, high: number, wanted: number): Omit<Tick, 'at'>[] {
  switch (axis.scale) {
    case 'linear':
      return plainTicks(low, high, wanted);
    case 'time': {
      const { ticks, decimals } = timeTicks(low, high, wanted);
      if (decimals > 9) return plainTicks(low, high, wanted);
      const byClock = high - low > 90 || Math.max(-low, high) >= 120;
      return ticks.map((value) => ({
        value,
        text: byClock ? clockText(value, decimals) : fixed(value, decimals),
      }));
    }
    case 'calendar':
      return utcTicks(new Date(low), new Date(high), wanted).map((day) => ({
        value: day.getTime(),
        text: calendarText(day, high - low),
      }));
    case 'angle': {
      if (high - low < wanted) return plainTicks(low, high, wanted);
      const step =
        ANGLES.find((s) => (high - low) / s <= wanted) ?? Math.ceil((high - low) / wanted / 360) * 360;
      return multiples(low, high, step).map((value) => ({ value, text: fixed(value, 0) }));
    }
    case 'classes': {
      const names = axis.classes ?? [];
      const first = Math.max(0, Math.ceil(low));
      const last = Math.min(names.length - 1, Math.floor(high));
      const every = Math.max(1, Math.ceil((last - first + 1) / Math.max(wanted, 1)));
      return multiples(first, last, every).map((value) => ({ value, text: names[value] }));
    }
    case 'decibel': {
      const level = levels(axis);
      const { ticks, decimals } = roundTicks(level.of(low), level.of(high), wanted);
      return ticks.map((dB) => ({ value: level.value(dB), text: fixed(dB, decimals) }));
    }
    case 'logarithmic':
      return powers(low, high, wanted);
  }
}

/** Round values with as many digits as tell neighbours apart. */
function plainTicks(low: number, high: number, wanted: number): Omit<Tick, 'at'>[] {
  const { ticks, decimals } = roundTicks(low, high, wanted);
  const most = Math.max(Math.abs(low), Math.abs(high));
  if (most < 1e6 && decimals <= 6) return ticks.map((value) => ({ value, text: fixed(value, decimals) }));
  const step = ticks.length > 1 ? ticks[1] - ticks[0] : most;
  const apart = Math.floor(Math.log10(most)) - Math.floor(Math.log10(step) + 1e-9) + 1;
  const digits = Math.min(15, Math.max(1, apart));
  return ticks.map((value) => ({ value, text: readingText(value, { digits }) }));
}

const DAY_MS = 86_400_000;
/** A day or an instant, with what is not plain from the length of the axis. */
function calendarText(day: Date, spanMs: number): string {
  const iso = day.toISOString();
  const text = dayText(iso.slice(0, 10));
  if (spanMs < 2 * DAY_MS) return iso.slice(11, 16);
  if (spanMs < 60 * DAY_MS) return text.slice(0, -5);
  return spanMs < 900 * DAY_MS ? text.replace(/^\d+ /, '') : iso.slice(0, 4);
}

/** How values of an axis of decibels become levels, and back. */
function levels({ reference = 1, power = false }: FigureAxis): {
  of(value: number): number;
  value(level: number): number;
} {
  const factor = power ? 10 : 20;
  return {
    of: (value) => factor * Math.log10(value / reference),
    value: (level) => reference * 10 ** (level / factor),
  };
}

function multiples(low: number, high: number, step: number): number[] {
  const out: number[] = [];
  for (let k = Math.ceil(low / step - 1e-9); k <= Math.floor(high / step + 1e-9); k++)
    out.push(k * step || 0);
  return out;
}

/** Whole powers of ten; over less than two decades 2 and 5 between them, too. */
function powers(low: number, high: number, wanted: number): Omit<Tick, 'at'>[] {
  const [first, last] = [Math.ceil(Math.log10(low) - 1e-9), Math.floor(Math.log10(high) + 1e-9)];
  const plain = first >= -3 && last <= 5;
  const text = (value: number) =>
    plain ? readingText(value, { digits: 1 }) : `10${superscript(Math.log10(value))}`;
  if (Math.log10(high / low) < 2) {
    const between: number[] = [];
    for (let p = first - 1; p <= last; p++)
      for (const m of [1, 2, 5]) {
        const value = m * 10 ** p;
        if (value >= low * (1 - 1e-9) && value <= high * (1 + 1e-9)) between.push(value);
      }
    if (between.length >= 2)
      return between.map((value) => ({ value, text: readingText(value, { digits: 1 }) }));
    return plainTicks(low, high, wanted).filter(({ value }) => value > 0);
  }
  const step = Math.max(1, Math.ceil((last - first) / Math.max(1, wanted)));
  return multiples(first, last, step).map((exponent) => ({
    value: 10 ** exponent,
    text: text(10 ** exponent),
    ...(!plain && { exponent }),
  }));
}

const superscript = (exponent: number) =>
  [...String(Math.round(exponent))].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)] ?? '⁻').join('');

/** A value of an axis in words: as it stands in its unit, or as a level, a time, a class. */
export function axisText(axis: FigureAxis, value: number, digits = 6): string {
  if (!Number.isFinite(value)) return '–';
  switch (axis.scale) {
    case 'decibel':
      return value > 0 ? `${fixed(levels(axis).of(value), 1)} dB` : '–';
    case 'classes':
      return axis.classes?.[Math.round(value)] ?? '–';
    case 'calendar': {
      const iso = new Date(value).toISOString();
      const day = dayText(iso.slice(0, 10));
      // Of an axis whose days can be told apart the time of the day counts.
      const span = (axis.max ?? Infinity) - (axis.min ?? -Infinity);
      return span < 60 * DAY_MS ? `${day.slice(0, -5)} ${iso.slice(11, 16)}` : day;
    }
    default:
      return `${readingText(value, { digits })}${axis.unit && axis.unit !== '1' ? ` ${axis.unit}` : ''}`;
  }
}
