import { z } from 'zod';
import { badInput } from '../errors';
import { localPolynomial, movingMeans, movingMedians, smoothedLocally } from '../filters/smoothing';
import { firResponse } from '../filters/fir';
import { rateHz } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { responseFigure } from './filter';
import type { MakingKind } from './making';
import { byRuns } from './runs';

const BY = ['mean', 'median', 'local polynomial'] as const;

const schema = z.strictObject({
  channels: field(z.array(z.string()).min(1, 'Choose at least one channel.').max(200), {
    label: 'Channels',
    editor: 'channels',
  }),
  by: field(z.enum(BY), {
    label: 'Smoothed by',
    editor: 'choice',
    options: BY,
    help: 'Mean: simplest. Median: steps stay steps, single outliers go. Local polynomial (Savitzky and Golay): peaks keep their height.',
  }),
  span: field(z.number().positive('Give a time above 0 s.').max(1e6), {
    label: 'Over',
    editor: 'number',
    unit: 's',
  }),
  order: field(z.number().int().min(1).max(8), { label: 'Order', editor: 'number' }),
});
type Settings = z.infer<typeof schema>;

/** Samples on either side. @throws `bad_input` for a span that holds no neighbour, or fewer values than a polynomial has coefficients */
function halfOf({ span, by, order }: Settings, rate: number): number {
  const half = Math.floor((span * rate + 1e-6) / 2);
  if (half < 1)
    throw badInput('Over', `${span} s`, `At ${Number(rate.toPrecision(6))} samples/s that is one sample: give at least ${Number((2 / rate).toPrecision(3))} s.`); // prettier-ignore
  if (by === 'local polynomial' && 2 * half < order)
    throw badInput('Order', order, `${2 * half + 1} samples carry at most order ${2 * half}.`);
  if (by !== 'mean' && half > 50_000)
    throw badInput('Over', `${2 * half + 1} samples`, 'Take at most 100,000, or the mean.');
  return half;
}

/** Moving mean, moving median, local polynomial. */
export const smooth: MakingKind<typeof schema> = {
  kind: 'smooth',
  title: 'Smoothed',
  sentence: {
    schema,
    template: ({ by }) =>
      `{channels} smoothed by the {by}${by === 'local polynomial' ? ' of order {order}' : ''} over {span} about each sample.`,
  },
  defaults: { channels: [], by: 'mean', span: 0.1, order: 3 },
  roles: [{ key: 'channels', takes: 'several' }],
  gaps: 'A gap shorter than the span is bridged by a line and left out again; at a longer one, and at the ends, spans are cut.',
  suited: (input) => ({ span: Number((20 / rateHz(input)).toPrecision(1)) }),
  make: ({ channels }, settings) =>
    channels.map((input) => {
      const half = halfOf(settings, rateHz(input));
      const { unit, rate, startNs, length } = input;
      const work = (run: Float64Array) => {
        if (settings.by === 'mean') return movingMeans(run, half);
        if (settings.by === 'median') return movingMedians(run, half);
        return run.length < 2 * half + 1 ? run.fill(NaN) : smoothedLocally(run, half, settings.order);
      };
      return {
        name: `${input.name}, ${settings.by === 'local polynomial' ? 'smoothed' : settings.by} over ${settings.span} s`,
        unit,
        rate,
        startNs,
        length,
        blocks: (signal) => byRuns(input, 2 * half, work, signal),
      };
    }),
  response: (settings, rate) => {
    const half = halfOf(settings, rate);
    if (settings.by === 'median')
      throw badInput('Smoothed by', 'median', 'A median has no response: what it does to a frequency depends on all others.'); // prettier-ignore
    const taps =
      settings.by === 'mean'
        ? new Float64Array(2 * half + 1).fill(1 / (2 * half + 1))
        : localPolynomial(half, settings.order);
    const size = (hz: number) => Math.abs(firResponse(taps, hz, rate));
    return responseFigure(size, [rate / (2 * half + 1) / 30, rate / 2], 'Response of the smoothing');
  },
};
