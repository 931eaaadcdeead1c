import { z } from 'zod';

/** A table of correction over frequency, kept by name: what a cable loses, an antenna or a coupling network turns, an amplifier adds. */
const CORRECTION_KINDS = ['cable loss', 'attenuator', 'amplifier gain', 'antenna factor', 'coupling network', 'current probe'] as const; // prettier-ignore
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
