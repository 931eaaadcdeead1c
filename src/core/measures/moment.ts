import { z } from 'zod';
import { badInput } from '../errors';
import { sampleS } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { CrossingFinder } from '../signal/crossings';
import { channelField, eachChunk, numberField, valueAt, within } from './fields';
import type { MeasureKind } from './measure';

const atSchema = z.strictObject({
  channel: channelField('Channel'),
  at: field(z.number().min(0).max(1e9), {
    label: 'At',
    editor: 'number',
    unit: 's',
    help: 'After the start.',
  }),
});
/** The value at an instant. */
export const valueAtTime: MeasureKind<typeof atSchema> = {
  kind: 'at',
  title: 'a channel at a moment',
  sentence: { schema: atSchema, template: () => '{channel} at {at}.' },
  defaults: { channel: '', at: 10 },
  name: ({ channel, at }) => `${channel} at ${at} s`,
  run(take, { channel, at }) {
    const signal = take.channel(channel);
    const value = valueAt(signal, at);
    if (Number.isNaN(value))
      throw badInput(channel, `nothing at ${at} s`, 'Choose a moment within the take.');
    return { value, unit: signal.unit, atS: at };
  },
};

const WAYS = ['rises', 'falls'] as const;
const crossSchema = z.strictObject({
  channel: channelField('Channel'),
  way: field(z.enum(WAYS), { label: 'Way', editor: 'choice', options: WAYS }),
  level: numberField('Level', 'channel'),
  hysteresis: numberField('Hysteresis', 'channel', 'How far it has to have been on the other side.'),
});
/** The instant a channel first passes a level. */
export const crossing: MeasureKind<typeof crossSchema> = {
  kind: 'crossing',
  title: 'when a channel first passes a level',
  sentence: {
    schema: crossSchema,
    template: () => 'The time when {channel} first {way} through {level}, hysteresis {hysteresis}.',
  },
  defaults: { channel: '', way: 'rises', level: 0, hysteresis: 0 },
  name: ({ channel, way, level }) => `time when ${channel} ${way} through ${level}`,
  run(take, { channel, way, level, hysteresis }) {
    const signal = take.channel(channel);
    const finder = new CrossingFinder(level, Math.abs(hysteresis), way === 'rises' ? 'rising' : 'falling');
    let place: number | null = null;
    eachChunk(signal, { first: 0, end: signal.length }, (block) => {
      finder.push(block, (at) => ((place = at), false));
      return place === null;
    });
    if (place === null)
      throw badInput(channel, `never ${way} through ${level} ${signal.unit}`, 'Choose another level.');
    const atS = sampleS(signal, place);
    return { value: atS, unit: 's', atS };
  },
};

const SIDES = ['above', 'below'] as const;
const aboveSchema = z.strictObject({
  channel: channelField('Channel'),
  side: field(z.enum(SIDES), { label: 'Side', editor: 'choice', options: SIDES }),
  level: numberField('Level', 'channel'),
});
/** How long a channel was above or below a level: each sample stands for its own time. */
export const timeAbove: MeasureKind<typeof aboveSchema> = {
  kind: 'time above',
  title: 'how long a channel was above or below a level',
  sentence: { schema: aboveSchema, template: () => 'The time {channel} was {side} {level}.' },
  defaults: { channel: '', side: 'above', level: 0 },
  name: ({ channel, side, level }) => `time ${channel} ${side} ${level}`,
  run(take, { channel, side, level }) {
    const signal = take.channel(channel);
    const span = within(signal, { from: null, to: null });
    let count = 0;
    eachChunk(signal, span, (block) => {
      for (const v of block) if (side === 'above' ? v > level : v < level) count++;
    });
    return { value: (count * signal.rate.den) / signal.rate.num, unit: 's', atS: null };
  },
};
