import { clockText, dayText } from '$core/readings';
import { WAYS, type KeepAs, type Way } from '$core/field/station/model';
import type { Keep, Moment } from '$core/field/station/programme';
import { spanOf } from '$core/field/station/text';
import { spanText } from '$contract/field';
import type { LinkView, StationLine } from '$contract/station';

/** A moment as it is said, UTC. */
export const momentText = (ms: number): string => {
  const iso = new Date(ms).toISOString();
  return `${dayText(iso.slice(0, 10)).replace(/ \d{4}$/, '')} ${iso.slice(11, 16)}`;
};
/** A moment that is to come, and how long from now. */
export function comingText(ms: number, nowMs: number): string {
  if (ms <= nowMs) return 'now';
  const iso = new Date(ms).toISOString();
  const day = Math.floor(ms / 86_400_000) - Math.floor(nowMs / 86_400_000);
  const at = day === 0 ? `today ${iso.slice(11, 16)}` : day === 1 ? `tomorrow ${iso.slice(11, 16)}` : day < 300 ? momentText(ms) : dayText(iso.slice(0, 10)); // prettier-ignore
  return day >= 300 ? at : `${at}, in ${spanText((ms - nowMs) / 60_000)}`;
}
export const momentOf = (moment: Moment): string =>
  moment.kind === 'event'
    ? `when ${moment.of || 'a value'} ${moment.turns} ${moment.level}`
    : moment.seconds === 86_400
      ? 'at midnight'
      : `every ${spanOf(moment.seconds)}`;
export const wayOf = (way: Way): string => WAYS[way].label;
const KEPT: Record<KeepAs, string> = { average: 'average', lowest: 'lowest', highest: 'highest', sample: 'sample', total: 'total', deviation: 'standard deviation', wind: 'vector mean' }; // prettier-ignore
export const keptText = (as: KeepAs): string => KEPT[as];
/** What a table keeps, in few words. */
export function keepsText(keeps: readonly Keep[]): string {
  const [one] = keeps;
  if (!one) return 'nothing yet';
  if (keeps.length > 2) return `${keeps.length} values`;
  return keeps.map((k) => `the ${keptText(k.as)} of ${k.of}`).join(' and ');
}

/** How the line is, with what it takes. */
export function linkText({ state, says, tries, sinceMs }: LinkView, nowMs: number): string {
  const since = sinceMs === null ? '' : clockText(Math.max(0, nowMs - sinceMs) / 1000, 0);
  switch (state) {
    case 'away':
      return says || 'not connected';
    case 'calling':
      return `connecting: ${says}${tries > 1 ? `, try ${tries}` : ''}, ${since}`;
    case 'there':
      return `connected: ${says}, ${since}`;
    case 'silent':
      return says;
  }
}
/** The mark of a station in lists: the worst of what concerns it. */
export const markOf = ({ concerns, contactMs }: Pick<StationLine, 'concerns' | 'contactMs'>): { sign: string; tone: 'alarm' | 'warning' | 'good' | 'none' } => {
  const level = concerns.some((c) => c.level === 'alarm') ? 'alarm' : concerns.length ? 'warning' : contactMs === null ? 'none' : 'good';
  return { tone: level, sign: { alarm: '■', warning: '▲', good: '●', none: '○' }[level] };
}; // prettier-ignore
/** By how much a clock is ahead, s. */
export const clockOffText = (aheadS: number): string =>
  Math.abs(aheadS) < 0.5 ? 'right' : `${Math.abs(aheadS) < 10 ? Math.abs(aheadS).toFixed(1) : Math.round(Math.abs(aheadS))} s ${aheadS > 0 ? 'ahead' : 'late'}`; // prettier-ignore
