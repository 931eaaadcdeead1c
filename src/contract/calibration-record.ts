import { FIT_FORMS } from '$core/fit/forms';
import { DISTRIBUTIONS } from '$core/uncertainty/budget';
import { z } from 'zod';
import { ScaleLaw } from './scale';

/** Ways to prove a channel's reading. */
const METHODS = [
  'by sheet',
  'by points',
  'by shunt',
  'by reference tone',
  'by comparison',
  'by chip',
] as const;
export type Method = (typeof METHODS)[number];

export const CalibrationPoint = z.object({
  /** The reference's value, in the channel's unit. */
  target: z.number(),
  /** What the hardware read, mean over the hold. */
  raw: z.number(),
  /** Standard deviation of the raw reading over the hold. */
  noise: z.number(),
  samples: z.number().int(),
  /** Whether the value was reached from below or from above. */
  going: z.enum(['up', 'down']).default('up'),
  /** Why the point is left out of the fit; null while it counts. */
  dropped: z.string().trim().min(1, 'Say why the point is left out.').max(200).nullable().default(null),
  /** How often it was measured; what was measured before is not kept. */
  times: z.number().int().min(1).default(1),
});
export type CalibrationPoint = z.infer<typeof CalibrationPoint>;

/** Parts of a fitted line: they come from one estimate, which records of earlier versions did not say. */
const OF_THE_LINE = [
  'Distance from the line',
  'Place of the line',
  'Slope of the line',
  'Scatter about the line',
];
/** What the parts of a fitted line or curve have in common: the scatter of its residuals. */
export const LINE_ESTIMATE = 'residuals of the fit';

const ContributionShape = z.object({
  name: z.string(),
  type: z.enum(['A', 'B']),
  distribution: z.enum(DISTRIBUTIONS),
  halfWidth: z.number(),
  relative: z.number(),
  coverage: z.number(),
  dof: z.number().nullable(),
  about: z.object({ mean: z.number(), spread: z.number() }).nullable(),
  estimate: z.string().nullable(),
  shared: z.string().nullable(),
});
export const ContributionSchema = z.preprocess((body) => {
  if (typeof body !== 'object' || body === null || 'estimate' in body) return body;
  const known = OF_THE_LINE.includes((body as { name?: string }).name ?? '');
  return { ...body, estimate: known ? LINE_ESTIMATE : null };
}, ContributionShape);

/** What the sensor was compared with: itself a sensor with a due date. */
export const UsedReference = z.object({
  serial: z.string(),
  name: z.string(),
  /** Expanded uncertainty, k = 2, in the channel's unit and as a share of the value. */
  absolute: z.number(),
  relative: z.number(),
  due: z.string(),
});
export type UsedReference = z.infer<typeof UsedReference>;

/** What a check of a bridge found. */
const FINDINGS = ['right', 'wrong value', 'wrong step', 'dead', 'pegged', 'moving'] as const;
export type BridgeFinding = (typeof FINDINGS)[number];

/** A calibration or check as it is kept for ever. */
export const Calibration = z.object({
  id: z.string(),
  channelId: z.string(),
  method: z.enum(METHODS),
  at: z.number(),
  by: z.string(),
  unit: z.string(),
  rawUnit: z.string(),
  /** For a linear kind: raw → unit. Otherwise a correction of the law's result. */
  slope: z.number(),
  offset: z.number(),
  points: z.array(CalibrationPoint),
  residuals: z.array(z.number()),
  largestResidual: z.number(),
  form: z.enum(FIT_FORMS).default('straight line'),
  /** The curve, where it is more than slope and offset. */
  law: ScaleLaw.nullable().default(null),
  /** Whether slope and offset count from the raw reading; else they correct what the channel's law gives. null: as the kind says. */
  fromRaw: z.boolean().nullable().default(null),
  /** False where the settings hold the values and this is only their proof. */
  applies: z.boolean().default(true),
  rSquared: z.number().nullable().default(null),
  linearity: z.number().nullable().default(null),
  hysteresis: z.number().nullable().default(null),
  budget: z.array(ContributionSchema).default([]),
  /** Largest distance from the targets before it was adjusted, in the unit. */
  asFound: z.number().nullable().default(null),
  reference: UsedReference.nullable().default(null),
  environment: z.string().default(''),
  /** Day until which it holds, as 2027-03-14; '' where none was set. */
  due: z.string().default(''),
  /** What it was made with: another sensor, wire or bridge makes it void (see proofKey). '' in records that did not keep it. */
  proves: z.string().default(''),
  finding: z.enum(FINDINGS).default('right'),
  /** What else was measured, label by label. */
  measured: z.array(z.object({ label: z.string(), value: z.number(), unit: z.string() })).default([]),
  note: z.string().default(''),
});
export type Calibration = z.infer<typeof Calibration>;
