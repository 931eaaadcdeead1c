import { nameText } from './name-text';
import { field, type Sentence } from '$core/sentence/sentence';
import { spelled } from '$core/quantities/spellings';
import { isUnit } from '$core/quantities/quantities';
import { z } from 'zod';
import { CHANNEL_KINDS } from './kinds/kinds';

export const SENSOR_KINDS = CHANNEL_KINDS.filter(
  (k) => k.accepts.length > 0 && k.role !== 'driven' && k.sensor !== false,
).map((k) => k.kind);
const unit = z
  .string()
  .max(30)
  .transform((u) => {
    const read = spelled(u);
    return u !== '' && 'symbol' in read ? read.symbol : u;
  })
  .refine((u) => u === '' || isUnit(u), 'This is no unit.');
const finite = z.number('Give a number.').min(-1e12).max(1e12);
const day = z
  .string()
  .regex(/^(\d{4}-\d{2}-\d{2})?$/, 'Write it like 2026-03-14.')
  .refine((d) => d === '' || !Number.isNaN(Date.parse(d)), 'There is no such day.');

/** A thing that is only compared with: weights, rules, calibrators. It has no channel of its own. */
export const REFERENCE = 'reference';
const share = z.number('Give a number.').min(0, 'At least 0.');

/** A sensor as it lies in the drawer: it outlives jobs. */
export const Sensor = z.strictObject({
  serial: field(nameText(60), {
    label: 'Serial number',
    editor: 'text',
    help: 'As engraved: takes and certificates name it.',
  }),
  kind: field(z.enum([...SENSOR_KINDS, REFERENCE]), {
    label: 'Kind',
    editor: 'choice',
    options: [...SENSOR_KINDS, REFERENCE],
  }),
  model: field(z.string().trim().max(120), { label: 'Model', editor: 'text', none: 'no model given' }),
  unit: field(unit, { label: 'Unit', editor: 'text', none: 'no unit' }),
  range: field(
    z
      .object({ min: finite, max: finite })
      .refine((r) => r.min < r.max, 'The lower end has to be below the upper one.')
      .nullable(),
    { label: 'Range', editor: 'range', unitFrom: 'unit', none: 'not given' },
  ),
  /** Values of the channel kind's settings that the sheet gives, such as sensitivity or gauge factor. */
  sheet: z.record(z.string(), z.union([z.number(), z.string()])),
  calibratedOn: field(day, { label: 'Calibrated on', editor: 'day', none: 'not known' }),
  calibratedUntil: field(day, {
    label: 'Due',
    editor: 'day',
    none: 'not known',
    help: 'Said before a take when it is past.',
  }),
  /** Expanded uncertainty of its sheet (k = 2): a fixed part in its unit and a share of the reading. */
  goodTo: field(share.max(1e12).default(0), {
    label: 'Good to',
    editor: 'number',
    unitFrom: 'unit',
    help: 'Expanded uncertainty of its certificate (k = 2), the part that does not grow with the value.',
  }),
  goodToShare: field(share.max(100, 'At most 100 %.').default(0), {
    label: 'Good to a share',
    editor: 'number',
    unit: '% of the value',
    help: 'Expanded uncertainty of its certificate (k = 2), the part that grows with the value.',
  }),
  note: field(z.string().max(1000), { label: 'Note', editor: 'text', none: 'nothing' }),
});
export type Sensor = z.infer<typeof Sensor>;

export const sensorSentence: Sentence<typeof Sensor> = {
  schema: Sensor,
  template: () =>
    'Sensor {serial}: {kind}, {model}, for {range} in {unit}. Calibrated on {calibratedOn}, due {calibratedUntil}, good to {goodTo} and {goodToShare} (k = 2). Note: {note}.',
};

export const NEW_SENSOR: Sensor = {
  serial: '',
  kind: 'bridge sensor',
  model: '',
  unit: '',
  range: null,
  sheet: {},
  calibratedOn: '',
  calibratedUntil: '',
  goodTo: 0,
  goodToShare: 0,
  note: '',
};

/** Settings of a kind of channel that belong to the sensor, not to its use. */
export const sheetKeys = (kind: string): readonly string[] =>
  CHANNEL_KINDS.find((k) => k.kind === kind)?.sheet ?? [];

/** A sensor with where it is used and what hangs on it. */
export interface SensorView extends Sensor {
  usedBy: { channel: string; channelId: string; job: string }[];
  documents: { id: number; name: string; bytes: number }[];
  due: boolean;
}

/** One value that a sensor's sheet would change in a channel. */
export interface SheetDifference {
  key: string;
  label: string;
  now: string;
  next: string;
}

/** A chip that was read, and what it would change. */
export interface ReadChip {
  terminal: string;
  channelId: string | null;
  channel: string | null;
  sensor: Sensor | null;
  title: string;
  /** All that the chip says, label and text. */
  sheet: { label: string; text: string }[];
  differences: SheetDifference[];
  fault: string | null;
}
