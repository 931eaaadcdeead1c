import { type Conversion } from '$core/conversion/conversion';
import { FarrierError, badInput } from '$core/errors';
import { convertUnit, quantityOf, unitConversion, unitsOf } from '$core/units/units';
import { z } from 'zod';
import { CHANNEL_KINDS, type ChannelKind } from './kinds/kinds';

export const CalibrationPoint = z.object({
  /** The reference's value, in the channel's unit. */
  target: z.number(),
  /** What the hardware read, mean over the hold. */
  raw: z.number(),
  /** Standard deviation of the raw reading over the hold. */
  noise: z.number(),
  samples: z.number().int(),
});
export type CalibrationPoint = z.infer<typeof CalibrationPoint>;

export const Calibration = z.object({
  id: z.string(),
  channelId: z.string(),
  method: z.enum(['by points']),
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
});
export type Calibration = z.infer<typeof Calibration>;

export const Settings = z.record(z.string(), z.unknown());
export type Settings = z.infer<typeof Settings>;

export const Channel = z.object({
  id: z.string(),
  name: z
    .string()
    .trim()
    .min(1, 'Give the channel a name.')
    .max(80, 'At most 80 characters.')
    .refine((n) => !n.includes('"'), 'Leave out quotation marks: formulas use them.'),
  group: z.string().trim().max(60),
  kind: z.string(),
  /** Serial of the unit and terminal on it; null for computed channels. */
  wire: z.object({ unit: z.string(), terminal: z.string() }).nullable(),
  sensorSerial: z.string().max(60),
  /** Position in the trace palette. */
  colour: z.number().int().min(0),
  settings: Settings,
  /** The calibration in force, if there is one. */
  calibration: Calibration.nullable(),
});
export type Channel = z.infer<typeof Channel>;

/** What every kind's settings hold. */
export interface CommonSettings {
  unit: string;
  range: { min: number; max: number };
  rateHz: number;
  warnAbove: number | null;
  alarmAbove: number | null;
}
export const commonOf = (channel: Pick<Channel, 'settings'>) => channel.settings as unknown as CommonSettings;

/** @throws `bad_input` for a kind that is not known */
export function channelKind(kind: string): ChannelKind {
  const found = CHANNEL_KINDS.find((k) => k.kind === kind);
  if (!found)
    throw badInput('kind of channel', kind, `Choose one of ${CHANNEL_KINDS.map((k) => k.kind).join(', ')}.`);
  return found;
}

export type Role = 'measured' | 'driven' | 'computed';
export const roleOf = (channel: Pick<Channel, 'kind'>): Role =>
  channel.kind === 'driven' ? 'driven' : channel.kind === 'computed' ? 'computed' : 'measured';

/** From what the hardware delivers to the channel's unit, by its settings and the calibration in force. */
export function conversionOf(channel: Pick<Channel, 'kind' | 'settings' | 'calibration'>): Conversion {
  const kind = channelKind(channel.kind);
  const conversion = kind.conversion(channel.settings);
  const { calibration } = channel;
  if (!calibration) return conversion;
  if (kind.linear)
    return {
      law: { kind: 'linear', slope: calibration.slope, offset: calibration.offset },
      correction: { slope: 1, offset: 0 },
      unit: unitConversion(calibration.unit, commonOf(channel).unit),
    };
  // The correction was found in the calibration's unit and is applied in the law's: c = f·L + o, L' = (slope·c + offset - o) / f.
  const { factor, offset } = unitConversion(kind.lawUnit ?? calibration.unit, calibration.unit);
  return {
    ...conversion,
    correction: {
      slope: calibration.slope,
      offset: (calibration.slope * offset + calibration.offset - offset) / factor,
    },
  };
}

/** Whether a channel of this kind can be calibrated by points. */
export const canCalibrate = (kind: ChannelKind) => kind.linear || kind.lawUnit !== null;

/** Units a channel of this kind can be read in. */
export function unitChoices(kind: ChannelKind, current: string): string[] {
  if (kind.kind === 'pulses') return ['rotational speed', 'volume flow', 'frequency'].flatMap(unitsOf);
  if (kind.lawUnit) return unitsOf(quantityOf(kind.lawUnit));
  return unitsOf(quantityOf(current));
}

/** Settings with some values changed, checked as a whole; a new unit converts the range and limits along.
 *  @throws `bad_input` with the field and the reason */
export function changeSettings(kind: ChannelKind, settings: Settings, change: Settings): Settings {
  const next = { ...settings, ...change };
  const from = settings.unit as string;
  const to = next.unit as string;
  if (from !== to && quantityOf(from) === quantityOf(to)) {
    const convert = (value: number) => Number(convertUnit(value, from, to).toPrecision(9));
    for (const key of ['warnAbove', 'alarmAbove', 'low', 'high', 'rest', 'fullScale', 'offset'] as const)
      if (typeof next[key] === 'number' && !(key in change)) next[key] = convert(next[key]);
    // A slope in units for each volt scales, without the offset of a temperature scale.
    if (typeof next.slope === 'number' && !('slope' in change))
      next.slope = Number(
        (next.slope * (convertUnit(1, from, to) - convertUnit(0, from, to))).toPrecision(9),
      );
    const range = next.range as { min: number; max: number };
    if (!('range' in change)) next.range = { min: convert(range.min), max: convert(range.max) };
  }
  return checkSettings(kind, next);
}

/** @throws `bad_input` naming field, value and rule */
export function checkSettings(kind: ChannelKind, settings: Settings): Settings {
  const parsed = kind.sentence.schema.safeParse(settings, { reportInput: true });
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new FarrierError('bad_input', { what: issue.message, where: String(issue.path[0] ?? 'settings') });
  }
  const checked = parsed.data as Settings;
  const { warnAbove, alarmAbove } = checked as unknown as CommonSettings;
  if (warnAbove !== null && alarmAbove !== null && warnAbove > alarmAbove)
    throw new FarrierError('bad_input', {
      what: `Warning at ${warnAbove} would come after the alarm at ${alarmAbove}.`,
      where: 'warnAbove' in settings ? 'warnAbove' : 'alarmAbove',
      next: 'Put the warning below the alarm.',
    });
  const choices = unitChoices(kind, checked.unit as string);
  if (!choices.includes(checked.unit as string))
    throw new FarrierError('bad_input', {
      what: `${checked.unit} does not fit: this channel measures ${quantityOf(kind.lawUnit ?? (checked.unit as string))}.`,
      where: 'unit',
      next: `Choose one of ${choices.join(', ')}.`,
    });
  return checked;
}
