import { FarrierError } from '$core/errors';
import { readUnit } from '$core/quantities/quantities';
import { z } from 'zod';

/** The unit of a quantity as people write it: “Nm”, “degC” and “l/min” become symbols, what can be meant in two ways is asked about. */
export const QuantityText = z
  .string()
  .min(1, 'Give a unit.')
  .max(40, 'At most 40 characters.')
  .transform((text, context) => {
    try {
      return readUnit(text);
    } catch (error) {
      const why = error instanceof FarrierError ? error.text.next : undefined;
      context.addIssue({
        code: 'custom',
        message: `“${text}” is no unit here. ${why ?? 'Write it like kN·m, m/s² or L/min.'}`,
        input: text,
      });
      return z.NEVER;
    }
  });
