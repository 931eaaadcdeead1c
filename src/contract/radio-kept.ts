import { CORRECTION_KINDS } from '$core/emissions/corrections';
import { LIMIT_DETECTORS } from '$core/emissions/limits';
import { z } from 'zod';

/** A table of correction over frequency, kept by name: what a cable loses, an antenna or a coupling network turns, an amplifier adds. */
export const Correction = z.strictObject({
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  kind: z.enum(CORRECTION_KINDS),
  /** Measured on this day, YYYY-MM-DD; empty when it is not known. */
  measured: z.string().max(10).default(''),
  /** ± of its values at 95 %, dB. */
  expanded: z.number().min(0).max(20).default(0.5),
  points: z
    .array(z.strictObject({ hz: z.number().positive().max(1e12), db: z.number().min(-200).max(200) }))
    .min(1, 'Give at least one point.')
    .max(5000),
});
export type Correction = z.infer<typeof Correction>;

/** A set of limits, kept by name: lines for the readings of their detectors, in the unit that is measured in at their frequencies. */
export const LimitSet = z.strictObject({
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  lines: z
    .array(
      z.strictObject({
        detector: z.enum(LIMIT_DETECTORS),
        points: z
          .array(
            z.strictObject({ hz: z.number().positive().max(1e12), level: z.number().min(-200).max(300) }),
          )
          .min(2, 'A limit has two points or more.')
          .max(500),
      }),
    )
    .min(1, 'Give at least one line.')
    .max(6),
});
export type LimitSet = z.infer<typeof LimitSet>;
