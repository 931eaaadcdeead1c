import { type Conversion } from '$core/conversion/conversion';
import { FarrierError, badInput } from '$core/errors';
import { convertUnit, quantityOf, readUnit, unitConversion, unitsOf } from '$core/quantities/quantities';
import { z } from 'zod';
import { Calibration } from './calibration-record';
import { CHANNEL_KINDS, type ChannelKind, type Role } from './kinds/kinds';
import { Scale } from './scale';

export { Calibration, CalibrationPoint } from './calibration-record';
export type { Role } from './kinds/kinds';

const Settings = z.record(z.string(), z.unknown());
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
  /** A scale of its own in place of the slope and offset of its kind. */
  scale: Scale.nullable().default(null),
  /** The calibration in force, if there is one. */
  calibration: Calibration.nullable(),
  /** Taken off every reading, in the channel's unit. */
  tare: z.number().default(0),
});
export type Channel = z.infer<typeof Channel>;

/** A channel as it was written once: settings that came with a later version take their kind's usual values.
 *  @throws ZodError when it is no channel */
export function readChannel(body: unknown): Channel {
  const channel = Channel.parse(body);
  const defaults = CHANNEL_KINDS.find((k) => k.kind === channel.kind)?.defaults;
  return defaults ? { ...channel, settings: { ...defaults, ...channel.settings } } : channel;
}

/** What every kind's settings hold. */
export interface CommonSettings {
  unit: string;
  range: { min: number; max: number };
  rateHz: number;
  warnBelow: number | null;
  warnAbove: number | null;
  alarmBelow: number | null;
  alarmAbove: number | null;
  /** s */
  limitHold: number;
  limitBack: number;
}
export const commonOf = (channel: Pick<Channel, 'settings'>) => channel.settings as unknown as CommonSettings;

/** @throws `bad_input` for a kind that is not known */
export function channelKind(kind: string): ChannelKind {
  const found = CHANNEL_KINDS.find((k) => k.kind === kind);
  if (!found)
    throw badInput('kind of channel', kind, `Choose one of ${CHANNEL_KINDS.map((k) => k.kind).join(', ')}.`);
  return found;
}

const ROLES = new Map(CHANNEL_KINDS.map((k) => [k.kind, k.role ?? 'measured']));
export const roleOf = (channel: Pick<Channel, 'kind'>): Role => ROLES.get(channel.kind) ?? 'measured';

/** What an output's hardware is given for a value in the channel's unit: volts, or the number itself. */
export const outputOf = ({ settings }: Pick<Channel, 'settings'>, value: number): number =>
  typeof settings.slope === 'number' ? value / settings.slope : value;

/** Wires of a channel to its terminal, by the names of the terminal's own contacts where these are known. */
export function wiresOf(channel: Pick<Channel, 'kind' | 'settings'>, contacts?: string[]) {
  const wires = channelKind(channel.kind).wires(channel.settings);
  if (!contacts?.length || wires.every((w) => contacts.includes(w.terminal))) return wires;
  return wires.map((w, k) => ({ ...w, terminal: contacts[k] ?? w.terminal }));
}

/** From what the hardware delivers to the channel's unit, by its settings and the calibration in force. */
export function conversionOf(channel: Convertible): Conversion {
  const conversion = untared(channel);
  const { unit } = conversion;
  return channel.tare ? { ...conversion, unit: { ...unit, offset: unit.offset - channel.tare } } : conversion;
}
type Convertible = Pick<Channel, 'kind' | 'settings' | 'scale' | 'calibration'> & { tare?: number };

function untared(channel: Convertible): Conversion {
  const kind = channelKind(channel.kind);
  const { calibration, scale } = channel;
  const conversion: Conversion = scale
    ? {
        law: scale.law,
        correction: { slope: 1, offset: 0 },
        unit: unitConversion(scale.unit, commonOf(channel).unit),
      }
    : kind.conversion(channel.settings);
  if (!calibration || calibration.applies === false) return conversion;
  if ((calibration.fromRaw ?? kind.linear) && !scale)
    return {
      law: calibration.law ?? { kind: 'linear', slope: calibration.slope, offset: calibration.offset },
      correction: { slope: 1, offset: 0 },
      unit: unitConversion(calibration.unit, commonOf(channel).unit),
    };
  // The correction was found in the calibration's unit and is applied in the law's: c = f·L + o, L' = (slope·c + offset - o) / f.
  const { factor, offset } = unitConversion(
    scale?.unit ?? kind.lawUnit ?? calibration.unit,
    calibration.unit,
  );
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
  if (kind.quantities) return kind.quantities.flatMap(unitsOf);
  if (kind.lawUnit) return unitsOf(quantityOf(kind.lawUnit));
  return unitsOf(quantityOf(current));
}

const LIMITS = ['warnBelow', 'warnAbove', 'alarmBelow', 'alarmAbove'] as const;
/** Settings that are a place on the axis of the unit, and those that are a distance on it. */
const PLACES = [...LIMITS, 'low', 'high', 'rest', 'fullScale', 'offset'] as const;
const DISTANCES = ['limitBack', 'ramp', 'slope'] as const;

/** The settings that are written in the channel's unit, in another unit of its quantity; those named in `but` stay. */
export function settingsIn(settings: Settings, from: string, to: string, but: object = {}): Settings {
  if (from === to || quantityOf(from) !== quantityOf(to)) return settings;
  const next = { ...settings };
  const convert = (value: number) => Number(convertUnit(value, from, to).toPrecision(12));
  const { factor } = unitConversion(from, to);
  for (const key of PLACES)
    if (typeof next[key] === 'number' && !(key in but)) next[key] = convert(next[key]);
  for (const key of DISTANCES)
    if (typeof next[key] === 'number' && !(key in but))
      next[key] = Number((next[key] * factor).toPrecision(12));
  const range = next.range as { min: number; max: number } | undefined;
  if (range && !('range' in but)) next.range = { min: convert(range.min), max: convert(range.max) };
  return next;
}

/** Settings with some values changed, checked as a whole; a new unit converts the range and limits along.
 *  @throws `bad_input` with the field and the reason */
export function changeSettings(kind: ChannelKind, settings: Settings, change: Settings): Settings {
  const next = { ...settings, ...change };
  if (typeof change.unit === 'string') next.unit = readUnit(change.unit);
  return checkSettings(kind, settingsIn(next, settings.unit as string, next.unit as string, change));
}

/** Settings that say how a reading is converted, shown and judged: the hardware knows nothing of them. */
const ABOVE_HARDWARE = new Set([
  ...['unit', 'range', ...LIMITS, 'limitHold', 'limitBack', 'rest', 'ramp', 'formula'],
  ...[
    'zero',
    'sensitivity',
    'fullScale',
    'gaugeFactor',
    'poisson',
    'slope',
    'offset',
    'low',
    'high',
    'perTurn',
  ],
]);

/** What the hardware has to know of a channel. While it stays the same, a change of the channel does not touch what is acquired. */
export const measuringPart = (kind: string, settings: Settings): unknown => [
  kind,
  Object.entries(settings)
    .filter(([key]) => !ABOVE_HARDWARE.has(key))
    .sort(([a], [b]) => (a < b ? -1 : 1)),
];

/** @throws `bad_input` naming field, value and rule */
export function checkSettings(kind: ChannelKind, settings: Settings): Settings {
  const parsed = kind.sentence.schema.safeParse(settings, { reportInput: true });
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new FarrierError('bad_input', { what: issue.message, where: String(issue.path[0] ?? 'settings') });
  }
  const checked = parsed.data as Settings;
  const { warnBelow, warnAbove, alarmBelow, alarmAbove } = checked as unknown as CommonSettings;
  for (const [low, high, lowKey] of [
    [warnBelow, warnAbove, 'warnBelow'],
    [alarmBelow, alarmAbove, 'alarmBelow'],
  ] as const)
    if (low !== null && high !== null && low >= high)
      throw new FarrierError('bad_input', {
        what: `The lower limit ${low} is not below the upper one, ${high}.`,
        where: lowKey,
        next: 'Put it below.',
      });
  if (warnBelow !== null && alarmBelow !== null && warnBelow < alarmBelow)
    throw new FarrierError('bad_input', {
      what: `Warning at ${warnBelow} would come after the alarm at ${alarmBelow}.`,
      where: 'warnBelow',
      next: 'Put the warning above the lower alarm.',
    });
  if (warnAbove !== null && alarmAbove !== null && warnAbove > alarmAbove)
    throw new FarrierError('bad_input', {
      what: `Warning at ${warnAbove} would come after the alarm at ${alarmAbove}.`,
      where: 'warnAbove' in settings ? 'warnAbove' : 'alarmAbove',
      next: 'Put the warning below the alarm.',
    });
  const unit = checked.unit as string;
  const choices = unitChoices(kind, unit);
  const fits = kind.lawUnit
    ? quantityOf(kind.lawUnit) === quantityOf(unit)
    : !kind.quantities || choices.includes(unit); // a slope takes whatever unit is chosen
  if (!fits)
    throw new FarrierError('bad_input', {
      what: `${unit} does not fit: this channel measures ${[...new Set(choices.map(quantityOf))].join(', ')}.`,
      where: 'unit',
      next: `Choose one of ${choices.join(', ')}.`,
    });
  return checked;
}
