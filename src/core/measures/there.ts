import { z } from 'zod';
import { field } from '../sentence/sentence';
import { channelField, fromField, toField, valueAt } from './fields';
import { level } from './level';
import type { MeasureKind } from './measure';

const WHICH = ['highest', 'lowest'] as const;
const schema = z.strictObject({
  read: channelField('Read'),
  which: field(z.enum(WHICH), { label: 'Where', editor: 'choice', options: WHICH }),
  channel: channelField('Channel'),
  from: fromField,
  to: toField,
});

/** One channel where another is highest or lowest. */
export const there: MeasureKind<typeof schema> = {
  kind: 'there',
  title: 'a channel where another one is highest or lowest',
  sentence: { schema, template: () => '{read} where {channel} is {which}, from {from} to {to}.' },
  defaults: { read: '', which: 'highest', channel: '', from: null, to: null },
  name: ({ read, which, channel }) => `${read} at the ${which} ${channel}`,
  run(take, { read, ...where }) {
    const { atS } = level.run(take, where);
    const signal = take.channel(read);
    return { value: valueAt(signal, atS!), unit: signal.unit, atS };
  },
};
