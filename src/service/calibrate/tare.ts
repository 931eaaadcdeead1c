import { FarrierError, badInput } from '$core/errors';
import { Moments } from '$core/statistics/moments';
import { valueOf } from '$contract/calibration';
import { commonOf, roleOf, type Channel } from '$contract/channel';
import { getChannel } from '$store/entities';
import type { App } from '../app';
import { change } from '../setup/change';

/** Share of the range that may be taken off: more than this is no offset but a fault. */
const MOST_SHARE = 0.5;
const SECONDS = 1;

/** Makes these channels read 0 now. @param on false gives the full reading back
 *  @throws `bad_input` for a computed or driven channel, `unavailable` without a reading, `not_allowed` beyond half the range, `conflict` while a take runs */
export async function tare(app: App, channelIds: string[], on: boolean, by: string): Promise<void> {
  if (channelIds.length === 0) throw badInput('channels', 'none', 'Choose at least one.');
  const next = channelIds.map((id) => tared(app, getChannel(app.db, id), on));
  const names = next.map((c) => `${c.name} ${on ? `by ${c.tare} ${commonOf(c).unit}` : ''}`.trim());
  await change(
    app,
    { channels: next },
    'calibration',
    next.length === 1 ? next[0].id : '',
    `${on ? 'Tared' : 'Took the tare off'} ${names.slice(0, 6).join(', ')}${names.length > 6 ? ` and ${names.length - 6} more` : ''}.`,
    by,
  );
}

function tared(app: App, channel: Channel, on: boolean): Channel {
  if (roleOf(channel) !== 'measured')
    throw badInput('channel', channel.name, 'Only measured channels have a tare.');
  if (!on) return { ...channel, tare: 0 };
  const m = new Moments();
  m.push(app.live.rawMeans(channel.id, SECONDS));
  if (m.count === 0)
    throw new FarrierError('unavailable', {
      what: `${channel.name} gives no reading.`,
      where: channel.name,
      next: 'See on the rig what its terminal reads.',
    });
  const { range, unit } = commonOf(channel);
  const offset = channel.tare + valueOf(channel, m.mean);
  if (!(Math.abs(offset) <= MOST_SHARE * (range.max - range.min)))
    throw new FarrierError('not_allowed', {
      what: `${channel.name} stands at ${offset.toPrecision(4)} ${unit}, more than half of its range.`,
      where: channel.name,
      why: 'That is a load or a fault, no offset.',
      next: 'Take the load off, or look at sensor and wiring.',
    });
  return { ...channel, tare: Number(offset.toPrecision(6)) };
}
