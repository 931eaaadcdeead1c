import { compileConversion } from '$core/conversion/conversion';
import { FarrierError, badInput } from '$core/errors';
import { FIT_FORMS, fitForm, type CalibrationFit } from '$core/fit/forms';
import { field, type Sentence } from '$core/sentence/sentence';
import { contribution, type Contribution } from '$core/uncertainty/budget';
import { z } from 'zod';
import { LINE_ESTIMATE, type UsedReference } from './calibration-record';
import { canCalibrate, channelKind, commonOf, conversionOf, CalibrationPoint, type Channel } from './channel';

/** How still a channel is now, judged against a tolerance in its unit. */
export interface Steadiness {
  channelId: string;
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

const GOING = ['up', 'up and down'] as const;

/** How a calibration by points is done. */
export const PointsRun = z.strictObject({
  targets: field(
    z
      .array(z.string().regex(/^-?\d+(\.\d+)?$/, 'Give numbers, separated by commas.'))
      .min(2, 'Give at least two values.')
      .max(50, 'At most 50 values.')
      .refine((t) => new Set(t.map(Number)).size === t.length, 'Give each value once.')
      .refine(
        (t) => t.every((v, k) => k === 0 || Number(v) > Number(t[k - 1])),
        'Give them rising: going up and down measures them both ways.',
      ),
    {
      label: 'Targets',
      editor: 'names',
      help: 'Values of the reference, in the channel’s unit, rising, separated by commas.',
    },
  ),
  going: field(z.enum(GOING), {
    label: 'Going',
    editor: 'choice',
    options: GOING,
    help: 'Up and down shows hysteresis: each value but the highest is measured twice.',
  }),
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
  within: field(z.number('Give a number.').min(2, 'At least 2 s.').max(600, 'At most 600 s.'), {
    label: 'Time limit',
    editor: 'number',
    unit: 's',
    help: 'How long to wait for a point to settle before it is given up.',
  }),
  against: field(z.string().nullable(), {
    label: 'Reference channel',
    editor: 'channel',
    none: 'values set by hand',
    help: 'A calibrated channel that feels the same: its reading is each point’s value.',
  }),
  form: field(z.enum(FIT_FORMS), {
    label: 'Fit',
    editor: 'choice',
    options: FIT_FORMS,
    help: 'A curve only where the distances from the line show one; a table for sensors that no curve follows.',
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
  template: ({ unit }) =>
    `Measure at {targets}${unit === '1' ? '' : ` ${unit}`}, going {going}, each until it drifts less than {tolerance} in {hold}, waiting at most {within}, against {against}. Fit a {form}. Good if every point is within {good}.`,
};

/** A sensible run for a channel: its range in four steps, tolerances from its span. */
export function usualRun(channel: Channel): PointsRun {
  const { range, unit } = commonOf(channel);
  const span = range.max - range.min;
  return {
    targets: evenlySpaced(range.min, range.max, 5),
    going: 'up',
    tolerance: Number((span / 2000).toPrecision(2)),
    hold: 2,
    within: 60,
    against: null,
    form: 'straight line',
    good: Number((span / 800).toPrecision(2)),
    unit,
  };
}

/** Target values from one end of a range to the other. @param count 2 to 50 */
export const evenlySpaced = (from: number, to: number, count: number): string[] =>
  Array.from({ length: count }, (_, k) =>
    String(Number((from + (k * (to - from)) / (count - 1)).toPrecision(6))),
  );

export interface PlannedPoint {
  target: number;
  going: 'up' | 'down';
}
/** The points of a run in the order in which they are measured. */
export function plannedPoints({ targets, going }: PointsRun): PlannedPoint[] {
  const values = targets.map(Number);
  return [
    ...values.map((target) => ({ target, going: 'up' as const })),
    ...(going === 'up'
      ? []
      : values
          .slice(0, -1)
          .reverse()
          .map((target) => ({ target, going: 'down' as const }))),
  ];
}

/** What makes the uncertainty beside the points themselves (JCGM 100:2008, 4.3). */
export const BudgetInputs = z.strictObject({
  reference: field(z.string().max(60), {
    label: 'Reference',
    editor: 'choice',
    options: { ask: 'references', free: true },
    none: 'a reference without a paper',
    help: 'Serial number of the reference in the drawer: its certificate says how good it is and until when.',
  }),
  resolution: field(z.number('Give a number.').min(0, 'At least 0.').max(1e9), {
    label: 'Read to',
    editor: 'number',
    unitFrom: 'unit',
    help: 'The smallest step that can be read on the reference.',
  }),
  temperature: field(z.number('Give a number.').min(0, 'At least 0 K.').max(200, 'At most 200 K.'), {
    label: 'Temperature in use',
    editor: 'number',
    unit: 'K',
    help: 'How far it may be from the temperature of today.',
  }),
  coefficient: field(z.number('Give a number.').min(0, 'At least 0.').max(10, 'At most 10 %/K.'), {
    label: 'Temperature coefficient',
    editor: 'number',
    unit: '% of the reading',
    help: 'From the sensor’s data sheet.',
  }),
  drift: field(z.number('Give a number.').min(0, 'At least 0.').max(50, 'At most 50 %.'), {
    label: 'Drift until due',
    editor: 'number',
    unit: '% of the reading',
    help: 'What calibrations of other years say, or the data sheet.',
  }),
  months: field(z.number('Give a number.').int('Give whole months.').min(1).max(120, 'At most 120.'), {
    label: 'Holds for',
    editor: 'number',
    unit: 'months',
  }),
  environment: field(z.string().trim().max(120), {
    label: 'Environment',
    editor: 'text',
    none: 'not noted',
    help: 'Temperature, humidity, place: printed on the certificate.',
  }),
  unit: z.string(),
});
export type BudgetInputs = z.infer<typeof BudgetInputs>;

export const budgetSentence: Sentence<typeof BudgetInputs> = {
  schema: BudgetInputs,
  template: () =>
    'Reference {reference}, read to {resolution}. In use within {temperature} of today, at {coefficient} for each K; drift until due {drift}. It holds for {months}. Environment: {environment}.',
};

export const usualBudget = (unit: string): BudgetInputs => ({
  reference: '',
  resolution: 0,
  temperature: 5,
  coefficient: 0.005,
  drift: 0.05,
  months: 12,
  environment: '',
  unit,
});

/** The lines of a budget that every way of calibrating shares: reference, resolution, temperature, drift. Relative parts count for a reading. */
export function commonContributions(inputs: BudgetInputs, reference: UsedReference | null): Contribution[] {
  const parts = [
    reference &&
      contribution({
        name: `Reference ${reference.serial}`,
        type: 'B',
        halfWidth: reference.absolute,
        relative: reference.relative,
        coverage: 2,
        shared: reference.serial,
      }),
    contribution({
      name: 'Resolution of the reference',
      type: 'B',
      distribution: 'rectangular',
      halfWidth: inputs.resolution / 2,
    }),
    contribution({
      name: `Temperature, ${inputs.temperature} K`,
      type: 'B',
      distribution: 'rectangular',
      relative: (inputs.temperature * inputs.coefficient) / 100,
    }),
    contribution({
      name: 'Drift until due',
      type: 'B',
      distribution: 'rectangular',
      relative: inputs.drift / 100,
    }),
  ];
  return parts.filter((p): p is Contribution => p !== null && (p.halfWidth > 0 || p.relative > 0));
}

/** The lines that a fitted straight line or curve brings along: a reading's own distance from it, where it lies, how steep it is. All
 *  stand on one estimate, the scatter of the residuals, so that together they are the prediction interval of the regression. */
export function lineContributions(
  fit: Pick<CalibrationFit, 'dof' | 'residualStd' | 'placed' | 'about'>,
): Contribution[] {
  if (!(fit.dof > 0)) return [];
  const { dof, residualStd: s, placed, about } = fit;
  const part = (name: string, halfWidth: number, rest: Partial<Contribution> = {}) =>
    contribution({ name, type: 'A', halfWidth, dof, estimate: LINE_ESTIMATE, ...rest });
  return [
    part('Distance from the line', s),
    part('Place of the line', s * Math.sqrt(placed)),
    ...(about ? [part('Slope of the line', s, { about })] : []),
  ].filter((p) => p.halfWidth > 0);
}

/** The lines that come from the points: those of the line through them, the noise within the holds, hysteresis. */
export function pointContributions(fit: CalibrationFit, points: PointInput[]): Contribution[] {
  const n = points.length;
  const samples = points.reduce((sum, p) => sum + p.samples, 0);
  const noise =
    Math.sqrt(points.reduce((sum, p) => sum + p.noise ** 2, 0) / n) *
    Math.abs(fit.slope) *
    Math.sqrt(n / Math.max(1, samples));
  const parts: Contribution[] = [
    ...lineContributions(fit),
    contribution({ name: 'Settling and noise', type: 'A', halfWidth: noise, dof: Math.max(1, samples - n) }),
  ];
  if (fit.hysteresis > 0)
    parts.push(
      contribution({
        name: 'Hysteresis',
        type: 'B',
        distribution: 'rectangular',
        halfWidth: fit.hysteresis / 2,
      }),
    );
  return parts.filter((p) => p.halfWidth > 0);
}

/** A raw reading in the channel's unit. @param calibrated whether the calibration in force counts */
export function valueOf(channel: Channel, raw: number, calibrated = true): number {
  const out = new Float64Array(1);
  const as = calibrated ? channel : { ...channel, calibration: null, tare: 0 };
  compileConversion(conversionOf(as))([raw], out, 1);
  return out[0];
}

/** Where a point lies on the axis that the line is fitted over: the raw reading of a linear sensor, else the uncorrected value. */
export const fitAxis = (channel: Channel, raw: number) =>
  channelKind(channel.kind).linear ? raw : valueOf(channel, raw, false);

/** A point as it is handed over: what it leaves out takes its usual value. */
export type PointInput = z.input<typeof CalibrationPoint>;

/** The curve through the points that count, from fitAxis to the targets.
 *  @throws `bad_input` for points that leave it undefined, or a channel that cannot be calibrated so */
export function fitPoints(
  channel: Channel,
  all: PointInput[],
  form: CalibrationFit['form'] = 'straight line',
): CalibrationFit {
  const kind = channelKind(channel.kind);
  if (!canCalibrate(kind))
    throw badInput('channel', channel.name, `A channel of kind “${channel.kind}” has nothing to calibrate.`);
  if (!kind.linear && form !== 'straight line' && form !== 'straight line through zero')
    throw badInput(
      'fit',
      form,
      `A ${channel.kind} has a law of its own; a straight line corrects what it gives.`,
    );
  const points = all.filter((p) => !p.dropped);
  if (points.length < 2)
    throw new FarrierError('bad_input', {
      what: `${points.length} of ${all.length} points count.`,
      where: 'points',
      next: 'Measure at least two points, and leave out fewer.',
    });
  return fitForm(form, {
    x: points.map((p) => fitAxis(channel, p.raw)),
    y: points.map((p) => p.target),
    going: points.map((p) => p.going ?? 'up'),
  });
}

/** What a calibrator gives. */
export const ToneRun = z.strictObject({
  level: field(z.number('Give a number.').min(-1e9).max(1e9), {
    label: 'Level',
    editor: 'number',
    unitFrom: 'levelUnit',
    help: 'As it stands on the calibrator; of sound in dB, of anything else its rms.',
  }),
  hz: field(z.number('Give a number.').positive('Give a frequency above 0 Hz.').max(1e5), {
    label: 'Frequency',
    editor: 'number',
    unit: 'Hz',
  }),
  levelUnit: z.string(),
});
export type ToneRun = z.infer<typeof ToneRun>;

export const toneSentence: Sentence<typeof ToneRun> = {
  schema: ToneRun,
  template: () =>
    'The calibrator gives {level} at {hz}. The tone is measured alone for 2 s: hum and noise do not count.',
};
