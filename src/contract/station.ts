import { z } from 'zod';
import type { Concern } from '$core/field/station/health';
import { STATION_MODELS, WAYS } from '$core/field/station/model';
import type { LiveValues, StationState } from '$core/field/station/state';
import { spanS, type Remark } from '$core/field/station/text';
import { field, type Sentence } from '$core/sentence/sentence';

const CALLS = ['may call in by itself', 'is only called'] as const;
/** Where an instrument is reached: over the network, or by a serial port. */
export const Reach = z.string().trim().regex(/^([\w.-]{1,100}:\d{1,5}|\/dev\/[\w./-]{1,100}(@\d{3,7})?|COM\d{1,3}(@\d{3,7})?|)$/, 'Write it as host:port, or as a serial port such as /dev/ttyUSB0@115200.'); // prettier-ignore

/** How a station is kept in touch with. */
export const StationWish = z.strictObject({
  name: field(z.string().trim().min(1).max(60), { label: 'Name', editor: 'text' }),
  place: field(z.string().trim().max(60), { label: 'Place', editor: 'text', none: 'no place' }),
  address: field(Reach, { label: 'Address', editor: 'text', none: 'nowhere', help: 'As host:port, or a serial port such as /dev/ttyUSB0@115200.' }), // prettier-ignore
  pauseS: field(z.number().int().min(1).max(3600), { label: 'Pause', editor: 'number', unit: 's', help: 'Between one try to reach it and the next.' }), // prettier-ignore
  everyMin: field(z.number().int().min(1).max(44_640).nullable(), { label: 'Fetched every', editor: 'number', unit: 'min', none: 'by hand only' }), // prettier-ignore
  calls: field(z.enum(CALLS), { label: 'It', editor: 'choice', options: CALLS }),
  setsClock: field(z.number().min(1).max(86_400).nullable(), { label: 'Its clock is set when off by', editor: 'number', unit: 's', none: 'leave its clock as it is' }), // prettier-ignore
  clockS: field(z.number().min(1).max(86_400), {
    label: 'Its clock may be off',
    editor: 'number',
    unit: 's',
  }),
  silentH: field(z.number().min(0.1).max(8760), { label: 'Silent for', editor: 'number', unit: 'h' }),
  batteryV: field(z.number().min(0).max(60), { label: 'Battery below', editor: 'number', unit: 'V' }),
  limits: z.array(z.strictObject({ of: z.string().max(60), side: z.enum(['above', 'below']), at: z.number() })).max(20), // prettier-ignore
});
export type StationWish = z.infer<typeof StationWish>;
export const stationSentence: Sentence<typeof StationWish> = {
  schema: StationWish,
  template: ({ address, everyMin, setsClock }) => {
    const reached = address ? 'at {address}, tried again after {pauseS}' : '{address}';
    const fetched = everyMin === null ? '{everyMin}' : 'every {everyMin}';
    const clock = setsClock === null ? '{setsClock}' : 'set its clock when it is off by {setsClock}';
    return `{name} stands at {place}. It is reached ${reached}; it {calls}. Fetch it ${fetched}. Say so when it is silent for {silentH}, when its battery is below {batteryV}, when its clock is off by {clockS}; ${clock}.`;
  },
};
export const NEW_STATION: StationWish = { name: 'Station', place: '', address: '', pauseS: 10, everyMin: 60, calls: CALLS[0], setsClock: 5, clockS: 30, silentH: 26, batteryV: 11.5, limits: [] }; // prettier-ignore

const models = STATION_MODELS.map((m) => m.name);
/** The first sentence of a programme. */
const HeadWish = z.strictObject({
  model: field(z.string(), { label: 'Model', editor: 'choice', options: models }),
  wakeS: field(z.number().int().min(1).max(86_400), { label: 'Wakes every', editor: 'number', unit: 's', help: 'It measures everything each time that it wakes.' }), // prettier-ignore
  mainsHz: field(z.number(), { label: 'Mains', editor: 'choice', options: [50, 60], unit: 'Hz', help: 'Readings average over one of its periods, so that its hum falls out.' }), // prettier-ignore
});
export const headSentence: Sentence<typeof HeadWish> = { schema: HeadWish, template: () => 'A {model} wakes every {wakeS} and rejects mains of {mainsHz}.' }; // prettier-ignore

const ways = Object.keys(WAYS) as (keyof typeof WAYS)[];
/** A value as it is said. What its way does not have stands open until it is checked. */
const MeasureWish = z.strictObject({
  name: field(z.string().trim().min(1).max(60), { label: 'Name', editor: 'text' }),
  unit: field(z.string().trim().max(20), { label: 'Unit', editor: 'text', none: 'no unit' }),
  way: field(z.enum(ways as [string, ...string[]]), {
    label: 'Measured by',
    editor: 'choice',
    options: ways,
  }),
  kind: field(z.string(), { label: 'Kind', editor: 'choice', options: { ask: 'kinds' } }),
  terminal: field(z.string(), { label: 'Terminal', editor: 'choice', options: { ask: 'terminals' }, none: 'no terminal' }), // prettier-ignore
  times: field(z.number(), { label: 'Times', editor: 'number' }),
  plus: field(z.number(), { label: 'Plus', editor: 'number' }),
});
export const measureSentence: Sentence<typeof MeasureWish> = {
  schema: MeasureWish,
  template: ({ way }) => {
    const by = { volts: 'by {way} up to {kind}', thermocouple: 'by {way} of type {kind}', bridge: 'by {way} up to {kind}', resistance: 'by {way}, {kind}', pulses: 'by {way}, {kind}', serial: 'by {way}, word {kind} of its line' }[way as keyof typeof WAYS]; // prettier-ignore
    return `Measure {name} in {unit} ${by} on {terminal}, times {times} plus {plus}.`;
  },
};
/** A table as it is said, but for what it keeps. */
const TableWish = z.strictObject({
  name: field(z.string().trim().min(1).max(60), { label: 'Name', editor: 'text' }),
  when: field(z.enum(['every so often', 'at an event']), { label: 'A row', editor: 'choice', options: ['every so often', 'at an event'] }), // prettier-ignore
  every: field(z.string().refine((t) => spanS(t) > 0, 'Write it as 30 s, 15 min, 1 h or 1 d.'), { label: 'Every', editor: 'text', help: 'As 30 s, 15 min, 1 h; 1 d is every midnight.' }), // prettier-ignore
  of: field(z.string(), { label: 'Value', editor: 'choice', options: { ask: 'values' }, none: 'no value' }),
  turns: field(z.enum(['rises above', 'falls below']), { label: 'It', editor: 'choice', options: ['rises above', 'falls below'] }), // prettier-ignore
  level: field(z.number(), { label: 'Level', editor: 'number' }),
  rows: field(z.number().int().min(0).nullable(), { label: 'Rows', editor: 'number', none: 'its share of the memory' }), // prettier-ignore
});
export const tableSentence: Sentence<typeof TableWish> = {
  schema: TableWish,
  template: ({ when, rows }) =>
    `Keep a row in {name} ${when === 'every so often' ? '{when}: every {every}' : '{when}: when {of} {turns} {level}'}, holding {rows}${rows === null ? '' : ' rows'}.`,
};

/** How the line to a station is. */
export interface LinkView {
  state: 'away' | 'calling' | 'there' | 'silent';
  /** What is done to reach it, or why it is not. */
  says: string;
  /** Tries so far, and since when, ms. */
  tries: number;
  sinceMs: number | null;
}
export interface FetchView {
  table: string;
  rows: number;
  of: number;
  sinceMs: number;
}
export const STEPS = ['fetch', 'send', 'compile', 'live'] as const;
export interface SendingView {
  version: number;
  step: (typeof STEPS)[number] | 'done';
  failed: string | null;
  /** What each step that was done had to say. */
  said: Partial<Record<(typeof STEPS)[number], string>>;
  remarks: Remark[];
}
/** What a table holds, and what of it is fetched. */
export interface TableView {
  name: string;
  everyS: number;
  columns: { name: string; unit: string }[];
  room: number;
  first: number;
  end: number;
  fetched: number;
  /** ms of our time. */
  oldestMs: number | null;
  newestMs: number | null;
  nextMs: number | null;
  /** When the oldest row is overwritten, and when one that is not fetched is. */
  wrapsMs: number | null;
  losesMs: number | null;
  takeId: string | null;
}
/** A station in the list. */
export interface StationLine {
  id: string;
  name: string;
  place: string;
  model: string | null;
  serial: string | null;
  contactMs: number | null;
  supplyV: number | null;
  aheadS: number;
  /** Version of the programme that runs; null for one that is not known here, or none. */
  version: number | null;
  /** The soonest that any table loses rows, ms. */
  losesMs: number | null;
  concerns: Concern[];
  link: LinkView;
  fetch: FetchView | null;
}
export interface VersionView {
  number: number;
  atMs: number;
  by: string;
  text: string;
  ranMs: number | null;
}
/** A station that is opened. */
export interface StationView extends StationLine {
  wish: StationWish;
  state: StationState | null;
  live: LiveValues | null;
  tables: TableView[];
  /** Takes of programmes that ran before, the last one first. */
  earlier: { table: string; number: number }[];
  runs: string;
  draft: string;
  versions: VersionView[];
  sending: SendingView | null;
  /** Of one that plays. */
  plays: boolean;
}
export interface StationsView {
  stations: StationLine[];
  /** Where stations call in; null where nobody listens. */
  listens: number | null;
}

const LEVELS = { alarm: 2, warning: 1 } as const;
/** Stations by what wants attention, then by name. */
export const byAttention = (a: StationLine, b: StationLine): number => {
  const worst = ({ concerns }: StationLine) => Math.max(0, ...concerns.map((c) => LEVELS[c.level]));
  return worst(b) - worst(a) || a.name.localeCompare(b.name, undefined, { numeric: true });
};
