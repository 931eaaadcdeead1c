import { PINS_MOST } from '$core/radio/measure';
import { NEIGHBOURS_MOST } from '$core/radio/widths';
import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';

const level = z.number('Give a number.').min(-200, 'At least −200 dBm.').max(100, 'At most 100 dBm.');
const hz = z.number().min(0).max(1e11);
const LEVEL_DROPS = [3, 6, 26] as const;

const conditions = z.strictObject({
  least: field(level, {
    label: 'Least level',
    editor: 'number',
    unit: 'dBm',
    help: 'What is weaker is no peak.',
  }),
  rise: field(z.number('Give a number.').min(0, 'At least 0 dB.').max(100, 'At most 100 dB.'), {
    label: 'Least rise',
    editor: 'number',
    unit: 'dB',
    help: 'How far the line has to fall on both sides before it goes higher: noise on a slope is then no peak.',
  }),
  order: field(z.enum(['level', 'frequency']), {
    label: 'Order',
    editor: 'choice',
    options: ['level', 'frequency'],
  }),
  share: field(z.number('Give a number.').min(70, 'At least 70 %.').max(99.5, 'At most 99.5 %.'), {
    label: 'Share of the power',
    editor: 'number',
    unit: '%',
    help: 'The width that holds it is the occupied bandwidth; half of the rest lies on either side.',
  }),
  drop: field(
    z.number().refine((v) => (LEVEL_DROPS as readonly number[]).includes(v), 'Choose one of the list.'),
    {
      label: 'Width below the highest',
      editor: 'choice',
      unit: 'dB',
      options: LEVEL_DROPS,
    },
  ),
  centre: field(z.number('Give a number.').positive('Give a frequency above 0 MHz.').max(1e5).nullable(), {
    label: 'Channel',
    editor: 'number',
    unit: 'MHz',
    none: 'the middle',
  }),
  wide: field(z.number('Give a number.').positive('Give a width above 0 kHz.').max(1e6), {
    label: 'Width of the channel',
    editor: 'number',
    unit: 'kHz',
  }),
});

export const PEAKS: Sentence<typeof conditions> = {
  schema: conditions,
  template: () => 'above {least}, rising {rise}, by {order}',
};
export const OCCUPIED: Sentence<typeof conditions> = {
  schema: conditions,
  template: () => '{share} of the power',
};
export const BELOW: Sentence<typeof conditions> = {
  schema: conditions,
  template: () => '{drop} below the highest',
};
export const CHANNEL: Sentence<typeof conditions> = {
  schema: conditions,
  template: () => '{wide} around {centre}',
};

/** What is measured of a band, and the pins in it. */
export const Measuring = z.strictObject({
  ...conditions.shape,
  /** Line that is measured. */
  line: z.string().max(40),
  pins: z
    .array(z.strictObject({ id: z.number().int().min(1).max(PINS_MOST), hz, follows: z.boolean() }))
    .max(PINS_MOST),
  /** Pin to which the others are compared. */
  to: z.number().int().min(1).max(PINS_MOST),
  /** Whether the frequency of that pin is counted. */
  counts: z.boolean(),
  /** Level line; null for none. */
  level: level.nullable(),
  neighbours: z
    .array(z.strictObject({ offset: z.number().positive().max(1e6), wide: z.number().positive().max(1e6) }))
    .max(NEIGHBOURS_MOST),
  /** Limits from tables: MHz and dBm, in rising order. */
  limits: z
    .array(
      z.strictObject({
        name: z.string().trim().min(1).max(60),
        points: z.array(z.strictObject({ hz, level })).min(2).max(500),
      }),
    )
    .max(8),
});
export type Measuring = z.infer<typeof Measuring>;

export const MEASURING_DEFAULTS: Measuring = {
  least: -85,
  rise: 6,
  order: 'level',
  share: 99,
  drop: 3,
  centre: null,
  wide: 800,
  line: 'now',
  pins: [],
  to: 1,
  counts: false,
  level: null,
  neighbours: [{ offset: 1000, wide: 800 }],
  limits: [],
};
