import { asFarrierError } from '$core/errors';
import { sampleTimeNs, samplesBefore } from '$core/time/rate';
import { channelKind, type Channel } from '$contract/channel';
import { acquiredSignal, askedOf, junctionOf, requestsFor, type Group, type Signal } from './signals';
import type { AcquiredGroup, OpenUnit } from './units/driver';

/** A unit, whether it answers, and the signals that come from it. */
export interface UnitSlot {
  unit: OpenUnit;
  serial: string;
  name: string;
  answering: boolean;
  /** Whether it has ever answered. */
  known: boolean;
  says: string;
  groups: Group[];
  /** What was asked of it when it was started, see askedOf. */
  asked: string | null;
  /** Signals of each of the driver's groups, in the order of its columns. */
  columns: Signal[][];
}

export const newSlot = (unit: OpenUnit, serial: string, name: string): UnitSlot => ({
  unit,
  serial,
  name,
  answering: true,
  known: false,
  says: '',
  groups: [],
  asked: null,
  columns: [],
});

/** Starts a unit on what the channels ask of it. @returns its signals, junctions before what needs them
 *  @throws FarrierError when the unit does not answer */
export function startSlot(slot: UnitSlot, channels: Channel[], nowNs: bigint): Signal[] {
  slot.groups = [];
  slot.columns = [];
  slot.asked = null;
  const byId = new Map(channels.map((c) => [c.id, c]));
  const requests = requestsFor(slot.serial, channels);
  const acquired = slot.unit.start(requests, nowNs);
  slot.asked = requests.map(askedOf).join('\n');
  slot.answering = slot.known = true;
  slot.says = '';
  slot.groups = acquired.map((g) => ({
    unit: slot.serial,
    rate: g.rate,
    startNs: g.startNs,
    base: 0,
    first: 0,
    count: 0,
    next: 0,
  }));
  slot.columns = acquired.map((g, k) => signalsOf(slot.unit, g, slot.groups[k], byId));
  return signalsIn(slot);
}

/** The signals of a unit, junctions before what needs them. */
export const signalsIn = (slot: UnitSlot): Signal[] =>
  slot.columns.flatMap((column) => [...column.filter((s) => !s.channel), ...column.filter((s) => s.channel)]);

/** Whether a unit has to acquire nothing else for these channels than it does already. */
export const asksTheSame = (slot: UnitSlot, channels: Channel[]): boolean =>
  slot.asked !== null && slot.asked === requestsFor(slot.serial, channels).map(askedOf).join('\n');

function signalsOf(
  unit: OpenUnit,
  { requests }: AcquiredGroup,
  group: Group,
  byId: Map<string, Channel>,
): Signal[] {
  const junctions = new Map<string, Signal>();
  for (const { terminal, channelId } of requests)
    if (channelId === null) junctions.set(terminal, acquiredSignal(null, terminal, group, null));
  return requests.map(({ terminal, channelId }) => {
    const channel = channelId === null ? undefined : byId.get(channelId);
    if (!channel) return junctions.get(terminal)!;
    const junction = channelKind(channel.kind).needsJunction
      ? (junctions.get(junctionOf(terminal)) ?? null)
      : null;
    const signal = acquiredSignal(channel, terminal, group, junction);
    if (signal.width === 2) signal.about = () => unit.describe().receiver;
    return signal;
  });
}

/** Starts a lost unit again on the same signals; their samples go on at the index that belongs to the time.
 *  @throws FarrierError while it does not answer */
export function resumeSlot(slot: UnitSlot, channels: Channel[], nowNs: bigint): void {
  for (const group of slot.groups) group.base = samplesBefore(group.rate, nowNs - group.startNs);
  const first = slot.groups[0];
  slot.unit.start(
    requestsFor(slot.serial, channels),
    first ? sampleTimeNs(first.startNs, first.rate, first.base) : nowNs,
  );
  for (const column of slot.columns) for (const s of column) s.trouble = 'none';
  slot.answering = slot.known = true;
  slot.says = '';
}

/** Marks a unit and its signals as lost. @returns the sentence to note, or null when it was known */
export function loseSlot(slot: UnitSlot, error: unknown): string | null {
  const fault = asFarrierError(error, slot.name);
  const news = slot.answering
    ? `${slot.name} ${slot.known ? 'was lost' : 'does not answer yet'}. ${fault.text.why ?? ''}`.trim()
    : null;
  slot.answering = false;
  slot.says = fault.message;
  for (const column of slot.columns) for (const s of column) s.trouble = 'lost';
  return news;
}
