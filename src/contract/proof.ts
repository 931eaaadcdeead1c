import { dayText } from '$core/readings';
import {
  commonOf,
  channelKind,
  canCalibrate,
  roleOf,
  settingsIn,
  type Calibration,
  type Channel,
} from './channel';
import type { Method } from './calibration-record';
import { sheetKeys, type Sensor } from './sensor';

/** Kinds of channel whose reading needs a proof; counts, contacts and messages are what they are. */
export const needsProof = (channel: Channel) =>
  roleOf(channel) === 'measured' && channelKind(channel.kind).drifts !== false;
export const isBridge = (channel: Channel) => channelKind(channel.kind).bridge !== undefined;
export const hearsTones = (channel: Channel) => channelKind(channel.kind).tone !== undefined;

/** Ways in which a channel can be proven, the usual one first. */
export function waysOf(channel: Channel): Method[] {
  const points = canCalibrate(channelKind(channel.kind));
  return [
    ...(hearsTones(channel) ? (['by reference tone'] as const) : []),
    ...(points ? (['by points'] as const) : []),
    ...(isBridge(channel) ? (['by shunt'] as const) : []),
    'by sheet',
    ...(points ? (['by comparison'] as const) : []),
  ];
}

/** Settings that change how a channel is read, not what its sensor gives. */
const NOT_PROVEN = new Set([
  'unit', 'range', 'rateHz', 'warnBelow', 'warnAbove', 'alarmBelow', 'alarmAbove', 'limitHold', 'limitBack', 'zero',
]); // prettier-ignore

/** What a proof stands on: sensor, wire and the settings that matter. A proof made with another one is void. */
export const proofKey = ({ kind, sensorSerial, wire, scale, settings }: Channel): string =>
  JSON.stringify([
    kind,
    sensorSerial,
    wire,
    scale?.law ?? null,
    Object.entries(settings)
      .filter(([key]) => !NOT_PROVEN.has(key))
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  ]);

export const VERDICTS = [
  'broken',
  'off',
  'never proven',
  'expired',
  'changed since',
  'due soon',
  'proven',
  'nothing to prove',
] as const;
export type Verdict = (typeof VERDICTS)[number];

/** Verdicts that have to be dealt with before a take. */
export const isTodo = (verdict: Verdict) => VERDICTS.indexOf(verdict) < VERDICTS.indexOf('due soon');

/** One row of the overview. */
export interface Proof {
  channelId: string;
  verdict: Verdict;
  method: string;
  at: number | null;
  by: string;
  due: string;
  residual: number | null;
  /** Expanded uncertainty at the end of the range, about 95 %. */
  expanded: number | null;
  unit: string;
  /** Why, and what to do. */
  why: string;
  next: string;
}

const SOON_DAYS = 30;
const later = (day: string, days: number) =>
  new Date(Date.parse(day) + days * 86_400_000).toISOString().slice(0, 10);

/** Whether and how a channel's reading is proven.
 *  @param latest the last calibration or check that was kept, good or not @param today as 2027-03-14 @param expanded uncertainty at the end of the range */
export function proofOf(
  channel: Channel,
  sensor: Sensor | undefined,
  latest: Calibration | undefined,
  today: string,
  expanded: number | null,
): Proof {
  const { calibration } = channel;
  const paper = sensor?.calibratedOn ? sensor : undefined;
  const row: Proof = {
    channelId: channel.id,
    verdict: 'proven',
    method: calibration?.method ?? (paper ? `paper of ${paper.serial}` : ''),
    at: calibration?.at ?? (paper ? Date.parse(paper.calibratedOn) : null),
    by: calibration?.by ?? '',
    due: calibration?.due || (sensor?.calibratedUntil ?? ''),
    residual: calibration && calibration.points.length > 2 ? calibration.largestResidual : null,
    expanded,
    unit: commonOf(channel).unit,
    why: '',
    next: '',
  };
  const say = (verdict: Verdict, why: string, next: string): Proof => ({ ...row, verdict, why, next });
  if (!needsProof(channel))
    return say(
      'nothing to prove',
      roleOf(channel) === 'computed'
        ? 'It follows its inputs.'
        : 'It is counted, switched or sent as a number.',
      '',
    );
  if (
    latest &&
    latest.finding !== 'right' &&
    latest.finding !== 'moving' &&
    latest.at > (calibration?.at ?? 0)
  ) {
    if (!latest.proves || whatChanged(latest, channel))
      return say('changed since', 'It was changed after a check that failed.', 'Check it again.');
    return latest.finding === 'wrong value' || latest.finding === 'wrong step'
      ? say('off', latest.note, 'Correct the value, then check again.')
      : say('broken', latest.note, 'Mend the gauge or its wires, then check again.');
  }
  if (!calibration && !paper)
    return say(
      'never proven',
      'Nothing says that its value is right.',
      'Calibrate it, or give its sensor a paper.',
    );
  const changed = calibration?.proves ? whatChanged(calibration, channel) : null;
  if (changed) return say('changed since', changed, 'Calibrate it again as it is now.');
  const other = !calibration && paper ? differs(channel, paper) : null;
  if (other)
    return say('changed since', `Its sensor’s paper says ${other}.`, 'Take over the paper, or calibrate it.');
  if (row.due && row.due < today)
    return say('expired', `It held until ${dayText(row.due)}.`, 'Calibrate it again.');
  if (calibration?.reference?.due && calibration.reference.due < today)
    return say(
      'expired',
      `Its reference ${calibration.reference.serial} held until ${dayText(calibration.reference.due)}.`,
      'Calibrate with a reference that is in date.',
    );
  if (row.due && row.due <= later(today, SOON_DAYS))
    return say('due soon', `It holds until ${dayText(row.due)}.`, '');
  return row;
}

type ProofParts = [
  kind: string,
  sensor: string,
  wire: Channel['wire'],
  scale: unknown,
  settings: [key: string, value: unknown][],
];

/** What differs between what a proof stands on and the channel as it is now, in words; null when nothing does. Settings that kinds were
 *  given since the proof was made do not count, nor does the unit that they are written in: 10 kN are 10,000 N. */
function whatChanged(
  { proves, unit }: Pick<Calibration, 'proves' | 'unit'>,
  channel: Channel,
): string | null {
  const now = proofKey(channel);
  if (proves === now) return null;
  const [kindA, sensorA, wireA, scaleA, settingsA] = JSON.parse(proves) as ProofParts;
  const [kindB, sensorB, wireB, scaleB, settingsB] = JSON.parse(now) as ProofParts;
  if (kindA !== kindB) return `It was a ${kindA} then.`;
  if (sensorA !== sensorB) return `Its sensor was ${sensorA || 'another one'} then.`;
  if (JSON.stringify(wireA) !== JSON.stringify(wireB)) return otherWire(wireA, wireB);
  if (JSON.stringify(scaleA) !== JSON.stringify(scaleB)) return 'Its scale was another one then.';
  const present = new Map(settingsB);
  const then = settingsIn(Object.fromEntries(settingsA), unit, commonOf(channel).unit);
  const changed = Object.entries(then).find(([key, value]) => !alike(present.get(key), value));
  if (!changed) return null;
  const [name, value] = changed;
  return `Its ${name.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)} was ${String(value)} then, now ${String(present.get(name) ?? 'not set')}.`;
}

function otherWire(then: Channel['wire'], now: Channel['wire']): string {
  if (then && now && then.terminal === now.terminal)
    return `It was made through ${then.unit}; the same terminal of ${now.unit} reads it now.`;
  return 'It was wired to another terminal then.';
}

/** Two settings, up to the rounding of a change of unit there and back. */
const alike = (a: unknown, b: unknown) =>
  typeof a === 'number' && typeof b === 'number'
    ? Math.abs(a - b) <= 1e-8 * Math.max(Math.abs(a), Math.abs(b))
    : JSON.stringify(a) === JSON.stringify(b);

/** The first value of a sensor's sheet that its channel does not follow, in words. */
function differs(channel: Channel, sensor: Sensor): string | null {
  if (channel.kind !== sensor.kind || (sensor.unit && sensor.unit !== commonOf(channel).unit)) return null;
  for (const key of sheetKeys(sensor.kind)) {
    const value = sensor.sheet[key];
    if (value === undefined || key === 'excitation' || key === 'supplyMa') continue;
    if (channel.settings[key] !== value)
      return `${key.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)} ${value}, the channel ${String(channel.settings[key])}`;
  }
  return null;
}
