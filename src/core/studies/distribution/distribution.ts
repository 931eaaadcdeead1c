import { z } from 'zod';
import { badInput } from '../../errors';
import type { Figure } from '../../figures/figure';
import { field } from '../../sentence/sentence';
import { numeric, words } from '../classes';
import { spanFields, spanOf } from '../span';
import type { Finding, StudyKind } from '../study';
import { readWhole } from '../whole';

const PERCENT = [0.1, 1, 5, 10, 25, 50, 75, 90, 95, 99, 99.9] as const;
const BETWEEN = ['between two readings', 'a reading itself'] as const;

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  bars: field(z.number().int().min(2).max(500), { label: 'Bars', editor: 'number', help: 'Of one width, from the lowest to the highest reading.' }), // prettier-ignore
  percentiles: field(z.enum(BETWEEN), {
    label: 'A percentile is',
    editor: 'choice',
    options: BETWEEN,
    help: 'Between: on the line through the two nearest of the sorted readings. Itself: the first that at least so many per cent do not exceed.',
  }),
});

/** The value below which a share of sorted readings lies. @param sorted rising, at least one @param share 0 to 1
 *  @param between on the line between neighbours (n − 1 steps), else the smallest reading that at least the share does not exceed */
export function percentile(sorted: ArrayLike<number>, share: number, between: boolean): number {
  const last = sorted.length - 1;
  if (!between) return sorted[Math.min(last, Math.max(0, Math.ceil(share * sorted.length - 1e-9) - 1))];
  const place = share * last;
  const low = Math.min(last, Math.floor(place + 1e-12));
  const rest = Math.max(0, place - low);
  return rest === 0 ? sorted[low] : sorted[low] + rest * (sorted[Math.min(last, low + 1)] - sorted[low]);
}

/** Skewness and excess kurtosis of a population (moments about the mean over powers of the standard deviation with n). */
export function shapeOf(values: ArrayLike<number>): { skewness: number; kurtosis: number } {
  let mean = 0;
  for (let i = 0; i < values.length; i++) mean += (values[i] - mean) / (i + 1);
  let [m2, m3, m4] = [0, 0, 0];
  for (let i = 0; i < values.length; i++) {
    const d = values[i] - mean;
    m2 += d * d;
    m3 += d * d * d;
    m4 += d * d * d * d;
  }
  const n = values.length;
  [m2, m3, m4] = [m2 / n, m3 / n, m4 / n];
  return { skewness: m3 / m2 ** 1.5, kurtosis: m4 / (m2 * m2) - 3 };
}

/** How readings are spread: histogram, cumulative distribution, percentiles, skewness. Gaps count nowhere. */
export const distribution: StudyKind<typeof schema> = {
  kind: 'distribution',
  title: 'Distribution of the readings',
  purpose: 'Histogram, cumulative distribution, percentiles.',
  method: [
    {
      says: 'Percentile p of n sorted readings: on the line through those at (n − 1)·p/100, or the ⌈n·p/100⌉-th; share of a bar = readings in it over all.',
      source: 'Hyndman and Fan, Am. Stat. 50 (1996), definitions 7 and 1',
    },
    {
      says: 'Skewness m₃/m₂^1.5, excess kurtosis m₄/m₂² − 3, by moments about the mean with n; both are 0 for a normal distribution.',
      source: 'by definition',
    },
  ],
  asks: 'How large is it?',
  sketch: { bars: [0.06, 0.12, 0.25, 0.5, 0.8, 0.95, 0.85, 0.55, 0.3, 0.15, 0.08, 0.04] },
  sentence: {
    schema,
    template: () =>
      'How the readings of {channel} from {from} to {to} are spread, in {bars} bars; a percentile is {percentiles}.',
  },
  defaults: { channel: '', from: 0, to: null, bars: 60, percentiles: 'between two readings' },
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal) {
    const [input] = take.signals.channel;
    const all = readWhole(input, spanOf(input, settings), (s) => progress(0.5 * s), signal);
    const values = all.filter((v) => v === v).sort();
    const n = values.length;
    if (n === 0) throw badInput('span', 'nothing but gaps', 'Choose a span with readings.');
    const [low, high] = [values[0], values[n - 1]];
    const { bars } = settings;
    const width = (high - low) / bars || 1;
    const counts = new Float64Array(high > low ? bars : 1);
    for (const value of values) counts[Math.min(counts.length - 1, Math.floor((value - low) / width))]++;
    const between = settings.percentiles === 'between two readings';
    const at = (percent: number) => percentile(values, percent / 100, between);
    const { skewness, kurtosis } = shapeOf(values);
    const { unit, name, colour } = input;
    const POINTS = 400;
    const cumulative = Float64Array.from({ length: POINTS + 1 }, (_, k) =>
      percentile(values, k / POINTS, between),
    );
    const x = { label: name, unit, scale: 'linear' as const };
    const findings: Finding[] = [
      { label: 'Median', value: at(50), unit },
      { label: 'Half lies from', value: at(25), unit },
      { label: 'Half lies to', value: at(75), unit },
      { label: '5th percentile', value: at(5), unit },
      { label: '95th percentile', value: at(95), unit },
      ...(high > low ? [{ label: 'Skewness', value: skewness, unit: '1' }, { label: 'Excess kurtosis', value: kurtosis, unit: '1' }] : []),
      ...(n < all.length ? [{ label: 'Missing', value: all.length - n, unit: '1', note: 'samples; they count nowhere' }] : []),
    ]; // prettier-ignore
    progress(1);
    const figures: Figure[] = [
      {
        title: 'Histogram',
        x,
        y: { label: 'Share', unit: '%', scale: 'linear', min: 0 },
        marks: [{ mark: 'bar', name, colour, width, x: { from: low + width / 2, step: width, length: counts.length }, y: counts.map((c) => (100 * c) / n) }], // prettier-ignore
      },
      {
        title: 'Cumulative distribution',
        x,
        y: { label: 'Not exceeded', unit: '%', scale: 'linear', min: 0, max: 100 },
        marks: [
          {
            mark: 'line',
            name,
            colour,
            x: cumulative,
            y: Float64Array.from(cumulative, (_, k) => (100 * k) / POINTS),
          },
        ],
      },
    ];
    return {
      findings,
      figures,
      tables: [
        {
          title: 'Percentiles',
          columns: [words('Percentile'), numeric(name, unit)],
          rows: PERCENT.map((p) => [`${p} %`, at(p)]),
        },
      ],
    };
  },
};
