import type { Limit } from './found';

/** What a model of recorder can do. */
export interface RecorderModel {
  name: string;
  /** What it measures, in the order of a reading. */
  measures: readonly { quantity: string; unit: string; name: string }[];
  /** Readings that its memory holds. */
  memory: number;
  leastIntervalS: number;
  mostIntervalS: number;
  /** Whether it can keep the newest when its memory is full. */
  goesRound: boolean;
  /** Whether it can measure while it waits, and count readings beyond a limit in all. */
  measuresWaiting: boolean;
  countsInTotal: boolean;
  /** Charge of its battery, µA·h, and what it takes: asleep µA, a reading µA·s, a blink µA·s. */
  battery: { chargeUah: number; asleepUa: number; readingUas: number; blinkUas: number };
}

const temperature = { quantity: 'temperature', unit: '°C', name: 'Temperature' } as const;
/** The models that there are. */
export const RECORDER_MODELS: readonly RecorderModel[] = [
  { name: 'PR-2', measures: [temperature], memory: 8_000, leastIntervalS: 10, mostIntervalS: 86_400, goesRound: true, measuresWaiting: true, countsInTotal: false, battery: { chargeUah: 210_000, asleepUa: 5, readingUas: 3_900, blinkUas: 520 } }, // prettier-ignore
  { name: 'PR-4', measures: [temperature, { quantity: 'humidity', unit: '%', name: 'Humidity' }], memory: 32_000, leastIntervalS: 1, mostIntervalS: 86_400, goesRound: true, measuresWaiting: true, countsInTotal: true, battery: { chargeUah: 540_000, asleepUa: 11, readingUas: 7_900, blinkUas: 900 } }, // prettier-ignore
];
export const recorderModel = (name: string): RecorderModel | undefined =>
  RECORDER_MODELS.find((m) => m.name === name);

/** How a recorder is to work. */
export interface RecorderSetup {
  name: string;
  start: 'at once' | 'by its button' | 'at a time';
  /** Of `at a time`: ms since 1970. */
  startMs: number | null;
  measuresWaiting: boolean;
  /** After its start limits do not count for so long, s: what was put in is still warm. */
  settleS: number;
  intervalS: number;
  readings: number;
  /** Stopped by its button, its button makes no marks; full it stops, too. */
  then: 'stop' | 'stop by its button' | 'keep the newest';
  high: Limit | null;
  low: Limit | null;
  /** Whether an alarm can be cleared at the recorder. */
  clearable: boolean;
  lamps: 'dark' | 'blink each minute' | 'blink each minute, quick in alarm';
}

/** Interval, number of readings and time follow each other: of three the third. */
export const durationS = ({ intervalS, readings }: Pick<RecorderSetup, 'intervalS' | 'readings'>): number => intervalS * readings; // prettier-ignore
export const readingsFor = (intervalS: number, seconds: number): number => Math.max(1, Math.round(seconds / intervalS)); // prettier-ignore
/** The interval at which so many readings take so long: whole seconds, never shorter than the model’s least. */
export const intervalFor = (model: RecorderModel, readings: number, seconds: number): number =>
  Math.max(model.leastIntervalS, Math.round(seconds / Math.max(1, readings)));

/** How long a full battery lasts with a set-up, s. */
export function batteryS({ battery }: RecorderModel, { intervalS, lamps }: Pick<RecorderSetup, 'intervalS' | 'lamps'>): number {
  const { chargeUah, asleepUa, readingUas, blinkUas } = battery;
  const ua = asleepUa + readingUas / intervalS + (lamps === 'dark' ? 0 : blinkUas / 60);
  return (chargeUah / ua) * 3600;
} // prettier-ignore

/** What does not suit a model, in words; none where all does. `bad` keeps it from being set up. */
export function faultsOf(model: RecorderModel, setup: RecorderSetup, nowMs: number): { bad: boolean; says: string }[] {
  const faults: { bad: boolean; says: string }[] = [];
  const put = (bad: boolean, says: string) => void faults.push({ bad, says });
  const { intervalS, readings, then, start, startMs, high, low } = setup;
  if (setup.name.trim() === '') put(true, 'It has no name.');
  if (!(intervalS >= model.leastIntervalS && intervalS <= model.mostIntervalS))
    put(true, `${model.name} reads every ${model.leastIntervalS} s to ${model.mostIntervalS / 3600} h.`);
  if (!Number.isInteger(intervalS)) put(true, 'The interval is in whole seconds.');
  if (!(readings >= 1)) put(true, 'At least one reading is needed.');
  if (readings > model.memory) {
    const fit = `${model.memory} readings fit`;
    if (then === 'stop') put(true, `${fit}, ${readings} are wanted: read less often, or for a shorter time.`);
    else if (then === 'keep the newest') put(false, `${fit}: of ${readings} the newest ${model.memory} stay.`);
    else put(false, `${fit}: it stops when they are there, if its button is not pushed before.`);
  }
  if (then === 'keep the newest' && !model.goesRound) put(true, `${model.name} cannot go round: let it stop.`);
  if (setup.measuresWaiting && !model.measuresWaiting) put(true, `${model.name} does not measure while it waits.`);
  if (start === 'at a time' && startMs === null) put(true, 'The time of its start is missing.');
  if (start === 'at a time' && startMs !== null && startMs <= nowMs) put(true, 'The time of its start is over.');
  for (const [limit, says] of [[high, 'high'], [low, 'low']] as const) {
    if (limit?.after === 'in total' && !model.countsInTotal) put(true, `${model.name} does not count readings beyond its ${says} limit in all.`);
    if (limit && !(limit.count >= 1 && Number.isInteger(limit.count))) put(true, `The ${says} limit counts whole readings, one or more.`);
    if (limit && !Number.isFinite(limit.at)) put(true, `The ${says} limit is no number.`);
  }
  if (high && low && !(high.at > low.at)) put(true, 'The high limit lies at or below the low one.');
  if (setup.settleS >= durationS(setup) && (high || low)) put(false, 'It settles until its end: no limit ever counts.');
  if (batteryS(model, setup) < durationS(setup)) put(true, 'A full battery does not last so long: read less often, or with dark lamps.');
  return faults;
} // prettier-ignore

/** A part of what a recorder will do. */
export interface Phase {
  what: 'waits' | 'settles' | 'records' | 'goes round' | 'stopped';
  fromMs: number;
  /** null: nobody knows, or it goes on. */
  toMs: number | null;
}
/** What will happen, one part after the other. @param startsMs when it starts or is thought to start */
export function phasesOf(setup: RecorderSetup, nowMs: number, startsMs: number): Phase[] {
  const phases: Phase[] = [];
  const begin = setup.start === 'at once' ? nowMs : startsMs;
  if (begin > nowMs) phases.push({ what: 'waits', fromMs: nowMs, toMs: begin });
  const end = begin + durationS(setup) * 1000;
  const settled = Math.min(end, begin + setup.settleS * 1000);
  if (settled > begin) phases.push({ what: 'settles', fromMs: begin, toMs: settled });
  if (end > settled) phases.push({ what: 'records', fromMs: settled, toMs: end });
  phases.push({ what: setup.then === 'keep the newest' ? 'goes round' : 'stopped', fromMs: end, toMs: null });
  return phases;
}

/** The next name by a pattern: {n} counts on from the names that there are, two names of one number never. */
export function nextName(pattern: string, taken: readonly string[]): string {
  if (!pattern.includes('{n}')) return pattern;
  for (let n = 1; ; n++) {
    const name = pattern.replaceAll('{n}', String(n));
    if (!taken.includes(name)) return name;
  }
}
