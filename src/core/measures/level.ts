import { z } from 'zod';
import { badInput } from '../errors';
import { sampleS } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { Moments } from '../statistics/moments';
import { channelField, eachChunk, fromField, toField, within } from './fields';
import type { MeasureKind } from './measure';

const WHICH = ['highest', 'lowest', 'largest swing', 'mean', 'rms', 'standard deviation'] as const;
const schema = z.strictObject({
  which: field(z.enum(WHICH), { label: 'Which', editor: 'choice', options: WHICH }),
  channel: channelField('Channel'),
  from: fromField,
  to: toField,
});

/** The highest, lowest, mean … of a channel over a span. */
export const level: MeasureKind<typeof schema> = {
  kind: 'level',
  title: 'the highest, lowest or mean of a channel',
  sentence: { schema, template: () => 'The {which} {channel} from {from} to {to}.' },
  defaults: { which: 'highest', channel: '', from: null, to: null },
  name: ({ which, channel }) => `${which} ${channel}`,
  run(take, { which, channel, from, to }) {
    const signal = take.channel(channel);
    const span = within(signal, { from, to });
    const m = new Moments();
    eachChunk(signal, span, (block) => m.push(block));
    if (m.count === 0) throw badInput(channel, 'missing all along', 'Choose another span.');
    const value = {
      highest: m.max,
      lowest: m.min,
      'largest swing': m.peakToPeak,
      mean: m.mean,
      rms: m.rms,
      'standard deviation': m.standardDeviation,
    }[which];
    const index = which === 'highest' ? m.maxIndex : which === 'lowest' ? m.minIndex : null;
    return { value, unit: signal.unit, atS: index === null ? null : sampleS(signal, span.first + index) };
  },
};
