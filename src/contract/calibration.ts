import { compileConversion } from '$core/conversion/conversion';
import { badInput } from '$core/errors';
import { fitLine, type LineFit } from '$core/fit/line';
import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';
import {
  canCalibrate,
  channelKind,
  commonOf,
  conversionOf,
  type CalibrationPoint,
  type Channel,
} from './channel';

/** How still a channel is now, judged against a tolerance in its unit. */
export interface Steadiness {
  /** Mean of the raw readings over the hold. */
  raw: number;
  noise: number;
  samples: number;
  /** The mean in the unit in which points are fitted. */
  value: number;
  /** Change over the hold, in the channel's unit. */
  drift: number;
  steady: boolean;
  says: string;
}

/** How a calibration by points is done. */
export const PointsRun = z.strictObject({
  targets: field(
    z
      .array(z.string().regex(/^-?\d+(\.\d+)?$/, 'Give numbers, separated by commas.'))
      .min(2, 'Give at least two values.')
      .max(50),
    {
      label: 'Targets',
      editor: 'names',
      help: 'Values of the reference, in the channel’s unit, separated by commas.',
    },
  ),
  tolerance: field(z.number('Give a number.').positive('Give a value above 0.'), {
    label: 'Drift allowed',
    editor: 'number',
    unitFrom: 'unit',
    help: 'A point is taken once it moves less than this.',
  }),
  hold: field(z.number('Give a number.').min(0.5, 'At least 0.5 s.').max(30, 'At most 30 s.'), {
    label: 'Hold',
    editor: 'number',
    unit: 's',
  }),
  good: field(z.number('Give a number.').positive('Give a value above 0.'), {
    label: 'Largest distance',
    editor: 'number',
    unitFrom: 'unit',
    help: 'A point further from the line is marked: measure it again.',
  }),
  unit: z.string(),
});
export type PointsRun = z.infer<typeof PointsRun>;

export const pointsSentence: Sentence<typeof PointsRun> = {
  schema: PointsRun,
  template: () =>
    `Measure at {targets}, each until it drifts less than {tolerance} in {hold}. Fit a straight line. Good if every point is within {good}.`,
};

/** A sensible run for a channel: its range in four steps, tolerances from its span. */
export function usualRun(channel: Channel): PointsRun {
  const { range, unit } = commonOf(channel);
  const span = range.max - range.min;
  const round = (v: number) => Number(v.toPrecision(2));
  return {
    targets: [0, 0.5, 1].map((s) => String(Number((range.min + s * span).toPrecision(6)))),
    tolerance: round(span / 2000),
    hold: 2,
    good: round(span / 800),
    unit,
  };
}

/** A raw reading in the channel's unit. @param calibrated whether the calibration in force counts */
export function valueOf(channel: Channel, raw: number, calibrated = true): number {
  const out = new Float64Array(1);
  compileConversion(conversionOf(calibrated ? channel : { ...channel, calibration: null }))([raw], out, 1);
  return out[0];
}

/** Where a point lies on the axis that the line is fitted over: the raw reading of a linear sensor, else the uncorrected value. */
export const fitAxis = (channel: Channel, raw: number) =>
  channelKind(channel.kind).linear ? raw : valueOf(channel, raw, false);

/** The line through the points, from fitAxis to the targets.
 *  @throws `bad_input` for points that leave the line undefined or a channel that cannot be calibrated */
export function fitPoints(channel: Channel, points: CalibrationPoint[]): LineFit {
  if (!canCalibrate(channelKind(channel.kind)))
    throw badInput('channel', channel.name, `A channel of kind “${channel.kind}” has nothing to calibrate.`);
  const targets = new Set(points.map((p) => p.target));
  if (points.length >= 2 && targets.size < 2)
    throw badInput(
      'points',
      `all at ${points[0].target} ${commonOf(channel).unit}`,
      'Measure at two different values at least.',
    );
  const fit = fitLine(
    points.map((p) => fitAxis(channel, p.raw)),
    points.map((p) => p.target),
  );
  if (fit.slope === 0)
    throw badInput('slope', 0, 'The reading moved, the targets did not: check the values typed.');
  return fit;
}
