import { z } from 'zod';
import { Moments } from '../../statistics/moments';
import { sampleS } from '../../samples/sampled';
import { eachApart } from '../apart';
import { numeric, words } from '../classes';
import { channelFields, readSpan, spanOf } from '../span';
import type { StudyKind } from '../study';

const schema = z.strictObject(channelFields);

/** Figures of a span, one row a channel. ± is the expanded uncertainty of the calibration at the mean, about 95 %. Standard deviation with n - 1; times are those of the first occurrence. */
export const statistics: StudyKind<typeof schema> = {
  kind: 'statistics',
  title: 'Statistics of a span',
  purpose: 'Mean, rms, spread, extremes with their times, crest factor.',
  method: [
    {
      says: 'mean x̄ = Σx/n; rms = √(Σx²/n); standard deviation s = √(Σ(x − x̄)²/(n − 1)); crest factor = largest |x| / rms. Missing samples are counted and left out.',
      source: 'ISO 3534-1; sums after Welford (1962)',
    },
    {
      says: '± of a mean: the calibration’s expanded uncertainty at that level, k = 2.',
      source: 'JCGM 100:2008',
    },
  ],
  asks: 'How large is it?',
  sketch: {
    behind: [0.4, 0.7, 0.3, 0.6, 0.8, 0.35, 0.55, 0.25, 0.7, 0.45, 0.65, 0.3, 0.6, 0.5],
    lines: [
      [0.5, 0.5],
      [0.85, 0.85],
      [0.2, 0.2],
    ],
  },
  sentence: { schema, template: () => 'Statistics of {channels} from {from} to {to}.' },
  defaults: { channels: [], from: 0, to: null },
  roles: [{ key: 'channels', takes: 'several' }],
  ...eachApart<typeof schema>('channels', (input, settings, progress, signal) => {
    const { first, end } = spanOf(input, settings);
    const m = new Moments();
    readSpan(input, first, end, (block) => m.push(block), progress, signal);
    const time = (index: number) => (index < 0 ? null : sampleS(input, first + index));
    const value = (v: number) => (Number.isFinite(v) ? v : null);
    const uncertainty = m.count ? (input.uncertainty?.(first, end - first) ?? null) : null;
    const spread = value(m.standardDeviation);
    const note = [
      uncertainty === null ? '' : `± ${uncertainty.toPrecision(2)}`,
      spread === null ? '' : `spread ${spread.toPrecision(3)}`,
    ];
    return {
      findings: m.count ? [{ label: `${input.name}, mean`, value: m.mean, unit: input.unit, note: note.filter(Boolean).join(', ') }] : [], // prettier-ignore
      figures: [],
      tables: [
        {
          title: 'Statistics',
          columns: [
            words('Channel'),
            words('Unit'),
            numeric('Mean'),
            numeric('± of mean'),
            numeric('Rms'),
            numeric('Std. deviation'),
            numeric('Minimum'),
            numeric('at', 's'),
            numeric('Maximum'),
            numeric('at', 's'),
            numeric('Peak to peak'),
            numeric('Crest factor'),
            numeric('Samples'),
            numeric('Missing'),
          ],
          rows: [
            [
              input.name,
              input.unit,
              value(m.count ? m.mean : NaN),
              uncertainty,
              value(m.rms),
              spread,
              value(m.min),
              time(m.minIndex),
              value(m.max),
              time(m.maxIndex),
              value(m.peakToPeak),
              value(m.crestFactor),
              m.count,
              m.missing,
            ],
          ],
        },
      ],
    };
  }),
};
