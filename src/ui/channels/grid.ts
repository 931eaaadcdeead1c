import { cellText, settingOf } from '$contract/columns';
import type { Channel } from '$contract/channel';
import { groupOf, liveText, unitText } from '../shell/reading';
import { calibrationText } from './calibration-text';

/** A row of the grid of channels: the heading of a group, or a channel with its place among all that are shown. */
export type GridItem = { group: string } | { channel: Channel; index: number };

/** Rows for what is searched: a heading for each group, its channels below; groups in the order of their first channel. */
export function gridItems(channels: Channel[], search: string): GridItem[] {
  const wanted = search.trim().toLowerCase();
  const groups = new Map<string, Channel[]>();
  for (const c of channels) {
    const told = [c.name, c.group, c.wire?.terminal, c.wire?.unit, c.sensorSerial, c.kind].join(' ');
    if (!told.toLowerCase().includes(wanted)) continue;
    groups.set(groupOf(c), [...(groups.get(groupOf(c)) ?? []), c]);
  }
  let index = 0;
  return [...groups].flatMap(([group, members]): GridItem[] => [
    { group },
    ...members.map((channel) => ({ channel, index: index++ })),
  ]);
}

/** A cell as it is copied. @param now the channel’s live value */
export const gridText = (c: Channel, key: string, now: number): string =>
  key === 'now'
    ? `${liveText(c, now)} ${unitText(c)}`.trim()
    : key === 'calibration'
      ? calibrationText(c)
      : cellText(c, key);

/** What a cell offers to choose from; nothing for one that is typed freely. */
export function gridOptions(channel: Channel, key: string, scales: string[]): string[] {
  if (key === 'scale') return scales;
  const options = settingOf(channel, key)?.info.options;
  return Array.isArray(options) ? options.map(String) : [];
}
