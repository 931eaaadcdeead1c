import { readingText } from '../../readings';
import { lostAt, type LiveValues, type StationState } from './state';

/** What is looked for in a station. */
export interface Care {
  /** Not heard from for longer than this is too long, h. */
  silentH: number;
  /** A battery below it wants a visit, V. */
  batteryV: number;
  /** Its clock may be so far off, s. */
  clockS: number;
  /** Values that are to stay within. */
  limits: readonly { of: string; side: 'above' | 'below'; at: number }[];
}
export interface Known {
  state: StationState | null;
  live: LiveValues | null;
  /** When it answered last, ms since 1970; null where it never did. */
  contactAt: number | null;
  /** By how much its clock was ahead then, s. */
  aheadS: number;
  /** Row after the last one that is fetched, by table. */
  fetched: Readonly<Record<string, number>>;
}
/** Something about a station that wants attention. */
export interface Concern {
  /** What it is about: as long as it holds it is one alarm. */
  key: string;
  level: 'warning' | 'alarm';
  says: string;
}
/** A table whose rows are lost within this time is told, ms. */
const SOON_MS = 24 * 3_600_000;
/** A supply that reads less is no battery: the station runs from its cable. */
const CABLE_V = 1;

/** When rows of a table that are not fetched are lost, ms of our time; null where none are about to be. Its clock is taken to have gone on as it was. */
export function losesAt({ state, contactAt, fetched }: Pick<Known, 'state' | 'contactAt' | 'fetched'>, table: string): number | null {
  const found = state?.tables.find((t) => t.name === table);
  if (!state || !found || contactAt === null) return null;
  const at = lostAt(found, fetched[table] ?? 0);
  return at === null ? null : contactAt + (at - state.saidMs);
} // prettier-ignore

const hours = (ms: number) => (ms < 5_400_000 ? `${Math.max(1, Math.round(ms / 60_000))} min` : ms < 172_800_000 ? `${Math.round(ms / 3_600_000)} h` : `${Math.round(ms / 86_400_000)} d`); // prettier-ignore

/** What wants attention, the worst first. @param nowMs ms since 1970 */
export function concernsOf(known: Known, care: Care, nowMs: number): Concern[] {
  const { state, live, contactAt, aheadS, fetched } = known;
  const concerns: Concern[] = [];
  const say = (level: Concern['level'], key: string, says: string) => concerns.push({ level, key, says });
  if (contactAt !== null && nowMs - contactAt > care.silentH * 3_600_000) say('alarm', 'silent', `not heard from for ${hours(nowMs - contactAt)}`); // prettier-ignore
  if (!state) return concerns;
  if (state.run === 0) say('warning', 'no programme', 'it has no programme');
  if (state.supplyV >= CABLE_V && state.supplyV < care.batteryV) say('alarm', 'battery', `battery low: ${state.supplyV.toFixed(1)} V`); // prettier-ignore
  if (Math.abs(aheadS) > care.clockS) say('warning', 'clock', `its clock is ${readingText(Math.abs(aheadS), { digits: 2 })} s ${aheadS > 0 ? 'ahead' : 'late'}`); // prettier-ignore
  for (const table of state.tables) {
    const reached = fetched[table.name] ?? 0;
    if (table.first > reached && table.end > reached) {
      say('alarm', `memory ${table.name}`, `${table.name}: ${table.first - reached} rows were overwritten before they were fetched`); // prettier-ignore
      continue;
    }
    const at = losesAt(known, table.name);
    // Tables that are short on purpose are told when they are about to lose something, not all the time.
    if (at !== null && at - nowMs < Math.min(SOON_MS, (table.room * table.everyS * 1000) / 4) && table.end > reached) say(at < nowMs ? 'alarm' : 'warning', `memory ${table.name}`, at < nowMs ? `${table.name} overwrites rows that are not fetched` : `${table.name} overwrites what is not fetched in ${hours(at - nowMs)}`); // prettier-ignore
  }
  for (const { of, side, at } of care.limits) {
    const value = live?.values.find((v) => v.name === of);
    if (value?.value === null || value?.value === undefined) continue;
    if (side === 'above' ? value.value > at : value.value < at) say('alarm', `limit ${of} ${side}`, `${of} is ${side} ${readingText(at, { digits: 4 })} ${value.unit}`.trim()); // prettier-ignore
  }
  return concerns.sort((a, b) => Number(b.level === 'alarm') - Number(a.level === 'alarm'));
}

/** What a battery’s volts mean. */
export function supplyText(volts: number, lowV: number): string {
  if (volts < CABLE_V) return 'no battery: it runs from the cable; in the field it needs one';
  if (volts < lowV) return 'low: it stops below 9 V';
  return volts > 13 ? 'being charged' : 'good';
}
