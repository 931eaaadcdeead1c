import { z } from 'zod';

const finite = z.number('Give a number.').min(-1e12).max(1e12);
const pair = z.object({ raw: finite, value: finite });

/** What a certificate says of a channel. */
export const SheetEntry = z.strictObject({
  /** Values of the kind's own settings, such as sensitivity or gauge factor. */
  settings: z.record(z.string(), z.unknown()).default({}),
  /** A straight line or a table from the raw reading, in place of them. */
  line: z.object({ slope: finite, offset: finite }).nullable().default(null),
  table: z.array(pair).min(2, 'Give at least two rows.').max(1000).nullable().default(null),
  /** Expanded uncertainty, k = 2: in the channel's unit and in % of the reading. */
  goodTo: z.number().min(0, 'At least 0.').max(1e12).default(0),
  goodToShare: z.number().min(0, 'At least 0.').max(100, 'At most 100 %.').default(0),
  made: z
    .string()
    .regex(/^(\d{4}-\d{2}-\d{2})?$/, 'Write it like 2026-03-14.')
    .default(''),
  due: z
    .string()
    .regex(/^(\d{4}-\d{2}-\d{2})?$/, 'Write it like 2026-03-14.')
    .default(''),
  note: z.string().trim().max(300).default(''),
});
export type SheetEntry = z.input<typeof SheetEntry>;
