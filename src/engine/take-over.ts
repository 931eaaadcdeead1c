import { asFarrierError, notFound } from '$core/errors';
import { commonOf, conversionOf, roleOf, type Channel } from '$contract/channel';
import { adopt, computedSignals, type Signal } from './signals';
import { asksTheSame, signalsIn, startSlot, type UnitSlot } from './slots';
import { UnitClock } from './unit-clock';

/** What acquires when a set-up is taken over. */
export interface Acquiring {
  slots: UnitSlot[];
  /** By serial; a unit that begins anew gets a new one. */
  clocks: Map<string, UnitClock>;
  /** The signals until now, by channel id. */
  former: Map<string, Signal>;
  nowNs: bigint;
  lost(slot: UnitSlot, error: unknown): void;
}

/** Takes channels over into signals. Only what changes is begun anew: a unit of which the same is asked acquires on, a formula that stays
 *  the same remembers what it knew. What cannot be measured is left out and said by its channel's id.
 *  @returns the signals, units' first; the channels whose readings mean something else from now on or are acquired anew */
export function takeOver(channels: Channel[], { slots, clocks, former, nowNs, lost }: Acquiring) {
  const faults = new Map<string, string>();
  const onFault = (channel: Channel, fault: unknown) =>
    faults.set(channel.id, asFarrierError(fault, channel.name).message);
  const sound = measurable(channels, slots, onFault);
  const byId = new Map(sound.map((c) => [c.id, c]));
  const anew: string[] = [];
  const signals: Signal[] = [];
  for (const slot of slots) {
    try {
      if (asksTheSame(slot, sound) && (slot.answering || slot.groups.length > 0)) {
        for (const signal of signalsIn(slot)) {
          const channel = signal.channel && byId.get(signal.channel.id);
          if (channel && adopt(signal, channel)) anew.push(channel.id);
          signals.push(signal);
        }
        continue;
      }
      const started = startSlot(slot, sound, nowNs);
      signals.push(...started);
      clocks.set(slot.serial, new UnitClock(slot.serial, slot.name));
      // Its memory from before is another acquisition's, but its readings mean what they meant.
      for (const { channel } of started)
        if (channel && meaningOf(former.get(channel.id)?.channel) !== meaningOf(channel))
          anew.push(channel.id);
    } catch (error) {
      lost(slot, error);
    }
  }
  for (const signal of computedSignals(sound, signals, onFault, former)) {
    const channel = byId.get(signal.channel!.id)!;
    if (former.get(channel.id) !== signal || adopt(signal, channel)) anew.push(channel.id);
    signals.push(signal);
  }
  for (const serial of [...clocks.keys()]) if (!slots.some((s) => s.serial === serial)) clocks.delete(serial);
  return { signals, anew, faults };
}

/** Channels that can be measured, each for itself: one that cannot must not cost its neighbours. */
function measurable(
  channels: Channel[],
  slots: UnitSlot[],
  onFault: (channel: Channel, fault: unknown) => void,
): Channel[] {
  const places = new Map(
    slots.map((slot) => [
      slot.serial,
      new Set(slot.unit.describe().modules.flatMap((m) => m.terminals.map((t) => t.id))),
    ]),
  );
  return channels.filter((channel) => {
    try {
      if (roleOf(channel) !== 'computed') conversionOf(channel);
      const there = channel.wire && places.get(channel.wire.unit);
      if (there && there.size > 0 && !there.has(channel.wire!.terminal))
        throw notFound('terminal', channel.wire!.terminal);
      return true;
    } catch (fault) {
      onFault(channel, fault);
      return false;
    }
  });
}

/** What a channel's readings stand for, as text; '' for none. */
const meaningOf = (channel: Channel | null | undefined) =>
  channel ? JSON.stringify([commonOf(channel).unit, conversionOf(channel)]) : '';
