import { z } from 'zod';
import { Moments } from '../../statistics/moments';
import { sampleS } from '../../samples/sampled';
import { channelFields, readSpan, spanOf } from '../span';
import type { StudyKind } from '../study';

const schema = z.strictObject(channelFields);

/** Figures of a span, one row a channel. ± is the expanded uncertainty of the calibration at the mean, about 95 %. Standard deviation with n - 1; times are those of the first occurrence. */
export const statistics: StudyKind<typeof schema> = {
  kind: 'statistics',
  title: 'Statistics of a span',
  purpose: 'Mean, rms, spread, extremes with their times, crest factor.',
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
  run([take], settings, progress, signal) {
    const inputs = take.signals.channels;
    const rows = inputs.map((input, k) => {
      const { first, end } = spanOf(input, settings);
      const m = new Moments();
      readSpan(
        input,
        first,
        end,
        (block) => m.push(block),
        (share) => progress((k + share) / inputs.length),
        signal,
      );
      const time = (index: number) => (index < 0 ? null : sampleS(input, first + index));
      const value = (v: number) => (Number.isFinite(v) ? v : null);
      return [
        input.name,
        input.unit,
        value(m.count ? m.mean : NaN),
        m.count ? (input.uncertainty?.(first, end - first) ?? null) : null,
        value(m.rms),
        value(m.standardDeviation),
        value(m.min),
        time(m.minIndex),
        value(m.max),
        time(m.maxIndex),
        value(m.peakToPeak),
        value(m.crestFactor),
        m.count,
        m.missing,
      ];
    });
    const numeric = (label: string, unit?: string) => ({ label, unit, numeric: true });
    return {
      findings: rows.slice(0, 6).flatMap((row) =>
        row[2] === null
          ? []
          : [
              {
                label: `${row[0]}, mean`,
                value: row[2] as number,
                unit: row[1] as string,
                note: [
                  row[3] === null ? '' : `± ${(row[3] as number).toPrecision(2)}`,
                  row[5] === null ? '' : `spread ${(row[5] as number).toPrecision(3)}`,
                ]
                  .filter(Boolean)
                  .join(', '),
              },
            ],
      ),
      figures: [],
      tables: [
        {
          title: 'Statistics',
          columns: [
            { label: 'Channel', numeric: false },
            { label: 'Unit', numeric: false },
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
          rows,
        },
      ],
    };
  },
};
