import { z } from 'zod';
import { Resampler } from '../filters/resample';
import { rateHz, type Sampled } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { rateFromHz } from '../time/rate';
import type { MakingKind } from './making';
import { byChunks } from './runs';

const schema = z.strictObject({
  channels: field(z.array(z.string()).min(1, 'Choose at least one channel.').max(200), {
    label: 'Channels',
    editor: 'channels',
  }),
  rate: field(z.number().positive('Give a rate above 0.').max(1e8), {
    label: 'Rate',
    editor: 'number',
    unit: 'samples/s',
    help: 'Up to 0.4 of the lower of both rates passes unchanged; from half of the new rate on nothing is left (−100 dB).',
  }),
});

/** Samples of a signal, which goes on at its ends as it ends. */
function endless(input: Sampled) {
  return (from: number, count: number): Float64Array => {
    const out = new Float64Array(count);
    const [low, high] = [Math.max(0, from), Math.min(input.length, from + count)];
    if (high > low) out.set(input.read(low, high - low), low - from);
    if (low > from) out.fill(input.read(0, 1)[0], 0, Math.min(count, low - from));
    if (high < from + count) out.fill(input.read(input.length - 1, 1)[0], Math.max(0, high - from));
    return out;
  };
}

/** Another sample rate. */
export const resample: MakingKind<typeof schema> = {
  kind: 'resample',
  title: 'At another sample rate',
  sentence: {
    schema,
    template: () => '{channels} at {rate}, through the low-pass that the lower rate needs.',
  },
  defaults: { channels: [], rate: 100 },
  roles: [{ key: 'channels', takes: 'several' }],
  gaps: 'What lies within the reach of the low-pass of a gap is missing, too.',
  suited: (input) => ({ rate: Number((rateHz(input) / 10).toPrecision(6)) }),
  make: ({ channels }, settings) =>
    channels.map((input) => {
      const rate = rateFromHz(settings.rate);
      const length = Math.max(0, Math.floor((input.length - 1) * (settings.rate / rateHz(input)) + 1e-6) + 1);
      const { unit, startNs, name } = input;
      return {
        name: `${name}, ${settings.rate} samples/s`,
        unit,
        rate,
        startNs,
        length: input.length === 0 ? 0 : length,
        blocks: (signal) => {
          const resampler = new Resampler(input.rate, rate);
          const read = endless(input);
          return byChunks(
            length,
            (first, n) => Float32Array.from(resampler.read(first, n, read)),
            signal,
            name,
          );
        },
      };
    }),
};
