import { FarrierError, asFarrierError } from '$core/errors';
import { commonOf, outputOf, roleOf } from '$contract/channel';
import { Ramps } from './ramps';
import type { Signal } from './signals';
import type { UnitSlot } from './slots';

/** What became of outputs that were sent to rest. */
export interface RestReport {
  /** Names of those that are there now. */
  reached: string[];
  /** Those that could not be brought there, and why. */
  failed: { name: string; why: string }[];
}

/** Driven channels: sets them within their range, no faster than they may change, and brings them to rest. */
export class Outputs {
  /** What each driven channel was set to, in its unit. */
  readonly values: Record<string, number> = {};
  private readonly ramps = new Ramps();
  private movedNs: bigint | null = null;

  /** @param refused told when hardware answers later that it did not take a value */
  constructor(
    private readonly slots: UnitSlot[],
    private readonly signalOf: (channelId: string) => Signal | undefined,
    private readonly refused: (says: string) => void,
  ) {}

  /** Outputs that change slowly go on to where they were sent. */
  step(nowNs: bigint): void {
    const seconds = Number(nowNs - (this.movedNs ?? nowNs)) / 1e9;
    this.movedNs = nowNs;
    for (const [id, value] of this.ramps.step(seconds)) {
      try {
        this.drive(this.signalOf(id)!, value);
      } catch {
        this.ramps.stop(id); // its unit was lost, which is said there
      }
    }
  }

  /** @param value in the channel's unit @param withinS time to move there in a straight line, s @throws `bad_input` outside the channel's range, `not_found` */
  set(channelId: string, value: number, withinS?: number): void {
    const signal = this.signalOf(channelId);
    if (!signal?.channel || roleOf(signal.channel) !== 'driven')
      throw new FarrierError('not_found', {
        what: 'The output it drives was removed, or is not driven now.',
        where: 'output',
        next: 'Choose another output, or see on the rig whether its unit answers.',
      });
    const { range, unit } = commonOf(signal.channel);
    if (!(value >= range.min && value <= range.max))
      throw new FarrierError('bad_input', {
        what: `${value} ${unit} is outside ${range.min} to ${range.max} ${unit}.`,
        where: signal.name,
        next: 'Give a value in the channel’s range.',
      });
    const { rest, ramp = null } = signal.channel.settings as { rest: number; ramp?: number | null };
    const from = this.values[channelId] ?? rest;
    // Slower than asked for where the channel may not change so fast.
    const asked = withinS ? Math.abs(value - from) / withinS : null;
    const perSecond = asked === null ? ramp : ramp === null ? asked : Math.min(asked, ramp);
    this.drive(signal, this.ramps.begin(channelId, from, value, perSecond));
  }

  private drive(signal: Signal, value: number): void {
    const former = this.values[signal.channel!.id];
    const unsure = (error: unknown) => {
      if (this.values[signal.channel!.id] === value) this.values[signal.channel!.id] = former;
      this.refused(`${signal.name} was not set to ${value} ${signal.unit}. ${whyOf(error, signal)}`);
    };
    this.write(signal, value)?.catch(unsure);
  }

  private write(signal: Signal, value: number): void | Promise<void> {
    const channel = signal.channel!;
    const slot = this.slots.find((s) => s.serial === channel.wire!.unit);
    if (!slot) throw new FarrierError('unavailable', { what: 'Its unit is not there.', where: signal.name });
    const answer = slot.unit.setOutput(signal.terminal!, outputOf(channel, value));
    this.values[channel.id] = value;
    return answer;
  }

  /** Brings outputs to their rest values at once, as far as their units answer. @returns at once where all units are, else once they have answered */
  toRest(signals: Signal[]): RestReport | Promise<RestReport> {
    const report: RestReport = { reached: [], failed: [] };
    const failed = (signal: Signal, error: unknown) => {
      delete this.values[signal.channel!.id]; // nobody knows where it stands
      report.failed.push({ name: signal.name, why: whyOf(error, signal) });
    };
    const answers = signals.flatMap((signal) => {
      if (!signal.channel || roleOf(signal.channel) !== 'driven') return [];
      this.ramps.stop(signal.channel.id);
      try {
        const answer = this.write(signal, signal.channel.settings.rest as number);
        if (answer)
          return answer.then(
            () => void report.reached.push(signal.name),
            (error) => failed(signal, error),
          );
        report.reached.push(signal.name);
      } catch (error) {
        failed(signal, error);
      }
      return [];
    });
    return answers.length === 0 ? report : Promise.all(answers).then(() => report);
  }

  /** A channel is an output no more. */
  forget(channelId: string): void {
    this.ramps.stop(channelId);
    delete this.values[channelId];
  }
}

function whyOf(error: unknown, signal: Signal): string {
  const { what, why } = asFarrierError(error, signal.name).text;
  return [what, why].filter(Boolean).join(' ');
}

/** A report in words; null where nothing was to be done. */
export function restText({ reached, failed }: RestReport): string | null {
  const list = (names: string[]) =>
    `${names.slice(0, 4).join(', ')}${names.length > 4 ? ` and ${names.length - 4} more` : ''}`;
  const parts = [
    reached.length && `${list(reached)} ${reached.length === 1 ? 'is' : 'are'} at rest`,
    failed.length &&
      `${list(failed.map((f) => f.name))} could not be brought to rest: ${failed[0].why.replace(/\.$/, '')}`,
  ].filter(Boolean);
  return parts.length ? `${parts.join('; ')}.` : null;
}
