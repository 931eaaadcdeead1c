import { sampleTimeNs, samplesBefore } from '$core/time/rate';
import type { Wave } from '$contract/live';
import type { LiveFrame } from '$contract/engine';
import { CHANNEL_STATES, type ChannelState } from '$contract/engine-status';
import { pastText } from '$contract/alarm';
import { channelKind, type Channel } from '$contract/channel';
import type { Signal } from './signals';

const STATE = Object.fromEntries(CHANNEL_STATES.map((name, code) => [name, code])) as Record<
  ChannelState,
  number
>;
const LOUD = new Set([
  STATE.warning,
  STATE.alarm,
  STATE.open,
  STATE.short,
  STATE.silent,
  STATE['over range'],
]);
const QUIET_MS = 10_000;
const UNKNOWN = 255;

/** Makes the steps of the live feed: extremes, last values and states of all channels, and says when a state turns bad. */
export class LiveFrames {
  private sequence = 0;
  private ids: string[] = [];
  private states = new Uint8Array(0);
  private readonly saidMs = new Map<string, number>();

  constructor(private readonly say: (says: string) => void) {}

  /** A new set-up: channels that stay keep their state. */
  follow(channelIds: string[]): void {
    const former = new Map(this.ids.map((id, k) => [id, this.states[k]]));
    this.states = Uint8Array.from(channelIds, (id) => former.get(id) ?? UNKNOWN);
    this.ids = channelIds;
  }

  /** @param shown the signal of each channel, null where it is not measured */
  next(timeMs: number, shown: (Signal | null)[], channels: Channel[]): LiveFrame {
    const n = shown.length;
    const frame: LiveFrame = {
      sequence: this.sequence++,
      timeMs,
      min: new Float32Array(n),
      max: new Float32Array(n),
      last: new Float32Array(n),
      raw: new Float32Array(n),
      mean: new Float32Array(n).fill(NaN),
      square: new Float32Array(n).fill(NaN),
      state: new Uint8Array(n),
    };
    shown.forEach((signal, k) => {
      if (!signal) frame.min[k] = frame.max[k] = frame.last[k] = frame.raw[k] = NaN;
      else lookAt(signal, frame, k);
      frame.state[k] = signal ? stateOf(signal, frame.min[k], frame.max[k]) : STATE['not measured'];
      if (frame.state[k] !== this.states[k])
        this.changed(channels[k], k, frame.state[k], timeMs, { min: frame.min[k], max: frame.max[k] });
    });
    return frame;
  }

  private changed(
    channel: Channel,
    k: number,
    state: number,
    timeMs: number,
    at: { min: number; max: number },
  ): void {
    const former = this.states[k];
    this.states[k] = state;
    if (former === UNKNOWN || !LOUD.has(state)) return;
    if (state === STATE.warning && former === STATE.alarm) return;
    // A noisy signal at its limit is said once, not twenty times a second.
    if (timeMs - (this.saidMs.get(channel.id) ?? -QUIET_MS) < QUIET_MS) return;
    this.saidMs.set(channel.id, timeMs);
    this.say(`${channel.name} ${stateText(channel, state, at)}.`);
  }
}

function stateText(channel: Channel, state: number, at: { min: number; max: number }): string {
  if (state === STATE.alarm) return `passed its alarm: ${pastText(channel, 'alarm', at)}`;
  if (state === STATE.warning) return `passed its warning: ${pastText(channel, 'warning', at)}`;
  return state === STATE.silent ? 'is silent: nothing arrives any more' : `reads ${CHANNEL_STATES[state]}`;
}

function lookAt(signal: Signal, frame: LiveFrame, k: number): void {
  frame.min[k] = signal.min;
  frame.max[k] = signal.max;
  frame.last[k] = signal.last;
  frame.raw[k] = signal.lastRaw;
  frame.mean[k] = signal.mean;
  frame.square[k] = signal.square;
}

function stateOf(signal: Signal, min: number, max: number): number {
  if (signal.trouble !== 'none') return STATE[signal.trouble];
  // No number from a reading that is there: its law does not reach so far. Without a reading there is nothing to say.
  if (Number.isNaN(max))
    return signal.computed || Number.isNaN(signal.lastRaw) ? STATE['not measured'] : STATE['over range'];
  if (signal.limit !== 'none') return STATE[signal.limit];
  const { kind, settings } = signal.channel!;
  if (Math.abs(signal.lastRaw) >= (channelKind(kind).rawEnd?.(settings) ?? Infinity))
    return STATE['over range'];
  return min <= max ? STATE.ok : STATE['not measured'];
}

/** Every sample of the present block of some channels; none of one that measures nothing now. */
export const wavesOf = (channelIds: string[], signalOf: (id: string) => Signal | undefined): Wave[] =>
  channelIds.flatMap((channelId) => {
    const s = signalOf(channelId);
    if (!s || s.group.count === 0) return [];
    const { group } = s;
    return {
      channelId,
      rate: group.rate,
      width: 1,
      firstMs: Number(sampleTimeNs(group.startNs, group.rate, group.first)) / 1e6,
      values: s.value.slice(0, group.count),
    };
  });

/** What channels read at an instant of the present block, by name: the last sample at or before it; null for one that read nothing. */
export const readingsAt = (
  atNs: bigint,
  channels: Channel[],
  signalOf: (id: string) => Signal | undefined,
): Record<string, { value: number; unit: string } | null> =>
  Object.fromEntries(
    channels.map((c) => {
      const signal = signalOf(c.id);
      if (!signal) return [c.name, null];
      const { group, value, last, unit } = signal;
      const at = samplesBefore(group.rate, atNs - group.startNs + 1n) - 1 - group.first;
      const read = at >= 0 && group.count > 0 ? value[Math.min(at, group.count - 1)] : last;
      return [c.name, Number.isFinite(read) ? { value: read, unit } : null];
    }),
  );
