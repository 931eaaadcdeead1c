import { fixed, rangeDecimals } from '$core/readings';
import { commonOf, type Channel } from './channel';

/** A warning or alarm: it stays until it is over and somebody has acknowledged it. */
export interface Alarm {
  id: number;
  /** A channel's id, or “rule ” and a rule's. */
  source: string;
  level: 'warning' | 'alarm';
  says: string;
  at: number;
  outAt: number | null;
  takenAt: number | null;
  takenBy: string | null;
}

export interface Shelf {
  source: string;
  until: number;
  why: string;
  by: string;
}

/** What all open pages know of alarms. */
export interface AlarmNews {
  open: Alarm[];
  shelved: Shelf[];
  /** Whether somebody has quietened the sound of those that are open. */
  quiet: boolean;
}

/** Which limit a channel is past, and where it stands: “above 140 mm: 141.3”.
 *  @param at extremes of its reading at that moment, in its unit */
export function pastText(channel: Channel, level: Alarm['level'], at: { min: number; max: number }): string {
  const { unit, range, ...limits } = commonOf(channel);
  const [below, above] =
    level === 'alarm' ? [limits.alarmBelow, limits.alarmAbove] : [limits.warnBelow, limits.warnAbove];
  const measure = unit === '1' || unit === 'yes/no' ? '' : ` ${unit}`;
  const number = (value: number) => fixed(value, rangeDecimals(range.min, range.max));
  if (above !== null && at.max > above) return `above ${above}${measure}: ${number(at.max)}`;
  if (below !== null && at.min < below) return `below ${below}${measure}: ${number(at.min)}`;
  return [below !== null && `below ${below}${measure}`, above !== null && `above ${above}${measure}`]
    .filter(Boolean)
    .join(' or ');
}
