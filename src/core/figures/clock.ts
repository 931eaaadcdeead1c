import { clockText, dayText, fixed } from '../readings';
import { timeTicks } from './ticks';
import type { Tick } from './scale';

/** How times along an axis are counted. */
export interface TimeScale {
  /** What stands at 0 s of the axis: an instant (s since 1970 on the clock that is shown) for clock times, else null. */
  clockS: number | null;
  /** Taken off before a time is written: that of a mark. */
  zeroS: number;
}
export const SINCE_START: TimeScale = { clockS: null, zeroS: 0 };

const DAY = 86_400;

/** Ticks of a time axis, at times that are round as they are written: since the start, since a mark, or on a clock.
 *  @param from and to s of the axis @param wanted about how many */
export function clockTicks(
  { clockS, zeroS }: TimeScale,
  from: number,
  to: number,
  wanted: number,
): Omit<Tick, 'at'>[] {
  const shift = clockS ?? -zeroS;
  const { ticks, decimals } = timeTicks(from + shift, to + shift, wanted);
  const step = ticks.length > 1 ? ticks[1] - ticks[0] : 1;
  return ticks.map((shown) => ({
    // A day of the calendar has fewer digits for parts of a second: what rounding puts outside stands at the edge.
    value: Math.min(to, Math.max(from, shown - shift)),
    text: clockS === null ? spanText(shown, decimals, to - from) : momentText(shown, step, decimals),
  }));
}

const spanText = (s: number, decimals: number, span: number): string =>
  span > 90 || Math.abs(s) >= 120 ? clockText(s, decimals) : fixed(s, decimals);

/** A time of day: with seconds where the steps need them, with the day at midnight. */
function momentText(seconds: number, step: number, decimals: number): string {
  const day = Math.floor(seconds / DAY);
  const inDay = seconds - day * DAY;
  if (step >= DAY || (inDay < 1e-6 && step >= 60))
    return dayText(new Date(day * DAY * 1000).toISOString().slice(0, 10)).slice(0, -5);
  const text = clockText(inDay + 3600 * 24 * 10, decimals); // beyond ten days, so that hours always stand
  const [h, m, s] = text.split(':');
  const hours = String(Number(h) - 240).padStart(2, '0');
  return step >= 60 ? `${hours}:${m}` : `${hours}:${m}:${s}`;
}

/** A moment of the axis as a cursor says it. @param decimals of the seconds @param span that it is part of, s: long ones are written as on a clock */
export function momentOf({ clockS, zeroS }: TimeScale, at: number, decimals: number, span = 0): string {
  if (clockS === null) return spanText(at - zeroS, decimals, span);
  return momentText(at + clockS, 1, decimals);
}
