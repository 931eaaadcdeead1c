import { z } from 'zod';
import { clockText, dayText, readingText } from '$core/readings';
import { field, type Sentence } from '$core/sentence/sentence';
import type { Limit, RecorderFindings } from '$core/field/recorder/found';
import { durationS, type RecorderModel, type RecorderSetup } from '$core/field/recorder/plan';
import type { RecorderState } from '$core/field/recorder/state';

const STARTS = ['at once', 'by its button', 'at a time'] as const;
const WAITS = ['while it waits', 'only from its start'] as const;
const ENDS = ['stop', 'stop by its button', 'keep the newest'] as const;
const AFTER = ['at once', 'in a row', 'in total'] as const;
const CLEARS = ['may be cleared at the recorder', 'stays until it is read'] as const;
const LAMPS = ['dark', 'blink each minute', 'blink each minute, quick in alarm'] as const;
const limit = (label: string) =>
  field(z.number().min(-200).max(200).nullable(), { label, editor: 'number', unit: '°C', none: 'no limit' });
const after = (label: string) => field(z.enum(AFTER), { label, editor: 'choice', options: AFTER, help: 'At the first reading beyond, after so many in a row, or when so many were beyond in all.' }); // prettier-ignore
const count = (label: string) => field(z.number().int().min(1).max(1000), { label, editor: 'number' });

/** How a recorder is to work, as it is said. */
export const RecorderWish = z.strictObject({
  name: field(z.string().trim().min(1).max(40), {
    label: 'Name',
    editor: 'text',
    help: '{n} counts on from recorder to recorder.',
  }),
  start: field(z.enum(STARTS), { label: 'Start', editor: 'choice', options: STARTS }),
  startAt: field(
    z.string().trim().regex(/^(\d{4}-\d\d-\d\d \d\d:\d\d)?$/, 'Write it as 2026-12-24 09:00.'), // prettier-ignore
    { label: 'Time of its start', editor: 'text', none: 'no time yet', help: 'As 2026-12-24 09:00, UTC.' },
  ),
  waiting: field(z.enum(WAITS), { label: 'Measures', editor: 'choice', options: WAITS }),
  settleMin: field(z.number().min(0).max(100_000), {
    label: 'To settle',
    editor: 'number',
    unit: 'min',
    help: 'So long limits do not count: a probe that is still warm is no alarm.',
  }),
  intervalS: field(z.number().int().min(1).max(86_400), { label: 'Interval', editor: 'number', unit: 's' }),
  days: field(z.number().positive().max(10_000), { label: 'For', editor: 'number', unit: 'd' }),
  then: field(z.enum(ENDS), {
    label: 'Then',
    editor: 'choice',
    options: ENDS,
    help: 'By its button it stops when that is pushed while it records, and when its memory is full.',
  }),
  high: limit('High limit'),
  highAfter: after('Alarm above'),
  highCount: count('Readings above'),
  low: limit('Low limit'),
  lowAfter: after('Alarm below'),
  lowCount: count('Readings below'),
  clearing: field(z.enum(CLEARS), { label: 'An alarm', editor: 'choice', options: CLEARS }),
  lamps: field(z.enum(LAMPS), { label: 'Lamps', editor: 'choice', options: LAMPS }),
});
export type RecorderWish = z.infer<typeof RecorderWish>;
export const recorderSentence: Sentence<typeof RecorderWish> = {
  schema: RecorderWish,
  template: ({ start, high, highAfter, low, lowAfter }) => {
    const begins = start === 'at a time' ? '{start}: {startAt}' : '{start}';
    const waits = start === 'at once' ? '' : ', measuring {waiting}';
    const counted = (name: string, how: string) => (how === 'at once' ? `{${name}After}` : `after {${name}Count} {${name}After}`); // prettier-ignore
    const above = high === null ? 'above {high}' : `above {high} ${counted('high', highAfter)}`;
    const below = low === null ? 'below {low}' : `below {low} ${counted('low', lowAfter)}`;
    return `Call it {name}. Start ${begins}${waits}; give it {settleMin} to settle. Read every {intervalS} for {days}, then {then}. Alarm ${above} and ${below}; an alarm {clearing}. Lamps {lamps}.`;
  },
};
export const NEW_WISH: RecorderWish = { name: 'Crate {n}', start: 'by its button', startAt: '', waiting: 'while it waits', settleMin: 30, intervalS: 600, days: 28, then: 'keep the newest', high: null, highAfter: 'in a row', highCount: 3, low: null, lowAfter: 'at once', lowCount: 1, clearing: CLEARS[0], lamps: LAMPS[2] }; // prettier-ignore

const DAY_S = 86_400;
const limitOf = (at: number | null, after: Limit['after'], count: number): Limit | null =>
  at === null ? null : { at, after, count: after === 'at once' ? 1 : count };

/** A wish as a recorder takes it. @param name in place of its pattern */
export function setupOf(wish: RecorderWish, name: string): RecorderSetup {
  return {
    name,
    start: wish.start,
    startMs: wish.start === 'at a time' && wish.startAt ? Date.parse(`${wish.startAt.replace(' ', 'T')}:00Z`) : null,
    measuresWaiting: wish.start !== 'at once' && wish.waiting === WAITS[0],
    settleS: Math.round(wish.settleMin * 60),
    intervalS: wish.intervalS,
    readings: Math.max(1, Math.round((wish.days * DAY_S) / wish.intervalS)),
    then: wish.then,
    high: limitOf(wish.high, wish.highAfter, wish.highCount),
    low: limitOf(wish.low, wish.lowAfter, wish.lowCount),
    clearable: wish.clearing === CLEARS[0],
    lamps: wish.lamps,
  };
} // prettier-ignore
/** What a recorder was set up to, as a wish for the next time. */
export function wishOf(setup: RecorderSetup): RecorderWish {
  const { name, start, high, low } = setup;
  return {
    ...NEW_WISH,
    name,
    start: start === 'at a time' ? 'by its button' : start,
    waiting: setup.measuresWaiting ? WAITS[0] : WAITS[1],
    settleMin: setup.settleS / 60,
    intervalS: setup.intervalS,
    days: Number((durationS(setup) / DAY_S).toPrecision(6)),
    then: setup.then,
    high: high?.at ?? null,
    ...(high && { highAfter: high.after, highCount: high.count }),
    low: low?.at ?? null,
    ...(low && { lowAfter: low.after, lowCount: low.count }),
    clearing: setup.clearable ? CLEARS[0] : CLEARS[1],
    lamps: setup.lamps,
  };
}

/** Who put a recorder where. */
export const Placed = z.strictObject({
  place: z.string().trim().max(80),
  by: z.string().trim().max(80),
});
export type Placed = z.infer<typeof Placed>;

/** A recorder as Farrier knows it. */
export interface RecorderView {
  serial: string;
  model: RecorderModel;
  state: RecorderState;
  /** When it was seen last, ms; whether it lies in a cradle now. */
  seenMs: number;
  here: boolean;
  /** Readings of its recording that are fetched, and the take that they are. */
  fetched: number;
  takeId: string | null;
  /** By how much its clock was ahead when it was read last, s. */
  aheadS: number;
  findings: RecorderFindings | null;
  placed: Placed | null;
  /** What it is to be read or set up with, where it asks for a password: whether one is known while it lies there. */
  open: boolean;
}
export interface CradleView {
  address: string;
  state: 'answers' | 'silent' | 'looking';
  /** Why it is silent. */
  says: string;
  holds: string | null;
  /** Recorders that play in its stead, which can be put in and taken out here. */
  plays: { serial: string; name: string }[] | null;
}
export interface BatchView {
  wish: RecorderWish;
  done: { serial: string; name: string; state: 'set up' | 'failed'; says: string }[];
}
export interface FieldView {
  cradles: CradleView[];
  recorders: RecorderView[];
  batch: BatchView | null;
  /** Whether what a recorder holds is fetched as soon as it is seen. */
  fetches: boolean;
  /** Set-ups that are kept under names. */
  templates: { name: string; wish: RecorderWish }[];
}

/** Readings of a recorder to be drawn: of each stretch the lowest and the highest, null where all are missing. */
export interface RecorderReadings {
  curves: {
    name: string;
    unit: string;
    fromMs: number;
    stepMs: number;
    low: (number | null)[];
    high: (number | null)[];
  }[];
  /** When limits begin to count, ms. */
  settledMs: number | null;
  marks: number[];
  waiting: { fromMs: number; stepMs: number; values: (number | null)[] } | null;
}

/** A span of time as it is said: 3 h 20 min. */
export function spanText(minutes: number): string {
  if (minutes < 1) return `${Math.round(minutes * 60)} s`;
  const whole = Math.round(minutes);
  const [days, hours, rest] = [Math.floor(whole / 1440), Math.floor((whole % 1440) / 60), whole % 60];
  if (days >= 2) return hours ? `${days} d ${hours} h` : `${days} d`;
  const all = days * 24 + hours;
  return all ? (rest ? `${all} h ${rest} min` : `${all} h`) : `${rest} min`;
}
const dayOf = (ms: number) => dayText(new Date(ms).toISOString().slice(0, 10)).replace(/ \d{4}$/, '');

/** What a recorder is doing, in one sentence. */
export function stateText({
  state,
  findings,
  model,
}: Pick<RecorderView, 'state' | 'findings' | 'model'>): string {
  const { phase, setup, startedMs, alarms, battery } = state;
  const parts: string[] = [];
  switch (phase) {
    case 'blank':
      return 'in no use yet: it is not set up';
    case 'asleep':
      return 'asleep';
    case 'waits':
      parts.push(setup?.start === 'at a time' ? `waits until ${dayOf(setup.startMs!)} ${new Date(setup.startMs!).toISOString().slice(11, 16)} UTC` : 'waits for its button'); // prettier-ignore
      break;
    case 'settles':
      parts.push(`settles since ${new Date(startedMs!).toISOString().slice(11, 16)} UTC`);
      break;
    case 'records':
      parts.push(`recording since ${dayOf(startedMs!)}`);
      break;
    case 'stopped':
      parts.push(`stopped after ${state.end} readings`);
  }
  if (phase === 'records' && setup) {
    const room = Math.floor(model.memory / model.measures.length);
    if (setup.then === 'keep the newest')
      parts.push(state.end > room ? 'keeps the newest' : `${Math.round((1 - state.end / room) * 100)} % left`); // prettier-ignore
    else
      parts.push(
        `${Math.round(Math.max(0, 1 - state.end / (setup.then === 'stop' ? Math.min(room, setup.readings) : room)) * 100)} % left`,
      );
  }
  const beyond = (minutes: number | undefined, limit: Limit | null, side: string) => {
    if (limit && minutes !== undefined && minutes > 0) parts.push(`was ${side} ${readingText(limit.at, { digits: 2 })} °C for ${spanText(minutes)}`); // prettier-ignore
  };
  beyond(findings?.minutesAbove, setup?.high ?? null, 'above');
  beyond(findings?.minutesBelow, setup?.low ?? null, 'below');
  if ((alarms.high !== null || alarms.low !== null) && alarms.cleared) parts.push('alarm cleared');
  if (battery.share < 0.1) parts.push(`battery low, ${battery.volts.toFixed(2)} V`);
  return parts.join(', ');
}
/** Whether something about it wants attention. */
export const wantsVisit = ({ state }: Pick<RecorderView, 'state'>): boolean =>
  state.battery.share < 0.1 ||
  ((state.alarms.high !== null || state.alarms.low !== null) && !state.alarms.cleared);

/** How long ago, in words. */
export const agoText = (ms: number, nowMs: number): string => (nowMs - ms < 5000 ? 'now' : `${spanText(Math.max(0, nowMs - ms) / 60_000)} ago`); // prettier-ignore
export const aheadText = (aheadS: number): string =>
  Math.abs(aheadS) < 1
    ? 'its clock is right'
    : `its clock ran ${clockText(Math.abs(aheadS), 0)} ${aheadS > 0 ? 'ahead' : 'late'}`;
