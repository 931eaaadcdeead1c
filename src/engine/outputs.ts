import { FarrierError, notFound } from '$core/errors';
import { commonOf, roleOf } from '$contract/channel';
import { Ramps } from './ramps';
import type { Signal } from './signals';
import type { UnitSlot } from './slots';

/** Driven channels: sets them within their range, no faster than they may change, and brings them to rest. */
export class Outputs {
  /** What each driven channel was set to, in its unit. */
  readonly values: Record<string, number> = {};
  private readonly ramps = new Ramps();
  private movedNs: bigint | null = null;

  constructor(
    private readonly slots: UnitSlot[],
    private readonly signalOf: (channelId: string) => Signal | undefined,
  ) {}

  /** Outputs that change slowly go on to where they were sent. */
  step(nowNs: bigint): void {
    const seconds = Number(nowNs - (this.movedNs ?? nowNs)) / 1e9;
    this.movedNs = nowNs;
    for (const [id, value] of this.ramps.step(seconds)) {
      try {
        this.write(this.signalOf(id)!, value);
      } catch {
        this.ramps.stop(id); // its unit was lost, which is said there
      }
    }
  }

  /** @param value in the channel's unit @param withinS time to move there in a straight line, s @throws `bad_input` outside the channel's range, `not_found` */
  set(channelId: string, value: number, withinS?: number): void {
    const signal = this.signalOf(channelId);
    if (!signal?.channel || roleOf(signal.channel) !== 'driven') throw notFound('driven channel', channelId);
    const { range, unit } = commonOf(signal.channel);
    if (!(value >= range.min && value <= range.max))
      throw new FarrierError('bad_input', {
        what: `${value} ${unit} is outside ${range.min} to ${range.max} ${unit}.`,
        where: signal.name,
        next: 'Give a value in the channel’s range.',
      });
    const { rest, ramp } = signal.channel.settings as { rest: number; ramp: number | null };
    const from = this.values[channelId] ?? rest;
    // Slower than asked for where the channel may not change so fast.
    const asked = withinS ? Math.abs(value - from) / withinS : null;
    const perSecond = asked === null ? ramp : ramp === null ? asked : Math.min(asked, ramp);
    this.write(signal, this.ramps.begin(channelId, from, value, perSecond));
  }

  private write(signal: Signal, value: number): void {
    const channel = signal.channel!;
    const slot = this.slots.find((s) => s.serial === channel.wire!.unit)!;
    slot.unit.setOutput(signal.terminal!, value / (channel.settings.slope as number));
    this.values[channel.id] = value;
  }

  /** Brings every output to its rest value, as far as its unit answers. */
  toRest(signals: Signal[]): void {
    for (const signal of signals) {
      if (!signal.channel || roleOf(signal.channel) !== 'driven') continue;
      try {
        this.ramps.stop(signal.channel.id);
        this.write(signal, signal.channel.settings.rest as number);
      } catch {
        // Its unit does not answer; hardware goes to rest by itself then.
      }
    }
  }
}
