import { fixed, rangeDecimals, readingText } from '$core/readings';
import type { Names } from '$core/sentence/sentence';
import { commonOf, type Channel } from '$contract/channel';
import type { ChannelState } from '$contract/engine-status';

/** Text of a live value: decimals follow the channel's range, so that the digits stand still, or its expanded uncertainty where that is shown. */
export function liveText(channel: Channel, value: number, uncertainty?: number): string {
  const { unit, range } = commonOf(channel);
  if (Number.isNaN(value)) return '–';
  if (unit === 'yes/no') return value > 0.5 ? 'yes' : 'no';
  if (uncertainty) return readingText(value, { uncertainty });
  return fixed(value, rangeDecimals(range.min, range.max));
}

/** An expanded uncertainty with its sign, two digits; nothing where none is known. */
export const plusMinusText = (expanded: number | undefined) =>
  expanded === undefined ? '' : `± ${readingText(expanded, { digits: 2 })}`;

/** Unit as shown beside a value. */
export const unitText = (channel: Channel) => {
  const { unit } = commonOf(channel);
  return unit === 'yes/no' || unit === '1' ? '' : unit;
};

/** Share of the range a value uses, 0 to 1: from 0 where the range is symmetric, else from its lower end. */
export function rangeShare(channel: Channel, value: number): number {
  const { min, max } = commonOf(channel).range;
  const share = min < 0 && max > 0 ? Math.abs(value) / Math.max(-min, max) : (value - min) / (max - min);
  return Math.min(1, Math.max(0, share || 0));
}

/** A sign beside the word, so that colour never stands alone. */
export const STATE_SIGN: Record<ChannelState, string> = {
  ok: '●',
  warning: '▲',
  alarm: '■',
  open: '◇',
  'over range': '⊤',
  lost: '○',
  'not measured': '○',
  short: '◇',
  silent: '◌',
};

/** Group that a channel without one stands in. */
export const groupOf = (channel: Channel) => channel.group || 'Other';

export function namesOf(channels: Channel[]): Names {
  const byId = new Map(channels.map((c) => [c.id, { name: c.name, unit: commonOf(c).unit }]));
  return { channel: (id) => byId.get(id) };
}
